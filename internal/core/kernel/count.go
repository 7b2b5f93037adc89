// Counting of codes while they are written.

package kernel

import (
	"context"
	"sync"
)

// MaxPartials is up to how many sums or counts every core has of its own.
const MaxPartials = 1 << 18

// CountRows is how many codes are written at a time before they are counted, so that they
// are still near.
const CountRows = 4096

// CountCodes has codes filled a stretch at a time, over the workers, and counts how often each
// occurs; counts has a place for every code there may be.
func CountCodes(
	ctx context.Context, codes []uint32, counts []int32, workers int, fill func(lo, hi int),
) error {
	if len(counts) > MaxPartials {
		workers = 1
	}
	var mu sync.Mutex // protects counts
	share := max(1, (len(codes)+workers-1)/workers)
	return EachShare(ctx, len(codes), share, func(lo, hi int, halted func() bool) {
		part := counts
		if workers > 1 {
			part = make([]int32, len(counts))
		}
		for ; lo < hi && !halted(); lo += CountRows {
			end := min(lo+CountRows, hi)
			fill(lo, end)
			for _, c := range codes[lo:end] {
				part[c]++
			}
		}
		if workers > 1 {
			mu.Lock()
			defer mu.Unlock()
			for c, n := range part {
				counts[c] += n
			}
		}
	})
}
