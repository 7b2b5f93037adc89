package app

import (
	"context"
	"errors"
	"fmt"
	"time"

	"gavrik/internal/core/cache"
	"gavrik/internal/core/disclosure"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// Least is how many records groups of a view have to be of for its reader to be told of them; 0, if she may see
// its records. It is the stricter of what its owner and what administrators say.
func (g *Scope) Least(v store.View, records string) int { return max(v.Least, g.policy.Least(records)) }

// LeastOfView is Least of a view or a board as it is saved; a board has no bound of its own.
func (g *Scope) LeastOfView(v store.View) int {
	if v.Kind == store.BoardKind {
		return 0
	}
	doc, err := view.Parse(v.Document)
	if err != nil {
		return v.Least // it cannot run at all
	}
	return g.Least(v, doc.Records)
}

// LeastOf is how many records groups of a record set have to be of to be told of; 0, if its records are seen, or
// nothing of it.
func (g *Scope) LeastOf(set string) int { return g.policy.Least(set) }

// InTotals is a scope in which a view of a record set is worked out for somebody who sees totals of it alone.
// Nothing but App.Totals is to be answered in it.
func (a *App) InTotals(ctx context.Context, g *Scope, records string) (*Scope, error) {
	if g.policy.Least(records) == 0 {
		return g, nil
	}
	full, err := a.FullScope(ctx)
	if err != nil {
		return nil, err
	}
	return a.restricted(ctx, full, g.policy.InTotals(records))
}

// Totals are what of a document may be told in groups of so many records at least; within is a scope of InTotals.
// An error is a *KeptError where it can be said to people why there is nothing.
func (a *App) Totals(ctx context.Context, within *Scope, doc *view.Document, least int) (*Answer, error) {
	p, err := within.Check(doc)
	if err != nil {
		return nil, err
	}
	if len(p.MissingParameters) > 0 {
		return nil, p.MissingParameters
	}
	counting := disclosure.Counting(doc, p)
	cp, err := within.Check(counting)
	if err != nil {
		return nil, err
	}
	counted, err := within.Run(ctx, counting, cp)
	if err != nil {
		return nil, err
	}
	chart := ""
	if p.Chart != nil {
		chart = p.Fingerprint()
	}
	name := fmt.Sprint("totals-", least, "-", counted.Name)
	return cache.Get(ctx, within.results, within.resultKey(name+chart), func() (*Answer, int64, error) {
		started := time.Now()
		held, err := disclosure.Hold(ctx, counted.Result, p, least)
		var refused *disclosure.Refused
		if errors.As(err, &refused) {
			return nil, 0, &KeptError{refused.Why}
		}
		if err != nil {
			return nil, 0, err
		}
		return &Answer{
			Result: held, Summary: held.Summarize(), Name: name, Doc: doc, Set: counted.Set,
			Took: counted.Took + time.Since(started), policy: within.policy,
		}, held.Bytes(), nil
	})
}

// ScopeOfTotals is a scope in which every question is answered by the totals of a saved view.
func (a *App) ScopeOfTotals(ctx context.Context, g *Scope, v store.View) (*Scope, error) {
	doc, err := view.Parse(v.Document)
	if err != nil {
		return nil, err
	}
	least := g.Least(v, doc.Records)
	if least == 0 {
		return nil, &KeptError{"this view is shared with its records; open it as it is"}
	}
	within, err := a.InTotals(ctx, g, doc.Records)
	if err != nil {
		return nil, err
	}
	answer, err := a.Totals(ctx, within, doc, least)
	if err != nil {
		return nil, err
	}
	out := *within
	out.frozen = answer
	return &out, nil
}
