package engine

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
)

// blockRows is how many rows a worker takes at a time. It is a multiple of 64, so
// that blocks never share a word of a bitmap, and small enough that a cancelled
// run stops at once.
const blockRows = 1 << 15

// eachBlock calls do for every block of n rows, over the workers, until done or
// cancelled. Blocks may run in any order and at the same time.
func eachBlock(ctx context.Context, n, workers int, do func(lo, hi int)) error {
	blocks := (n + blockRows - 1) / blockRows
	if min(blocks, workers) <= 1 {
		for lo := 0; lo < n; lo += blockRows {
			if err := ctx.Err(); err != nil {
				return fmt.Errorf("engine: stopped: %w", err)
			}
			do(lo, min(lo+blockRows, n))
		}
		return nil
	}
	var next atomic.Int64
	var wg sync.WaitGroup
	for range min(blocks, workers) {
		wg.Go(func() {
			for ctx.Err() == nil {
				lo := int(next.Add(1)-1) * blockRows
				if lo >= n {
					return
				}
				do(lo, min(lo+blockRows, n))
			}
		})
	}
	wg.Wait()
	if err := ctx.Err(); err != nil {
		return fmt.Errorf("engine: stopped: %w", err)
	}
	return nil
}

// eachShare calls do once for every run of share rows, all at the same time. do
// asks stopped now and then and may return early; the run's result is void then.
func eachShare(ctx context.Context, n, share int, do func(lo, hi int, stopped func() bool)) error {
	stopped := func() bool { return ctx.Err() != nil }
	shares(n, share, func(lo, hi int) { do(lo, hi, stopped) })
	if err := ctx.Err(); err != nil {
		return fmt.Errorf("engine: stopped: %w", err)
	}
	return nil
}

// shares calls do once for every run of share rows, all at the same time.
func shares(n, share int, do func(lo, hi int)) {
	var wg sync.WaitGroup
	for lo := 0; lo < n; lo += share {
		wg.Go(func() { do(lo, min(lo+share, n)) })
	}
	wg.Wait()
}

// room makes room for n pairs. Clearing that much memory may take longer than a
// cancelled run should, which therefore does not wait for it.
func (r *run) room(n int) ([]pair, error) {
	made := make(chan []pair, 1)
	go func() { made <- make([]pair, n) }()
	select {
	case pairs := <-made:
		return pairs, r.stopped()
	case <-r.ctx.Done():
		return nil, r.stopped()
	}
}
