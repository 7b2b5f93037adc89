// Package export writes one result in other programs' formats.
package export

import (
	"context"
	"slices"
	"strconv"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
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
func Flat(ctx context.Context, r result.Result) Sheet {
	sum := r.Summarize()
	if len(sum.Plan.Across) > 0 {
		return Totals(ctx, r)
	}
	levels, pen := len(sum.Plan.Groups), sum.Pen(format.Plain)
	var columns []int
	s := Sheet{Headings: levelHeadings(sum)}
	s.Texts = texts(levels)
	for i, h := range sum.Heads {
		if c := sum.Plan.Columns[h.Column]; c.Values && h.Part == result.Own {
			columns = append(columns, i)
			s.Headings, s.Texts = append(s.Headings, c.Heading), append(s.Texts, c.Ref.Field.Type == catalog.Text)
		}
	}
	s.Each = func(do func([]string) error) error {
		row := make([]string, len(s.Headings))
		at := make([]result.Key, levels) // the groups that row names: blank ones, to begin with
		return r.EachRecord(ctx, func(groups []result.Key, cells []cell.Cell) error {
			if !slices.Equal(groups, at) {
				copy(at, groups)
				copy(row, pen.Labels(at))
			}
			for i, c := range columns {
				row[levels+i] = pen.Value(c, cells[c])
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
func Totals(ctx context.Context, r result.Result) Sheet {
	sum := r.Summarize()
	s := Sheet{Headings: append([]string{"level"}, levelHeadings(sum)...)}
	s.Headings = append(s.Headings, sum.Plan.Many)
	s.Texts = append(append([]bool{false}, texts(len(sum.Plan.Groups))...), false)
	var columns []int
	if sum.Plan.Compare != nil {
		s.Headings, s.Texts = append(
			s.Headings, sum.Plan.Many+", "+sum.PartLabel(result.Other),
		), append(s.Texts, false)
	}
	mixes := map[int]int{} // the column of the smallest price, by head
	for i, h := range sum.Heads {
		if sum.Plan.Columns[h.Column].Measure < 0 {
			continue
		}
		columns = append(columns, i)
		s.Headings, s.Texts = append(s.Headings, sum.Label(h)), append(s.Texts, h.Field.Type == catalog.Text)
		if h.Mixed > 0 { // an average of several prices stands between these two
			mixes[i] = len(s.Headings)
			s.Headings = append(s.Headings, sum.Label(h)+", smallest price", sum.Label(h)+", largest price")
			s.Texts = append(s.Texts, false, false)
		}
	}
	s.Each = func(do func([]string) error) error {
		pen := sum.Pen(format.Plain)
		labels := make([]string, len(sum.Plan.Groups)) // of the groups that the line at hand lies in
		return r.EachGroup(ctx, result.Groups{}, func(g result.GroupLine) error {
			row := make([]string, 1+len(labels), len(s.Headings))
			row[0] = strconv.Itoa(g.Level)
			if g.Level > 0 {
				labels[g.Level-1] = pen.Label(g.Line)
			}
			copy(row[1:], labels[:g.Level])
			row = append(row, strconv.Itoa(g.Count))
			if sum.Plan.Compare != nil {
				row = append(row, strconv.Itoa(g.Others))
			}
			for _, c := range columns {
				row = append(row, pen.Figure(c, g.Cells[c]))
				if mixes[c] > 0 {
					row = append(row, "", "")
				}
			}
			for _, m := range g.Mixes {
				if at := mixes[m.Cell]; at > 0 {
					row[at], row[at+1] = pen.Mix(m)
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

func levelHeadings(s *result.Summary) []string {
	var out []string
	for _, g := range s.Plan.Groups {
		out = append(out, g.Label())
	}
	return out
}
