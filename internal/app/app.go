// Package app is the application without HTTP: the records in memory, what people have agreed
// on, who sees what, and answered views. It serves whatever asks questions: the interface, the
// command line, work that recurs.
package app

import (
	"context"
	"log/slog"
	"net/url"
	"sync/atomic"
	"time"

	"golang.org/x/sync/singleflight"

	"gavrik/internal/records"
	"gavrik/internal/scheduler"
	"gavrik/internal/store"
)

// Options are what the application works with.
type Options struct {
	Store     *store.Store
	Workspace *Workspace
	Log       *slog.Logger
	// Scheduler shares the machine among those who ask. Nil means one with its defaults.
	Scheduler *scheduler.Scheduler
	// Following, if set, says how the sources of the records are followed.
	Following Following
	// ShowNewFields shows restricted readers what came with a later load, or was renamed,
	// without an administrator's word. Usually it is restricted until then.
	ShowNewFields bool
	// Exports bound the files that people take away.
	Exports ExportBounds
	// Public is where people reach the server, as https://gavrik.example.org; zero for not told.
	Public url.URL
}

// Following says how the sources of the records are followed; records.Following does.
type Following interface {
	States() []records.State
	UpToDate() time.Time
}

// App answers views. Any goroutine may use it.
type App struct {
	Options
	// agreement is the one read last.
	agreement atomic.Pointer[Agreement]
	reading   singleflight.Group // of agreements, by their stamp
	exports   exports
	facts     keptFacts
	catching  catching
	// reads lets one file be read at a time: others work, too.
	reads chan struct{}
}

// New readies the application for the records that the workspace holds, and for those that
// it will load.
func New(o Options) *App {
	if o.Store == nil || o.Workspace == nil || o.Log == nil {
		panic("app: New needs a store, a workspace and a log")
	}
	if o.Scheduler == nil {
		o.Scheduler = scheduler.New(scheduler.Options{})
	}
	a := &App{Options: o, reads: make(chan struct{}, 1)}
	o.Workspace.taken = a.taken
	a.taken(context.Background(), nil, o.Workspace.current.Load(), true)
	return a
}
