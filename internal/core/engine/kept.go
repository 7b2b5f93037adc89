package engine

import (
	"context"

	"gavrik/internal/core/plan"
)

// Kept lists the rows that a plan's filter keeps, ascending.
func (e *Engine) Kept(ctx context.Context, p *plan.Plan) ([]int32, error) {
	return within(e, ctx, p, func(r *run) ([]int32, error) {
		kept, _, err := r.filter(p.Filter)
		return kept.Rows(), err
	})
}
