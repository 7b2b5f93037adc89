package export

import (
	"context"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// ledger is a result as it is laid out on screen: group lines with what is in them beneath,
// and the grand total.
type ledger struct {
	result result.Result
	sum    *result.Summary
	// depth is how many levels of groups are open; records says that their lines are shown.
	depth   int
	records bool
	// heads are the columns that have something to show in these lines: indices of the
	// summary's.
	heads    []int
	counting counter
}

// ledger is the source's, as far open as the options say.
func (s Source) ledger(o Options) ledger {
	sum := s.Result.Summarize()
	l := ledger{result: s.Result, sum: sum, depth: len(sum.Plan.Groups)}
	l.counting = counter{first: s.first, tell: s.Progress}
	if len(sum.Plan.Across) > 0 || sum.NoRecords && l.depth > 0 {
		l.depth-- // a cell of a crosstab has many records; none has a line
	}
	switch {
	case o.Depth == nil:
	case *o.Depth < 0: // a view without groups is its records
		l.depth = min(l.depth, max(0, len(sum.Plan.Groups)-1))
	default:
		l.depth = min(l.depth, *o.Depth)
	}
	l.records = l.depth == len(sum.Plan.Groups)
	for i, h := range sum.Heads {
		if c := sum.Plan.Columns[h.Column]; l.records && c.Values || c.Measure >= 0 {
			l.heads = append(l.heads, i)
		}
	}
	return l
}

// labelled says that lines have a heading of their own in front.
func (l ledger) labelled() bool { return len(l.sum.Plan.Groups) > 0 || len(l.sum.Plan.Across) > 0 }

// each calls do for every line but the grand total's, in the order shown.
func (l ledger) each(ctx context.Context, do func(result.Line) error) error {
	c := l.counting
	return c.end(l.result.EachLine(ctx, result.Open{Depth: l.depth}, func(line result.Line) error {
		if err := do(line); err != nil {
			return err
		}
		return c.next()
	}))
}

// lines counts the lines, the grand total's among them.
func (l ledger) lines(ctx context.Context) (int, error) {
	w, err := l.result.Window(ctx, result.Open{Depth: l.depth}, 0, 0)
	if l.closes() {
		w.Total++
	}
	return w.Total, err
}

// closes says whether the grand total has a line: a list without totals has none.
func (l ledger) closes() bool {
	return l.labelled() || slices.ContainsFunc(l.sum.GrandTotal.Cells, func(c cell.Cell) bool {
		return c.Kind != cell.Blank
	})
}

// headingRow is one row of headings; own is that of the columns' own.
type headingRow struct {
	spans []span
	own   bool
}

// span is a heading over so many columns.
type span struct {
	text string
	over int
}

// headings are the rows of headings from the top down: a row for each level across, one for
// the sides of a comparison, one for the columns' own, one for what their totals are. Each
// row spans all of the ledger's columns; rows without any text are left out.
func (l ledger) headings() []headingRow {
	pen, across := l.sum.Pen(format.People), len(l.sum.Plan.Across)
	rows := make([][]string, across+3)
	for _, at := range l.heads {
		h := l.sum.Heads[at]
		c := l.sum.Plan.Columns[h.Column]
		labels := pen.Across(h.Across)
		for i := range across {
			text := ""
			switch {
			case i < len(labels):
				text = result.Named(labels[i])
			case i == len(labels):
				text = "All"
			}
			rows[i] = append(rows[i], text)
		}
		note := ""
		if c.Measure >= 0 {
			note = l.sum.Plan.Measures[c.Measure].Heading()
			if f := h.Field.Format; f != nil && f.In != "" {
				note += ", " + string(f.In)
			}
		}
		rows[across] = append(rows[across], c.Heading)
		rows[across+1] = append(rows[across+1], note)
		rows[across+2] = append(rows[across+2], l.sum.PartLabel(h.Part))
	}
	var out []headingRow
	for i, row := range rows {
		spans := joined(row, i < across)
		if i == across || len(spans) > 0 && (len(spans) > 1 || spans[0].text != "") {
			out = append(out, headingRow{spans, i == across})
		}
	}
	return out
}

// headingOf is a column's own heading with the groups across and the side that it is of.
func (l ledger) headingOf(head int) string {
	h := l.sum.Heads[head]
	c := l.sum.Plan.Columns[h.Column]
	if !l.records || !c.Values {
		return catalog.UpperFirst(l.sum.Label(h)) // the total, with its group across and its side
	}
	text := c.Heading
	for _, label := range l.sum.Pen(format.People).Across(h.Across) {
		text += ", " + result.Named(label)
	}
	if side := l.sum.PartLabel(h.Part); side != "" {
		text += ", " + side
	}
	return text
}

// joined puts equal neighbours under one heading, if they are those of groups.
func joined(texts []string, groups bool) []span {
	var out []span
	for i, text := range texts {
		if n := len(out); n > 0 && (groups && text == texts[i-1] || text == "" && texts[i-1] == "") {
			out[n-1].over++
			continue
		}
		out = append(out, span{text, 1})
	}
	return out
}

// levelsInWords name the levels of groups above their labels.
func (l ledger) levelsInWords() string {
	words := ""
	for i, g := range l.sum.Plan.Groups {
		if i > 0 {
			words += " / "
		}
		words += g.Label()
	}
	return words
}
