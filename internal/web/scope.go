package web

import (
	"context"

	"gavrik/internal/app"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// requestScope is what one request works with.
type requestScope struct{ *app.Scope }

// answer is an answered view, as requests write it.
type answer struct{ *app.Answer }

// scope is that of the person who asks or, if she asks for that, of a kept result or of totals alone.
func (s service) scope(ctx context.Context) (*requestScope, error) {
	browser := cookiesOf(ctx)
	s.CatchUp(ctx, browser.seen)
	scope, err := s.App.Scope(ctx, who(ctx))
	if err == nil {
		browser.sees(scope.AsOf)
		scope, err = s.frozenScope(ctx, scope)
	}
	return s.scoped(ctx, scope, err)
}

// fullScope is the scope of somebody who sees everything.
func (s service) fullScope(ctx context.Context) (*requestScope, error) {
	scope, err := s.App.FullScope(ctx)
	return s.scoped(ctx, scope, err)
}

// seenBy is a scope as a person sees it.
func (s service) seenBy(ctx context.Context, full *requestScope, p store.Person) (*requestScope, error) {
	scope, err := s.App.SeenBy(ctx, full.Scope, p)
	return s.scoped(ctx, scope, err)
}

// scoped is a scope for a request, or the problem that there is none.
func (s service) scoped(ctx context.Context, scope *app.Scope, err error) (*requestScope, error) {
	if err != nil {
		return nil, s.failed(ctx, "scope", err)
	}
	return &requestScope{scope}, nil
}

// Answer checks and runs a document, or finds its result.
func (g *requestScope) Answer(ctx context.Context, doc *view.Document) (*answer, error) {
	return answerOf(g.Scope.Answer(ctx, doc))
}

// Shown is Answer without the columns that are not there any more.
func (g *requestScope) Shown(ctx context.Context, doc *view.Document) (*answer, error) {
	return answerOf(g.Scope.Shown(ctx, doc))
}

func answerOf(a *app.Answer, err error) (*answer, error) {
	if err != nil {
		return nil, err
	}
	return &answer{a}, nil
}

// answered is a document's result as it is now, or the problem with it. Shown leaves out
// the columns that are not there any more.
func (s service) answered(
	ctx context.Context, doc *view.Document, shown bool,
) (*requestScope, *answer, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, nil, err
	}
	answer := g.Answer
	if shown {
		answer = g.Shown
	}
	a, err := answer(ctx, doc)
	if err != nil {
		return nil, nil, s.refused(ctx, err)
	}
	return g, a, nil
}
