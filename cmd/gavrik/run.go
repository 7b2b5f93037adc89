package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"gavrik/internal/app"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/code"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

func runCommand() *cobra.Command {
	var w workspaceFlags
	var format string
	var totals, guard bool
	var answers map[string]string
	cmd := &cobra.Command{
		Use:   "run VIEW",
		Short: "Compute a view and print the result",
		Long: `Compute a view and print the result. VIEW is a saved view's name or key, or a file
that holds a view document.

Csv and json give one row for each record, with a column for each level of groups
before the view's own; with --totals, one row for each group of every level and
one for the grand total. "-" reads the document from standard input.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			doc, err := readView(cmd.Context(), args[0], w.recordsURL)
			if err != nil {
				return err
			}
			if err := doc.Answer(answers); err != nil {
				return fmt.Errorf("%s: %w", args[0], err)
			}
			cal, err := w.calendar()
			if err != nil {
				return err
			}
			cal.Now = time.Now()
			loaded, err := w.load(cmd.Context(), nil)
			if err != nil {
				return err
			}
			stored, err := store.ReadDefinitions(cmd.Context(), w.recordsURL)
			if err != nil {
				return err
			}
			defs, err := store.Decoded(stored)
			if err != nil {
				return err
			}
			res, err := app.Over(loaded, defs, cal).Answer(cmd.Context(), doc)
			var faults plan.Faults
			switch {
			case errors.As(err, &faults) && faults[0].Code == code.MissingParameter:
				return fmt.Errorf("%s:\n%w; give it with --answer name=value", args[0], err)
			case errors.As(err, &faults):
				return fmt.Errorf("%s:\n%w", args[0], err)
			case err != nil:
				return err
			}
			for _, note := range res.NotesInWords() {
				fmt.Fprintln(os.Stderr, "note:", note)
			}
			sheet := export.Flat(cmd.Context(), res)
			if totals {
				sheet = export.Totals(cmd.Context(), res)
			}
			switch format {
			case "csv":
				return export.CSV{Guard: guard}.Write(cmd.OutOrStdout(), sheet)
			case "json":
				return export.WriteJSON(cmd.OutOrStdout(), sheet, brief.Write(res.Plan, doc, res.Set), res.Summary)
			}
			return fmt.Errorf("there is no format %q; use csv or json", format)
		},
	}
	w.add(cmd.Flags())
	cmd.Flags().StringVar(&format, "format", "csv", "csv or json")
	cmd.Flags().StringToStringVar(
		&answers, "answer", nil,
		"an answer to a question of the view, as name=value; a range as from..to, several values on lines",
	)
	cmd.Flags().BoolVar(
		&guard, "guard", false,
		"in csv: put an apostrophe before texts that a spreadsheet would carry out as formulas",
	)
	cmd.Flags().BoolVar(
		&totals, "totals", false, "the group lines and totals of every level in place of the records",
	)
	return cmd
}

// readView reads a document from a file or, where there is none of that name, takes it
// from the saved views.
func readView(ctx context.Context, named, url string) (*view.Document, error) {
	doc, err := readDocument(named)
	if !errors.Is(err, os.ErrNotExist) || url == "" || strings.HasSuffix(named, ".json") {
		return doc, err
	}
	text, err := store.ReadView(ctx, url, named)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil, fmt.Errorf("there is neither a file nor a saved view called %q", named)
	case errors.Is(err, store.ErrTaken):
		return nil, fmt.Errorf("several views are called %q; name one by the end of its address", named)
	case err != nil:
		return nil, err
	}
	return view.Parse(text)
}

func readDocument(path string) (*view.Document, error) {
	var text []byte
	var err error
	if path == "-" {
		text, err = io.ReadAll(io.LimitReader(os.Stdin, view.MaxBytes+1))
	} else {
		text, err = os.ReadFile(path)
	}
	if errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("there is no file %s (%w)", path, os.ErrNotExist)
	}
	if err != nil {
		return nil, err
	}
	doc, err := view.Parse(text)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", path, err)
	}
	return doc, nil
}
