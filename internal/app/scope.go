package app

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
	"gavrik/internal/core/description"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
	"gavrik/internal/store"
)

// Scope is what one request works with: the dataset as its reader sees it, what people
// have agreed on, and the moment.
type Scope struct {
	*Dataset
	Agreed   *Agreement
	Facts    *Facts // nil outside of a server
	Calendar calendar.Calendar
	// frozen, if set, is the kept result that answers whatever is asked.
	frozen *Answer
}

// Agreement is what people have agreed on, as of a stamp: definitions, who sees what, what
// new views start with. It never changes.
type Agreement struct {
	stamp string
	// confirmed is when the database last said that nothing has changed, in Unix time.
	confirmed   atomic.Int64
	List        []store.Definition
	Definitions plan.Definitions
	Groups      []store.Group
	Sensitive   []store.SensitiveField
	Known       []store.KnownField
	// SecondRequired says that everybody with a password needs a second factor.
	SecondRequired bool
	// AnalystsAdd says that analysts may add facts to the records, and not administrators alone.
	AnalystsAdd bool
	Standards   []store.Standard
	// Described is what people say about the records; Description is the same as one, and its
	// stamp tells it from others.
	Described        []store.Described
	Description      *description.Description
	descriptionStamp string
	// BroughtIn are the record sets that people brought in as files.
	BroughtIn []store.BroughtIn
}

// Over is a scope over one load for somebody who sees everything: nothing is agreed on but
// definitions, and what is said about the records.
func Over(
	ctx context.Context, l *records.Loaded, definitions plan.Definitions, described []store.Described,
	added []store.Fact, values []store.FactValue, cal calendar.Calendar,
) (*Scope, error) {
	d := &Agreement{Definitions: definitions}
	if err := d.describe(described); err != nil {
		return nil, err
	}
	filled := &Facts{stamp: "all", values: valuesOf(values)}
	for _, f := range added {
		if !f.Removed {
			filled.List = append(filled.List, f)
		}
	}
	h, err := loaded(l, Bounds{}.withDefaults(), newRunHistogram(), &shared{
		databases: pgreader.NewDatabases(askingConnections),
	}).describedBy(ctx, d, filled, cal)
	if err != nil {
		return nil, err
	}
	return &Scope{Dataset: h, Agreed: d, Calendar: cal}, nil
}

// Shows says whether restricted readers may see a field, or with an empty key a record
// set: it was there when their limits were made, or an administrator has shown it since.
func (d *Agreement) Shows(set, field string) bool {
	wanted := store.KnownField{Set: set, Field: field}
	at, found := slices.BinarySearchFunc(d.Known, wanted, func(a, b store.KnownField) int {
		return cmp.Or(strings.Compare(a.Set, b.Set), strings.Compare(a.Field, b.Field))
	})
	return found && d.Known[at].Shown
}

// Restricts says whether anything is restricted for anybody.
func (d *Agreement) Restricts() bool {
	return len(d.Sensitive) > 0 || slices.ContainsFunc(d.Groups, func(g store.Group) bool {
		return len(g.Limits) > 0
	})
}

// With is the definitions With one of them as it would be; a nil body takes it away.
func (d *Agreement) With(records, key string, body *plan.Definition) (plan.Definitions, error) {
	others := slices.DeleteFunc(slices.Clone(d.List), func(one store.Definition) bool {
		return one.Records == records && one.Key == key
	})
	out, err := store.Decoded(others)
	if err != nil {
		return nil, err
	}
	if body != nil {
		out.Add(records, *body)
	}
	return out, nil
}

// Scope is that of a person who asks.
func (a *App) Scope(ctx context.Context, p store.Person) (*Scope, error) {
	full, err := a.FullScope(ctx)
	if err != nil {
		return nil, err
	}
	return a.SeenBy(ctx, full, p)
}

// LastAgreement is what people had agreed on when it was last looked at, or nil.
func (a *App) LastAgreement() *Agreement { return a.agreement.Load() }

// FullScope is the scope of somebody who sees everything.
func (a *App) FullScope(ctx context.Context) (*Scope, error) {
	d, at, err := a.agreed(ctx)
	if err != nil {
		return nil, err
	}
	a.filesLoaded(ctx) // an agreement says that they are there
	return a.scopeAt(ctx, a.Workspace.current.Load(), d, at)
}

// scopeOver is a load as people have agreed to see it.
func (a *App) scopeOver(ctx context.Context, h *Dataset) (*Scope, error) {
	d, at, err := a.agreed(ctx)
	if err != nil {
		return nil, err
	}
	return a.scopeAt(ctx, h, d, at)
}

func (a *App) scopeAt(ctx context.Context, h *Dataset, d *Agreement, at store.Stamps) (*Scope, error) {
	cal := a.Workspace.Calendar()
	filled, err := a.factsAt(ctx, at)
	if err != nil {
		return nil, err
	}
	if h, err = h.describedBy(ctx, d, filled, cal); err != nil {
		return nil, err
	}
	return &Scope{Dataset: h, Agreed: d, Facts: filled, Calendar: cal}, nil
}

// Agreement is what people have agreed on. It is read again if it has changed, once for all
// who wait for it.
func (a *App) Agreement(ctx context.Context) (*Agreement, error) {
	d, _, err := a.agreed(ctx)
	return d, err
}

// agreed is the agreement, with the stamps that it was asked by; those are empty while the
// database is silent.
func (a *App) agreed(ctx context.Context) (*Agreement, store.Stamps, error) {
	at, err := a.Store.Stamps(ctx)
	d, stamp := a.agreement.Load(), at.Agreed
	switch {
	case err == nil && d != nil && d.stamp == stamp:
		d.confirmed.Store(time.Now().UnixNano())
		return d, at, nil
	case err == nil:
	case d != nil && ctx.Err() == nil && store.TroubleOf(err) == store.Silent &&
		time.Since(time.Unix(0, d.confirmed.Load())) < RememberedFor:
		return d, at, nil // what held a moment ago; a change could not have been written since
	default:
		return nil, at, err
	}
	reading := a.reading.DoChan(stamp, func() (any, error) {
		var d *Agreement
		err := fault.Caught(func() (err error) {
			// Whoever asked first may give up; others wait for it, too.
			ctx, cancel := context.WithTimeout(context.WithoutCancel(ctx), readingAgreed)
			defer cancel()
			d, err = a.readAgreed(ctx, stamp)
			return err
		})
		return d, err
	})
	select {
	case <-ctx.Done():
		return nil, at, ctx.Err()
	case r := <-reading:
		if r.Err != nil {
			return nil, at, r.Err
		}
		return r.Val.(*Agreement), at, nil
	}
}

// RememberedFor is how long what was known is believed while the database is silent.
const RememberedFor = 10 * time.Minute

// readingAgreed is how long reading what is agreed on may take.
const readingAgreed = 20 * time.Second

func (a *App) readAgreed(ctx context.Context, stamp string) (*Agreement, error) {
	if d := a.agreement.Load(); d != nil && d.stamp == stamp {
		return d, nil // it was read while this one was asked for
	}
	fresh := &Agreement{stamp: stamp}
	fresh.confirmed.Store(time.Now().UnixNano())
	var err error
	read := func(do func() error) {
		if err == nil {
			err = do()
		}
	}
	read(func() (e error) { fresh.List, e = a.Store.Definitions(ctx); return })
	read(func() (e error) { fresh.Definitions, e = fresh.With("", "", nil); return })
	read(func() (e error) { fresh.Groups, e = a.Store.Groups(ctx); return })
	read(func() (e error) { fresh.Sensitive, e = a.Store.SensitiveFields(ctx); return })
	read(func() (e error) { fresh.AnalystsAdd, e = a.Store.AnalystsAdd(ctx); return })
	read(func() (e error) { fresh.SecondRequired, e = a.Store.SecondRequired(ctx); return })
	read(func() (e error) { fresh.Known, e = a.Store.KnownFields(ctx); return })
	read(func() error {
		described, e := a.Store.Descriptions(ctx)
		if e != nil {
			return e
		}
		return fresh.describe(described)
	})
	read(func() (e error) { fresh.BroughtIn, e = a.Store.BroughtIn(ctx); return })
	read(func() (e error) { fresh.Standards, e = a.Store.Standards(ctx); return })
	if err != nil {
		return nil, err
	}
	a.loadFiles(ctx, fresh.BroughtIn)
	a.agreement.Store(fresh)
	return fresh, nil
}

// Check resolves a document with the definitions it may use.
func (g *Scope) Check(doc *view.Document) (*plan.Plan, error) {
	return plan.CheckWith(doc, g.Catalog, g.Agreed.Definitions, g.Calendar)
}

// Field resolves a path as a view of the document's records may use it.
func (g *Scope) Field(doc *view.Document, path string) (*plan.Plan, catalog.Ref, error) {
	bare := *doc
	bare.Columns, bare.Groups, bare.Across, bare.Sort, bare.Compare = []view.Column{{Field: path}}, nil, nil, nil, nil
	p, err := g.Check(&bare)
	if err != nil {
		return nil, catalog.Ref{}, err
	}
	ref, err := p.Field(g.Catalog, path)
	if err != nil {
		return nil, ref, plan.Faults{{Path: "field", Message: err.Error()}}
	}
	return p, ref, nil
}

// Answer checks and runs a document, or finds its result.
func (g *Scope) Answer(ctx context.Context, doc *view.Document) (*Answer, error) {
	p, err := g.Check(doc)
	return g.checked(ctx, doc, p, err)
}

// Shown is Answer without the columns that are not there any more.
func (g *Scope) Shown(ctx context.Context, doc *view.Document) (*Answer, error) {
	p, err := plan.CheckShown(doc, g.Catalog, g.Agreed.Definitions, g.Calendar)
	return g.checked(ctx, doc, p, err)
}

// checked runs a document that was checked, or finds its result.
func (g *Scope) checked(ctx context.Context, doc *view.Document, p *plan.Plan, err error) (*Answer, error) {
	if g.frozen != nil { // fields may be gone since
		return g.frozen, nil
	}
	if err != nil {
		return nil, err
	}
	if len(p.MissingParameters) > 0 {
		return nil, p.MissingParameters
	}
	return g.Run(ctx, doc, p)
}

// Run carries a plan out, or finds its answer. The same view over the same records is
// worked out once, however many ask for it.
func (g *Scope) Run(ctx context.Context, doc *view.Document, p *plan.Plan) (*Answer, error) {
	asks := g.asks(p)
	key, size, err := g.runKey(doc, p, asks)
	if err != nil {
		return nil, err
	}
	work := func() (*Answer, int64, error) {
		started := time.Now()
		res, err := g.Reader.Run(ctx, p)
		if err != nil {
			return nil, 0, err
		}
		a := &Answer{
			Name: key + "." + g.version(res, asks), Asked: asks, Result: res, Summary: res.Summarize(), Doc: doc,
			Set: g.Catalog.Set(doc.Records), Took: time.Since(started), Fewer: g.Fewer[doc.Records], policy: g.policy,
		}
		g.ran.Observe(a.Took.Seconds())
		return a, res.Bytes() + size, nil
	}
	if asks && pgreader.IsAnew(ctx) {
		cache.Drop(g.results, g.resultKey(key))
	}
	return cache.Get(ctx, g.results, g.resultKey(key), work)
}

// runKey names the answer of a document, whose size in bytes it tells.
func (g *Scope) runKey(doc *view.Document, p *plan.Plan, asks bool) (key string, size int64, err error) {
	text, err := json.Marshal(doc)
	if err != nil {
		return "", 0, fmt.Errorf("app: %w", err)
	}
	sum := sha256.Sum256(text)
	// Relative periods depend on the day and on nothing finer; what looks at the clock has
	// the moment in its fingerprint.
	whole := sha256.Sum256(fmt.Appendf(
		nil, "%d %s %x %s %s", g.Calendar.Today(), g.Calendar.Setting(), sum, p.Fingerprint(), g.askedWithin(asks),
	))
	return hex.EncodeToString(whole[:16]), int64(len(text)), nil
}

// Waits says that an answer would take a question to a database, and none is kept.
func (g *Scope) Waits(doc *view.Document, p *plan.Plan) bool {
	if !g.asks(p) {
		return false
	}
	key, _, err := g.runKey(doc, p, true)
	_, kept := cache.Find[*Answer](g.results, g.resultKey(key))
	return err != nil || !kept
}

// Moment is a moment as people read it, in the zone of the calendar: "14 Mar 2026, 09:05".
func (g *Scope) Moment(at time.Time) string {
	return at.In(g.Calendar.Zone).Format("2 Jan 2006, 15:04")
}

// resultKey is what a result is kept by: those who see the same share it, and nobody else
// finds it.
func (d *Dataset) resultKey(name string) string { return d.name + "\x00" + name }

// Kept is a result by its name, if it is kept for those who see what the scope sees.
func (g *Scope) Kept(name string) (a *Answer, ok bool) {
	if g.frozen != nil {
		return g.frozen, g.frozen.Name == name
	}
	// A name says of which records the answer is: there is another of the same key once they have changed.
	key, _, _ := strings.Cut(name, ".")
	if a, ok := cache.Find[*Answer](g.results, g.resultKey(key)); ok && a.Name == name {
		return a, true
	}
	return cache.Find[*Answer](g.earlier, g.resultKey(name))
}

// Holds says whether the answer of a name, of whichever server, is what the records say now.
func (g *Scope) Holds(name string) bool {
	_, version, _ := strings.Cut(name, ".")
	if holds, ok := g.askedHolds(version); ok {
		return holds
	}
	return g.engine.Holds(version)
}

// Sees names what the reader of a scope may see of its load: those of one name see the same.
func (g *Scope) Sees() string { return g.name }

// Keeps says whether further lines of a result can be read by its name.
func (g *Scope) Keeps(a *Answer) bool {
	_, kept := g.Kept(a.Name)
	return kept
}
