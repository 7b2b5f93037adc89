// Sums by group in one pass, in 64 bits where they fit and in 128 where they may not.

package aggregation

import (
	"math"
	"sync"

	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
)

// sums are the exact sums of a field for every node, and of all records apart from
// any group: the witness that subtotals are held against.
type sums struct {
	nodes   []kernel.Int128
	counted []int64 // the values that went in
	all     kernel.Int128
}

// scanSums adds the values up by innermost group, in the order of the rows. Sums
// that provably fit in 64 bits are kept in 64 bits; the digits are the same.
func (w *Aggregator) scanSums(c *table.Numbers) (*sums, error) {
	s := &sums{nodes: make([]kernel.Int128, len(w.tree.Nodes)), counted: make([]int64, len(w.tree.Nodes))}
	first := w.tree.First()
	var err error
	if w.side.Weights != nil {
		err = w.scanWeighted(c, s)
	} else if fitsNarrow(c, w.side.Rows.N) {
		err = w.scanNarrow(c, s)
	} else {
		err = work.Pass(w.job, c.Values, w.side.Rows, func(at int, vals []int64) {
			for i, v := range vals {
				if v != table.Blank {
					n := first + int(w.side.Leaf[at+i])
					s.nodes[n] = s.nodes[n].Plus(kernel.Wide(v))
					s.counted[n]++
					s.all = s.all.Plus(kernel.Wide(v))
				}
			}
		})
	}
	w.rollUp(func(parent, child int) {
		s.nodes[parent] = s.nodes[parent].Plus(s.nodes[child])
		s.counted[parent] += s.counted[child]
	})
	return s, err
}

func (w *Aggregator) scanNarrow(c *table.Numbers, s *sums) error {
	rs, leaves, first := w.side.Rows, len(w.side.Counts), w.tree.First()
	if rs.N == 0 {
		return nil
	}
	least := 1
	if leaves > kernel.MaxPartials {
		least = rs.N
	}
	var mu sync.Mutex // protects s
	err := w.job.EachShare(rs.N, least, func(lo, hi int, stopped func() bool) {
		part, count, total := make([]int64, leaves), make([]int32, leaves), int64(0)
		buf := make([]int64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			end := min(lo+kernel.BlockRows, hi)
			vals, leaf := kernel.ValuesAt(c.Values, rs, lo, end, buf), w.side.Leaf[lo:end]
			if c.Blanks() > 0 {
				total += addSome(part, count, vals, leaf)
			} else {
				total += addAll(part, vals, leaf)
			}
		}
		mu.Lock()
		defer mu.Unlock()
		s.all = s.all.Plus(kernel.Wide(total))
		for g, v := range part {
			s.nodes[first+g] = s.nodes[first+g].Plus(kernel.Wide(v))
			s.counted[first+g] += int64(count[g])
		}
	})
	if c.Blanks() == 0 {
		for g, n := range w.side.Counts {
			s.counted[first+g] = int64(n)
		}
	}
	return err
}

// addSome adds the values that are not blank to the sums of their groups.
func addSome(sums []int64, counted []int32, vals []int64, group []uint32) (total int64) {
	group = group[:len(vals)]
	for i, v := range vals {
		if v != table.Blank {
			g := group[i]
			sums[g] += v
			counted[g]++
			total += v
		}
	}
	return total
}

// addAll is addSome for a column without blanks.
func addAll(sums, vals []int64, group []uint32) (total int64) {
	group = group[:len(vals)]
	for i, v := range vals {
		sums[group[i]] += v
		total += v
	}
	return total
}

// fitsNarrow says whether no sum of n values of the column can leave 64 bits.
func fitsNarrow(c *table.Numbers, n int) bool {
	lo, hi, ok := c.Bounds()
	if !ok || n == 0 {
		return true
	}
	return hi <= math.MaxInt64/int64(n) && lo >= math.MinInt64/int64(n)+1
}
