// Averages that stand for several prices.

package aggregation

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
	priceSample  = plan.PriceSample
	perPrice     = 8 // records to a price, at the least
	fewestPriced = 16
)

// mixes finds the averages of prices, and the range of prices that each stands for.
func (w *Aggregator) mixes() error {
	for i, m := range w.fields.Plan.Measures {
		f := w.done[i]
		if f == nil || m.Show != "" || m.Fn != view.Average && m.Fn != view.Median ||
			m.Ref.Field.Type != catalog.Money {
			continue
		}
		col, err := w.fields.Column(m.Ref)
		if err != nil {
			return err
		}
		c, ok := col.(*table.Numbers)
		if !ok || m.Prices != nil && !*m.Prices || m.Prices == nil && !w.isPrice(c) {
			continue
		}
		var ends [2][]int64
		for j, fn := range []view.Fn{view.Smallest, view.Largest} {
			if ends[j], err = extremesOf(
				&measuring{w, plan.Measure{Ref: m.Ref, Fn: fn}}, c.Values, table.Blank,
				func(v int64) bool { return v == table.Blank },
			); err != nil {
				return err
			}
		}
		f.Low, f.High = ends[0], ends[1]
	}
	return nil
}

// isPrice says whether values repeat as those of a price list do.
func (w *Aggregator) isPrice(c *table.Numbers) bool {
	n := min(w.side.Size(0), priceSample)
	if n < fewestPriced {
		return false
	}
	seen := map[int64]bool{}
	for i, looked := 0, 0; looked < n; i++ {
		row := w.side.Rows.At(i)
		looked += int(w.side.Weights.At(row))
		if v := c.Values[row]; v != table.Blank {
			seen[v] = true
		}
		if len(seen)*perPrice > n {
			return false
		}
	}
	return len(seen) > 1
}

// mixesAt says whether a node's average stands for several prices.
func (f *Aggregates) mixesAt(i int32) bool {
	return f != nil && f.Low != nil && f.Low[i] != f.High[i] && len(f.Mixed[i]) == 0 && !f.IsBlank(i)
}

// MixedLines counts the nodes whose average stands for several prices.
func (f *Aggregates) MixedLines() (n int) {
	if f == nil {
		return 0
	}
	for node := range f.Low {
		if f.mixesAt(int32(node)) {
			n++
		}
	}
	return n
}

// Mix is a node's in a cell, or nil if its prices do not differ.
func (f *Aggregates) Mix(c int, i int32) *result.Mix {
	if !f.mixesAt(i) {
		return nil
	}
	of := f.Measure.Ref.Field
	return &result.Mix{Cell: c, Low: cell.OfInt(f.Low[i], of), High: cell.OfInt(f.High[i], of)}
}
