package web

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
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
		v, err := s.seen(ctx, key, "view")
		if err != nil {
			return nil, err
		}
		if v.Kind == store.BoardKind {
			return nil, noSuch("view")
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
	_, err = s.withRecords(ctx, k.View)
	return k, err
}

// seen is a view or a board as it is saved, or the problem that the reader sees none by this key; what says which
// of the two she asks for.
func (s service) seen(ctx context.Context, key, what string) (store.View, error) {
	v, err := s.Store.View(ctx, who(ctx).ID, key)
	if errors.Is(err, store.ErrNotFound) {
		return v, noSuch(what)
	}
	if err != nil {
		return v, s.failed(ctx, what, err)
	}
	return v, nil
}

func noSuch(what string) error {
	return huma.Error404NotFound("There is no such " + what + ", or it is not shared with you.")
}

// errTotalsOnly says that a reader of totals asks for more.
var errTotalsOnly = huma.Error403Forbidden(
	"This view is shared with you for its totals, without its records. Ask its owner for more.",
)

// withRecords is a view or a board as it is saved, or the problem if the reader does not see the records of it.
func (s service) withRecords(ctx context.Context, key string) (store.View, error) {
	v, err := s.seen(ctx, key, "view")
	if err != nil {
		return v, err
	}
	scope, err := s.App.Scope(ctx, who(ctx))
	if err != nil {
		return v, s.failed(ctx, "view", err)
	}
	if scope.LeastOfView(v) > 0 {
		return v, errTotalsOnly
	}
	return v, nil
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
