package app

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"

	"gavrik/internal/core/access"
	"gavrik/internal/core/cache"
	"gavrik/internal/core/table"
	"gavrik/internal/people"
	"gavrik/internal/store"
)

// SeenBy is a scope as a person sees it. People who see the same share it.
func (a *App) SeenBy(ctx context.Context, full *Scope, p store.Person) (*Scope, error) {
	limits := people.PolicyOf(p, full.Agreed.Groups, full.Agreed.Sensitive)
	if limits.Clear() {
		return full, nil
	}
	return a.limited(ctx, full, a.hidingNew(full, limits))
}

// hidingNew is limits that keep back, too, what came after they were made.
func (a *App) hidingNew(full *Scope, limits access.Policy) access.Policy {
	out := maps.Clone(limits)
	if !a.ShowNewFields {
		out.Hide(full.Catalog, full.Agreed.Shows)
	}
	return out
}

// limited is a scope without what a policy restricts. It is made once for all who see the
// same, and again only if the records or a rule have changed: not with every definition
// that somebody saves.
func (a *App) limited(ctx context.Context, full *Scope, limits access.Policy) (*Scope, error) {
	text, err := json.Marshal(limits)
	if err != nil {
		return nil, err
	}
	rules := ""
	for _, limit := range limits.Ordered() {
		for _, rule := range limit.Rules {
			// Rules may speak of relative periods, and use shared definitions.
			if p, err := full.Check(rule); err == nil {
				rules += p.Fingerprint()
			} else {
				rules += err.Error()
			}
		}
	}
	key := fmt.Sprintf("%d %x", full.Calendar.Today(), sha256.Sum256([]byte(string(text)+"\x00"+rules)))
	// Whoever asked first may give up; others wait for it, too.
	making := context.WithoutCancel(ctx)
	h, err := cache.Get(ctx, full.restricted, key, func() (*Dataset, int64, error) { return a.restrict(making, full, limits, key) })
	if err != nil {
		return nil, err
	}
	return &Scope{Dataset: h, Agreed: full.Agreed, Calendar: full.Calendar}, nil
}

// restrict makes the dataset without what is restricted for a reader; bytes is what they hold of
// their own.
func (a *App) restrict(ctx context.Context, full *Scope, limits access.Policy, key string) (h *Dataset, bytes int64, err error) {
	snap, err := limits.Snapshot(ctx, full.engine, full.Catalog, full.Check)
	if snap == nil {
		return nil, 0, err
	}
	if err != nil { // less is seen, not more
		a.Log.Error("access", "error", err)
	}
	h = newDataset(key, snap, limits.Catalog(full.Catalog), full.shared)
	h.policy = limits
	h.Fewer = map[string]bool{}
	for name, t := range snap.Tables {
		h.Fewer[name] = t.Rows < full.engine.Snapshot().Tables[name].Rows
	}
	return h, table.OwnBytes(snap, full.engine.Snapshot()), nil
}
