// Percentiles of few groups by a histogram: only the bucket that holds one is looked at.

package aggregation

import (
	"math"
	"math/bits"
	"sync"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
)

const (
	// leastBuckets and mostSlots bound the tables of narrowed.
	leastBuckets = 64
	mostSlots    = 1 << 18
)

// narrowed finds percentiles without placing every value: it counts the values of
// each group by coarse buckets, finds the bucket that the place looked for lies in,
// and looks at the values of that bucket alone. It is for few groups; done says
// that it was of use.
func (w *measuring) narrowed(
	c *table.Numbers, percent int64, set func(node, n int, of []int64, k int, part int64),
) (done bool, err error) {
	lo, hi, ok := c.Bounds()
	leaves := len(w.side.Counts)
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
	nodes := len(w.tree.Nodes)
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
	w       *measuring
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
	leaves, first := len(w.side.Counts), w.tree.First()
	h.counts = make([]int32, len(w.tree.Nodes)*h.buckets)
	var mu sync.Mutex // protects h.counts
	err := w.job.EachShare(w.side.Rows.N, 1, func(lo, hi int, stopped func() bool) {
		part := make([]int32, leaves*h.buckets)
		buf := make([]int64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			end := min(lo+kernel.BlockRows, hi)
			leaf := w.side.Leaf[lo:end]
			for i, v := range kernel.ValuesAt(h.vals, w.side.Rows, lo, end, buf) {
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
	for i := len(w.tree.Nodes) - 1; i > 0; i-- {
		to := h.counts[int(w.tree.Nodes[i].Parent)*h.buckets:]
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
		h.start, h.end = make([]int32, len(t.Nodes)), make([]int32, len(t.Nodes))
		for i := t.First(); i < len(t.Nodes); i++ {
			h.start[i], h.end[i] = int32(i-t.First()), int32(i-t.First()+1)
		}
		t.Spread(h.start, h.end)
	}
	level := h.w.tree.Nodes[node].Level
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
	err := w.job.EachShare(w.side.Rows.N, 1, func(lo, hi int, stopped func() bool) {
		part := make([][]int64, nodes)
		buf := make([]int64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			end := min(lo+kernel.BlockRows, hi)
			leaf := w.side.Leaf[lo:end]
			for i, v := range kernel.ValuesAt(h.vals, w.side.Rows, lo, end, buf) {
				if v == table.Blank {
					continue
				}
				g := int(leaf[i])
				levels := h.wanted[g*h.buckets+int(uint64(v-h.lo)>>h.shift)]
				for n := int32(w.tree.First() + g); levels != 0 && n >= 0; n = w.tree.Nodes[n].Parent {
					if levels>>w.tree.Nodes[n].Level&1 != 0 {
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
