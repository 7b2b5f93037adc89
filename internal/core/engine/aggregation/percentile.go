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
	f.Counted = make([]int64, nodes)
	if c, ok := col.(*table.Floats); ok {
		f.Floats = make([]float64, nodes)
		set := func(node int, lower, upper float64, part int64) {
			share := float64(part) / wholePercent
			f.Floats[node] = lower*(1-share) + upper*share
		}
		if w.side.Weights != nil && !w.measure.PerLinked {
			return eachWeighted(w, c.Values, math.IsNaN, func(node int, n int64, of []weighted[float64]) {
				if f.Counted[node], f.Floats[node] = n, math.NaN(); n > 0 {
					k, part := rank(percent, int(n))
					lower, upper := twoFrom(of, int64(k))
					set(node, lower, upper, part)
				}
			})
		}
		return eachValues(w, c.Values, math.IsNaN, func(node int, of []float64) {
			if f.Counted[node], f.Floats[node] = int64(len(of)), math.NaN(); len(of) > 0 {
				k, part := rank(percent, len(of))
				lower, upper := kernel.TwoFrom(of, k)
				set(node, lower, upper, part)
			}
		})
	}
	f.Numbers = make([]int64, nodes)
	shift := table.Pow10(f.Field.Scale - w.measure.Ref.Field.Scale)
	between := func(node int, lower, upper, part int64) {
		sum := kernel.Wide(lower).Times(wholePercent - part).Plus(kernel.Wide(upper).Times(part))
		v, ok := sum.Ratio(wholePercent, shift)
		if !ok {
			f.TooLarge++
			return
		}
		f.Numbers[node] = v
	}
	c, isBlank := col.(*table.Numbers), func(v int64) bool { return v == table.Blank }
	if w.side.Weights != nil && !w.measure.PerLinked {
		return eachWeighted(w, c.Values, isBlank, func(node int, n int64, of []weighted[int64]) {
			if f.Counted[node], f.Numbers[node] = n, table.Blank; n > 0 {
				k, part := rank(percent, int(n))
				lower, upper := twoFrom(of, int64(k))
				between(node, lower, upper, part)
			}
		})
	}
	set := func(node, n int, of []int64, k int, part int64) {
		if f.Counted[node], f.Numbers[node] = int64(n), table.Blank; n > 0 {
			lower, upper := kernel.TwoFrom(of, k)
			between(node, lower, upper, part)
		}
	}
	if done, err := w.narrowed(c, percent, set); done || err != nil {
		return err
	}
	return eachValues(w, c.Values, isBlank, func(node int, of []int64) {
		k, part := 0, int64(0)
		if len(of) > 0 {
			k, part = rank(percent, len(of))
		}
		set(node, len(of), of, k, part)
	})
}
