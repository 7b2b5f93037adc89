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

// scope is that of the person who asks.
func (s *server) scope(ctx context.Context) (*requestScope, error) {
	return s.scopeOr(ctx)(s.app.Scope(ctx, who(ctx)))
}

// fullScope is the scope of somebody who sees everything.
func (s *server) fullScope(ctx context.Context) (*requestScope, error) {
	return s.scopeOr(ctx)(s.app.FullScope(ctx))
}

// seenBy is a scope as a person sees it.
func (s *server) seenBy(ctx context.Context, full *requestScope, p store.Person) (*requestScope, error) {
	return s.scopeOr(ctx)(s.app.SeenBy(ctx, full.Scope, p))
}

// scopeOr is a scope, or the problem that there is none.
func (s *server) scopeOr(ctx context.Context) func(*app.Scope, error) (*requestScope, error) {
	return func(scope *app.Scope, err error) (*requestScope, error) {
		if err != nil {
			return nil, s.failed(ctx, "scope", err)
		}
		return &requestScope{scope}, nil
	}
}

// Answer checks and runs a document, or finds its result.
func (g *requestScope) Answer(ctx context.Context, doc *view.Document) (*answer, error) {
	a, err := g.Scope.Answer(ctx, doc)
	return &answer{a}, err
}

// Shown is Answer without the columns that are not there any more.
func (g *requestScope) Shown(ctx context.Context, doc *view.Document) (*answer, error) {
	a, err := g.Scope.Shown(ctx, doc)
	return &answer{a}, err
}

// answered is a document's result as it is now, or the problem with it. Shown leaves out
// the columns that are not there any more.
func (s *server) answered(ctx context.Context, doc *view.Document, shown bool) (*requestScope, *answer, error) {
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
