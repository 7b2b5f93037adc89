package deliver

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gavrik/internal/app"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
	"gavrik/internal/store"
)

// keepDue keeps the results that are to be kept by a plan. One that cannot be is no reason not to keep
// the others.
func (s *Service) keepDue(ctx context.Context, now time.Time) error {
	due, err := s.app.Store.DueKeepings(ctx, now, dueAtOnce)
	if err != nil {
		return err
	}
	for _, k := range due {
		if one := fault.Caught(func() error { return s.keepOne(ctx, k) }); one != nil {
			s.app.Log.Error("keeping", "view", k.View, "error", one)
			err = errors.Join(err, one)
		}
	}
	return err
}

// keepOne carries a plan out. It is moved on first, so that no other server does it as well; should the
// work fail for a reason that may pass, it is due again.
func (s *Service) keepOne(ctx context.Context, k store.Keeping) error {
	t, err := app.TermsOf(k.Rule, k.Answers, nil)
	if err != nil {
		return err
	}
	next := s.app.Workspace.Next(t.Rule)
	ok, err := s.app.Store.ClaimKeeping(ctx, k, next)
	if err != nil || !ok {
		return err
	}
	why, err := s.keep(ctx, k, t)
	switch {
	case why != "":
		return s.app.Store.PauseKeeping(ctx, k, why)
	case err != nil:
		again := k
		again.NextAt = next
		_, back := s.app.Store.ClaimKeeping(context.WithoutCancel(ctx), again, k.NextAt)
		return errors.Join(err, back)
	}
	return s.app.Store.LetGoOfOldest(ctx, k)
}

// keep keeps one result, or says why it cannot be kept until somebody mends it.
func (s *Service) keep(ctx context.Context, k store.Keeping, t app.Terms) (why string, err error) {
	switch {
	case k.Left:
		return "its owner has left", nil
	case !k.Sees:
		return "its view is in the bin, or not shared with its owner any more", nil
	}
	owner, err := s.app.Store.Person(ctx, k.OwnerID)
	if err != nil {
		return "", err
	}
	job := s.app.Scheduler.Enter(fmt.Sprint("deliveries of ", k.OwnerID)) // it takes its turn
	defer job.Leave()
	ctx = turn.With(ctx, job)
	g, err := s.app.Scope(ctx, owner)
	if err != nil {
		return "", err
	}
	if err := t.Check(g, k.Document); err != nil {
		return "its view cannot run: " + err.Error(), nil
	}
	doc, err := t.Asked(k.Document)
	if err != nil {
		return "", err
	}
	_, err = s.app.Keep(ctx, g, owner, app.Keeping{View: k.View, Document: doc, ByPlan: true})
	var kept *app.KeptError
	if errors.As(err, &kept) {
		return kept.Why, nil
	}
	return "", err
}
