// Rows that stand for several records each: what is worked out differently of them.

package aggregation

import (
	"cmp"
	"math"
	"slices"

	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
)

// scanWeighted is scanSums of such rows.
func (w *Aggregator) scanWeighted(c *table.Numbers, s *sums) error {
	first := w.tree.First()
	return work.WeightedPass(w.job, c.Values, w.side.Weights, w.side.Rows, func(at int, vals, weights []int64) {
		for i, v := range vals {
			if v == table.Blank {
				continue
			}
			n, all := first+int(w.side.Leaf[at+i]), kernel.Wide(v).Times(weights[i])
			s.nodes[n] = s.nodes[n].Plus(all)
			s.counted[n] += weights[i]
			s.all = s.all.Plus(all)
		}
	})
}

// weighted is a value and how many records have it.
type weighted[T int64 | float64] struct {
	value T
	many  int64
}

// eachWeighted is eachValues of such rows, the values of every node in order.
func eachWeighted[T int64 | float64](
	w *measuring, vals []T, isBlank func(T) bool, do func(node int, n int64, of []weighted[T]),
) error {
	if err := w.job.Need(16*int64(w.side.Rows.N), "working out the "+w.measure.Label); err != nil {
		return err
	}
	placed := w.placed()
	var of []weighted[T]
	for i := range w.tree.Nodes {
		n := int64(0)
		of = of[:0]
		for at := w.side.Start[i]; at < w.side.End[i]; at++ {
			if at%kernel.BlockRows == 0 && w.job.IsStopped() {
				return w.job.Stopped()
			}
			row := placed.At(int(at))
			if v := vals[row]; !isBlank(v) {
				of = append(of, weighted[T]{v, w.side.Weights[row]})
				n += w.side.Weights[row]
			}
		}
		slices.SortFunc(of, func(a, b weighted[T]) int { return cmp.Compare(a.value, b.value) })
		do(i, n, of)
	}
	return w.job.Stopped()
}

// twoFrom are the values at place k of sorted ones and right behind it, the same one twice at the end.
func twoFrom[T int64 | float64](of []weighted[T], k int64) (lower, upper T) {
	i := 0
	for ; k >= of[i].many; i++ {
		k -= of[i].many
	}
	lower, upper = of[i].value, of[i].value
	if k+1 == of[i].many && i+1 < len(of) {
		upper = of[i+1].value
	}
	return lower, upper
}

// spreadWeighted is spreadFloats of such rows.
func (w *measuring) spreadWeighted(f *Aggregates, c *table.Floats, out []float64) error {
	return eachWeighted(w, c.Values, math.IsNaN, func(node int, n int64, of []weighted[float64]) {
		f.Counted[node], out[node] = n, math.NaN()
		if n < 2 {
			return
		}
		mean, squares := 0.0, 0.0
		for _, v := range of {
			mean += v.value * (float64(v.many) / float64(n))
		}
		for _, v := range of {
			squares += (v.value - mean) * (v.value - mean) * float64(v.many)
		}
		out[node] = squares / float64(n-1)
	})
}
