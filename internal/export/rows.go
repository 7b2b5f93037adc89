package export

import (
	"context"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// Records is one row for each record, in the view's order. Levels of groups come before the
// view's columns; what only totals have is left out. A crosstab, whose cells stand for many
// records, has its groups instead; so has what is told in totals alone.
func Records(ctx context.Context, r result.Result) Sheet {
	sum := r.Summarize()
	if len(sum.Plan.Across) > 0 || sum.NoRecords {
		return Totals(ctx, r)
	}
	s := Sheet{Rows: sum.Kept, calendar: sum.Plan.Calendar}
	levels := s.levels(sum)
	figures := make([]figure, 0, len(sum.Heads))
	for i, h := range sum.Heads {
		if c := sum.Plan.Columns[h.Column]; c.Values && h.Part == result.Own {
			of := Column{Key: c.Ref.Path, Heading: c.Heading, Field: c.Ref.Field}
			figures = append(figures, s.figure(i, of, c.Ref.Field.CurrencyBy != ""))
		}
	}
	s.each = func(do func([]cell.Cell) error) error {
		row, pen := make([]cell.Cell, len(s.Columns)), sum.Pen(format.Plain)
		at := make([]result.Key, len(levels)) // the groups that row names: blank ones, to begin with
		return r.EachRecord(ctx, func(groups []result.Key, cells []cell.Cell) error {
			if !slices.Equal(groups, at) {
				copy(at, groups)
				for i, l := range levels {
					row[i] = l.cell(pen, i+1, at[i])
				}
			}
			for _, f := range figures {
				f.into(row, cells[f.head], pen)
			}
			return do(row)
		})
	}
	return s
}

// Totals is one row for each group of every level and one for the grand total: its level (0
// for the grand total), its groups, the count of records, the totals. Behind an average of
// prices stand the smallest and the largest of those that it was taken of, where they differ.
func Totals(ctx context.Context, r result.Result) Sheet {
	sum := r.Summarize()
	s := Sheet{Rows: sum.Groups() + 1, calendar: sum.Plan.Calendar}
	whole := catalog.Field{Type: catalog.Whole}
	s.add(Column{Key: "level", Heading: "level", Field: whole})
	levels := s.levels(sum)
	count := len(s.Columns)
	s.add(Column{Key: "count", Heading: sum.Plan.Many, Field: whole})
	if sum.Plan.Compare != nil {
		heading := sum.Plan.Many + ", " + sum.PartLabel(result.Other)
		s.add(Column{Key: "count_other", Heading: heading, Field: whole})
	}
	var figures []figure
	mixes := map[int]int{} // the column of the smallest price, by head
	for i, h := range sum.Heads {
		at := sum.Plan.Columns[h.Column].Measure
		if at < 0 {
			continue
		}
		m, c := sum.Plan.Measures[at], Column{Key: keyOf(sum, h), Heading: sum.Label(h), Field: h.Field}
		figures = append(figures, s.figure(i, c, len(m.Currencies) > 0))
		if h.Mixed > 0 { // an average of several prices stands between these two
			mixes[i] = len(s.Columns)
			s.add(Column{Key: c.Key + "_smallest", Heading: c.Heading + ", smallest price", Field: m.Ref.Field})
			s.add(Column{Key: c.Key + "_largest", Heading: c.Heading + ", largest price", Field: m.Ref.Field})
		}
	}
	s.each = func(do func([]cell.Cell) error) error {
		row, pen := make([]cell.Cell, len(s.Columns)), sum.Pen(format.Plain)
		return r.EachGroup(ctx, result.Groups{}, func(g result.GroupLine) error {
			clear(row)
			row[0] = wholeCell(g.Level)
			for i, l := range levels[:g.Level] {
				row[1+i] = l.cell(pen, i+1, g.Keys[i])
			}
			row[count] = wholeCell(g.Count)
			if sum.Plan.Compare != nil {
				row[count+1] = wholeCell(g.Others)
			}
			for _, f := range figures {
				f.into(row, g.Cells[f.head], pen)
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

// level is a column of the groups of one level.
type level struct {
	group plan.Group
	// typed says that the groups' values stand in it, and not what they are called.
	typed bool
}

// levels adds a column for each level of groups.
func (s *Sheet) levels(sum *result.Summary) []level {
	out := make([]level, len(sum.Plan.Groups))
	for i, g := range sum.Plan.Groups {
		c := Column{Key: g.Ref.Path, Heading: g.Label(), Field: g.Ref.Field}
		l := level{group: g, typed: !g.Joins() && !g.Unit.Cyclic()}
		switch {
		case !l.typed:
			c.Field = catalog.Field{Type: catalog.Text}
		case g.Unit != "":
			c.Field, c.Unit = catalog.Field{Type: catalog.Date}, g.Unit
		}
		if g.Unit != "" {
			c.Key += "_" + string(g.Unit)
		}
		s.add(c)
		out[i] = l
	}
	return out
}

// cell is the group's value, or what it is called where some have no value of their own.
func (l level) cell(pen *result.Pen, at int, k result.Key) cell.Cell {
	switch {
	case k.Joined == 0 && k.Value.Kind == cell.Blank:
		return cell.Cell{}
	case !l.typed:
		return textCell(pen.Down(at, k))
	case l.group.Unit != "":
		return cell.Cell{Kind: cell.Date, Int: k.Value.Int}
	}
	return k.Value
}

// figure is where the cells of a head of the ledger go in a row.
type figure struct {
	head, at int
	// currency is the column of each amount's currency, or 0.
	currency int
}

// figure adds a column for a head and, where amounts are in currencies of their own, one
// for these.
func (s *Sheet) figure(head int, c Column, currencies bool) figure {
	f := figure{head: head, at: len(s.Columns)}
	s.add(c)
	if currencies {
		f.currency = len(s.Columns)
		s.add(Column{
			Key: c.Key + "_currency", Heading: c.Heading + ", currency", Field: catalog.Field{Type: catalog.Text},
		})
	}
	return f
}

// into puts a cell into a row. Amounts of several currencies are no number: they stand in
// words where the currency does.
func (f figure) into(row []cell.Cell, c cell.Cell, pen *result.Pen) {
	row[f.at] = c
	if f.currency == 0 {
		return
	}
	row[f.currency] = cell.Cell{}
	switch {
	case c.Kind == cell.Several:
		row[f.at], row[f.currency] = cell.Cell{}, textCell(pen.Figure(f.head, c))
	case c.More != nil && c.More.Currency != "":
		row[f.currency] = textCell(c.More.Currency)
		row[f.at].More = nil
	}
}

// keyOf names a figure to programs: "paid_sum", "paid_sum_change", "fare_average_Oxley".
func keyOf(sum *result.Summary, h result.Head) string {
	m := sum.Plan.Measures[sum.Plan.Columns[h.Column].Measure]
	parts := []string{m.Ref.Path}
	if m.Formula == nil {
		parts = append(parts, string(m.Fn))
	}
	if m.Show != "" {
		parts = append(parts, string(m.Show))
	}
	if h.Part != result.Own {
		parts = append(parts, string(h.Part))
	}
	for _, label := range sum.Pen(format.Plain).Across(h.Across) {
		parts = append(parts, result.Named(label))
	}
	return strings.Join(parts, "_")
}

func wholeCell(n int) cell.Cell { return cell.OfInt(int64(n), catalog.Field{Type: catalog.Whole}) }

// textCell is a text; the empty one is a blank.
func textCell(s string) cell.Cell { return cell.OfText(s, catalog.Field{Type: catalog.Text}) }
