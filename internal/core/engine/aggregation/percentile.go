// Percentiles by linear interpolation between two sorted values, found by selection.

package aggregation

import (
	"math"
	"math/bits"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// whole is a hundred percent in the unit of plan.Measure.Percent.
const wholePercent = 100 * plan.PercentUnit

// rank says where a percentile lies among n sorted values, n > 0: between the one
// at lower and the next, part wholePercent'ths of the way.
func rank(percent int64, n int) (lower int, part int64) {
	hi, lo := bits.Mul64(uint64(percent), uint64(n-1))
	q, rest := bits.Div64(hi, lo, wholePercent)
	return int(q), int64(rest)
}

func (w *measuring) percent() int64 {
	if w.measure.Fn == view.Median {
		return wholePercent / 2
	}
	return w.measure.Percent
}

// percentile finds the value so far into every node's sorted values, between two
// of them in proportion.
func (w *measuring) percentile(f *Aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	nodes, percent := len(w.tree.Nodes), w.percent()
	f.Counted = make([]int32, nodes)
	if c, ok := col.(*table.Floats); ok {
		f.Floats = make([]float64, nodes)
		return eachValues(w, c.Values, math.IsNaN, func(node int, of []float64) {
			f.Counted[node], f.Floats[node] = int32(len(of)), math.NaN()
			if len(of) > 0 {
				k, part := rank(percent, len(of))
				lower, upper := kernel.TwoFrom(of, k)
				share := float64(part) / wholePercent
				f.Floats[node] = lower*(1-share) + upper*share
			}
		})
	}
	f.Numbers = make([]int64, nodes)
	shift := table.Pow10(f.Field.Scale - w.measure.Ref.Field.Scale)
	set := func(node, n int, of []int64, k int, part int64) {
		f.Counted[node], f.Numbers[node] = int32(n), table.Blank
		if n == 0 {
			return
		}
		lower, upper := kernel.TwoFrom(of, k)
		sum := kernel.Wide(lower).Times(wholePercent - part).Plus(kernel.Wide(upper).Times(part))
		v, ok := sum.Ratio(wholePercent, shift)
		if !ok {
			f.TooLarge++
			return
		}
		f.Numbers[node] = v
	}
	c := col.(*table.Numbers)
	if done, err := w.narrowed(c, percent, set); done || err != nil {
		return err
	}
	return eachValues(w, c.Values, func(v int64) bool { return v == table.Blank }, func(node int, of []int64) {
		k, part := 0, int64(0)
		if len(of) > 0 {
			k, part = rank(percent, len(of))
		}
		set(node, len(of), of, k, part)
	})
}
