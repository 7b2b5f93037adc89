package demo

import (
	"context"
	"encoding/json"
	"time"

	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/store"
)

// addRounds has two views looked at again and again: late sailings each working day by one of two
// people, and the age of claims each Monday by the claims desk. keys are those of the views, by name.
func addRounds(ctx context.Context, s *store.Store, keys map[string]string, now time.Time) error {
	tamsin, err := s.PersonByEmail(ctx, People[0].Email)
	if err != nil {
		return err
	}
	jory, err := s.PersonByEmail(ctx, People[1].Email)
	if err != nil {
		return err
	}
	const day = 24 * time.Hour
	for _, r := range []struct {
		view, note     string
		rule           recurrence.Rule
		trigger        trigger.Trigger
		each, seeing   bool
		people, groups []int64
		begun, looked  time.Duration // ago
	}{
		{
			view: "Late sailings, last 30 days", note: "Fog off Harrow Strand again; the port knows.",
			rule:   recurrence.Rule{Every: recurrence.WorkingDay, At: "07:30"},
			people: []int64{tamsin.ID, jory.ID}, begun: 9 * day, looked: 26 * time.Hour,
		},
		{
			view: "Open claims by age", note: "The two oldest wait for the repair yard’s word.",
			rule:    recurrence.Rule{Every: recurrence.Week, On: []recurrence.Weekday{"monday"}, At: "08:00"},
			trigger: trigger.Trigger{On: trigger.Records}, each: true, seeing: true,
			people: []int64{tamsin.ID}, groups: []int64{jory.Groups[0].ID}, begun: 12 * day, looked: 6 * day,
		},
	} {
		r.rule.From = now.Add(-r.begun).Format(time.DateOnly)
		t := store.RoundTerms{Answers: []byte("{}"), Each: r.each, Seeing: r.seeing}
		if t.Rule, err = json.Marshal(r.rule); err != nil {
			return err
		}
		if t.Trigger, err = json.Marshal(r.trigger); err != nil {
			return err
		}
		key, err := s.AddRound(ctx, tamsin.ID, keys[r.view], t, r.people, r.groups, now.Add(-r.begun))
		if err != nil {
			return err
		}
		look := store.Look{At: now.Add(-r.looked), Note: r.note}
		if err := s.LookAt(ctx, jory.ID, key, look, ""); err != nil {
			return err
		}
	}
	return nil
}
