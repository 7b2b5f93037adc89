// The rows that a filter includes, for access rules.

package engine

import (
	"context"

	"gavrik/internal/core/engine/selection"
	"gavrik/internal/core/plan"
)

// Kept lists the rows that a plan's filter keeps, ascending.
func (e *Engine) Kept(ctx context.Context, p *plan.Plan) ([]int32, error) {
	return within(e, ctx, p, func(r *run) ([]int32, error) {
		kept, _, err := selection.Select(r.job, r.fields, p.Filter)
		return kept.Rows(), err
	})
}
