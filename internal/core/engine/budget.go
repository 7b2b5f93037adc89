package engine

import (
	"fmt"
	"sync/atomic"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
)

// budget counts the memory a run asks for. What it counts is an estimate of what
// lives to the end of the run; short-lived blocks are not counted.
type budget struct {
	used  atomic.Int64
	limit int64
}

// need books bytes for a step, or says that the run would pass its budget. step
// is said before "needs": "grouping by customer".
func (r *run) need(bytes int64, step string) error {
	used := r.budget.used.Add(bytes)
	if used > r.budget.limit {
		return &result.LimitError{
			Step: fmt.Sprintf("%s needs %d MB of memory; a run may use %d MB", step, used>>20, r.budget.limit>>20),
			Mend: "filter first, group by something coarser, or take a column away",
		}
	}
	if err := r.turn.Book(r.ctx, bytes); err != nil {
		r.budget.used.Add(-bytes)
		return kernel.Stopped(err)
	}
	return r.stopped()
}

// end gives back what the run has booked, and lets others go on: what it made lives on
// in caches and answers, which count for themselves.
func (r *run) end() {
	_ = r.turn.Book(r.ctx, -r.budget.used.Swap(0)) // giving back is never refused
	r.turn.Rest()
}

// isStopped is stopped for loops that look up from their work.
func (r *run) isStopped() bool { return r.turn.Wait(r.ctx) != nil }

// stopped waits for the run's turn, and says whether it was cancelled.
func (r *run) stopped() error { return kernel.Stopped(r.turn.Wait(r.ctx)) }

// room makes room for n pairs. Clearing that much memory may take longer than a
// cancelled run should, which therefore does not wait for it.
func (r *run) room(n int) ([]kernel.Pair, error) {
	made := make(chan []kernel.Pair, 1)
	go func() { made <- make([]kernel.Pair, n) }() // n is booked already, and no panic can come of it
	select {
	case pairs := <-made:
		return pairs, r.stopped()
	case <-r.ctx.Done():
		return nil, r.stopped()
	}
}
