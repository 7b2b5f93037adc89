package web

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// Headers that name what a question is asked of, in place of the records as they are.
const (
	// KeptHeader names a kept result.
	KeptHeader = "Gavrik-Kept"
	// TotalsHeader names a saved view of which its reader sees totals alone.
	TotalsHeader = "Gavrik-Totals"
)

// ofKept is for operations that can be asked of a kept result, and of totals alone, too.
var ofKept = map[string]any{"kept": true}

type (
	keptKey   struct{}
	totalsKey struct{}
)

// asksFrozen puts the kept result, or the view whose totals are asked, that a request names into its context. An
// operation that cannot be answered from it says so: it would be answered from the records as they are.
func asksFrozen(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		for _, of := range []struct {
			header string
			key    any
			says   string
		}{
			{KeptHeader, keptKey{}, "A kept result says what it said, and nothing more. Open the view itself to ask this."},
			{TotalsHeader, totalsKey{}, "This view is shared for its totals, and says nothing more. Ask its owner for more."},
		} {
			named := ctx.Header(of.header)
			if named == "" {
				continue
			}
			if ctx.Operation().Metadata["kept"] != true {
				_ = huma.WriteErr(api, ctx, http.StatusUnprocessableEntity, of.says) // the caller may have gone
				return
			}
			ctx = huma.WithValue(ctx, of.key, named)
		}
		next(ctx)
	}
}

// frozenScope is a scope in which the kept result that the request names, or the totals of the view that it
// names, answer; the same scope, if it names neither.
func (s service) frozenScope(ctx context.Context, g *app.Scope) (*app.Scope, error) {
	if key, ok := ctx.Value(totalsKey{}).(string); ok {
		v, err := s.Store.View(ctx, who(ctx).ID, key)
		if errors.Is(err, store.ErrNotFound) || err == nil && v.Kind == store.BoardKind {
			return nil, huma.Error404NotFound("There is no such view, or it is not shared with you.")
		}
		if err != nil {
			return nil, s.failed(ctx, "totals", err)
		}
		out, err := s.ScopeOfTotals(ctx, g, v)
		return out, s.notKept(ctx, err)
	}
	key, ok := ctx.Value(keptKey{}).(string)
	if !ok {
		return g, nil
	}
	k, err := s.keptResult(ctx, key)
	if err != nil {
		return nil, err
	}
	out, err := s.ScopeOfKept(ctx, g, k)
	return out, s.notKept(ctx, err)
}

// keptResult is one by its key, or the problem.
func (s service) keptResult(ctx context.Context, key string) (store.Kept, error) {
	k, err := s.Store.Kept(ctx, who(ctx).ID, key)
	if errors.Is(err, store.ErrNotFound) {
		return k, huma.Error404NotFound("There is no such kept result, or its view is not shared with you any more.")
	}
	if err != nil {
		return k, s.failed(ctx, "kept result", err)
	}
	return k, s.withRecords(ctx, k.View)
}

// errTotalsOnly says that a reader of totals asks for more.
var errTotalsOnly = huma.Error403Forbidden(
	"This view is shared with you for its totals, without its records. Ask its owner for more.",
)

// withRecords is the problem with a view whose records the reader does not see.
func (s service) withRecords(ctx context.Context, key string) error {
	v, err := s.Store.View(ctx, who(ctx).ID, key)
	if errors.Is(err, store.ErrNotFound) {
		return huma.Error404NotFound("There is no such view, or it is not shared with you.")
	}
	if err != nil {
		return s.failed(ctx, "view", err)
	}
	least, err := s.least(ctx, v)
	if err == nil && least > 0 {
		err = errTotalsOnly
	}
	return err
}

// least is of how many records what the reader is told of a view has to be; 0 for no bound.
func (s service) least(ctx context.Context, v store.View) (int, error) {
	if v.Kind == store.BoardKind {
		return 0, nil
	}
	scope, err := s.App.Scope(ctx, who(ctx))
	if err != nil {
		return 0, s.failed(ctx, "view", err)
	}
	doc, err := view.Parse(v.Document)
	if err != nil {
		return v.Least, nil // it cannot run at all
	}
	return scope.Least(v, doc.Records), nil
}

// notKept is the problem that a result cannot be kept, or not be shown.
func (s service) notKept(ctx context.Context, err error) error {
	var why *app.KeptError
	switch {
	case err == nil:
		return nil
	case errors.As(err, &why):
		return huma.Error422UnprocessableEntity(sentence(why.Why))
	}
	return s.refused(ctx, err)
}
