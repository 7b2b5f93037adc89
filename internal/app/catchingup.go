package app

import (
	"context"
	"errors"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"gavrik/internal/core/fault"
	"gavrik/internal/store"
)

const (
	// catchingUp is how long a question waits for what another server has loaded already, catchingApart how
	// long two tries to come by it are apart.
	catchingUp    = 2 * time.Second
	catchingApart = 400 * time.Millisecond
	// readingAFile is how long the records of a file may take to be loaded.
	readingAFile = 10 * time.Minute
)

// catching is how the records come up to what other servers over the same state have.
type catching struct {
	ahead singleflight.Group
	tried time.Time  // by the one of ahead
	mu    sync.Mutex // protects following fields
	// files are the versions of the files that were loaded, by their tables; nil until they are known.
	files map[string]int
	// coming is closed once files that another server has changed are loaded.
	coming chan struct{}
}

// CatchUp brings the records up to a moment that whoever asks has seen already, from another server: nobody
// is answered with older ones afterwards. It waits for that, but not for long; what takes longer comes later.
func (a *App) CatchUp(ctx context.Context, seen time.Time) {
	if !a.behind(seen) {
		return
	}
	ctx, cancel := context.WithTimeout(ctx, catchingUp)
	defer cancel()
	// One that others began may be of before; what the second brings is as new as can be.
	for tries := 0; tries < 2 && a.behind(seen); {
		came := a.Workspace.Arrival() // they may be on their way already
		select {
		case <-ctx.Done():
			return
		case <-came:
		case <-a.catching.ahead.DoChan("", a.update):
			tries++
		}
	}
}

// update loads what has changed, for all who wait for it.
func (a *App) update() (any, error) {
	c := &a.catching
	time.Sleep(catchingApart - time.Since(c.tried)) // one at a time is here
	c.tried = time.Now()
	ctx, cancel := context.WithTimeout(context.Background(), readingAFile)
	defer cancel()
	if err := fault.Caught(func() error { return a.Workspace.Update(ctx) }); err != nil {
		a.Log.Error("catching up; the records in memory stay", "error", err)
	}
	return nil, nil
}

// behind says whether the records may be older than a moment. It is the databases': their clock is every
// server's.
func (a *App) behind(seen time.Time) bool {
	if !a.Workspace.AsOf().Before(seen) {
		return false
	}
	return a.Following == nil || a.Following.UpToDate().Before(seen)
}

// loadFile loads the records of a file, of a version, that this server has changed; version 0 says that it is
// gone.
func (a *App) loadFile(ctx context.Context, table string, version int) error {
	c := &a.catching
	c.mu.Lock()
	if c.files != nil {
		c.files[table] = version
	}
	c.mu.Unlock()
	return a.Workspace.RefreshFile(ctx, table)
}

// changed notes what files there are, and returns the tables of those that are others than before. The first
// that a server hears of are what it has loaded.
func (c *catching) changed(all []store.BroughtIn) (tables []string) {
	now := map[string]int{}
	for _, b := range all {
		now[b.Table] = b.Version
	}
	c.mu.Lock()
	defer c.mu.Unlock()
	for table, version := range now {
		if c.files != nil && c.files[table] != version {
			tables = append(tables, table)
		}
	}
	for table, version := range c.files {
		if _, there := now[table]; !there && version != 0 {
			tables = append(tables, table)
		}
	}
	c.files = now
	return tables
}

// loadFiles loads the files that another server has changed, taken in or removed, beside what goes on.
func (a *App) loadFiles(ctx context.Context, all []store.BroughtIn) {
	c := &a.catching
	tables := c.changed(all)
	if len(tables) == 0 {
		return
	}
	done := make(chan struct{})
	c.mu.Lock()
	before := c.coming
	c.coming = done
	c.mu.Unlock()
	go func() {
		defer close(done)
		err := fault.Caught(func() (err error) {
			ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingAFile)
			defer cancel()
			for _, table := range tables {
				err = errors.Join(err, a.Workspace.RefreshFile(ctx, table))
			}
			return err
		})
		if err != nil {
			a.Log.Error("files of another server; they come with what changes next", "error", err)
		}
		if before != nil {
			<-before
		}
	}()
}

// filesLoaded waits until the files of other servers are there, but not for long.
func (a *App) filesLoaded(ctx context.Context) {
	a.catching.mu.Lock()
	coming := a.catching.coming
	a.catching.mu.Unlock()
	if coming == nil {
		return
	}
	select {
	case <-coming:
	default:
		select {
		case <-ctx.Done():
		case <-coming:
		case <-time.After(catchingUp):
		}
	}
}
