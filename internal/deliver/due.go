package deliver

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gavrik/internal/app"
	"gavrik/internal/core/fault"
	"gavrik/internal/store"
)

// Tick carries out what is due. One delivery that cannot be is no reason not to carry the others out.
func (s *Service) Tick(ctx context.Context) error {
	now := s.app.Workspace.Now()
	due, err := s.app.Store.DueDeliveries(ctx, now, dueAtOnce)
	if err != nil {
		return err
	}
	for _, d := range due {
		if one := fault.Caught(func() error { return s.carryOut(ctx, d, now) }); one != nil {
			s.app.Log.Error("delivery", "key", d.Key, "error", one)
			err = errors.Join(err, one)
		}
	}
	return errors.Join(err, s.keepDue(ctx, now))
}

// carryOut writes down the letters of a delivery that is due, or pauses it if it cannot be sent. What
// it missed, as while no server ran, is not made up for: one letter is sent, and the next comes in its time.
func (s *Service) carryOut(ctx context.Context, d store.Delivery, now time.Time) error {
	t, rule, _, err := TermsOf(d)
	if err != nil {
		return err
	}
	why, err := s.broken(ctx, d, t)
	if err != nil {
		return err
	}
	if why != "" {
		return s.pause(ctx, d, why, now, 0)
	}
	run := store.NewRun{
		Delivery: d.Key, Of: store.RunDue, At: now, DueAt: d.NextAt, Known: keptFor, Most: MostLetters,
	}
	if rule != nil {
		run.NextAt = s.app.Workspace.Next(*rule)
	}
	err = s.app.Store.BeginRun(ctx, run, s.queued)
	var many *store.TooManyError
	if errors.As(err, &many) {
		return s.pause(ctx, d, many.Error(), now, d.OwnerID)
	}
	return err
}

// broken says why a delivery cannot be sent to anybody, or nothing. A database that is silent is
// no reason: that is an error.
func (s *Service) broken(ctx context.Context, d store.Delivery, t app.Terms) (string, error) {
	switch {
	case d.OwnerLeft:
		return d.OwnerName + ", who owns it, has left; an administrator can hand it over", nil
	case d.Binned:
		return "its view is in the bin", nil
	case !d.Sees:
		return "its view is not shared with " + d.OwnerName + " any more, who owns the delivery", nil
	}
	owner, err := s.app.Store.Person(ctx, d.OwnerID)
	if err != nil {
		return "", err
	}
	if owner.Role == store.Reader {
		return d.OwnerName + ", who owns it, is a reader now; an administrator can hand it over", nil
	}
	g, err := s.app.Scope(ctx, owner)
	if err != nil {
		return "", err
	}
	of, err := s.app.Store.View(ctx, owner.ID, d.View)
	if err != nil {
		return "", err
	}
	var wrong error
	switch {
	case d.Kind == store.BoardKind:
		found, err := s.app.FindSavedBoard(ctx, g, owner, of)
		if err != nil {
			return "", err
		}
		wrong = found.Check(t)
	case g.LeastOfView(of) > 0:
		return d.OwnerName + ", who owns it, " + totalsAlone, nil
	default:
		wrong = t.Check(g, d.Document)
	}
	if wrong != nil {
		return "its view cannot run: " + wrong.Error(), nil
	}
	return "", nil
}

// pause lets a delivery rest, and tells its people why or, if only is not 0, one person; if its owner
// has left, administrators, too.
func (s *Service) pause(ctx context.Context, d store.Delivery, why string, now time.Time, only int64) error {
	err := s.app.Store.PauseDelivery(ctx, d.Key, why, now)
	if errors.Is(err, store.ErrNotFound) {
		return nil // another server was first, or it was ended
	}
	if err != nil {
		return err
	}
	return s.app.Store.BeginRun(ctx, store.NewRun{
		Delivery: d.Key, Of: store.RunNotice, At: now, Only: only, Bosses: d.OwnerLeft, Most: MostLetters,
		Notice: fmt.Sprintf("“%s” is not delivered any more until somebody mends it: %s.", d.ViewName, why),
	}, s.queued)
}

// SendNow sends a delivery to everybody it goes to or, if only is not 0, to one person; what it waits
// for does not matter then.
func (s *Service) SendNow(ctx context.Context, key string, only int64) error {
	run := store.NewRun{
		Delivery: key, Of: store.RunNow, At: s.app.Workspace.Now(), Only: only, Most: MostLetters,
	}
	if only != 0 {
		run.Of = store.RunToMe
	}
	return s.app.Store.BeginRun(ctx, run, s.queued)
}

// Retry sends a letter after all that had failed.
func (s *Service) Retry(ctx context.Context, delivery string, letter int64) error {
	return s.app.Store.RetryLetter(ctx, delivery, letter, s.queued)
}
