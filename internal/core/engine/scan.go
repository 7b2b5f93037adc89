package engine

import (
	"math"
	"sync"

	"gavrik/internal/core/table"
)

// maxPartials is up to how many groups every core keeps sums of its own.
const maxPartials = 1 << 16

// scanSums adds the kept values up by innermost group, in table order. Sums that
// provably fit in 64 bits are kept in 64 bits; the digits are the same.
func (w *worker) scanSums(c *table.Numbers, sums []int128, counted []int32) error {
	if len(w.rows) == 0 {
		return nil
	}
	if !fitsNarrow(c, len(w.rows)) {
		for i, row := range w.rows {
			if v := c.Values[row]; v != table.Blank {
				g := w.tree.leaf[i]
				sums[g] = sums[g].plus(wide(v))
				counted[g]++
			}
		}
		return nil
	}
	workers := w.e.opts.Workers
	if len(sums) > maxPartials {
		workers = 1
	}
	var mu sync.Mutex // protects sums and counted
	share := (len(w.rows) + workers - 1) / workers
	return eachShare(w.ctx, len(w.rows), share, func(lo, hi int, stopped func() bool) {
		part, count := make([]int64, len(sums)), make([]int32, len(sums))
		for ; lo < hi && !stopped(); lo += blockRows {
			end := min(lo+blockRows, hi)
			addBlock(part, count, c.Values, w.rows[lo:end], w.tree.leaf[lo:end])
		}
		mu.Lock()
		defer mu.Unlock()
		for g, s := range part {
			sums[g] = sums[g].plus(wide(s))
			counted[g] += count[g]
		}
	})
}

func addBlock(sums []int64, counted []int32, vals []int64, rows []int32, group []uint32) {
	group = group[:len(rows)]
	for i, row := range rows {
		if v := vals[row]; v != table.Blank {
			g := group[i]
			sums[g] += v
			counted[g]++
		}
	}
}

// fitsNarrow says whether no sum of n values of the column can leave 64 bits.
func fitsNarrow(c *table.Numbers, n int) bool {
	lo, hi, ok := c.Bounds()
	if !ok || n == 0 {
		return true
	}
	return hi <= math.MaxInt64/int64(n) && lo >= math.MinInt64/int64(n)+1
}
