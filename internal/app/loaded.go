package app

import (
	"context"
	"errors"
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
	// noticing is how long the database may take to note what a load holds.
	noticing = 20 * time.Second
)

// taken readies a load for those who will look at it: what is new in it is noted, and
// what was looked at last is worked out, so that a refresh is not felt.
func (a *App) taken(ctx context.Context, before, fresh *Dataset) {
	if err := a.know(ctx, fresh.Catalog); err != nil {
		a.Log.Error("known fields; what is new stays hidden from restricted readers", "error", err)
	}
	if before == nil {
		return
	}
	job := a.Scheduler.Enter("a refresh")
	defer job.Leave()
	ctx, cancel := context.WithTimeout(turn.With(ctx, job), warming)
	defer cancel()
	err := fault.Caught(func() error { return a.warm(ctx, before, fresh) })
	if err != nil && ctx.Err() == nil {
		a.Log.Error("warming", "error", err)
	}
}

// warm answers over a fresh load what was asked of the one before.
func (a *App) warm(ctx context.Context, before, fresh *Dataset) error {
	full, err := a.scopeOver(ctx, fresh)
	if err != nil {
		return err
	}
	for _, last := range cache.Recent[*Answer](before.results, warmed) {
		if ctx.Err() != nil {
			return nil
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
