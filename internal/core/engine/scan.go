package engine

import (
	"math"
	"sync"

	"gavrik/internal/core/table"
)

// maxPartials is up to how many groups every core keeps sums of its own.
const maxPartials = 1 << 18

// scanSums adds the kept values up by innermost group, in table order, and all of
// them apart from any group: the witness that subtotals are held against. Sums
// that provably fit in 64 bits are kept in 64 bits; the digits are the same.
func (w *worker) scanSums(c *table.Numbers, sums []int128, counted []int32) (all int128, err error) {
	if len(w.rows) == 0 {
		return all, nil
	}
	if !fitsNarrow(c, len(w.rows)) {
		for i, row := range w.rows {
			if v := c.Values[row]; v != table.Blank {
				g := w.tree.leaf[i]
				sums[g] = sums[g].plus(wide(v))
				counted[g]++
				all = all.plus(wide(v))
			}
		}
		return all, nil
	}
	workers := w.e.opts.Workers
	if len(sums) > maxPartials {
		workers = 1
	}
	var mu sync.Mutex // protects all, sums and counted
	share := (len(w.rows) + workers - 1) / workers
	err = eachShare(w.ctx, len(w.rows), share, func(lo, hi int, stopped func() bool) {
		part, count, total := make([]int64, len(sums)), make([]int32, len(sums)), int64(0)
		for ; lo < hi && !stopped(); lo += blockRows {
			end := min(lo+blockRows, hi)
			rows, leaf := w.rows[lo:end], w.tree.leaf[lo:end]
			switch {
			case c.Blanks() > 0:
				total += addBlock(part, count, c.Values, rows, leaf)
			case len(w.rows) == len(c.Values): // all are kept: row numbers are positions
				total += addDense(part, c.Values[lo:end], leaf)
			default:
				total += addFilled(part, c.Values, rows, leaf)
			}
		}
		mu.Lock()
		defer mu.Unlock()
		all = all.plus(wide(total))
		for g, s := range part {
			sums[g] = sums[g].plus(wide(s))
			counted[g] += count[g]
		}
	})
	if c.Blanks() == 0 {
		copy(counted, w.tree.counts)
	}
	return all, err
}

// addBlock adds the values of some rows to the sums of their groups.
func addBlock(sums []int64, counted []int32, vals []int64, rows []int32, group []uint32) (total int64) {
	group = group[:len(rows)]
	for i, row := range rows {
		if v := vals[row]; v != table.Blank {
			g := group[i]
			sums[g] += v
			counted[g]++
			total += v
		}
	}
	return total
}

// addFilled is addBlock for a column without blanks.
func addFilled(sums, vals []int64, rows []int32, group []uint32) (total int64) {
	group = group[:len(rows)]
	for i, row := range rows {
		v := vals[row]
		sums[group[i]] += v
		total += v
	}
	return total
}

// addDense is addFilled for rows that follow each other.
func addDense(sums, vals []int64, group []uint32) (total int64) {
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
