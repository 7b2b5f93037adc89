package engine

import (
	"math"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// ends finds every node's first or last value: in the order of the records or, if
// the measure says so, of another field; records whose other field is blank do not
// count then. Equal ones keep the order of the table.
func (w *aggregation) ends(f *aggregates, col table.Column) error {
	sorts := w.plan.Sort
	var decides table.Column
	if w.measure.By != nil {
		sorts = []plan.Sort{{Ref: *w.measure.By}}
		var err error
		if decides, err = w.column(*w.measure.By); err != nil {
			return err
		}
	}
	keys, err := w.sortKeys(sorts, w.side.rows)
	if err != nil {
		return err
	}
	if err := w.need(32*int64(w.side.rows.n), "finding the "+w.measure.Label); err != nil {
		return err
	}
	order, err := newSorter(w.side.rows, keys, w.e.opts.Workers).all(w.ctx)
	if err != nil {
		return err
	}
	blank := blankTest(col)
	if decides != nil {
		of, by := blank, blankTest(decides)
		blank = func(row int32) bool { return of(row) || by(row) }
	}
	// The place of each node's record in the order, or -1.
	place := make([]int32, len(w.tree.nodes))
	for i := range place {
		place[i] = -1
	}
	last := w.measure.Fn == view.Last
	better := func(node int, at int32) {
		if have := place[node]; have < 0 || last == (at > have) {
			place[node] = at
		}
	}
	first := w.tree.first()
	for at := range int32(len(order)) {
		if at%kernel.BlockRows == 0 {
			if err := w.stopped(); err != nil {
				return err
			}
		}
		if pos := int(order[at]); !blank(w.side.rows.at(pos)) {
			better(first+int(w.side.leaf[pos]), at)
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
		return w.side.rows.at(int(order[place[node]]))
	}
	switch c := col.(type) {
	case *table.Numbers:
		f.numbers = pick(len(place), row, c.Values, table.Blank)
	case *table.Floats:
		f.floats = pick(len(place), row, c.Values, math.NaN())
	case *table.Texts:
		c = c.InOrder()
		f.dict, f.codes = c.Dict, pick(len(place), row, c.Codes, 0)
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

func blankTest(col table.Column) func(row int32) bool {
	switch c := col.(type) {
	case *table.Numbers:
		return func(row int32) bool { return c.Values[row] == table.Blank }
	case *table.Floats:
		return func(row int32) bool { return math.IsNaN(c.Values[row]) }
	case *table.Texts:
		return func(row int32) bool { return c.Codes[row] == 0 }
	}
	return func(int32) bool { return true }
}
