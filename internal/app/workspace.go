package app

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"gavrik/internal/core/access"
	"gavrik/internal/core/cache"
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// Bounds say how many bytes each kind of memory may hold. Zeros mean the defaults.
type Bounds struct {
	// Selections bounds what runs over one load keep for each other: selections of single
	// conditions, fields read through links or worked out. Zero means 512 MiB.
	Selections int64
	// Results bounds the answered views that are kept for their windows. Zero means 512 MiB.
	Results int64
	// Restricted bounds what restricted readers' own copies of the records hold. Zero means 4 GiB.
	Restricted int64
}

func (b Bounds) withDefaults() Bounds {
	or := func(n, usual int64) int64 {
		if n == 0 {
			return usual
		}
		return n
	}
	return Bounds{or(b.Selections, 512<<20), or(b.Results, 512<<20), or(b.Restricted, 4<<30)}
}

// Loading reads the records: all of them at first, and later what has changed since it was called last.
type Loading func(ctx context.Context, asked records.Asked) (*records.Loaded, error)

// Workspace is the records in memory and the setting they are read in. Any
// goroutine may use it; a refresh replaces all of it at once.
type Workspace struct {
	load     Loading
	calendar calendar.Calendar // Now is set for each request
	now      func() time.Time
	bounds   Bounds
	ran      prometheus.Histogram // how long computations took
	// taken, if set, is told of a load before anybody sees it, and of the one before it,
	// nil at first.
	taken func(ctx context.Context, before, fresh *Dataset, anew bool)
	// earlier are answers of earlier loads that are other ones now, for those who still look at them.
	earlier *cache.Cache

	refreshing sync.Mutex // one at a time
	current    atomic.Pointer[Dataset]
	// failing is why the last refresh failed, nil if it went well.
	failing  atomic.Pointer[failing]
	arrivals arrivals
	// ended is closed when the server is about to end.
	ending sync.Once
	ended  chan struct{}
	// databases are where records are asked for that stay there.
	databases *pgreader.Databases
	// reshaped is what has become of record sets, fields and links, the newest last.
	reshaped atomic.Pointer[[]Reshaping]
}

// failing is a refresh that failed.
type failing struct {
	since time.Time // of the first in a row
}

// Dataset is one load, as all or as restricted readers see it.
type Dataset struct {
	*shared
	Catalog *catalog.Catalog
	// Reader answers plans; engine is what it reads, for those who see less of it.
	Reader result.Reader
	engine *engine.Engine
	// staying is the Reader, where some record sets stay in their databases; else nil.
	staying *pgreader.Reader
	// AsOf is the moment of the records.
	AsOf time.Time
	// name tells the ways to see a load apart, in the caches that they share; it is the same for the same
	// way over every load.
	name string
	// policy and Fewer are what a restricted reader does not see, and the record sets of which
	// such a reader sees only a part.
	policy access.Policy
	Fewer  map[string]bool
	// cut, if set, is how the records came about that a restricted reader sees.
	cut *table.Cut
	// describing is the load before anything was said about it; Problems are statements that
	// do not hold over it.
	describing *describing
	Problems   []description.Problem
}

// shared is what all ways to see a load have in common.
type shared struct {
	// results are answered views, selections what runs keep for each other, restricted the
	// same records as restricted readers see them.
	results, selections, restricted *cache.Cache
	ran                             prometheus.Observer // how long computations took
	// loaded is the load as it came, databases are where those of its records are asked for that stay there.
	loaded    *records.Loaded
	databases *pgreader.Databases
	// before, if not nil, is the load before, of which some things still hold; earlier keeps the others.
	before  atomic.Pointer[before]
	earlier *cache.Cache
}

// loaded is a load as those see it who see everything.
func loaded(l *records.Loaded, b Bounds, ran prometheus.Observer, with *shared) *Dataset {
	with.results, with.selections = cache.New(b.Results), cache.New(b.Selections)
	with.restricted, with.ran, with.loaded = cache.New(b.Restricted), ran, l
	d := newDataset("all", l.Snapshot, l.Catalog, with, pgreader.Seen{})
	d.describing = &describing{loaded: description.Records{Catalog: l.Catalog, Snapshot: l.Snapshot}}
	return d
}

// newDataset readies records for questions, and those that stay in their databases as they are seen. What was
// worked out over the load before is taken over, as far as it still holds.
func newDataset(
	name string, snap *table.Snapshot, cat *catalog.Catalog, with *shared, seen pgreader.Seen,
) *Dataset {
	d := &Dataset{shared: with, Catalog: cat, name: name, AsOf: snap.AsOf}
	d.engine = engine.New(snap, cat, engine.Options{Cache: with.selections, Name: name})
	d.Reader = d.engine.Reader()
	if len(with.loaded.Away) > 0 {
		seen.Loaded, seen.Memory, seen.Catalog = with.loaded, d.engine, cat
		d.staying = pgreader.New(seen, with.databases, pgreader.Options{})
		d.Reader = d.staying
	}
	with.before.Load().carry(d)
	return d
}

// NewWorkspace loads the records for the first time. The calendar's Now is not
// used; now gives the moment of each request.
func NewWorkspace(
	ctx context.Context, load Loading, cal calendar.Calendar,
	now func() time.Time, bounds Bounds,
) (*Workspace, error) {
	w := &Workspace{load: load, calendar: cal, now: now, bounds: bounds.withDefaults(), ran: newRunHistogram()}
	w.earlier, w.ended = cache.New(w.bounds.Results), make(chan struct{})
	w.databases = pgreader.NewDatabases(askingConnections)
	return w, w.Refresh(ctx)
}

// Refresh loads all records again. Runs under way finish on the old ones.
func (w *Workspace) Refresh(ctx context.Context) error { return w.take(ctx, records.Asked{Anew: true}) }

// Update loads what has changed since the last load.
func (w *Workspace) Update(ctx context.Context) error { return w.take(ctx, records.Asked{}) }

// RefreshFile is Update once the records of a file have changed.
func (w *Workspace) RefreshFile(ctx context.Context, table string) error {
	return w.take(ctx, records.Asked{File: table})
}

func (w *Workspace) take(ctx context.Context, asked records.Asked) error {
	w.refreshing.Lock()
	defer w.refreshing.Unlock()
	l, err := w.load(ctx, asked)
	if err != nil {
		if ctx.Err() == nil {
			w.failing.CompareAndSwap(nil, &failing{w.now()})
		}
		return err
	}
	was := w.current.Load()
	with := &shared{earlier: w.earlier, databases: w.databases}
	if asked.Anew {
		w.databases.Forget()
	}
	if was != nil && !asked.Anew { // else nothing of it holds, and it is large
		with.before.Store(&before{Dataset: was})
	}
	h := loaded(l, w.bounds, w.ran, with)
	if was != nil {
		h.describing.after(was.describing)
	}
	if w.taken != nil {
		w.taken(ctx, was, h, asked.Anew)
	}
	if was != nil {
		was.before.Store(nil) // what nobody has asked for since
	}
	w.current.Store(h)
	w.failing.Store(nil)
	w.arrivals.tell()
	return nil
}

// Reshaped is what has become of record sets, fields and links while the server ran, the newest last.
func (w *Workspace) Reshaped() []Reshaping {
	if all := w.reshaped.Load(); all != nil {
		return *all
	}
	return nil
}

// Stale says that the records could not be loaded again, and since when; it is empty if they
// could.
func (w *Workspace) Stale() string {
	f := w.failing.Load()
	if f == nil {
		return ""
	}
	zone := w.calendar.Zone
	return fmt.Sprintf("these are the records of %s; since %s they could not be loaded again",
		w.AsOf().In(zone).Format("2 Jan 2006, 15:04"), f.since.In(zone).Format("2 Jan, 15:04"))
}

// Bytes are what the caches of the records in memory hold.
func (w *Workspace) Bytes() (results, selections, restricted int64) {
	d := w.current.Load()
	return d.results.Bytes(), d.selections.Bytes(), d.restricted.Bytes()
}

// Ran is how long computations took.
func (w *Workspace) Ran() prometheus.Collector { return w.ran }

// Rows counts the records of all sets.
func (w *Workspace) Rows() (n int) {
	for _, t := range w.current.Load().engine.Snapshot().Tables {
		n += t.Rows
	}
	return n
}

// AsOf is the moment of the records.
func (w *Workspace) AsOf() time.Time { return w.current.Load().AsOf }

// Calendar is the setting of a request made now. Its moment is a whole minute: a view
// that looks at the clock is worked out once a minute, not again for each of its windows.
func (w *Workspace) Calendar() calendar.Calendar {
	c := w.calendar
	c.Now = w.now().Truncate(time.Minute)
	return c
}

// Now is the moment, as the workspace has it.
func (w *Workspace) Now() time.Time { return w.now() }

// Answer is a run view with all that is needed to show it. It never changes.
type Answer struct {
	result.Result
	*result.Summary
	// Name is what further lines are asked for by.
	Name string
	Doc  *view.Document
	Set  *catalog.RecordSet
	Took time.Duration // of the computation
	// Asked says that it was worked out of records that stay in their database.
	Asked bool
	// Fewer says that there are records that the reader does not see; policy is what
	// else is restricted.
	Fewer  bool
	policy access.Policy
}

func newRunHistogram() prometheus.Histogram {
	return prometheus.NewHistogram(prometheus.HistogramOpts{
		Name: "gavrik_run_seconds", Help: "Time to compute a view that was not kept.",
		Buckets: prometheus.ExponentialBuckets(0.0005, 3, 9),
	})
}
