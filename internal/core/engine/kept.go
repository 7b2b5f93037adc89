// The rows that a filter includes, for access rules.

package engine

import (
	"context"

	"gavrik/internal/core/engine/selection"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// Kept lists the rows that a plan's filter keeps, ascending.
func (e *Engine) Kept(ctx context.Context, p *plan.Plan) ([]int32, error) {
	rows, _, err := e.Select(ctx, p)
	return rows, err
}

// Select is Kept, and what each of the conditions did.
func (e *Engine) Select(ctx context.Context, p *plan.Plan) (rows []int32, steps []result.Step, err error) {
	rows, err = within(e, ctx, p, func(r *run) ([]int32, error) {
		kept, did, err := selection.Select(r.job, r.fields, p.Filter)
		steps = did
		return kept.Rows(), err
	})
	return rows, steps, err
}
