// Bars behind cells, measured against the largest of their column.

package windows

import (
	"math"
	"sync"

	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
)

// scales are the largest sizes of columns, found when they are first asked for.
type scales struct {
	sync.Mutex
	of map[scaleOf]float64
}

// scaleOf is a column of the ledger and a level of its lines.
type scaleOf struct{ head, level int }

// scale is the size of the largest figure or value of a column among the lines of a
// level: what their bars are measured against. Zero if there is none.
func (r *Result) scale(head, level int) float64 {
	r.scales.Lock()
	defer r.scales.Unlock()
	at := scaleOf{head, level}
	if s, ok := r.scales.of[at]; ok {
		return s
	}
	most := 0.0
	add := func(v float64) {
		if v == v { // no blank
			most = max(most, max(v, -v))
		}
	}
	if f := r.Figures[head]; f != nil && level <= len(r.Plan.Groups) {
		for i, n := range r.Tree.Nodes {
			if int(n.Level) == level {
				add(f.Float(int32(i)))
			}
		}
	} else if level > len(r.Plan.Groups) {
		col := r.Columns[r.Heads[head].Column]
		for i := range r.Side.Rows.N {
			add(float(col, r.Side.Rows.At(i)))
		}
	}
	if r.scales.of == nil {
		r.scales.of = map[scaleOf]float64{}
	}
	r.scales.of[at] = most
	return most
}

// bars measures the cells of the columns that draw them. value is what stands in one,
// as it is stored.
func (w *windower) bars(level int, value func(head int) float64) (out []result.Bar) {
	if level == 0 {
		return nil // the grand total has nothing to be measured against
	}
	for _, i := range w.heads {
		h := w.Heads[i]
		if !w.Plan.Columns[h.Column].Bars || !h.Field.Type.Numeric() {
			continue
		}
		if v, most := value(i), w.scale(i, level); v == v && most > 0 {
			out = append(out, result.Bar{Cell: i, Part: v / most})
		}
	}
	return out
}

// float is a record's value as it is stored, NaN for a blank or what is no number.
func float(col table.Column, row int32) float64 {
	switch c := col.(type) {
	case *table.Numbers:
		if v := c.Values[row]; v != table.Blank {
			return float64(v)
		}
	case *table.Floats:
		return c.Values[row]
	}
	return math.NaN()
}
