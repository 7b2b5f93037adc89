// Package aggregation works totals out: the measures of a plan for the groups of a tree, and what is
// shown in place of them.
package aggregation

import (
	"fmt"
	"math"
	"sync"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Aggregator works the measures of a plan out for the groups of a tree.
type Aggregator struct {
	job    *work.Job
	fields *fields.Fields
	tree   *grouping.Tree
	side   *grouping.Side
	// placed are the rows in the order of the groups, for the measures that need
	// them.
	placed func() kernel.Rows
	sums   map[string]*sums // by field path: a sum and an average share them
	check  result.Check
	done   []*Aggregates
	// currencies is what is known of amounts, by the fields that name their currency and
	// hold them. oneEach says that every group has one currency.
	currencies map[string]spokenFor
	oneEach    bool
}

// New returns an Aggregator for records that are divided among the groups of a tree.
func New(job *work.Job, of *fields.Fields, t *grouping.Tree, s *grouping.Side) *Aggregator {
	return &Aggregator{
		job: job, fields: of, tree: t, side: s,
		placed: sync.OnceValue(func() kernel.Rows { return s.Placed(t, job.IsStopped) }),
		sums:   map[string]*sums{}, currencies: map[string]spokenFor{},
		done: make([]*Aggregates, len(of.Plan.Measures)),
	}
}

// Totals works out every measure but what is shown in place of one, which follows
// the order of the groups.
func (w *Aggregator) Totals() ([]*Aggregates, error) {
	if err := w.all(); err != nil {
		return nil, err
	}
	return w.done, w.mixes()
}

// all is Totals but for which averages stand for several prices.
func (w *Aggregator) all() error {
	for i, m := range w.fields.Plan.Measures {
		if m.Show != "" {
			continue
		}
		if _, err := w.Total(i); err != nil {
			return err
		}
	}
	return nil
}

// Check tells how the sums that were worked out compare with those of all records.
func (w *Aggregator) Check() result.Check { return w.check }

// Total works a measure out, if it is not there yet.
func (w *Aggregator) Total(i int) (*Aggregates, error) {
	if w.done[i] != nil {
		return w.done[i], nil
	}
	m := w.fields.Plan.Measures[i]
	if err := w.job.Stopped(); err != nil {
		return nil, fmt.Errorf("%s: %w", m.Label, err)
	}
	if err := w.job.Need(16*int64(len(w.tree.Nodes)), "working out the "+m.Label); err != nil {
		return nil, err
	}
	f := &Aggregates{Measure: m, Field: m.Result()}
	var err error
	switch {
	case m.Fn == view.Formula:
		err = w.formula(f)
	case m.Fn == view.Records:
		f.Numbers = make([]int64, len(w.tree.Nodes))
		for n := range f.Numbers {
			f.Numbers[n] = int64(w.side.Size(int32(n)))
		}
	default:
		err = (&measuring{w, m}).work(f)
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

// measuring works out one measure of a field.
type measuring struct {
	*Aggregator
	measure plan.Measure
}

func (w *measuring) work(f *Aggregates) error {
	col, err := w.fields.Column(w.measure.Ref)
	if err != nil {
		return err
	}
	switch w.measure.Fn {
	case view.CountFilled, view.Blanks:
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
		return w.sumPerLinked(f)
	}
	switch c := col.(type) {
	case *table.Numbers:
		return w.sumNumbers(f, c)
	case *table.Floats:
		return w.sumFloats(f, c)
	}
	return fmt.Errorf("aggregation: %s cannot be worked out", w.measure.Label)
}

// sumNumbers sums or averages exact values.
func (w *measuring) sumNumbers(f *Aggregates, c *table.Numbers) error {
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
func (w *measuring) finish(f *Aggregates, s *sums) {
	f.Counted = s.counted
	f.Numbers = make([]int64, len(s.nodes))
	shift := table.Pow10(f.Field.Scale - w.measure.Ref.Field.Scale)
	for i, sum := range s.nodes {
		f.Numbers[i] = table.Blank
		if f.Counted[i] == 0 {
			continue
		}
		v, ok := sum.Narrow()
		if w.measure.Fn == view.Average {
			v, ok = sum.Ratio(f.Counted[i], shift)
		}
		if !ok {
			f.TooLarge++
			continue
		}
		f.Numbers[i] = v
	}
}

// sumFloats adds in the order of the rows, one core only: the digits of a binary
// sum depend on its order.
func (w *measuring) sumFloats(f *Aggregates, c *table.Floats) error {
	sums := make([]float64, len(w.tree.Nodes))
	f.Counted = make([]int64, len(w.tree.Nodes))
	first := w.tree.First()
	err := work.Pass(w.job, c.Values, w.side.Rows, func(at int, vals []float64) {
		for i, v := range vals {
			if v == v {
				n, many := first+int(w.side.Leaf[at+i]), w.side.Weights.At(w.side.Rows.At(at+i))
				sums[n] += v * float64(many)
				f.Counted[n] += many
			}
		}
	})
	w.rollUp(func(parent, child int) {
		sums[parent] += sums[child]
		f.Counted[parent] += f.Counted[child]
	})
	for i := range sums {
		switch {
		case f.Counted[i] == 0:
			sums[i] = math.NaN()
		case w.measure.Fn == view.Average:
			sums[i] /= float64(f.Counted[i])
		}
	}
	f.Floats = sums
	return err
}

// rollUp joins every node into its parent, the innermost first.
func (w *Aggregator) rollUp(join func(parent, child int)) {
	for i := len(w.tree.Nodes) - 1; i > 0; i-- {
		join(int(w.tree.Nodes[i].Parent), i)
	}
}

func (w *measuring) countFilled(f *Aggregates, col table.Column) error {
	f.Numbers = make([]int64, len(w.tree.Nodes))
	if w.measure.PerLinked {
		return w.countPerLinked(f)
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
	w.rollUp(func(parent, child int) { f.Numbers[parent] += f.Numbers[child] })
	return err
}

// countPerLinked counts the linked records that have a value.
func (w *measuring) countPerLinked(f *Aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	blank := table.BlankTest(col)
	return w.eachLinked(func(node int, rows []int32) {
		for _, row := range rows {
			if !blank(row) {
				f.Numbers[node]++
			}
		}
	})
}

func countWhere[T any](w *measuring, f *Aggregates, vals []T, isBlank func(T) bool) error {
	wanted, first := w.measure.Fn == view.Blanks, w.tree.First()
	if w.side.Weights != nil {
		return work.WeightedPass(w.job, vals, w.side.Weights, w.side.Rows, func(at int, vals []T, weights []int64) {
			for i, v := range vals {
				if isBlank(v) == wanted {
					f.Numbers[first+int(w.side.Leaf[at+i])] += weights[i]
				}
			}
		})
	}
	return work.Pass(w.job, vals, w.side.Rows, func(at int, vals []T) {
		for i, v := range vals {
			if isBlank(v) == wanted {
				f.Numbers[first+int(w.side.Leaf[at+i])]++
			}
		}
	})
}

// extremes finds the smallest or largest value of every node.
func (w *measuring) extremes(f *Aggregates, col table.Column) (err error) {
	switch c := col.(type) {
	case *table.Numbers:
		f.Numbers, err = extremesOf(w, c.Values, table.Blank, func(v int64) bool { return v == table.Blank })
	case *table.Floats:
		f.Floats, err = extremesOf(w, c.Values, math.NaN(), math.IsNaN)
	case *table.Texts:
		c = c.InOrder()
		f.Dict = c.Dict
		f.Codes, err = extremesOf(w, c.Codes, 0, func(v uint32) bool { return v == 0 })
	}
	return err
}

func extremesOf[T int64 | float64 | uint32](
	w *measuring, vals []T, blank T, isBlank func(T) bool,
) ([]T, error) {
	out := make([]T, len(w.tree.Nodes))
	for i := range out {
		out[i] = blank
	}
	largest := w.measure.Fn == view.Largest
	meet := func(n int, v T) {
		if !isBlank(v) && (isBlank(out[n]) || (v > out[n]) == largest && v != out[n]) {
			out[n] = v
		}
	}
	first := w.tree.First()
	err := work.Pass(w.job, vals, w.side.Rows, func(at int, vals []T) {
		for i, v := range vals {
			meet(first+int(w.side.Leaf[at+i]), v)
		}
	})
	w.rollUp(func(parent, child int) { meet(parent, out[child]) })
	return out, err
}
