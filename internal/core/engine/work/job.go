// Package work is what every step of a run needs beside its data: whether the run goes on, the
// cores it may use, the memory it may take.
package work

import (
	"context"
	"fmt"
	"sync/atomic"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
)

// Job is one run's. Any goroutine of the run may call its methods.
type Job struct {
	// Ctx is the run's context.
	Ctx context.Context
	// Workers is how many goroutines the run may have at work.
	Workers int

	turn turn.Turn
	// used is an estimate of what lives to the end of the run; short-lived blocks are not
	// counted.
	used  atomic.Int64
	limit int64
}

// Begin returns the job of a run that may take so many bytes.
func Begin(ctx context.Context, workers int, bytes int64) *Job {
	return &Job{Ctx: ctx, Workers: workers, turn: turn.Of(ctx), limit: bytes}
}

// End gives back what the run has booked, and lets others go on: what it made lives on
// in caches and answers, which count for themselves.
func (j *Job) End() {
	_ = j.turn.Book(j.Ctx, -j.used.Swap(0)) // giving back is never refused
	j.turn.Rest()
}

// Need books bytes for a step, or says with a LimitError that the run would take too many. step
// is said before "needs": "grouping by customer".
func (j *Job) Need(bytes int64, step string) error {
	used := j.used.Add(bytes)
	if used > j.limit {
		return &result.LimitError{
			Step: fmt.Sprintf("%s needs %d MB of memory; a run may use %d MB", step, used>>20, j.limit>>20),
			Mend: "filter first, group by something coarser, or take a column away",
		}
	}
	if err := j.turn.Book(j.Ctx, bytes); err != nil {
		j.used.Add(-bytes)
		return kernel.Stopped(err)
	}
	return j.Stopped()
}

// Stopped waits for the run's turn, and says whether it was cancelled.
func (j *Job) Stopped() error { return kernel.Stopped(j.turn.Wait(j.Ctx)) }

// IsStopped is Stopped for loops that look up from their work.
func (j *Job) IsStopped() bool { return j.turn.Wait(j.Ctx) != nil }

// Pairs makes room for n pairs. Clearing that much memory may take longer than a
// cancelled run should, which therefore does not wait for it.
func (j *Job) Pairs(n int) ([]kernel.Pair, error) {
	made := make(chan []kernel.Pair, 1)
	go func() { made <- make([]kernel.Pair, n) }() // n is booked already, and no panic can come of it
	select {
	case pairs := <-made:
		return pairs, j.Stopped()
	case <-j.Ctx.Done():
		return nil, j.Stopped()
	}
}

// EachBlock is kernel.EachBlock over the run's workers.
func (j *Job) EachBlock(n int, do func(lo, hi int)) error {
	return kernel.EachBlock(j.Ctx, n, j.Workers, do)
}

// EachShare divides n rows evenly to the workers, with at least so many for each; see
// kernel.EachShare.
func (j *Job) EachShare(n, least int, do func(lo, hi int, halted func() bool)) error {
	return kernel.EachShare(j.Ctx, n, max(1, least, (n+j.Workers-1)/j.Workers), do)
}

// Pass calls do with every value in the order of the rows, a block at a time,
// unless the run is stopped. Work that cannot be split goes this way.
func Pass[T any](j *Job, vals []T, rows kernel.Rows, do func(at int, vals []T)) error {
	buf := make([]T, min(kernel.BlockRows, rows.N))
	for lo := 0; lo < rows.N; lo += kernel.BlockRows {
		if err := j.Stopped(); err != nil {
			return err
		}
		do(lo, kernel.ValuesAt(vals, rows, lo, min(lo+kernel.BlockRows, rows.N), buf))
	}
	return nil
}

// WeightedPass is Pass with the weight of each row.
func WeightedPass[T any](
	j *Job, vals []T, weights kernel.Weights, rows kernel.Rows, do func(at int, vals []T, weights []int64),
) error {
	buf := make([]int64, min(kernel.BlockRows, rows.N))
	return Pass(j, vals, rows, func(at int, vals []T) {
		do(at, vals, kernel.ValuesAt(weights, rows, at, at+len(vals), buf))
	})
}

// CountCodes is kernel.CountCodes over the run's workers.
func (j *Job) CountCodes(codes []uint32, counts []int32, fill func(lo, hi int)) error {
	return kernel.CountCodes(j.Ctx, codes, counts, j.Workers, fill)
}
