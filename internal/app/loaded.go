package app

import (
	"context"
	"errors"
	"slices"
	"time"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
	"gavrik/internal/store"
)

const (
	// warmed is how many of the last answers are worked out over a fresh load before
	// people see it, and warming for how long at most.
	warmed  = 64
	warming = 20 * time.Second
	// Of a load of what has changed, most still holds, and people wait for the rest.
	warmedSoon  = 12
	warmingSoon = 300 * time.Millisecond
	// noticing is how long the database may take to note what a load holds.
	noticing = 20 * time.Second
)

// taken readies a load for those who will look at it: what is new in it is noted, and
// what was looked at last is worked out, so that a refresh is not felt.
func (a *App) taken(ctx context.Context, before, fresh *Dataset, anew bool) {
	if err := a.know(ctx, fresh.Catalog); err != nil {
		a.Log.Error("known fields; what is new stays hidden from restricted readers", "error", err)
	}
	if before == nil {
		return
	}
	a.reshaped(ctx, before, fresh)
	job := a.Scheduler.Enter("a refresh")
	defer job.Leave()
	answers, within := warmed, warming
	if !anew {
		answers, within = warmedSoon, warmingSoon
	}
	ctx, cancel := context.WithTimeout(turn.With(ctx, job), within)
	defer cancel()
	err := fault.Caught(func() error { return a.warm(ctx, before, fresh, answers) })
	if err != nil && ctx.Err() == nil {
		a.Log.Error("warming", "error", err)
	}
}

// mostReshaped is how many differences are remembered.
const mostReshaped = 100

// Reshaping is something that has become of record sets, fields or links while the server ran.
type Reshaping struct {
	At   time.Time
	What string
}

// reshaped tells administrators what has become of record sets, fields and links since the load before.
func (a *App) reshaped(ctx context.Context, before, fresh *Dataset) {
	all := catalog.Differences(before.describing.loaded.Catalog, fresh.describing.loaded.Catalog)
	if len(all) == 0 {
		return
	}
	known := a.Workspace.Reshaped()
	for _, what := range all {
		known = append(known, Reshaping{fresh.AsOf, what})
		event := store.Event{Who: "Gavrik", What: store.Reshaped, About: what}
		if err := a.Store.NoteOnce(ctx, event, before.AsOf); err != nil {
			a.Log.Error("the trail", "error", err)
		}
	}
	known = slices.Clone(known[max(0, len(known)-mostReshaped):])
	a.Workspace.reshaped.Store(&known)
}

// warm answers over a fresh load what was asked of the one before.
func (a *App) warm(ctx context.Context, before, fresh *Dataset, answers int) error {
	full, err := a.scopeOver(ctx, fresh)
	if err != nil {
		return err
	}
	for _, last := range cache.Recent[*Answer](before.results, answers) {
		if ctx.Err() != nil {
			return nil
		}
		if last.Asked {
			continue // it is told of when, and asking may take minutes
		}
		g := full
		if !last.policy.Clear() {
			if g, err = a.restricted(ctx, full, a.hidingNew(full, last.policy)); err != nil {
				return err
			}
		}
		_, _ = g.Answer(ctx, last.Doc) // what fails now will say so to whoever asks
	}
	return nil
}

// know notes the record sets and fields of a load. While nothing is kept from anybody,
// and at the first load of all, they are shown; later only once an administrator says so,
// for what a limit named may have come back under another name.
func (a *App) know(ctx context.Context, c *catalog.Catalog) error {
	ctx, cancel := context.WithTimeout(ctx, noticing)
	defer cancel()
	d, err := a.Agreement(ctx)
	if err != nil {
		return err
	}
	known, first := map[store.SensitiveField]bool{}, true
	for _, k := range d.Known {
		known[store.SensitiveField{Set: k.Set, Field: k.Field}] = true
		first = first && k.Field != "" // facts are known by themselves
	}
	var fresh, brought []store.SensitiveField
	for _, set := range c.Sets {
		all := []store.SensitiveField{{Set: set.Key}}
		for _, f := range set.Fields {
			all = append(all, store.SensitiveField{Set: set.Key, Field: f.Key})
		}
		for _, f := range all {
			switch {
			case known[f]:
			case set.File: // its owner says who sees it
				brought = append(brought, f)
			default:
				fresh = append(fresh, f)
			}
		}
	}
	return errors.Join(a.keepKnown(ctx, fresh, first || !d.Restricts()), a.keepKnown(ctx, brought, true))
}

func (a *App) keepKnown(ctx context.Context, fields []store.SensitiveField, shown bool) error {
	if len(fields) == 0 {
		return nil
	}
	return a.Store.Know(ctx, fields, shown)
}
