package web

import (
	"cmp"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// requestScope is what one request works with: the dataset as its reader sees it, what people
// have agreed on, and the moment.
type requestScope struct {
	*dataset
	agreed *agreement
	cal    calendar.Calendar
}

// agreement is what people have agreed on, as of a stamp: definitions, who sees what, what
// new views start with. It never changes.
type agreement struct {
	stamp string
	// confirmed is when the database last said that nothing has changed, in Unix time.
	confirmed atomic.Int64
	list      []store.Definition
	plan      plan.Definitions
	groups    []store.Group
	sensitive []store.SensitiveField
	known     []store.KnownField
	// secondRequired says that everybody with a password needs a second factor.
	secondRequired bool
	standards      []store.Standard
}

// shows says whether restricted readers may see a field, or with an empty key a record
// set: it was there when their limits were made, or an administrator has shown it since.
func (d *agreement) shows(set, field string) bool {
	at, found := slices.BinarySearchFunc(d.known, store.KnownField{Set: set, Field: field}, func(a, b store.KnownField) int {
		return cmp.Or(strings.Compare(a.Set, b.Set), strings.Compare(a.Field, b.Field))
	})
	return found && d.known[at].Shown
}

// restricts says whether anything is restricted for anybody.
func (d *agreement) restricts() bool {
	return len(d.sensitive) > 0 || slices.ContainsFunc(d.groups, func(g store.Group) bool { return len(g.Limits) > 0 })
}

// with is the definitions with one of them as it would be; a nil body takes it away.
func (d *agreement) with(records, key string, body *plan.Definition) (plan.Definitions, error) {
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

// scope is that of the person who asks.
func (s *server) scope(ctx context.Context) (*requestScope, error) {
	full, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	return s.seenBy(ctx, full, who(ctx))
}

// fullScope is the scope of somebody who sees everything.
func (s *server) fullScope(ctx context.Context) (*requestScope, error) {
	d, err := s.agreed(ctx)
	if err != nil {
		return nil, err
	}
	return &requestScope{dataset: s.Workspace.current.Load(), agreed: d, cal: s.Workspace.Calendar()}, nil
}

// agreed is what people have agreed on. It is read again if it has changed, once for all
// who wait for it.
func (s *server) agreed(ctx context.Context) (*agreement, error) {
	stamp, err := s.Store.AccessStamp(ctx)
	d := s.definitions.Load()
	switch {
	case err == nil && d != nil && d.stamp == stamp:
		d.confirmed.Store(time.Now().UnixNano())
		return d, nil
	case err == nil:
	case d != nil && ctx.Err() == nil && store.TroubleOf(err) == store.Silent && time.Since(time.Unix(0, d.confirmed.Load())) < rememberedFor:
		return d, nil // what held a moment ago; a change could not have been written since
	default:
		return nil, s.failed(ctx, "definitions", err)
	}
	reading := s.reading.DoChan(stamp, func() (any, error) {
		var d *agreement
		err := fault.Caught(func() (err error) {
			// Whoever asked first may give up; others wait for it, too.
			ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingAgreed)
			defer cancel()
			d, err = s.readAgreed(ctx, stamp)
			return err
		})
		return d, err
	})
	select {
	case <-ctx.Done():
		return nil, s.failed(ctx, "definitions", ctx.Err())
	case r := <-reading:
		if r.Err != nil {
			return nil, s.failed(ctx, "definitions", r.Err)
		}
		return r.Val.(*agreement), nil
	}
}

// readingAgreed is how long reading what is agreed on may take.
const readingAgreed = 20 * time.Second

func (s *server) readAgreed(ctx context.Context, stamp string) (*agreement, error) {
	if d := s.definitions.Load(); d != nil && d.stamp == stamp {
		return d, nil // it was read while this one was asked for
	}
	fresh := &agreement{stamp: stamp}
	fresh.confirmed.Store(time.Now().UnixNano())
	var err error
	read := func(do func() error) {
		if err == nil {
			err = do()
		}
	}
	read(func() (e error) { fresh.list, e = s.Store.Definitions(ctx); return })
	read(func() (e error) { fresh.plan, e = fresh.with("", "", nil); return })
	read(func() (e error) { fresh.groups, e = s.Store.Groups(ctx); return })
	read(func() (e error) { fresh.sensitive, e = s.Store.SensitiveFields(ctx); return })
	read(func() (e error) { fresh.secondRequired, e = s.Store.SecondRequired(ctx); return })
	read(func() (e error) { fresh.known, e = s.Store.KnownFields(ctx); return })
	read(func() (e error) { fresh.standards, e = s.Store.Standards(ctx); return })
	if err != nil {
		return nil, err
	}
	s.definitions.Store(fresh)
	return fresh, nil
}

// check resolves a document with the definitions it may use.
func (g *requestScope) check(doc *view.Document) (*plan.Plan, error) {
	return plan.CheckWith(doc, g.catalog, g.agreed.plan, g.cal)
}

// field resolves a path as a view of the document's records may use it.
func (g *requestScope) field(doc *view.Document, path string) (*plan.Plan, catalog.Ref, error) {
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
func (g *requestScope) answer(ctx context.Context, doc *view.Document) (*answer, error) {
	p, err := g.check(doc)
	return g.checked(ctx, doc, p, err)
}

// shown is answer without the columns that are not there any more.
func (g *requestScope) shown(ctx context.Context, doc *view.Document) (*answer, error) {
	p, err := plan.CheckShown(doc, g.catalog, g.agreed.plan, g.cal)
	return g.checked(ctx, doc, p, err)
}

// checked runs a document that was checked, or finds its result.
func (g *requestScope) checked(ctx context.Context, doc *view.Document, p *plan.Plan, err error) (*answer, error) {
	if err != nil {
		return nil, err
	}
	if len(p.MissingParameters) > 0 {
		return nil, p.MissingParameters
	}
	return g.run(ctx, doc, p)
}

// run carries a plan out, or finds its answer. The same view over the same records is
// worked out once, however many ask for it.
func (g *requestScope) run(ctx context.Context, doc *view.Document, p *plan.Plan) (*answer, error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return nil, fmt.Errorf("web: %w", err)
	}
	sum := sha256.Sum256(text)
	// Relative periods depend on the day and on nothing finer; what looks at the clock has
	// the moment in its fingerprint.
	whole := sha256.Sum256(fmt.Appendf(nil, "%d %s %x %s", g.cal.Today(), g.cal.Setting(), sum, p.Fingerprint()))
	name := hex.EncodeToString(whole[:16])
	return cache.Get(ctx, g.results, g.resultKey(name), func() (*answer, int64, error) {
		started := time.Now()
		res, err := g.reader.Run(ctx, p)
		if err != nil {
			return nil, 0, err
		}
		a := &answer{name: name, Result: res, Summary: res.Summarize(), doc: doc, set: g.catalog.Set(doc.Records), took: time.Since(started), fewer: g.fewer[doc.Records], limits: g.limits}
		g.ran.Observe(a.took.Seconds())
		return a, res.Bytes() + int64(len(text)), nil
	})
}

// resultKey is what a result is kept by: those who see the same share it, and nobody else
// finds it.
func (g *requestScope) resultKey(name string) string { return g.name + " " + name }

// keeps says whether further lines of a result can be read by its name.
func (g *requestScope) keeps(a *answer) bool {
	_, kept := cache.Find[*answer](g.results, g.resultKey(a.name))
	return kept
}

// answered is a document's result as it is now, or the problem with it. Shown leaves out
// the columns that are not there any more.
func (s *server) answered(ctx context.Context, doc *view.Document, shown bool) (*requestScope, *answer, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, nil, err
	}
	answer := g.answer
	if shown {
		answer = g.shown
	}
	a, err := answer(ctx, doc)
	if err != nil {
		return nil, nil, s.refused(ctx, err)
	}
	return g, a, nil
}
