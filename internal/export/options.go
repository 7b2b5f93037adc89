package export

import (
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
)

// Format is one that results can be taken away in.
type Format struct {
	// Key names it; it is the end of its files' names, too.
	Key string
	// Name is what people call it, Media its type on the web.
	Name, Media string
	// Rows are the ways that lines can be laid out in it, the usual one first.
	Rows  []Rows
	write func(ctx context.Context, to io.Writer, s Source, o Options) error
}

// Rows is what the lines of a file are.
type Rows string

// The ways to lay out lines.
const (
	ByRecord Rows = "records" // one for each record
	ByGroup  Rows = "totals"  // one for each group and one for the grand total
	AsLaid   Rows = "ledger"  // group lines with what is in them beneath, as on screen
)

var formats = []Format{
	{"csv", "Comma-separated values", "text/csv; charset=utf-8", []Rows{ByRecord, ByGroup}, writeCSV},
	{"json", "JSON", "application/json", []Rows{ByRecord, ByGroup}, writeJSON},
	{"jsonl", "JSON Lines", "application/jsonl", []Rows{ByRecord, ByGroup}, writeJSONLines},
	{"html", "Web page", "text/html; charset=utf-8", []Rows{AsLaid, ByRecord, ByGroup}, writeHTML},
	{
		"xlsx", "Spreadsheet", "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
		[]Rows{AsLaid, ByRecord, ByGroup}, writeWorkbook,
	},
	{"pdf", "Paper", "application/pdf", []Rows{AsLaid}, writePDF},
	{"parquet", "Parquet", "application/vnd.apache.parquet", []Rows{ByRecord, ByGroup}, writeParquet},
}

// Options say what is taken away and how. The zero value of each is what is usual.
type Options struct {
	// Format is the key of one; Rows is one of its ways to lay out lines.
	Format string `json:"format" enum:"csv,json,jsonl,html,parquet,xlsx,pdf" doc:"What the file is"`
	Rows   Rows   `json:"rows,omitempty" enum:"records,totals,ledger" doc:"What its lines are: one for each record, one for each group and the grand total, or the ledger as it is laid out; what is usual for the format, if left out"`
	// Columns are the keys of the sheet's columns that are taken; without any, all are.
	Columns []string `json:"columns,omitempty" maxItems:"2000" doc:"Keys of the columns to take, of records and of totals; all, if left out"`
	// Depth, of the ledger, is how many levels of groups are open: their number shows the
	// records, and -1 all groups without them. Nil opens all.
	Depth *int `json:"depth,omitempty" minimum:"-1" maximum:"10" doc:"Of the ledger: how many levels of groups are open; as many as there are show the records, and -1 shows all groups without them"`
	// Separator, Encoding, Keys and Guard are those of comma-separated values.
	Separator Separator `json:"separator,omitempty" enum:"comma,semicolon,tab" doc:"In csv: what stands between values"`
	Encoding  Encoding  `json:"encoding,omitempty" enum:"utf-8,utf-8-marked,windows-1252" doc:"In csv: how characters are kept; marked has the mark in front by which spreadsheets know it"`
	Keys      bool      `json:"keys,omitempty" doc:"Columns are named by their keys, not by their headings"`
	Guard     bool      `json:"guard,omitempty" doc:"In csv: put an apostrophe before texts that a spreadsheet would carry out as formulas"`
}

// Refused says which option cannot be met, and why.
type Refused struct{ Option, Why string }

func (r *Refused) Error() string { return r.Why }

// Settle finds the format asked for, checks the options that hang on it, and says what its lines
// are where that was left out.
func (o *Options) Settle() (Format, error) {
	at := slices.IndexFunc(formats, func(f Format) bool { return f.Key == o.Format })
	if at < 0 {
		var keys []string
		for _, f := range formats {
			keys = append(keys, f.Key)
		}
		return Format{}, &Refused{"format", fmt.Sprintf(
			"there is no format %q; use %s", o.Format, strings.Join(keys, ", "),
		)}
	}
	f := formats[at]
	if o.Rows != "" && !slices.Contains(f.Rows, o.Rows) {
		return f, &Refused{"rows", fmt.Sprintf(
			"%s has no lines by %q; use %s", f.Name, o.Rows, wordsOf(f.Rows),
		)}
	}
	if o.Separator != "" && separators[o.Separator] == 0 {
		return f, &Refused{"separator", fmt.Sprintf(
			"values are not separated by %q; use comma, semicolon or tab", o.Separator,
		)}
	}
	if o.Encoding != "" && encodings[o.Encoding] == nil {
		return f, &Refused{"encoding", fmt.Sprintf(
			"there is no encoding %q; use utf-8, utf-8-marked or windows-1252", o.Encoding,
		)}
	}
	if o.Depth != nil && *o.Depth < -1 {
		return f, &Refused{
			"depth", "a ledger has no levels below 0; -1 shows all groups without their records",
		}
	}
	if o.Rows == "" {
		o.Rows = f.Rows[0]
	}
	return f, nil
}

func wordsOf(rows []Rows) string {
	var out []string
	for _, r := range rows {
		out = append(out, string(r))
	}
	return strings.Join(out, ", ")
}

// Write writes a result as the options say. What was written before an error is no whole file.
func Write(ctx context.Context, to io.Writer, s Source, o Options) error {
	f, err := o.Settle()
	if err != nil {
		return err
	}
	if err := f.write(ctx, to, s, o); err != nil {
		return fmt.Errorf("export: %s: %w", f.Key, err)
	}
	return nil
}

// Lines is how many lines, without headings, Write would write, or why it cannot. Pages say that
// once they are laid out, before the first is written.
func Lines(ctx context.Context, s Source, o Options) (int, error) {
	f, err := o.Settle()
	if err != nil {
		return 0, err
	}
	if o.Rows == AsLaid {
		l := s.ledger(o)
		lines, err := l.lines(ctx)
		if err == nil && f.Key == "xlsx" {
			err = fitsLedger(l, lines)
		}
		return lines, err
	}
	sheet, err := s.sheet(ctx, o)
	if err == nil && f.Key == "xlsx" {
		err = fitsSheet(len(sheet.Columns))
	}
	return sheet.Rows, err
}

// sheet is the rows that the options ask for.
func (s Source) sheet(ctx context.Context, o Options) (Sheet, error) {
	sheet := Records(ctx, s.Result)
	if o.Rows == ByGroup {
		sheet = Totals(ctx, s.Result)
	}
	sheet, err := sheet.Only(o.Columns)
	return sheet.counted(s.first, s.Progress), err
}
