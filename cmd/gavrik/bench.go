package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"gavrik/internal/bench"
	"gavrik/internal/localpg"
)

func benchCommand() *cobra.Command {
	var rows int
	var file string
	cmd := &cobra.Command{
		Use:   "bench",
		Short: "Ask the same questions of Gavrik and of PostgreSQL, and compare the times",
		Args:  cobra.NoArgs,
		RunE: func(cmd *cobra.Command, _ []string) (err error) {
			if rows < 1000 {
				return fmt.Errorf("--rows must be at least 1000, not %d", rows)
			}
			// Below the system's folder for data that may be lost.
			dir, err := os.MkdirTemp("/var/tmp", "gavrik-bench-")
			if err != nil {
				return err
			}
			defer os.RemoveAll(dir)
			if err := os.Chmod(dir, 0o711); err != nil {
				return err
			}
			pg, err := localpg.Start(cmd.Context(), localpg.Options{
				Dir: filepath.Join(dir, "pg"), Volatile: true, Settings: []string{"shared_buffers=2GB"},
			})
			if err != nil {
				return err
			}
			defer func() { err = errors.Join(err, pg.Stop()) }()
			out := cmd.OutOrStdout()
			fmt.Fprintf(
				out, "Making and loading %d rows …\n%-34s %12s %12s %8s\n", rows, "median of 5", "Gavrik, ms", "SQL, ms",
				"ratio",
			)
			rep, err := bench.Run(cmd.Context(), pg.URL("postgres"), rows, func(r bench.Result) {
				fmt.Fprintf(out, "%-34s %12.2f %12.2f %8.1f\n", r.Name, r.GavrikMS, r.SQLMS, r.Ratio)
			})
			if err != nil {
				return err
			}
			fmt.Fprintf(
				out, "%-34s %34.1f\nloaded %.0f rows a second; %.0f bytes a row\n", "geometric mean", rep.GeometricMean,
				rep.LoadRowsPerSecond, rep.BytesPerRow,
			)
			if file == "" {
				return nil
			}
			text, err := json.MarshalIndent(rep, "", "  ")
			if err != nil {
				return err
			}
			return os.WriteFile(file, append(text, '\n'), 0o644)
		},
	}
	cmd.Flags().IntVar(&rows, "rows", 1_000_000, "bookings to make")
	cmd.Flags().StringVar(&file, "json", "", "file to write the numbers to")
	return cmd
}
