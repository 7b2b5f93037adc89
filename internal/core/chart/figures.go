package chart

import (
	"math"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/result"
)

// figure is a cell of the ledger that is drawn: its groups along the axis and of the series,
// the blank key for one series; its line, and its column or -1.
type figure struct {
	axis, by result.Key
	line     *result.GroupLine
	head     int
}

// layout chooses the levels that are drawn. Of two, the one that runs along time makes the axis.
func (d *drawer) layout() {
	down, across := d.Plan.Groups, d.Plan.Across
	switch {
	case len(down) > 0 && len(across) > 0:
		d.axis, d.by = newLevel(down, 1), newLevel(across, 1)
	case len(down) > 1:
		d.axis, d.by = newLevel(down, 1), newLevel(down, 2)
	case len(across) > 0:
		d.axis = newLevel(across, 1)
	default:
		d.axis = newLevel(down, 1)
	}
	if d.turned = d.by != nil && d.by.temporal() && !d.axis.temporal(); d.turned {
		d.axis, d.by = d.by, d.axis
	}
	d.chooseHeads()
}

// chooseHeads finds the columns that show the figure: of all records and, in a crosstab, of
// each group across.
func (d *drawer) chooseHeads() {
	seen := map[string]bool{}
	for i, h := range d.Heads {
		if h.Part != result.Own || d.measure != nil && h.Column != d.spec.Column || seen[h.AcrossPath] {
			continue
		}
		seen[h.AcrossPath] = true
		switch {
		case len(h.Across) == 1:
			d.across = append(d.across, i)
		case len(h.Across) == 0 && d.measure != nil:
			d.whole = i
		}
	}
	d.read = slices.Clone(d.across)
	if d.measure == nil {
		d.read = []int{} // the records of each cell are known without it
	} else if d.whole >= 0 {
		d.read = append(d.read, d.whole)
		if other := d.otherOf(d.whole); other >= 0 {
			d.read = append(d.read, other)
		}
	}
}

// otherOf is the column of the other side of a comparison, or -1.
func (d *drawer) otherOf(head int) int {
	return slices.IndexFunc(d.Heads, func(h result.Head) bool {
		return h.Column == d.Heads[head].Column && h.Part == result.Other
	})
}

// each calls do for every figure. There may be millions, and none of them is kept.
func (d *drawer) each(do func(f figure)) error {
	found := func(a, b result.Key, line *result.GroupLine, head int) {
		if d.turned {
			a, b = b, a
		}
		do(figure{a, b, line, head})
	}
	alongAcross := func(line *result.GroupLine, do func(k result.Key, head int)) {
		for _, head := range d.across {
			do(d.Heads[head].Across[0], head)
		}
	}
	if len(d.Plan.Groups) == 0 {
		line, err := d.Group("", d.read)
		alongAcross(&line, func(k result.Key, head int) { found(k, result.Key{}, &line, head) })
		return err
	}
	depth := 1
	if d.by != nil && len(d.Plan.Across) == 0 {
		depth = 2
	}
	of := result.Groups{Levels: depth, Heads: d.read}
	return d.EachGroup(d.ctx, of, func(line result.GroupLine) error {
		if line.Key.Held > 0 {
			return nil // they are several, and nothing of them is told
		}
		switch {
		case line.Level != depth:
		case len(d.Plan.Across) > 0:
			alongAcross(&line, func(k result.Key, head int) { found(line.Keys[0], k, &line, head) })
		case depth == 2:
			found(line.Keys[0], line.Keys[1], &line, d.whole)
		default:
			found(line.Keys[0], result.Key{}, &line, d.whole)
		}
		return nil
	})
}

// value is a figure in the chart's unit; NaN for none.
func (d *drawer) value(f figure) float64 {
	if d.measure == nil {
		return float64(records(f))
	}
	if f.head < 0 {
		return math.NaN()
	}
	field := d.Heads[f.head].Field
	switch c := f.line.Cells[f.head]; c.Kind {
	case cell.Number, cell.Duration:
		return d.inUnit(float64(c.Int), field)
	case cell.Approximate:
		return d.inUnit(c.Float(), field)
	}
	return math.NaN()
}

// records is how many records a figure is taken of.
func records(f figure) int {
	if f.head >= 0 && f.line.Counts != nil {
		return f.line.Counts[f.head]
	}
	return f.line.Count
}

// inUnit is a stored value as the chart's axis counts.
func (d *drawer) inUnit(v float64, f catalog.Field) float64 {
	power := f.Scale
	if f.Approx {
		power = 0
	}
	if f.Format != nil {
		power += f.Format.In.Power()
	}
	switch f.Type {
	case catalog.Percent:
		d.out.Unit = "percent"
	case catalog.Duration:
		d.out.Unit = "hours"
		return v / 3.6e9
	}
	return v / math.Pow10(power)
}

// mark is a figure with what it leads to.
func (d *drawer) mark(f figure) Mark {
	m := Mark{Value: d.value(f), Group: f.line.Group, Head: f.head, Leads: true}
	if d.measure == nil {
		m.Text = d.w.Number(int64(records(f)), catalog.Field{Type: catalog.Whole})
	} else if f.head >= 0 {
		m.Text = d.pen.Figure(f.head, f.line.Cells[f.head])
	}
	return m
}

// currencies notes whether a figure's amounts are in more than one currency.
func (d *drawer) currencies(c cell.Cell) {
	switch {
	case c.Kind == cell.Several:
		d.several = true
	case c.More == nil || c.More.Currency == "":
	case d.currency == "":
		d.currency = c.More.Currency
	case d.currency != c.More.Currency:
		d.several = true
	}
}
