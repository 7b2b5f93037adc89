package engine

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Prices come from a list: few of them, each on many records. Amounts differ from
// record to record, and their average is no price that anybody could take it for.
const (
	priceSample  = 20_000 // records looked at
	perPrice     = 8      // records to a price, at the least
	fewestPriced = 16
)

// mixes finds the averages of prices, and the range of prices that each stands for.
func (w *aggregator) mixes() error {
	for i, m := range w.plan.Measures {
		f := w.done[i]
		if f == nil || m.Show != "" || m.Fn != view.Average && m.Fn != view.Median || m.Ref.Field.Type != catalog.Money {
			continue
		}
		col, err := w.column(m.Ref)
		if err != nil {
			return err
		}
		c, ok := col.(*table.Numbers)
		if !ok || !w.isPrice(c) {
			continue
		}
		var ends [2][]int64
		for j, fn := range []view.Fn{view.Smallest, view.Largest} {
			if ends[j], err = extremesOf(&aggregation{w, plan.Measure{Ref: m.Ref, Fn: fn}}, c.Values, table.Blank, func(v int64) bool { return v == table.Blank }); err != nil {
				return err
			}
		}
		f.low, f.high = ends[0], ends[1]
	}
	return nil
}

// isPrice says whether values repeat as those of a price list do.
func (w *aggregator) isPrice(c *table.Numbers) bool {
	n := min(w.side.rows.n, priceSample)
	if n < fewestPriced {
		return false
	}
	seen := map[int64]bool{}
	for i := range n {
		if v := c.Values[w.side.rows.at(i)]; v != table.Blank {
			seen[v] = true
		}
		if len(seen)*perPrice > n {
			return false
		}
	}
	return len(seen) > 1
}

// mixesOf lists the averages of a line that are mixes.
func (w *windower) mixesOf(line result.Line, i int32) (out []result.Mix) {
	for _, c := range w.heads {
		f := w.cells[c]
		if line.Cells[c].Kind == cell.Blank {
			continue
		}
		if m := f.mix(c, i); m != nil {
			out = append(out, *m)
		}
	}
	return out
}

// mixesAt says whether a node's average stands for several prices.
func (f *aggregates) mixesAt(i int32) bool {
	return f != nil && f.low != nil && f.low[i] != f.high[i] && len(f.mixed[i]) == 0 && !f.isBlank(i)
}

// mixedLines counts the nodes whose average stands for several prices.
func (f *aggregates) mixedLines() (n int) {
	if f == nil {
		return 0
	}
	for node := range f.low {
		if f.mixesAt(int32(node)) {
			n++
		}
	}
	return n
}

// mix is a node's in a cell, or nil if its prices do not differ.
func (f *aggregates) mix(c int, i int32) *result.Mix {
	if !f.mixesAt(i) {
		return nil
	}
	of := f.measure.Ref.Field
	return &result.Mix{Cell: c, Low: cell.OfInt(f.low[i], of), High: cell.OfInt(f.high[i], of)}
}
