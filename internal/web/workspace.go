package web

import (
	"context"
	"fmt"
	"sync"
	"sync/atomic"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"github.com/prometheus/client_golang/prometheus"
	"golang.org/x/sync/singleflight"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/records"
)

// Workspace is the records in memory and the setting they are read in. Any
// goroutine may use it; a refresh replaces all of it at once.
type Workspace struct {
	load     func(ctx context.Context) (*records.Loaded, error)
	calendar calendar.Calendar // Now is set for each request
	now      func() time.Time
	ran      prometheus.Histogram // how long computations took

	refreshing sync.Mutex // one at a time
	held       atomic.Pointer[held]
}

// held is one load with what was computed from it.
type held struct {
	catalog *catalog.Catalog
	engine  *engine.Engine
	rows    int
	ran     prometheus.Observer
	results *lru.Cache[string, *answer]
	// fewer are the record sets of which a limited reader sees only a part.
	fewer map[string]bool
	// sights are the same records as limited readers see them, and making those being
	// made.
	sights *lru.Cache[string, *held]
	making singleflight.Group
}

// keptResults is how many answered views are kept for their windows.
const keptResults = 64

// NewWorkspace loads the records for the first time. The calendar's Now is not
// used; now gives the moment of each request.
func NewWorkspace(ctx context.Context, load func(context.Context) (*records.Loaded, error), cal calendar.Calendar, now func() time.Time) (*Workspace, error) {
	w := &Workspace{load: load, calendar: cal, now: now, ran: newRunHistogram()}
	return w, w.Refresh(ctx)
}

// Refresh loads the records again. Runs under way finish on the old ones.
func (w *Workspace) Refresh(ctx context.Context) error {
	w.refreshing.Lock()
	defer w.refreshing.Unlock()
	l, err := w.load(ctx)
	if err != nil {
		return err
	}
	results, err := lru.New[string, *answer](keptResults)
	if err != nil {
		return fmt.Errorf("web: %w", err)
	}
	sights, err := lru.New[string, *held](keptSights)
	if err != nil {
		return fmt.Errorf("web: %w", err)
	}
	h := &held{sights: sights, catalog: l.Catalog, engine: engine.New(l.Snapshot, l.Catalog, engine.Options{}), results: results, ran: w.ran}
	for _, t := range l.Snapshot.Tables {
		h.rows += t.Rows
	}
	w.held.Store(h)
	return nil
}

// Rows counts the records of all sets.
func (w *Workspace) Rows() int { return w.held.Load().rows }

// AsOf is the moment of the records.
func (w *Workspace) AsOf() time.Time { return w.held.Load().engine.Snapshot().AsOf }

// Calendar is the setting of a request made now.
func (w *Workspace) Calendar() calendar.Calendar {
	c := w.calendar
	c.Now = w.now()
	return c
}

// answer is a run view with all that is needed to show it. It never changes.
type answer struct {
	*engine.Result
	set  *catalog.RecordSet
	took time.Duration // of the computation
	// fewer says that there are records that the reader does not see.
	fewer bool
}
