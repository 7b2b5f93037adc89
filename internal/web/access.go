package web

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"maps"

	"gavrik/internal/core/access"
	"gavrik/internal/core/cache"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"gavrik/internal/people"
	"gavrik/internal/store"
)

// seenBy is a scope as a person sees it. People who see the same share it.
func (s *server) seenBy(ctx context.Context, full *requestScope, p store.Person) (*requestScope, error) {
	limits := people.SightOf(p, full.agreed.groups, full.agreed.sensitive)
	if limits.Clear() {
		return full, nil
	}
	return s.limited(ctx, full, s.hidingNew(full, limits))
}

// hidingNew is limits that keep back, too, what came after they were made.
func (s *server) hidingNew(full *requestScope, limits access.Policy) access.Policy {
	out := maps.Clone(limits)
	if !s.ShowNewFields {
		out.Hide(full.catalog, full.agreed.shows)
	}
	return out
}

// limited is a scope without what a policy restricts. It is made once for all who see the
// same, and again only if the records or a rule have changed: not with every definition
// that somebody saves.
func (s *server) limited(ctx context.Context, full *requestScope, limits access.Policy) (*requestScope, error) {
	text, err := json.Marshal(limits)
	if err != nil {
		return nil, s.failed(ctx, "access", err)
	}
	rules := ""
	for _, limit := range limits.Ordered() {
		for _, rule := range limit.Rules {
			// Rules may speak of relative periods, and use shared definitions.
			if p, err := full.check(rule); err == nil {
				rules += p.Fingerprint()
			} else {
				rules += err.Error()
			}
		}
	}
	key := fmt.Sprintf("%d %x", full.cal.Today(), sha256.Sum256([]byte(string(text)+"\x00"+rules)))
	// Whoever asked first may give up; others wait for it, too.
	making := context.WithoutCancel(ctx)
	h, err := cache.Get(ctx, full.restricted, key, func() (*dataset, int64, error) { return s.restrict(making, full, limits, key) })
	if err != nil {
		return nil, s.failed(ctx, "access", err)
	}
	return &requestScope{dataset: h, agreed: full.agreed, cal: full.cal}, nil
}

// restrict makes the dataset without what is restricted for a reader; bytes is what they hold of
// their own.
func (s *server) restrict(ctx context.Context, full *requestScope, limits access.Policy, key string) (h *dataset, bytes int64, err error) {
	snap, err := limits.Snapshot(ctx, full.engine, full.catalog, full.check)
	if snap == nil {
		return nil, 0, err
	}
	if err != nil { // less is seen, not more
		s.Log.Error("access", "error", err)
	}
	cat := limits.Catalog(full.catalog)
	h = &dataset{catalog: cat, engine: engine.New(snap, cat, engine.Options{Cache: full.selections}), name: key, limits: limits, results: full.results, selections: full.selections, ran: full.ran}
	h.reader = h.engine.Reader()
	h.fewer = map[string]bool{}
	for name, t := range snap.Tables {
		h.fewer[name] = t.Rows < full.engine.Snapshot().Tables[name].Rows
	}
	return h, table.OwnBytes(snap, full.engine.Snapshot()), nil
}

// restrictedIn names what a record set has and the reader does not see.
func restrictedIn(g *requestScope, set string) []string {
	out := []string{}
	of := g.catalog.Set(set).Restricted
	for _, f := range of.Fields {
		out = append(out, f.Label)
	}
	for _, l := range of.Links {
		out = append(out, l.Label)
	}
	return out
}

// ruleWords says which records a rule keeps.
func ruleWords(g *requestScope, rule []byte) string {
	doc, err := view.Parse(rule)
	if err != nil {
		return sentence(err.Error())
	}
	return filterWords(g, doc)
}
