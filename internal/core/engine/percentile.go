package engine

import (
	"math"
	"math/bits"
	"sync"

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

func (w *aggregation) percent() int64 {
	if w.measure.Fn == view.Median {
		return wholePercent / 2
	}
	return w.measure.Percent
}

// percentile finds the value so far into every node's sorted values, between two
// of them in proportion.
func (w *aggregation) percentile(f *aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	nodes, percent := len(w.tree.nodes), w.percent()
	f.counted = make([]int32, nodes)
	if c, ok := col.(*table.Floats); ok {
		f.floats = make([]float64, nodes)
		return eachValues(w, c.Values, math.IsNaN, func(node int, of []float64) {
			f.counted[node], f.floats[node] = int32(len(of)), math.NaN()
			if len(of) > 0 {
				k, part := rank(percent, len(of))
				lower, upper := kernel.TwoFrom(of, k)
				share := float64(part) / wholePercent
				f.floats[node] = lower*(1-share) + upper*share
			}
		})
	}
	f.numbers = make([]int64, nodes)
	shift := table.Pow10(f.field.Scale - w.measure.Ref.Field.Scale)
	set := func(node, n int, of []int64, k int, part int64) {
		f.counted[node], f.numbers[node] = int32(n), table.Blank
		if n == 0 {
			return
		}
		lower, upper := kernel.TwoFrom(of, k)
		sum := kernel.Wide(lower).Times(wholePercent - part).Plus(kernel.Wide(upper).Times(part))
		v, ok := sum.Ratio(wholePercent, shift)
		if !ok {
			f.tooLarge++
			return
		}
		f.numbers[node] = v
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

const (
	// leastBuckets and mostSlots bound the tables of narrowed.
	leastBuckets = 64
	mostSlots    = 1 << 18
)

// narrowed finds percentiles without placing every value: it counts the values of
// each group by coarse buckets, finds the bucket that the place looked for lies in,
// and looks at the values of that bucket alone. It is for few groups; done says
// that it was of use.
func (w *aggregation) narrowed(c *table.Numbers, percent int64, set func(node, n int, of []int64, k int, part int64)) (done bool, err error) {
	lo, hi, ok := c.Bounds()
	leaves := len(w.side.counts)
	if !ok || w.measure.PerLinked || leaves*leastBuckets > mostSlots || uint64(hi)-uint64(lo) > math.MaxInt64 {
		return false, nil
	}
	buckets := leastBuckets
	for 2*buckets*leaves <= mostSlots/4 && buckets < 4096 {
		buckets *= 2
	}
	shift := max(0, bits.Len64(uint64(hi-lo))-bits.Len(uint(buckets-1)))
	h := &histogram{w: w, vals: c.Values, lo: lo, shift: shift, buckets: buckets}
	if err := h.count(); err != nil {
		return true, err
	}
	nodes := len(w.tree.nodes)
	// The bucket of the place looked for and of the one behind it, the place within
	// the first, and how far between the two.
	type aim struct {
		n, from, to, k int
		part           int64
	}
	aims := make([]aim, nodes)
	h.wanted = make([]uint64, leaves*buckets)
	for i := range aims {
		a := &aims[i]
		counts := h.counts[i*buckets : (i+1)*buckets]
		for _, n := range counts {
			a.n += int(n)
		}
		if a.n == 0 {
			continue
		}
		k, part := rank(percent, a.n)
		a.part = part
		b, before := 0, 0
		for before+int(counts[b]) <= k {
			before += int(counts[b])
			b++
		}
		a.from, a.to, a.k = b, b, k-before
		for next := k + 1; next < a.n && before+int(counts[a.to]) <= next; {
			before += int(counts[a.to])
			a.to++
		}
		h.want(i, a.from, a.to)
	}
	found, err := h.collect(nodes)
	if err != nil {
		return true, err
	}
	for i, a := range aims {
		set(i, a.n, found[i], a.k, a.part)
	}
	return true, nil
}

// histogram counts values by group and bucket.
type histogram struct {
	w       *aggregation
	vals    []int64
	lo      int64
	shift   int
	buckets int
	counts  []int32 // by node and bucket
	// wanted says, by innermost group and bucket, which levels want its values: a
	// bit for each.
	wanted []uint64
	// start and end bound the innermost groups of every node.
	start, end []int32
}

func (h *histogram) count() error {
	w := h.w
	leaves, first := len(w.side.counts), w.tree.first()
	h.counts = make([]int32, len(w.tree.nodes)*h.buckets)
	var mu sync.Mutex // protects h.counts
	share := (w.side.rows.n + w.e.opts.Workers - 1) / w.e.opts.Workers
	err := kernel.EachShare(w.ctx, w.side.rows.n, max(1, share), func(lo, hi int, stopped func() bool) {
		part := make([]int32, leaves*h.buckets)
		buf := make([]int64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			end := min(lo+kernel.BlockRows, hi)
			leaf := w.side.leaf[lo:end]
			for i, v := range valuesAt(h.vals, w.side.rows, lo, end, buf) {
				if v != table.Blank {
					part[int(leaf[i])*h.buckets+int(uint64(v-h.lo)>>h.shift)]++
				}
			}
		}
		mu.Lock()
		defer mu.Unlock()
		for i, n := range part {
			h.counts[first*h.buckets+i] += n
		}
	})
	for i := len(w.tree.nodes) - 1; i > 0; i-- {
		to := h.counts[int(w.tree.nodes[i].parent)*h.buckets:]
		for b, n := range h.counts[i*h.buckets : (i+1)*h.buckets] {
			to[b] += n
		}
	}
	return err
}

// want marks buckets of a node in all innermost groups within it.
func (h *histogram) want(node, from, to int) {
	if h.start == nil {
		t := h.w.tree
		h.start, h.end = make([]int32, len(t.nodes)), make([]int32, len(t.nodes))
		for i := t.first(); i < len(t.nodes); i++ {
			h.start[i], h.end[i] = int32(i-t.first()), int32(i-t.first()+1)
		}
		t.spread(h.start, h.end)
	}
	level := h.w.tree.nodes[node].level
	for g := h.start[node]; g < h.end[node]; g++ {
		for b := from; b <= to; b++ {
			h.wanted[int(g)*h.buckets+b] |= 1 << level
		}
	}
}

// collect lists the wanted values of every node.
func (h *histogram) collect(nodes int) ([][]int64, error) {
	w := h.w
	out := make([][]int64, nodes)
	var mu sync.Mutex // protects out
	share := (w.side.rows.n + w.e.opts.Workers - 1) / w.e.opts.Workers
	err := kernel.EachShare(w.ctx, w.side.rows.n, max(1, share), func(lo, hi int, stopped func() bool) {
		part := make([][]int64, nodes)
		buf := make([]int64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			end := min(lo+kernel.BlockRows, hi)
			leaf := w.side.leaf[lo:end]
			for i, v := range valuesAt(h.vals, w.side.rows, lo, end, buf) {
				if v == table.Blank {
					continue
				}
				g := int(leaf[i])
				levels := h.wanted[g*h.buckets+int(uint64(v-h.lo)>>h.shift)]
				for n := int32(w.tree.first() + g); levels != 0 && n >= 0; n = w.tree.nodes[n].parent {
					if levels>>w.tree.nodes[n].level&1 != 0 {
						part[n] = append(part[n], v)
					}
				}
			}
		}
		mu.Lock()
		defer mu.Unlock()
		for n, of := range part {
			out[n] = append(out[n], of...)
		}
	})
	return out, err
}
