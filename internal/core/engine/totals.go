package engine

import (
	"fmt"
	"math"
	"sync"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// aggregator works measures out for the groups of a tree.
type aggregator struct {
	*run
	tree *tree
	side *side
	// placed are the rows in the order of the groups, for the measures that need
	// them.
	placed func() rows
	sums   map[string]*sums // by field path: a sum and an average share them
	check  result.Check
	done   []*aggregates
	// currencies is what is known of amounts, by the fields that name their currency and
	// hold them. oneEach says that every group has one currency.
	currencies map[string]spokenFor
	oneEach    bool
}

func (r *run) totaller(t *tree, s *side) *aggregator {
	return &aggregator{
		run: r, tree: t, side: s, placed: sync.OnceValue(func() rows { return s.placed(t, r.isStopped) }),
		sums: map[string]*sums{}, currencies: map[string]spokenFor{}, done: make([]*aggregates, len(r.plan.Measures)),
	}
}

// totals works out every measure but what is shown in place of one, which follows
// the order of the groups.
func (w *aggregator) totals() ([]*aggregates, error) {
	for i, m := range w.plan.Measures {
		if m.Show != "" {
			continue
		}
		if _, err := w.figures(i); err != nil {
			return nil, err
		}
	}
	return w.done, w.mixes()
}

// onlyTotal works out one measure, at its place among the others.
func (r *run) onlyTotal(t *tree, s *side, measure int) ([]*aggregates, error) {
	w := r.totaller(t, s)
	if _, err := w.figures(measure); err != nil {
		return nil, err
	}
	return w.done, nil
}

// figures works a measure out, if it is not there yet.
func (w *aggregator) figures(i int) (*aggregates, error) {
	if w.done[i] != nil {
		return w.done[i], nil
	}
	m := w.plan.Measures[i]
	if err := w.stopped(); err != nil {
		return nil, fmt.Errorf("%s: %w", m.Label, err)
	}
	if err := w.need(16*int64(len(w.tree.nodes)), "working out the "+m.Label); err != nil {
		return nil, err
	}
	f := &aggregates{measure: m, field: m.Result()}
	var err error
	switch {
	case m.Fn == view.Formula:
		err = w.formula(f)
	case m.Fn == view.Records:
		f.numbers = make([]int64, len(w.tree.nodes))
		for n := range f.numbers {
			f.numbers[n] = int64(w.side.size(int32(n)))
		}
	default:
		err = (&aggregation{w, m}).work(f)
	}
	if err == nil {
		err = w.apart(f, i)
	}
	if err != nil {
		return nil, err
	}
	w.done[i] = f
	return f, nil
}

// aggregation works out one measure of a field.
type aggregation struct {
	*aggregator
	measure plan.Measure
}

func (w *aggregation) work(f *aggregates) error {
	col, err := w.column(w.measure.Ref)
	if err != nil {
		return err
	}
	switch w.measure.Fn {
	case view.FilledN, view.Blanks:
		return w.countFilled(f, col)
	case view.Distinct:
		return w.distinct(f, col)
	case view.Mode:
		return w.mode(f, col)
	case view.Median, view.Percentile:
		return w.percentile(f)
	case view.Spread, view.Variance:
		return w.spread(f)
	case view.First, view.Last:
		return w.ends(f, col)
	case view.Smallest, view.Largest:
		return w.extremes(f, col)
	}
	if w.measure.PerLinked {
		return w.once(f)
	}
	switch c := col.(type) {
	case *table.Numbers:
		return w.sumNumbers(f, c)
	case *table.Floats:
		return w.sumFloats(f, c)
	}
	return fmt.Errorf("engine: %s cannot be worked out", w.measure.Label)
}

// sumNumbers sums or averages exact values.
func (w *aggregation) sumNumbers(f *aggregates, c *table.Numbers) error {
	s := w.sums[w.measure.Ref.Path]
	if s == nil {
		var err error
		if s, err = w.scanSums(c); err != nil {
			return err
		}
		w.sums[w.measure.Ref.Path] = s
	}
	if w.measure.Fn == view.Sum {
		w.check.Measures++
		if s.nodes[0] != s.all {
			w.check.Wrong = append(w.check.Wrong, w.measure.Label)
		}
	}
	w.finish(f, s)
	return nil
}

// finish turns sums into the figures asked for.
func (w *aggregation) finish(f *aggregates, s *sums) {
	f.counted = s.counted
	f.numbers = make([]int64, len(s.nodes))
	shift := table.Pow10(f.field.Scale - w.measure.Ref.Field.Scale)
	for i, sum := range s.nodes {
		f.numbers[i] = table.Blank
		if f.counted[i] == 0 {
			continue
		}
		v, ok := sum.Narrow()
		if w.measure.Fn == view.Average {
			v, ok = sum.Ratio(int64(f.counted[i]), shift)
		}
		if !ok {
			f.tooLarge++
			continue
		}
		f.numbers[i] = v
	}
}

// sumFloats adds in the order of the rows, one core only: the digits of a binary
// sum depend on its order.
func (w *aggregation) sumFloats(f *aggregates, c *table.Floats) error {
	sums := make([]float64, len(w.tree.nodes))
	f.counted = make([]int32, len(w.tree.nodes))
	first := w.tree.first()
	err := pass(w.run, c.Values, w.side.rows, func(at int, vals []float64) {
		for i, v := range vals {
			if v == v {
				n := first + int(w.side.leaf[at+i])
				sums[n] += v
				f.counted[n]++
			}
		}
	})
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
	return err
}

// rollUp joins every node into its parent, the innermost first.
func (w *aggregator) rollUp(join func(parent, child int)) {
	for i := len(w.tree.nodes) - 1; i > 0; i-- {
		join(int(w.tree.nodes[i].parent), i)
	}
}

func (w *aggregation) countFilled(f *aggregates, col table.Column) error {
	f.numbers = make([]int64, len(w.tree.nodes))
	if w.measure.PerLinked {
		return w.countOnce(f)
	}
	var err error
	switch c := col.(type) {
	case *table.Numbers:
		err = countWhere(w, f, c.Values, func(v int64) bool { return v == table.Blank })
	case *table.Floats:
		err = countWhere(w, f, c.Values, math.IsNaN)
	case *table.Texts:
		err = countWhere(w, f, c.Codes, func(v uint32) bool { return v == 0 })
	}
	w.rollUp(func(parent, child int) { f.numbers[parent] += f.numbers[child] })
	return err
}

// countOnce counts the linked records that have a value.
func (w *aggregation) countOnce(f *aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	blank := blankTest(col)
	return w.eachLinked(func(node int, rows []int32) {
		for _, row := range rows {
			if !blank(row) {
				f.numbers[node]++
			}
		}
	})
}

func countWhere[T any](w *aggregation, f *aggregates, vals []T, isBlank func(T) bool) error {
	wanted, first := w.measure.Fn == view.Blanks, w.tree.first()
	return pass(w.run, vals, w.side.rows, func(at int, vals []T) {
		for i, v := range vals {
			if isBlank(v) == wanted {
				f.numbers[first+int(w.side.leaf[at+i])]++
			}
		}
	})
}

// extremes finds the smallest or largest value of every node.
func (w *aggregation) extremes(f *aggregates, col table.Column) (err error) {
	switch c := col.(type) {
	case *table.Numbers:
		f.numbers, err = extremesOf(w, c.Values, table.Blank, func(v int64) bool { return v == table.Blank })
	case *table.Floats:
		f.floats, err = extremesOf(w, c.Values, math.NaN(), math.IsNaN)
	case *table.Texts:
		c = c.InOrder()
		f.dict = c.Dict
		f.codes, err = extremesOf(w, c.Codes, 0, func(v uint32) bool { return v == 0 })
	}
	return err
}

func extremesOf[T int64 | float64 | uint32](w *aggregation, vals []T, blank T, isBlank func(T) bool) ([]T, error) {
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
	first := w.tree.first()
	err := pass(w.run, vals, w.side.rows, func(at int, vals []T) {
		for i, v := range vals {
			meet(first+int(w.side.leaf[at+i]), v)
		}
	})
	w.rollUp(func(parent, child int) { meet(parent, out[child]) })
	return out, err
}
