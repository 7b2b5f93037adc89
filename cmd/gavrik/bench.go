package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"gavrik/internal/bench"
	"gavrik/internal/localpg"
)

func benchCommand() *cobra.Command {
	var rows, workers int
	var file string
	var distributed, loads bool
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
			if distributed {
				return benchDistributed(cmd.Context(), out, pg, filepath.Join(dir, "cluster"), rows, workers, loads)
			}
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
	cmd.Flags().BoolVar(
		&distributed, "distributed", false,
		"ask in memory, where the records stay in one PostgreSQL, and where they are spread over a coordinator and workers",
	)
	cmd.Flags().IntVar(&workers, "workers", 2, "with --distributed: how many workers")
	cmd.Flags().BoolVar(
		&loads, "in-memory", true, "with --distributed: load the rows, too, and ask them in memory",
	)
	cmd.Flags().StringVar(&file, "json", "", "file to write the numbers to")
	return cmd
}

func benchDistributed(
	ctx context.Context, out io.Writer, one *localpg.Server, dir string, rows, workers int, loads bool,
) (err error) {
	cluster, err := localpg.StartCluster(ctx, workers, localpg.Options{
		Dir: dir, Volatile: true, Settings: []string{"shared_buffers=512MB"},
	})
	if err != nil {
		return err
	}
	defer func() { err = errors.Join(err, cluster.Stop()) }()
	fmt.Fprintf(out, "Making %d rows, and spreading them over %d workers …\n%-34s %12s %16s %16s\n", rows, workers,
		fmt.Sprintf("median of %d, ms", bench.Times(rows)), "in memory", "one PostgreSQL", "spread")
	ms := func(v float64) string {
		if v == 0 {
			return "–"
		}
		return fmt.Sprintf("%.1f", v)
	}
	return bench.Distributed(ctx, one, cluster, rows, loads, func(r bench.Three) {
		fmt.Fprintf(out, "%-34s %12s %16s %16s  %s\n", r.Name, ms(r.MemoryMS), ms(r.OneMS), ms(r.SeveralMS), r.Why)
	})
}
