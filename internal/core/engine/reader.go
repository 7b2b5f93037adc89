// The engine as a result.Reader.

package engine

import (
	"context"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// Reader is the engine as what stands above it asks.
func (e *Engine) Reader() result.Reader { return reader{e} }

type reader struct{ *Engine }

// Run carries a plan out.
func (r reader) Run(ctx context.Context, p *plan.Plan) (result.Result, error) {
	res, err := r.Engine.Run(ctx, p)
	if err != nil { // else it would be a Result that is not there
		return nil, err
	}
	return res, nil
}

// Extent says how many records a set has, and as of when.
func (r reader) Extent(set string) (result.Extent, bool) {
	t := r.Snapshot().Tables[set]
	if t == nil {
		return result.Extent{}, false
	}
	asOf := r.Snapshot().AsOf
	if !t.AsOf.IsZero() {
		asOf = t.AsOf
	}
	return result.Extent{Records: t.Rows, AsOf: asOf}, true
}
