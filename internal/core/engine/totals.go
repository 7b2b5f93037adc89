package engine

import (
	"fmt"
	"math"
	"sync"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// totals works out every measure for every node. rows are the kept rows in the
// order of the table.
func (r *run) totals(t *tree, rows []int32) ([]*figures, Check, error) {
	// The rows in the order of the groups, for the measures that need them.
	placed := sync.OnceValue(func() []int32 { return t.placed(rows) })
	out := make([]*figures, len(r.plan.Measures))
	check := Check{Groups: len(r.plan.Groups) > 0}
	for i, m := range r.plan.Measures {
		if err := r.ctx.Err(); err != nil {
			return nil, check, fmt.Errorf("engine: stopped at %s: %w", m.Label, err)
		}
		col, err := r.e.column(r.plan.Records, m.Ref)
		if err != nil {
			return nil, check, err
		}
		w := &worker{run: r, tree: t, rows: rows, placed: placed, measure: m}
		f, err := w.work(col)
		if err != nil {
			return nil, check, err
		}
		out[i] = f
		if w.additive {
			check.Measures++
			if !w.addsUp {
				check.Wrong = append(check.Wrong, m.Label)
			}
		}
	}
	return out, check, nil
}

// worker works out one measure.
type worker struct {
	*run
	tree    *tree
	rows    []int32
	placed  func() []int32
	measure plan.Measure
	// additive says that the measure's subtotals were added up and compared with
	// its grand total, worked out apart from them; addsUp how that went.
	additive, addsUp bool
}

func (w *worker) work(col table.Column) (*figures, error) {
	f := &figures{measure: w.measure, field: w.measure.Result()}
	switch w.measure.Fn {
	case view.FilledN, view.Blanks:
		w.countFilled(f, col)
		return f, nil
	case view.Distinct:
		return f, w.distinct(f, col)
	case view.Median:
		return f, w.median(f)
	}
	if w.measure.Once {
		return f, w.once(f)
	}
	switch c := col.(type) {
	case *table.Numbers:
		if w.measure.Fn == view.Smallest || w.measure.Fn == view.Largest {
			f.numbers = extremes(w, c.Values, table.Blank, func(v int64) bool { return v == table.Blank })
			return f, nil
		}
		return f, w.sumNumbers(f, c)
	case *table.Floats:
		if w.measure.Fn == view.Smallest || w.measure.Fn == view.Largest {
			f.floats = extremes(w, c.Values, math.NaN(), math.IsNaN)
			return f, nil
		}
		w.sumFloats(f, c)
		return f, nil
	case *table.Texts:
		f.dict = c.Dict
		f.codes = extremes(w, c.Codes, 0, func(v uint32) bool { return v == 0 })
		return f, nil
	}
	return nil, fmt.Errorf("engine: %s cannot be worked out", w.measure.Label)
}

// leaves is where the innermost groups' nodes begin.
func (w *worker) leaves() int { return w.tree.base[len(w.tree.base)-1] }

// sumNumbers sums or averages exact values.
func (w *worker) sumNumbers(f *figures, c *table.Numbers) error {
	nodes, first := len(w.tree.nodes), w.leaves()
	sums := make([]int128, nodes)
	f.counted = make([]int32, nodes)
	all, err := w.scanSums(c, sums[first:], f.counted[first:])
	if err != nil {
		return err
	}
	w.rollUp(func(parent, child int) {
		sums[parent] = sums[parent].plus(sums[child])
		f.counted[parent] += f.counted[child]
	})
	if w.measure.Fn == view.Sum {
		w.additive, w.addsUp = true, sums[0] == all
	}
	w.finish(f, sums)
	return nil
}

// finish turns sums into the figures asked for.
func (w *worker) finish(f *figures, sums []int128) {
	f.numbers = make([]int64, len(sums))
	shift := pow10(f.field.Scale - w.measure.Ref.Field.Scale)
	for i, s := range sums {
		f.numbers[i] = table.Blank
		if f.counted[i] == 0 {
			continue
		}
		v, ok := s.narrow()
		if w.measure.Fn == view.Average {
			v, ok = averageOf(s, int64(f.counted[i]), shift)
		}
		if !ok {
			f.tooLarge++
			continue
		}
		f.numbers[i] = v
	}
}

// averageOf divides a sum by a count, at shift times the precision.
func averageOf(sum int128, n, shift int64) (int64, bool) {
	if v, ok := sum.narrow(); ok {
		return wide(v).times(shift).dividedBy(n)
	}
	q, ok := sum.dividedBy(n)
	if !ok {
		return 0, false
	}
	return wide(q).times(shift).narrow()
}

// sumFloats adds in the order of the table, one core only: the digits of a
// binary sum depend on its order.
func (w *worker) sumFloats(f *figures, c *table.Floats) {
	nodes, first := len(w.tree.nodes), w.leaves()
	sums := make([]float64, nodes)
	f.counted = make([]int32, nodes)
	for i, row := range w.rows {
		if v := c.Values[row]; v == v {
			n := first + int(w.tree.leaf[i])
			sums[n] += v
			f.counted[n]++
		}
	}
	w.rollUp(func(parent, child int) {
		sums[parent] += sums[child]
		f.counted[parent] += f.counted[child]
	})
	for i := range sums {
		switch {
		case f.counted[i] == 0:
			sums[i] = math.NaN()
		case w.measure.Fn == view.Average:
			sums[i] /= float64(f.counted[i])
		}
	}
	f.floats = sums
}

// rollUp joins every node into its parent, the innermost first.
func (w *worker) rollUp(join func(parent, child int)) {
	for i := len(w.tree.nodes) - 1; i > 0; i-- {
		join(int(w.tree.nodes[i].parent), i)
	}
}

func (w *worker) countFilled(f *figures, col table.Column) {
	blank := blankTest(col)
	wanted := w.measure.Fn == view.Blanks
	first := w.leaves()
	f.numbers = make([]int64, len(w.tree.nodes))
	for i, row := range w.rows {
		if blank(row) == wanted {
			f.numbers[first+int(w.tree.leaf[i])]++
		}
	}
	w.rollUp(func(parent, child int) { f.numbers[parent] += f.numbers[child] })
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

// extremes finds the smallest or largest value of every node.
func extremes[T int64 | float64 | uint32](w *worker, vals []T, blank T, isBlank func(T) bool) []T {
	out := make([]T, len(w.tree.nodes))
	for i := range out {
		out[i] = blank
	}
	largest := w.measure.Fn == view.Largest
	meet := func(n int, v T) {
		if !isBlank(v) && (isBlank(out[n]) || (v > out[n]) == largest && v != out[n]) {
			out[n] = v
		}
	}
	first := w.leaves()
	for i, row := range w.rows {
		meet(first+int(w.tree.leaf[i]), vals[row])
	}
	w.rollUp(func(parent, child int) { meet(parent, out[child]) })
	return out
}
