package web

import (
	"context"
	"crypto/sha256"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// ground is what a request stands on: one load of the records as the reader sees them,
// what is agreed on now, and the moment.
type ground struct {
	*held
	defined *defined
	cal     calendar.Calendar
}

// defined is what people have agreed on, as of a stamp: definitions, who sees what, what
// new views start with. It never changes.
type defined struct {
	stamp     string
	list      []store.Definition
	plan      plan.Definitions
	groups    []store.Group
	sensitive []store.SensitiveField
	standards []store.Standard
}

// with is the definitions with one of them as it would be; a nil body takes it away.
func (d *defined) with(records, key string, body *plan.Definition) (plan.Definitions, error) {
	others := slices.DeleteFunc(slices.Clone(d.list), func(one store.Definition) bool { return one.Records == records && one.Key == key })
	out, err := store.Decoded(others)
	if err != nil {
		return nil, err
	}
	if body != nil {
		out.Add(records, *body)
	}
	return out, nil
}

// ground is that of the person who asks.
func (s *server) ground(ctx context.Context) (*ground, error) {
	full, err := s.fullGround(ctx)
	if err != nil {
		return nil, err
	}
	return s.seenBy(ctx, full, who(ctx))
}

// fullGround is the ground of somebody who sees everything. What people have agreed on is
// read again if it has changed.
func (s *server) fullGround(ctx context.Context) (*ground, error) {
	g := &ground{held: s.Workspace.held.Load(), defined: s.definitions.Load(), cal: s.Workspace.Calendar()}
	stamp, err := s.Store.AccessStamp(ctx)
	if err != nil {
		return nil, s.failed("definitions", err)
	}
	if g.defined != nil && g.defined.stamp == stamp {
		return g, nil
	}
	fresh := &defined{stamp: stamp}
	read := func(do func() error) {
		if err == nil {
			err = do()
		}
	}
	read(func() (e error) { fresh.list, e = s.Store.Definitions(ctx); return })
	read(func() (e error) { fresh.plan, e = fresh.with("", "", nil); return })
	read(func() (e error) { fresh.groups, e = s.Store.Groups(ctx); return })
	read(func() (e error) { fresh.sensitive, e = s.Store.SensitiveFields(ctx); return })
	read(func() (e error) { fresh.standards, e = s.Store.Standards(ctx); return })
	if err != nil {
		return nil, s.failed("definitions", err)
	}
	g.defined = fresh
	s.definitions.Store(fresh)
	return g, nil
}

// check resolves a document with the definitions it may use.
func (g *ground) check(doc *view.Document) (*plan.Plan, error) {
	return plan.CheckWith(doc, g.catalog, g.defined.plan, g.cal)
}

// field resolves a path as a view of the document's records may use it.
func (g *ground) field(doc *view.Document, path string) (*plan.Plan, catalog.Ref, error) {
	bare := *doc
	bare.Columns, bare.Groups, bare.Across, bare.Sort, bare.Compare = []view.Column{{Field: path}}, nil, nil, nil, nil
	p, err := g.check(&bare)
	if err != nil {
		return nil, catalog.Ref{}, err
	}
	ref, err := p.Field(g.catalog, path)
	if err != nil {
		return nil, ref, plan.Faults{{Path: "field", Message: err.Error()}}
	}
	return p, ref, nil
}

// answer checks and runs a document, or finds its result.
func (g *ground) answer(ctx context.Context, doc *view.Document) (*answer, error) {
	p, err := g.check(doc)
	if err != nil {
		return nil, err
	}
	if len(p.Waiting) > 0 {
		return nil, p.Waiting
	}
	return g.run(ctx, doc, p, g.defined.stamp)
}

// run carries a plan out. stamp tells the definitions that it was made with apart.
func (g *ground) run(ctx context.Context, doc *view.Document, p *plan.Plan, stamp string) (*answer, error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, fmt.Errorf("web: %w", err)
	}
	sum := sha256.Sum256(text)
	// Relative periods depend on the day and on nothing finer.
	key := fmt.Sprintf("%d %x %s", g.cal.Today(), sum, stamp)
	if a, ok := g.results.Get(key); ok {
		return a, nil
	}
	started := time.Now()
	res, err := g.engine.Run(ctx, p)
	if err != nil {
		return nil, err
	}
	a := &answer{Result: res, set: g.catalog.Set(doc.Records), took: time.Since(started), fewer: g.fewer[doc.Records]}
	g.ran.Observe(a.took.Seconds())
	g.results.Add(key, a)
	return a, nil
}

// addresses returns what a record of a set is opened by, for programs.
func (g *ground) addresses(set *catalog.RecordSet) func(row int32) string {
	key := addressOf(set)
	w := format.NewWriter(format.Plain, g.cal)
	switch c := g.engine.Snapshot().Tables[set.Key].Column(key).(type) {
	case *table.Texts:
		return func(row int32) string { return c.Dict.Value(c.Codes[row]) }
	case *table.Numbers:
		return func(row int32) string { return w.Number(c.Values[row], *set.Field(key)) }
	}
	return func(int32) string { return "" }
}

// answered is a document's result as it is now, or the problem with it.
func (s *server) answered(ctx context.Context, doc *view.Document) (*ground, *answer, error) {
	g, err := s.ground(ctx)
	if err != nil {
		return nil, nil, err
	}
	a, err := g.answer(ctx, doc)
	if err != nil {
		return nil, nil, s.refused(err)
	}
	return g, a, nil
}
