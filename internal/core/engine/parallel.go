package engine

import (
	"context"
	"fmt"
	"sync/atomic"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
)

// blockRows is how many rows a worker takes at a time. It is a multiple of 64, so
// that blocks never share a word of a bitmap, and small enough that a cancelled
// run stops at once.
const blockRows = 1 << 15

// eachBlock calls do for every block of n rows, over the workers, until done,
// cancelled or failed. Blocks may run in any order and at the same time; between two
// of them the run waits for its turn. A panic of do ends the run, not the process.
func eachBlock(ctx context.Context, n, workers int, do func(lo, hi int)) error {
	blocks := (n + blockRows - 1) / blockRows
	mine := turn.Of(ctx)
	if min(blocks, workers) <= 1 {
		return fault.Caught(func() error {
			for lo := 0; lo < n; lo += blockRows {
				if err := mine.Wait(ctx); err != nil {
					return stopped(err)
				}
				do(lo, min(lo+blockRows, n))
			}
			return nil
		})
	}
	var next atomic.Int64
	var group fault.Group
	for range min(blocks, workers) {
		group.Go(func() {
			for mine.Wait(ctx) == nil && !group.Failed() {
				lo := int(next.Add(1)-1) * blockRows
				if lo >= n {
					return
				}
				do(lo, min(lo+blockRows, n))
			}
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	return stopped(mine.Wait(ctx))
}

// stopped says why a run ends early; nil stays nil.
func stopped(err error) error {
	if err != nil {
		return fmt.Errorf("engine: stopped: %w", err)
	}
	return nil
}

// eachShare calls do once for every run of share rows, all at the same time. do
// asks halted now and then and may return early; the run's result is void then.
func eachShare(ctx context.Context, n, share int, do func(lo, hi int, halted func() bool)) error {
	mine := turn.Of(ctx)
	var group fault.Group
	halted := func() bool { return group.Failed() || mine.Wait(ctx) != nil }
	for lo := 0; lo < n; lo += share {
		group.Go(func() { do(lo, min(lo+share, n), halted) })
	}
	if err := group.Wait(); err != nil {
		return err
	}
	return stopped(mine.Wait(ctx))
}

// room makes room for n pairs. Clearing that much memory may take longer than a
// cancelled run should, which therefore does not wait for it.
func (r *run) room(n int) ([]pair, error) {
	made := make(chan []pair, 1)
	go func() { made <- make([]pair, n) }() // n is booked already, and no panic can come of it
	select {
	case pairs := <-made:
		return pairs, r.stopped()
	case <-r.ctx.Done():
		return nil, r.stopped()
	}
}
