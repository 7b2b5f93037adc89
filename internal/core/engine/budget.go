package engine

import (
	"fmt"
	"sync/atomic"
)

// budget counts the memory a run asks for. What it counts is an estimate of what
// lives to the end of the run; short-lived blocks are not counted.
type budget struct {
	used  atomic.Int64
	limit int64
}

// need books bytes for a step, or says that the run would pass its budget. step
// is said after "needs": "grouping by customer".
func (r *run) need(bytes int64, step string) error {
	if used := r.budget.used.Add(bytes); used > r.budget.limit {
		return &LimitError{
			Step: fmt.Sprintf("%s needs %d MB of memory; a run may use %d MB", step, used>>20, r.budget.limit>>20),
			Mend: "filter first, group by something coarser, or take a column away",
		}
	}
	return r.stopped()
}

// isStopped is stopped for loops that look up from their work.
func (r *run) isStopped() bool { return r.ctx.Err() != nil }

// stopped says that the run was cancelled.
func (r *run) stopped() error {
	if err := r.ctx.Err(); err != nil {
		return fmt.Errorf("engine: stopped: %w", err)
	}
	return nil
}
