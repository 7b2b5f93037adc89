package engine

import (
	"context"
	"time"

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

// Count is how many records a set has; false if there is no such set.
func (r reader) Count(set string) (int, bool) {
	t := r.snap.Tables[set]
	if t == nil {
		return 0, false
	}
	return t.Rows, true
}

// AsOf is the moment of the records.
func (r reader) AsOf() time.Time { return r.snap.AsOf }
