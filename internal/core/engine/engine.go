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
	"sync"
	"sync/atomic"
	"time"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/beside"
	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/selection"
	"gavrik/internal/core/engine/windows"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
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
	// Name tells what the engine keeps in the cache from what others do; engines of one name read the same
	// records, in other versions. Empty means a name of its own.
	Name string
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
	source  *fields.Source
	catalog *catalog.Catalog
	opts    Options
	// places are all that can be read of the snapshot, found when they are first asked for.
	places func() fields.Places
	// denseSpace is that of grouping.Grouper. Tests lower it.
	denseSpace uint64
}

// New returns an engine over a snapshot. The catalog must be the one that plans
// are checked against.
func New(snap *table.Snapshot, c *catalog.Catalog, opts Options) *Engine {
	opts = opts.withDefaults()
	if opts.Cache == nil {
		opts.Cache = cache.New(opts.CacheBytes)
	}
	if opts.Name == "" {
		opts.Name = fmt.Sprint(engines.Add(1))
	}
	return &Engine{
		source: &fields.Source{
			Snapshot: snap, Catalog: c, Cache: opts.Cache, Name: opts.Name,
			Select: selection.All, Beside: beside.Column,
		},
		catalog: c, opts: opts, denseSpace: 1 << 16,
		places: sync.OnceValue(func() fields.Places { return fields.PlacesOf(snap) }),
	}
}

// engines counts those made, for their names.
var engines atomic.Int64

// Snapshot is what the engine reads.
func (e *Engine) Snapshot() *table.Snapshot { return e.source.Snapshot }

// Run carries out a plan.
func (e *Engine) Run(ctx context.Context, p *plan.Plan) (*windows.Result, error) {
	return within(e, ctx, p, func(r *run) (*windows.Result, error) {
		of, reads := r.fields.Recorded()
		r.fields = of
		kept, steps, err := selection.Select(r.job, r.fields, p.Filter)
		if err != nil {
			return nil, err
		}
		res := &windows.Result{Summary: result.Summary{
			Plan: p, AsOf: e.asOf(p), All: r.fields.Records(), Kept: r.fields.Weights.Count(kept), Steps: steps,
		}, Column: e.columnOf(p)}
		b := &builder{run: r, plan: p, kept: kept, res: res}
		if err := b.build(); err != nil {
			return nil, err
		}
		res.Reads = reads
		return res, nil
	})
}

// Still is an answer of an engine over an earlier version of the records, as this engine would give it; false
// if it would give another.
func (e *Engine) Still(answer result.Result) (result.Result, bool) {
	before, ok := answer.(*windows.Result)
	if !ok || !before.Reads.Hold(e.Snapshot()) {
		return nil, false
	}
	return before.Of(e.asOf(before.Plan), e.columnOf(before.Plan)), true
}

// Version tells an answer of this engine from those of the same plan over records that say something else. It
// is the same in every process that reads the same records; empty for an answer that was not worked out of
// them.
func (e *Engine) Version(answer result.Result) string {
	if of, ok := answer.(*windows.Result); ok && of.Reads != nil {
		return of.Reads.Version(e.Snapshot(), e.places())
	}
	return ""
}

// Holds says whether an answer of a version, of whichever process, is what the records say.
func (e *Engine) Holds(version string) bool {
	return fields.VersionHolds(version, e.Snapshot(), e.places())
}

// asOf is the moment of the records that a plan is about.
func (e *Engine) asOf(p *plan.Plan) time.Time {
	if t := e.Snapshot().Tables[p.Records]; t != nil && !t.AsOf.IsZero() {
		return t.AsOf
	}
	return e.Snapshot().AsOf
}

// Carry takes over what engines of the same name have kept over an earlier version of the records, and still
// holds.
func (e *Engine) Carry(from *cache.Cache) {
	cache.Carry(
		from, e.source.Cache, e.source.Prefix(), func(value any) bool { return fields.Holds(value, e.Snapshot()) },
	)
}

// columnOf reads fields of a plan in jobs of their own.
func (e *Engine) columnOf(p *plan.Plan) func(ctx context.Context, ref catalog.Ref) (table.Column, error) {
	return func(ctx context.Context, ref catalog.Ref) (table.Column, error) {
		return within(e, ctx, p, func(r *run) (table.Column, error) { return r.fields.Column(ref) })
	}
}

// run is what one question to the engine works with.
type run struct {
	*Engine
	job    *work.Job
	fields *fields.Fields
}

// within carries work out as a job of its own: it waits for its turn, gives back what
// it booked, and a fault in it becomes its error.
func within[T any](
	e *Engine, ctx context.Context, p *plan.Plan, do func(r *run) (T, error),
) (out T, err error) {
	job := work.Begin(ctx, e.opts.Workers, e.opts.RunBytes)
	defer job.End()
	of, err := fields.Of(job, e.source, p)
	if err != nil {
		return out, err
	}
	err = fault.Caught(func() (err error) {
		if err = job.Stopped(); err == nil {
			out, err = do(&run{e, job, of})
		}
		return err
	})
	return out, err
}
