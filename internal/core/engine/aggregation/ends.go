// The first and the last value of a group, in the order of the records or by another field.

package aggregation

import (
	"math"

	"gavrik/internal/core/engine/ordering"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// ends finds every node's first or last value: in the order of the records or, if
// the measure says so, of another field; records whose other field is blank do not
// count then. Equal ones keep the order of the table.
func (w *measuring) ends(f *Aggregates, col table.Column) error {
	sorts := w.fields.Plan.Sort
	var decides table.Column
	if w.measure.By != nil {
		sorts = []plan.Sort{{Ref: *w.measure.By}}
		var err error
		if decides, err = w.fields.Column(*w.measure.By); err != nil {
			return err
		}
	}
	keys, err := ordering.Keys(w.fields, sorts, w.side.Rows)
	if err != nil {
		return err
	}
	if err := w.job.Need(32*int64(w.side.Rows.N), "finding the "+w.measure.Label); err != nil {
		return err
	}
	order, err := ordering.NewSorter(w.side.Rows, keys, w.job.Workers).All(w.job.Ctx)
	if err != nil {
		return err
	}
	blank := table.BlankTest(col)
	if decides != nil {
		of, by := blank, table.BlankTest(decides)
		blank = func(row int32) bool { return of(row) || by(row) }
	}
	// The place of each node's record in the order, or -1.
	place := make([]int32, len(w.tree.Nodes))
	for i := range place {
		place[i] = -1
	}
	last := w.measure.Fn == view.Last
	better := func(node int, at int32) {
		if have := place[node]; have < 0 || last == (at > have) {
			place[node] = at
		}
	}
	first := w.tree.First()
	for at := range int32(len(order)) {
		if at%kernel.BlockRows == 0 {
			if err := w.job.Stopped(); err != nil {
				return err
			}
		}
		if pos := int(order[at]); !blank(w.side.Rows.At(pos)) {
			better(first+int(w.side.Leaf[pos]), at)
		}
	}
	w.rollUp(func(parent, child int) {
		if place[child] >= 0 {
			better(parent, place[child])
		}
	})
	row := func(node int) int32 {
		if place[node] < 0 {
			return -1
		}
		return w.side.Rows.At(int(order[place[node]]))
	}
	switch c := col.(type) {
	case *table.Numbers:
		f.Numbers = pick(len(place), row, c.Values, table.Blank)
	case *table.Floats:
		f.Floats = pick(len(place), row, c.Values, math.NaN())
	case *table.Texts:
		c = c.InOrder()
		f.Dict, f.Codes = c.Dict, pick(len(place), row, c.Codes, 0)
	}
	return nil
}

// pick reads a value for each node, blank where row is negative.
func pick[T any](nodes int, row func(node int) int32, vals []T, blank T) []T {
	out := make([]T, nodes)
	for i := range out {
		out[i] = blank
		if r := row(i); r >= 0 {
			out[i] = vals[r]
		}
	}
	return out
}
