// Blocks and shares of rows over the cores.

package kernel

import (
	"context"
	"fmt"
	"sync/atomic"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
)

// BlockRows is how many rows a worker takes at a time. It is a multiple of 64, so
// that blocks never share a word of a bitmap, and small enough that a cancelled
// run stops at once.
const BlockRows = 1 << 15

// EachBlock calls do for every block of n rows, over the workers, until done,
// cancelled or failed. Blocks may run in any order and at the same time; between two
// of them the run waits for its turn. A panic of do ends the run, not the process.
func EachBlock(ctx context.Context, n, workers int, do func(lo, hi int)) error {
	blocks := (n + BlockRows - 1) / BlockRows
	mine := turn.Of(ctx)
	if min(blocks, workers) <= 1 {
		return fault.Caught(func() error {
			for lo := 0; lo < n; lo += BlockRows {
				if err := mine.Wait(ctx); err != nil {
					return Stopped(err)
				}
				do(lo, min(lo+BlockRows, n))
			}
			return nil
		})
	}
	var next atomic.Int64
	var group fault.Group
	for range min(blocks, workers) {
		group.Go(func() {
			for mine.Wait(ctx) == nil && !group.Failed() {
				lo := int(next.Add(1)-1) * BlockRows
				if lo >= n {
					return
				}
				do(lo, min(lo+BlockRows, n))
			}
		})
	}
	if err := group.Wait(); err != nil {
		return err
	}
	return Stopped(mine.Wait(ctx))
}

// Stopped says why a run ends early; nil stays nil.
func Stopped(err error) error {
	if err != nil {
		return fmt.Errorf("kernel: stopped: %w", err)
	}
	return nil
}

// EachShare calls do once for every run of share rows, all at the same time. do
// asks halted now and then and may return early; the run's result is void then.
func EachShare(ctx context.Context, n, share int, do func(lo, hi int, halted func() bool)) error {
	mine := turn.Of(ctx)
	var group fault.Group
	halted := func() bool { return group.Failed() || mine.Wait(ctx) != nil }
	for lo := 0; lo < n; lo += share {
		group.Go(func() { do(lo, min(lo+share, n), halted) })
	}
	if err := group.Wait(); err != nil {
		return err
	}
	return Stopped(mine.Wait(ctx))
}
