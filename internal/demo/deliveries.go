package demo

import (
	"context"
	"fmt"
	"time"

	"gavrik/internal/store"
)

// AddDeliveries has two of the demo's views sent: the first one comes at once, so that there is a
// letter to look at, and then each working day; the other to the claims desk every Monday.
func AddDeliveries(ctx context.Context, s *store.Store, now time.Time) error {
	tamsin, err := s.PersonByEmail(ctx, People[0].Email)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	jory, err := s.PersonByEmail(ctx, People[1].Email)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	views, err := s.Views(ctx, tamsin.ID)
	if err != nil {
		return fmt.Errorf("demo: %w", err)
	}
	keys := map[string]string{}
	for _, v := range views {
		keys[v.Name] = v.Key
	}
	day := now.Format(time.DateOnly)
	monday := now.AddDate(0, 0, (8-int(now.Weekday()))%7)
	for _, d := range []struct {
		view, rule, trigger, content string
		people, groups               []int64
		next                         time.Time
	}{
		{
			view: "Open claims by age", rule: `{"every": "week", "on": ["monday"], "at": "07:30", "from": "` + day + `"}`,
			trigger: `{"on": "records"}`,
			content: `{"subject": "Claims that wait, by age", "files": [{"format": "xlsx", "rows": "ledger"}]}`,
			groups:  []int64{jory.Groups[0].ID},
			next:    time.Date(monday.Year(), monday.Month(), monday.Day(), 7, 30, 0, 0, time.UTC),
		},
		{
			view: "Late sailings, last 30 days", rule: `{"every": "working day", "at": "06:45", "from": "` + day + `"}`,
			trigger: `{}`, content: `{"note": "For the morning round.", "files": [{"format": "pdf", "rows": "ledger"}]}`,
			people: []int64{tamsin.ID, jory.ID}, next: now,
		},
	} {
		terms := store.DeliveryTerms{
			Rule: []byte(d.rule), Answers: []byte("{}"), Trigger: []byte(d.trigger), Content: []byte(d.content),
			Addresses: []string{},
		}
		if _, err := s.AddDelivery(ctx, tamsin.ID, keys[d.view], terms, d.people, d.groups, now, &d.next); err != nil {
			return fmt.Errorf("demo: delivery of %s: %w", d.view, err)
		}
	}
	return nil
}
