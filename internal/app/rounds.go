package app

import (
	"context"
	"time"

	"gavrik/internal/core/trigger"
	"gavrik/internal/store"
)

// Standing is how a round stands for a person.
type Standing struct {
	// Due says that it is to be looked at, since Since; Times is how often it came due since it was
	// last looked at.
	Due   bool
	Since time.Time
	Times int
	// Next is when it comes due next; zero for never.
	Next time.Time
	// Idle says that it would be due, but for its trigger; Found is what was found then.
	Idle  bool
	Found string
}

// MostTimes bounds how often a round that nobody looks at is counted.
const MostTimes = 99

// moments says of a round when it came due since it was last looked at, and when it does next. A
// last look after now, as when a clock was set back, is one just now.
func moments(t Terms, r store.Round, g *Scope, now time.Time) (s Standing) {
	after := r.BegunAt
	if r.Last != nil && r.Last.After(after) {
		after = *r.Last
	}
	if after.After(now) {
		after = now
	}
	since, times := t.Rule.Due(after.UnixMicro(), now.UnixMicro(), g.Calendar, MostTimes)
	if times > 0 {
		s.Due, s.Since, s.Times = true, time.UnixMicro(since).UTC(), times
	}
	if next, ok := t.Rule.Next(now.UnixMicro(), g.Calendar); ok {
		s.Next = time.UnixMicro(next).UTC()
	}
	return s
}

// Standing says how a round stands for the person of a scope. An error is a view that cannot be
// answered: it stands all the same.
func (a *App) Standing(ctx context.Context, g *Scope, r store.Round) (Standing, error) {
	t, err := TermsOf(r.Rule, r.Answers, r.Trigger)
	if err != nil {
		return Standing{}, err
	}
	s := moments(t, r, g, a.Workspace.Now())
	if !s.Due || t.Trigger.On == "" {
		return s, nil
	}
	found, err := t.Look(ctx, g, r.Document, r.LastDigest)
	if err != nil {
		return s, err
	}
	s.Found, s.Due, s.Idle = found.Words, found.Met, !found.Met
	return s, nil
}

// Looked notes that a person has looked at a round, now.
func (a *App) Looked(
	ctx context.Context, g *Scope, person int64, r store.Round, seeing bool, note string,
) error {
	t, err := TermsOf(r.Rule, r.Answers, r.Trigger)
	if err != nil {
		return err
	}
	now := a.Workspace.Now()
	look, digest := store.Look{At: now, Seeing: seeing, Note: note}, ""
	if s := moments(t, r, g, now); s.Due {
		look.DueAt = &s.Since
	}
	if t.Trigger.On == trigger.Changed {
		// What cannot be answered is looked at as it is; the next look will find it changed.
		if found, err := t.Look(ctx, g, r.Document, ""); err == nil {
			digest = found.Digest
		}
	}
	return a.Store.LookAt(ctx, person, r.Key, look, digest)
}
