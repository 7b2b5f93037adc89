package web

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/store"
)

// KeptHeader names the kept result that a question is asked of, in place of the records as they are.
const KeptHeader = "Gavrik-Kept"

// ofKept is for operations that can be asked of a kept result, too.
var ofKept = map[string]any{"kept": true}

type keptKey struct{}

// asksKept puts the kept result that a request names into its context. An operation that a kept result
// cannot answer says so: it would be answered from the records as they are.
func asksKept(api huma.API) func(huma.Context, func(huma.Context)) {
	return func(ctx huma.Context, next func(huma.Context)) {
		key := ctx.Header(KeptHeader)
		if key == "" {
			next(ctx)
			return
		}
		if ctx.Operation().Metadata["kept"] != true {
			// the caller may have gone
			_ = huma.WriteErr(api, ctx, http.StatusUnprocessableEntity,
				"A kept result says what it said, and nothing more. Open the view itself to ask this.")
			return
		}
		next(huma.WithValue(ctx, keptKey{}, key))
	}
}

// keptScope is a scope in which the kept result that the request names answers; the same scope, if
// it names none.
func (s service) keptScope(ctx context.Context, g *app.Scope) (*app.Scope, error) {
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
	return k, nil
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
