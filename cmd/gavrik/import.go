package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"gavrik/internal/records"
	"gavrik/internal/store"
)

func importCommand() *cobra.Command {
	var url string
	var o records.ImportOptions
	cmd := &cobra.Command{
		Use:   "import FILE.csv",
		Short: "Bring a file in as a record set of its own",
		Long: `Bring a file in as a record set of its own.

The first line names the fields. Types are guessed from the values and can be
given with --type. A row that does not parse is kept aside with its reason in
the table gavrik.set_aside and never stops the rest. A running server offers the
new record set after the next load ("Load again" on its page Records).`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			f, err := os.Open(args[0])
			if err != nil {
				return fmt.Errorf("%s cannot be read: %w", args[0], err)
			}
			defer f.Close()
			// A pipe may never say anything more.
			stop := context.AfterFunc(cmd.Context(), func() { _ = f.Close() })
			defer stop()
			conn, err := records.Connect(cmd.Context(), url)
			if err != nil {
				return err
			}
			defer conn.Close(cmd.Context())
			state, err := store.Open(cmd.Context(), url) // the set-aside rows need its tables
			if err != nil {
				return err
			}
			defer state.Close()
			o.File = filepath.Base(args[0])
			rep, err := records.Import(cmd.Context(), conn, f, o)
			if err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			printReport(rep)
			if rep.Rows == 0 {
				return fmt.Errorf(
					"nothing came in: all %d rows of %s were kept aside in gavrik.set_aside", rep.SetAside, args[0],
				)
			}
			return nil
		},
	}
	cmd.Flags().StringVar(&url, "database-url", "", "database that Gavrik is served from")
	cmd.Flags().StringVar(&o.Name, "name", "", "name of the record set (default: the file's)")
	cmd.Flags().StringToStringVar(&o.Types, "type", nil, "types of fields, as amount=decimal,ref=text")
	cmd.Flags().BoolVar(&o.Replace, "replace", false, "replace a record set of the same name")
	return cmd
}

// shownRejects is how many set-aside rows are named.
const shownRejects = 10

func printReport(rep *records.Report) {
	for _, c := range rep.Columns {
		fmt.Printf("  %-28s %s%s\n", c.Name, c.Type, c.Note)
	}
	for i, r := range rep.Rejects {
		if i == shownRejects {
			fmt.Printf("  … and %d more in gavrik.set_aside\n", rep.SetAside-i)
			break
		}
		fmt.Printf("  line %d: %s\n", r.Line, r.Reason)
	}
	fmt.Printf("%s: %d rows in, %d kept aside\n", rep.Table, rep.Rows, rep.SetAside)
}
