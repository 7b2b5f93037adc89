// Package engine carries out a plan over a snapshot.
//
// The work goes from selections (one bit for each record) to the kept rows, to
// dense group numbers, to totals, to an order; a Result keeps all of it, so that
// any window of it can be read without computing again. Work is split into
// blocks of rows over the cores and merged so that the digits do not depend on
// how many there are.
package engine

import (
	"context"
	"fmt"
	"runtime"
	"sync/atomic"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/turn"
)

// Options bounds an engine.
type Options struct {
	// Workers is the number of goroutines of one run. Zero means GOMAXPROCS.
	Workers int
	// MaxGroups stops a run with a LimitError. Zero means 1,000,000.
	MaxGroups int
	// CacheBytes bounds the selections and linked columns kept between runs.
	// Zero means 512 MiB.
	CacheBytes int64
	// Cache, if set, keeps them in place of a cache of the engine's own: several engines
	// may share one.
	Cache *cache.Cache
	// RunBytes is the memory that one run may use before it ends with a LimitError.
	// Zero means 2 GiB.
	RunBytes int64
	// MaxColumns is how many columns groups across may make. Zero means 400.
	MaxColumns int
}

func (o Options) withDefaults() Options {
	if o.Workers == 0 {
		o.Workers = runtime.GOMAXPROCS(0)
	}
	if o.MaxGroups == 0 {
		o.MaxGroups = 1_000_000
	}
	if o.CacheBytes == 0 {
		o.CacheBytes = 512 << 20
	}
	if o.RunBytes == 0 {
		o.RunBytes = 2 << 30
	}
	if o.MaxColumns == 0 {
		o.MaxColumns = 400
	}
	return o
}

// Engine answers plans over one snapshot. Any goroutine may use it.
type Engine struct {
	snap    *table.Snapshot
	catalog *catalog.Catalog
	opts    Options
	cache   *cache.Cache
	// name tells the engine's values in the cache from those of others.
	name string
	// denseSpace is the least number of possible pairs of a group and a value for
	// which a table is made; see combine. Tests lower it.
	denseSpace uint64
}

// New returns an engine over a snapshot. The catalog must be the one that plans
// are checked against.
func New(snap *table.Snapshot, c *catalog.Catalog, opts Options) *Engine {
	opts = opts.withDefaults()
	if opts.Cache == nil {
		opts.Cache = cache.New(opts.CacheBytes)
	}
	return &Engine{
		snap: snap, catalog: c, opts: opts, cache: opts.Cache, name: fmt.Sprint(engines.Add(1)),
		denseSpace: 1 << 16,
	}
}

// engines counts those made, for their names.
var engines atomic.Int64

// Snapshot is what the engine reads.
func (e *Engine) Snapshot() *table.Snapshot { return e.snap }

// Run carries out a plan.
func (e *Engine) Run(ctx context.Context, p *plan.Plan) (*Result, error) {
	return within(e, ctx, p, func(r *run) (*Result, error) {
		kept, steps, err := r.filter(p.Filter)
		if err != nil {
			return nil, err
		}
		res := &Result{Summary: result.Summary{
			Plan: p, AsOf: e.snap.AsOf, All: r.table.Rows, Kept: kept.Count(), Steps: steps,
		}, e: e}
		return res, (&builder{run: r, kept: kept, res: res}).build()
	})
}

// within carries work out as a run of its own: it waits for its turn, gives back what
// it booked, and a fault in it becomes its error.
func within[T any](
	e *Engine, ctx context.Context, p *plan.Plan, work func(r *run) (T, error),
) (out T, err error) {
	r, err := e.run(ctx, p)
	if err != nil {
		return out, err
	}
	defer r.end()
	err = fault.Caught(func() (err error) {
		if err = r.stopped(); err == nil {
			out, err = work(r)
		}
		return err
	})
	return out, err
}

// run is the state of one Run.
type run struct {
	e      *Engine
	ctx    context.Context
	turn   turn.Turn
	plan   *plan.Plan
	table  *table.Table
	budget *budget
}

func (e *Engine) run(ctx context.Context, p *plan.Plan) (*run, error) {
	t := e.snap.Tables[p.Records]
	if t == nil {
		return nil, fmt.Errorf("engine: the snapshot holds no record set %q", p.Records)
	}
	return &run{
		e: e, ctx: ctx, turn: turn.Of(ctx), plan: p, table: t, budget: &budget{limit: e.opts.RunBytes},
	}, nil
}
