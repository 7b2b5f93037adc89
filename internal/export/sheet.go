// Package export writes one result in other programs' formats.
package export

import (
	"context"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"time"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
)

// Sheet is a result as a flat table: a heading for each column and a way through
// the rows, each as long as the headings. Values are plain: decimals without
// thousands, ISO 8601 dates, blanks empty.
type Sheet struct {
	Headings []string
	Each     func(do func(row []string) error) error
}

// Flat is one row for each record, in the view's order. Levels of groups come
// before the view's columns; what only totals have is left out. A crosstab, whose cells
// stand for many records, has its groups instead.
func Flat(ctx context.Context, r *engine.Result) Sheet {
	if len(r.Plan.Across) > 0 {
		return Totals(ctx, r)
	}
	levels := len(r.Plan.Groups)
	var columns []int
	s := Sheet{Headings: levelHeadings(r)}
	for i, h := range r.Heads {
		if c := r.Plan.Columns[h.Column]; c.Values && h.Part == engine.Own {
			columns = append(columns, i)
			s.Headings = append(s.Headings, c.Heading)
		}
	}
	s.Each = func(do func([]string) error) error {
		row := make([]string, len(s.Headings))
		return r.EachRecord(ctx, format.Plain, func(labels, cells []string) error {
			copy(row, labels)
			for i, c := range columns {
				row[levels+i] = cells[c]
			}
			return do(row)
		})
	}
	return s
}

// Totals is one row for each group of every level and one for the grand total: its
// level (0 for the grand total), its labels, the count of records, the totals.
func Totals(ctx context.Context, r *engine.Result) Sheet {
	s := Sheet{Headings: append([]string{"level"}, levelHeadings(r)...)}
	s.Headings = append(s.Headings, r.Plan.Many)
	var columns []int
	if r.Plan.Compare != nil {
		s.Headings = append(s.Headings, r.Plan.Many+", "+r.PartLabel(engine.Other))
	}
	for i, h := range r.Heads {
		if r.Plan.Columns[h.Column].Measure >= 0 {
			columns = append(columns, i)
			s.Headings = append(s.Headings, r.Label(h))
		}
	}
	s.Each = func(do func([]string) error) error {
		return r.EachGroup(ctx, format.Plain, func(g engine.GroupLine) error {
			row := append([]string{fmt.Sprint(g.Level)}, g.Labels...)
			row = append(row, fmt.Sprint(g.Count))
			if r.Plan.Compare != nil {
				row = append(row, fmt.Sprint(g.Others))
			}
			for _, c := range columns {
				row = append(row, g.Cells[c])
			}
			return do(row)
		})
	}
	return s
}

func levelHeadings(r *engine.Result) []string {
	var out []string
	for _, g := range r.Plan.Groups {
		out = append(out, g.Label())
	}
	return out
}

// WriteCSV writes a sheet after RFC 4180.
func WriteCSV(w *csv.Writer, s Sheet) error {
	if err := w.Write(s.Headings); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	if err := s.Each(w.Write); err != nil {
		return fmt.Errorf("export: %w", err)
	}
	w.Flush()
	return w.Error()
}

// Answer is what was answered to a question of the view, in this run.
type Answer struct {
	Name     string `json:"name"`
	Question string `json:"question"`
	Answer   string `json:"answer"`
}

// WriteJSON writes a sheet as one object: what the view says it is and, apart from what
// is built into it, what was answered this time; the moment of its records, how many
// there are and are kept; the fields that were left out because the reader may not see
// them; the headings, and the rows.
func WriteJSON(w *json.Encoder, s Sheet, phrases []brief.Phrase, r *engine.Result) error {
	out := struct {
		Brief    string     `json:"brief"`
		Answers  []Answer   `json:"answers,omitzero"`
		Withheld []string   `json:"withheld,omitzero"`
		AsOf     time.Time  `json:"asOf"`
		All      int        `json:"all"`
		Kept     int        `json:"kept"`
		Headings []string   `json:"headings"`
		Rows     [][]string `json:"rows"`
	}{brief.Text(phrases), nil, r.Plan.Withheld, r.AsOf, r.All, r.Kept, s.Headings, [][]string{}}
	for _, p := range phrases {
		if p.Ask != nil {
			out.Answers = append(out.Answers, Answer{p.Ask.Name, p.Ask.Label, p.Text})
		}
	}
	err := s.Each(func(row []string) error {
		out.Rows = append(out.Rows, append([]string(nil), row...))
		return nil
	})
	if err != nil {
		return fmt.Errorf("export: %w", err)
	}
	return w.Encode(out)
}
