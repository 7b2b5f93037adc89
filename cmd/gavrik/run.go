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
	"gavrik/internal/core/code"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
	"gavrik/internal/store"
	"gavrik/internal/wholefile"
)

func runCommand() *cobra.Command {
	var w workspaceFlags
	var out string
	var o export.Options
	var totals bool
	var depth int
	var answers map[string]string
	cmd := &cobra.Command{
		Use:   "run VIEW",
		Short: "Compute a view and write the result",
		Long: `Compute a view and write the result. VIEW is a saved view's name or key, or a file
that holds a view document; "-" reads the document from standard input.

Csv, json, jsonl and parquet give one row for each record, with a column for each level
of groups before the view's own; with --rows totals, one row for each group of every
level and one for the grand total. Html and xlsx give the ledger as it is laid out,
with --depth levels of groups open, or rows likewise.`,
		Args: cobra.ExactArgs(1),
		RunE: func(cmd *cobra.Command, args []string) error {
			if totals {
				o.Rows = export.ByGroup
			}
			if cmd.Flags().Changed("depth") {
				o.Depth = &depth
			}
			if _, err := o.Settle(); err != nil {
				return err
			}
			source, err := w.answer(cmd.Context(), args[0], answers)
			if err != nil {
				return err
			}
			for _, note := range source.Result.Summarize().NotesInWords() {
				fmt.Fprintln(os.Stderr, "note:", note)
			}
			if out == "" || out == "-" {
				return export.Write(cmd.Context(), cmd.OutOrStdout(), source, o)
			}
			return wholefile.Write(out, shared, func(to io.Writer) error {
				return export.Write(cmd.Context(), to, source, o)
			})
		},
	}
	w.add(cmd.Flags())
	f := cmd.Flags()
	f.StringVar(&out, "out", "", "the file to write; standard output, if left out")
	f.StringVar(&o.Format, "format", "csv", "csv, json, jsonl, html, parquet, xlsx or pdf")
	f.StringToStringVar(
		&answers, "answer", nil,
		"an answer to a question of the view, as name=value; a range as from..to, several values on lines",
	)
	f.StringVar(
		(*string)(&o.Rows), "rows", "", "records, totals, or ledger; what is usual for the format, if left out",
	)
	f.BoolVar(&totals, "totals", false, "the same as --rows totals")
	f.IntVar(
		&depth, "depth", 0,
		"of the ledger: how many levels of groups are open, or -1 for all without the records; all, if left out",
	)
	f.StringSliceVar(&o.Columns, "columns", nil, "keys of the columns to take; all, if left out")
	f.BoolVar(&o.Keys, "keys", false, "name columns by their keys, not by their headings")
	f.StringVar((*string)(&o.Separator), "separator", "", "in csv: comma, semicolon or tab")
	f.StringVar((*string)(&o.Encoding), "encoding", "", "in csv: utf-8, utf-8-marked or windows-1252")
	f.BoolVar(
		&o.Guard, "guard", false,
		"in csv: put an apostrophe before texts that a spreadsheet would carry out as formulas",
	)
	return cmd
}

// answer computes a view, by its name, its key or its file, as somebody who sees everything.
func (f *workspaceFlags) answer(
	ctx context.Context, named string, answers map[string]string,
) (export.Source, error) {
	doc, title, err := readView(ctx, named, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	if _, err := f.databases(); err != nil {
		return export.Source{}, err
	}
	if err := doc.Answer(answers); err != nil {
		return export.Source{}, fmt.Errorf("%s: %w", named, err)
	}
	cal, err := f.calendar()
	if err != nil {
		return export.Source{}, err
	}
	cal.Now = time.Now()
	keys, err := store.ReadSetKeys(ctx, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	loaded, err := f.load(ctx, nil, keys)
	if err != nil {
		return export.Source{}, err
	}
	stored, err := store.ReadDefinitions(ctx, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	defs, err := store.Decoded(stored)
	if err != nil {
		return export.Source{}, err
	}
	described, err := store.ReadDescriptions(ctx, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	added, values, err := store.ReadFacts(ctx, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	scope, err := app.Over(ctx, loaded, defs, described, added, values, cal)
	if err != nil {
		return export.Source{}, err
	}
	res, err := scope.Answer(ctx, doc)
	var faults plan.Faults
	switch {
	case errors.As(err, &faults) && faults[0].Code == code.MissingParameter:
		return export.Source{}, fmt.Errorf("%s:\n%w; give it with --answer name=value", named, err)
	case errors.As(err, &faults):
		return export.Source{}, fmt.Errorf("%s:\n%w", named, err)
	case err != nil:
		return export.Source{}, err
	}
	head, err := store.ReadLetterhead(ctx, f.recordsURL)
	if err != nil {
		return export.Source{}, err
	}
	return export.Source{
		Result: res.Result, Document: doc, Set: res.Set, Title: title, Made: cal.Now,
		Letterhead: (*export.Letterhead)(&head),
	}, nil
}

// shared is the mode of files that are written for others to read.
const shared = 0o644

// readView reads a document from a file or, where there is none of that name, takes it
// from the saved views, which have a title.
func readView(ctx context.Context, named, url string) (doc *view.Document, title string, err error) {
	doc, err = readDocument(named)
	if !errors.Is(err, os.ErrNotExist) || url == "" || strings.HasSuffix(named, ".json") {
		return doc, "", err
	}
	title, text, err := store.ReadView(ctx, url, named)
	switch {
	case errors.Is(err, store.ErrNotFound):
		return nil, "", fmt.Errorf("there is neither a file nor a saved view called %q", named)
	case errors.Is(err, store.ErrTaken):
		return nil, "", fmt.Errorf("several views are called %q; name one by the end of its address", named)
	case err != nil:
		return nil, "", err
	}
	doc, err = view.Parse(text)
	return doc, title, err
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
