package web

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"

	lru "github.com/hashicorp/golang-lru/v2"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/sight"
	"gavrik/internal/core/view"
	"gavrik/internal/people"
	"gavrik/internal/store"
)

const (
	// keptSights is how many ways of seeing the records are kept in memory at once. Each
	// holds the rows of limited record sets again, as far as they are seen.
	keptSights = 12
	// sightCacheBytes bounds what each of them remembers between runs.
	sightCacheBytes = 64 << 20
)

// seenBy is a ground as a person sees it. People who see the same share it.
func (s *server) seenBy(ctx context.Context, full *ground, p store.Person) (*ground, error) {
	limits := people.SightOf(p, full.defined.groups, full.defined.sensitive)
	if limits.Clear() {
		return full, nil
	}
	text, err := json.Marshal(limits)
	if err != nil {
		return nil, s.failed("sight", err)
	}
	// Rules may speak of relative periods, and use shared definitions.
	key := fmt.Sprintf("%d %x %s", full.cal.Today(), sha256.Sum256(text), full.defined.stamp)
	if h, ok := full.sights.Get(key); ok {
		return &ground{held: h, defined: full.defined, cal: full.cal}, nil
	}
	made := full.making.DoChan(key, func() (any, error) {
		// Whoever asked first may give up; others wait for it, too.
		return s.limited(context.WithoutCancel(ctx), full, limits, key)
	})
	select {
	case <-ctx.Done():
		return nil, s.failed("sight", ctx.Err())
	case r := <-made:
		if r.Err != nil {
			return nil, s.failed("sight", r.Err)
		}
		return &ground{held: r.Val.(*held), defined: full.defined, cal: full.cal}, nil
	}
}

// limited cuts what is kept from a reader out of the records.
func (s *server) limited(ctx context.Context, full *ground, limits sight.Sight, key string) (*held, error) {
	snap, err := limits.Snapshot(ctx, full.engine, full.catalog, full.check)
	if snap == nil {
		return nil, err
	}
	if err != nil { // less is seen, not more
		s.Log.Error("sight", "error", err)
	}
	results, err := lru.New[string, *answer](keptResults)
	if err != nil {
		return nil, fmt.Errorf("web: %w", err)
	}
	cat := limits.Catalog(full.catalog)
	h := &held{catalog: cat, engine: engine.New(snap, cat, engine.Options{CacheBytes: sightCacheBytes}), results: results, ran: full.ran}
	h.fewer = map[string]bool{}
	for name, t := range snap.Tables {
		h.fewer[name] = t.Rows < full.engine.Snapshot().Tables[name].Rows
	}
	full.sights.Add(key, h)
	return h, nil
}

// keptFrom names what a record set has and the reader does not see.
func keptFrom(g *ground, set string) []string {
	out := []string{}
	of := g.catalog.Set(set).Withheld
	for _, f := range of.Fields {
		out = append(out, f.Label)
	}
	for _, l := range of.Links {
		out = append(out, l.Label)
	}
	return out
}

// ruleWords says which records a rule keeps.
func ruleWords(g *ground, rule []byte) string {
	doc, err := view.Parse(rule)
	if err != nil {
		return sentence(err.Error())
	}
	return filterWords(g, doc)
}
