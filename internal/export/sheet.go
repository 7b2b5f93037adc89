// Package export writes one result in other programs' formats.
package export

import (
	"context"
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
)

// Sheet is a result as a flat table: a heading for each column and a way through
// the rows, each as long as the headings. Values are plain: decimals without
// thousands, ISO 8601 dates, blanks empty.
type Sheet struct {
	Headings []string
	// Texts marks the columns that hold texts: what people typed somewhere.
	Texts []bool
	Each  func(do func(row []string) error) error
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
	s.Texts = texts(levels)
	for i, h := range r.Heads {
		if c := r.Plan.Columns[h.Column]; c.Values && h.Part == engine.Own {
			columns = append(columns, i)
			s.Headings, s.Texts = append(s.Headings, c.Heading), append(s.Texts, c.Ref.Field.Type == catalog.Text)
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
// level (0 for the grand total), its labels, the count of records, the totals. Behind an
// average of prices stand the smallest and the largest of those that it was taken of, where
// they differ.
func Totals(ctx context.Context, r *engine.Result) Sheet {
	s := Sheet{Headings: append([]string{"level"}, levelHeadings(r)...)}
	s.Headings = append(s.Headings, r.Plan.Many)
	s.Texts = append(append([]bool{false}, texts(len(r.Plan.Groups))...), false)
	var columns []int
	if r.Plan.Compare != nil {
		s.Headings, s.Texts = append(s.Headings, r.Plan.Many+", "+r.PartLabel(engine.Other)), append(s.Texts, false)
	}
	mixes := map[int]int{} // the column of the smallest price, by head
	for i, h := range r.Heads {
		if r.Plan.Columns[h.Column].Measure < 0 {
			continue
		}
		columns = append(columns, i)
		s.Headings, s.Texts = append(s.Headings, r.Label(h)), append(s.Texts, h.Field.Type == catalog.Text)
		if r.Mixes(i) { // an average of several prices stands between these two
			mixes[i] = len(s.Headings)
			s.Headings = append(s.Headings, r.Label(h)+", smallest price", r.Label(h)+", largest price")
			s.Texts = append(s.Texts, false, false)
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
				if mixes[c] > 0 {
					row = append(row, "", "")
				}
			}
			for _, m := range g.Mixes {
				if at := mixes[m.Cell]; at > 0 {
					row[at], row[at+1] = m.Low, m.High
				}
			}
			return do(row)
		})
	}
	return s
}

// texts marks so many columns of labels: those of numbers are no harm either way.
func texts(n int) []bool {
	out := make([]bool, n)
	for i := range out {
		out[i] = true
	}
	return out
}

func levelHeadings(r *engine.Result) []string {
	var out []string
	for _, g := range r.Plan.Groups {
		out = append(out, g.Label())
	}
	return out
}
