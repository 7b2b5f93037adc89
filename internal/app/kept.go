package app

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"

	"github.com/klauspost/compress/zstd"

	"gavrik/internal/core/access"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/cache"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kept"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// The bounds of kept results.
const (
	// mostKept is how many records one may have.
	mostKept = 500_000
	// keptMemory is how large one may be once it is read again.
	keptMemory = 1 << 30
)

// AboutKept is what is known of a kept result without reading it.
type AboutKept struct {
	// Document is the view's with its answers.
	Document *view.Document `json:"document"`
	// Set is its record set as it was.
	Set *catalog.RecordSet `json:"set"`
	// Unseen is what its keeper did not see, and Of the fields and record sets that it is made of.
	Unseen access.Policy `json:"unseen"`
	Of     []access.Use  `json:"of"`
	// Totals are those of all records.
	Totals []KeptTotal `json:"totals"`
}

// KeptTotal is a total of all records of a kept result.
type KeptTotal struct {
	// Path and Fn name it through all kept results of a view; both are empty for the count of records.
	Path  string  `json:"path"`
	Fn    view.Fn `json:"fn"`
	Label string  `json:"label"`
	// Text is the figure as people read it, Value as programs do; both are empty for none.
	Text  string `json:"text"`
	Value string `json:"value"`
}

// KeptError says why a kept result cannot be made or shown; it is said to people.
type KeptError struct{ Why string }

func (e *KeptError) Error() string { return e.Why }

// Keeping is what is to be kept.
type Keeping struct {
	// View is the key of the view, Document what it asks with its answers.
	View     string
	Document *view.Document
	// Name is its keeper's word for it; ByPlan says that nobody asked for it just now.
	Name   string
	ByPlan bool
}

// Keep keeps what a document of a view says now, as a person sees it.
func (a *App) Keep(ctx context.Context, g *Scope, p store.Person, what Keeping) (string, error) {
	doc := what.Document
	answer, err := g.Answer(ctx, doc)
	if err != nil {
		return "", err
	}
	k, err := kept.Of(ctx, answer.Result, mostKept)
	var many *kept.TooManyError
	if errors.As(err, &many) {
		return "", &KeptError{many.Error()}
	}
	if err != nil {
		return "", err
	}
	content, err := packed(k)
	if err != nil {
		return "", err
	}
	about, err := json.Marshal(AboutKept{
		Document: doc, Set: answer.Set, Unseen: g.policy, Of: usesOf(g.Catalog, answer.Plan),
		Totals: totalsOf(answer),
	})
	if err != nil {
		return "", err
	}
	return a.Store.Keep(ctx, p, store.Kept{
		View: what.View, Name: what.Name, ByPlan: what.ByPlan, At: a.Workspace.Now(), AsOf: answer.AsOf,
		Records: int64(answer.Kept), About: about,
		Sentence: brief.Text(brief.Write(answer.Plan, doc, answer.Set)),
	}, content)
}

func packed(k *kept.Result) ([]byte, error) {
	var out bytes.Buffer
	z, err := zstd.NewWriter(&out, zstd.WithEncoderConcurrency(1))
	if err != nil {
		return nil, err
	}
	if err := errors.Join(k.Write(z), z.Close()); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

func unpacked(content []byte) (*kept.Result, error) {
	z, err := zstd.NewReader(
		bytes.NewReader(content), zstd.WithDecoderConcurrency(1), zstd.WithDecoderMaxMemory(keptMemory),
	)
	if err != nil {
		return nil, err
	}
	defer z.Close()
	return kept.Read(io.LimitReader(z, keptMemory))
}

// usesOf are the fields that a plan reads and the record sets on the way to them.
func usesOf(c *catalog.Catalog, p *plan.Plan) []access.Use {
	out := []access.Use{{Set: p.Records}}
	add := func(u access.Use) {
		if !slices.Contains(out, u) {
			out = append(out, u)
		}
	}
	var visit func(p *plan.Plan)
	visit = func(p *plan.Plan) {
		add(access.Use{Set: p.Records})
		for _, ref := range p.Stored() {
			add(access.Use{Set: ref.Set, Field: ref.Field.Key})
			for n := 1; n <= len(ref.Links); n++ {
				if set, err := c.Follow(p.Records, ref.Links[:n]); err == nil {
					add(access.Use{Set: set})
				}
			}
		}
		for _, other := range p.Others() {
			visit(other)
		}
	}
	visit(p)
	return out
}

// totalsOf are the count of records and the totals of all of them, each once.
func totalsOf(a *Answer) []KeptTotal {
	plain := a.Pen(format.Plain)
	people := a.Pen(format.People)
	n := fmt.Sprint(a.Kept)
	out := []KeptTotal{{Label: a.Plan.Many, Text: format.Thousands(n), Value: n}}
	for i, c := range a.GrandTotal.Cells {
		h := a.Heads[i]
		column := a.Plan.Columns[h.Column]
		if column.Measure < 0 || h.Part != "" || len(h.Across) > 0 || a.Plan.Measures[column.Measure].Show != "" {
			continue
		}
		t := KeptTotal{Path: column.Ref.Path, Fn: a.Plan.Measures[column.Measure].Fn, Label: a.TotalLabel(h)}
		if c.Kind != cell.Blank {
			t.Text = people.Figure(i, c)
		}
		if c.Kind == cell.Number || c.Kind == cell.Approximate || c.Kind == cell.Duration {
			t.Value = plain.Figure(i, c)
		}
		out = append(out, t)
	}
	return out
}

// AboutOf reads what is known of a kept result.
func AboutOf(k store.Kept) (about AboutKept, err error) {
	return about, json.Unmarshal(k.About, &about)
}

// MayShow says why a kept result is not shown to the reader of a scope: something that she may not see
// now is in it; nothing, if it is.
func (g *Scope) MayShow(about AboutKept) string {
	if g.policy.Within(about.Unseen, about.Of) {
		return ""
	}
	return "it was kept by somebody who saw more than you may see, so it is not shown to you"
}

// KeptName is what the answer of a kept result goes by.
func KeptName(key string) string { return "kept-" + key }

// ScopeOfKept is a scope in which every question is answered by a kept result, as far as its reader may
// see it.
func (a *App) ScopeOfKept(ctx context.Context, g *Scope, k store.Kept) (*Scope, error) {
	about, err := AboutOf(k)
	if err != nil {
		return nil, err
	}
	if why := g.MayShow(about); why != "" {
		return nil, &KeptError{why}
	}
	name := KeptName(k.Key)
	frozen, err := cache.Get(ctx, g.results, name, func() (*Answer, int64, error) {
		content, err := a.Store.KeptContent(ctx, k.Key)
		if err != nil {
			return nil, 0, err
		}
		r, err := unpacked(content)
		if err != nil {
			return nil, 0, err
		}
		return &Answer{
			Result: r, Summary: r.Summarize(), Name: name, Doc: about.Document,
			Set: about.Set,
		}, r.Bytes(), nil
	})
	if err != nil {
		return nil, err
	}
	out := *g
	out.frozen = frozen
	return &out, nil
}

// Comparison is what became of the records of one kept result in another, or until now.
type Comparison struct {
	*kept.Difference
	// Before and Now are the two, the earlier first; Earlier and Later read their records.
	Before, Now    *Answer
	Earlier, Later *kept.Result
}

// CompareKept compares a kept result with another or, if that is nil, with what its view says now
// under the same answers.
func (a *App) CompareKept(
	ctx context.Context, g *Scope, before store.Kept, with *store.Kept,
) (*Comparison, error) {
	was, err := a.ScopeOfKept(ctx, g, before)
	if err != nil {
		return nil, err
	}
	out := &Comparison{Before: was.frozen}
	if with != nil {
		is, err := a.ScopeOfKept(ctx, g, *with)
		if err != nil {
			return nil, err
		}
		out.Now = is.frozen
	} else if out.Now, err = g.Answer(ctx, was.frozen.Doc); err != nil {
		return nil, err
	}
	if out.Before.AsOf.After(out.Now.AsOf) {
		out.Before, out.Now = out.Now, out.Before
	}
	if out.Earlier, err = asKept(ctx, out.Before); err == nil {
		out.Later, err = asKept(ctx, out.Now)
	}
	if err != nil {
		return nil, err
	}
	out.Difference, err = kept.Compare(ctx, out.Earlier, out.Later)
	if errors.Is(err, kept.ErrNoKeys) {
		return nil, &KeptError{err.Error()}
	}
	return out, err
}

// asKept is a result to be compared.
func asKept(ctx context.Context, a *Answer) (*kept.Result, error) {
	if k, ok := a.Result.(*kept.Result); ok {
		return k, nil
	}
	k, err := kept.Of(ctx, a.Result, mostKept)
	var many *kept.TooManyError
	if errors.As(err, &many) {
		return nil, &KeptError{many.Error()}
	}
	return k, err
}
