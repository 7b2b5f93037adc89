package web

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// SignIn is a session of one's own.
type SignIn struct {
	ID      int64     `json:"id"`
	Way     string    `json:"way" doc:"How one came in"`
	Address string    `json:"address"`
	Agent   string    `json:"agent" doc:"What the browser says of itself"`
	BegunAt time.Time `json:"begunAt"`
	SeenAt  time.Time `json:"seenAt" doc:"When it was used last, to within minutes"`
	This    bool      `json:"this" doc:"It is the one that asks"`
}

type signInsOutput struct {
	Body struct {
		SignIns []SignIn `json:"signIns" doc:"The one used last first"`
	}
}

func (s *entrance) registerSignIns(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "sign-ins", Method: http.MethodGet, Path: "/api/sessions", Summary: "Where one is signed in",
	},
		func(ctx context.Context, _ *struct{}) (*signInsOutput, error) {
			list, err := s.Store.SignIns(ctx, who(ctx).ID)
			if err != nil {
				return nil, s.failed(ctx, "sign-ins", err)
			}
			out := &signInsOutput{}
			out.Body.SignIns = make([]SignIn, len(list))
			for i, one := range list {
				out.Body.SignIns[i] = SignIn{
					one.ID, one.Way, one.Address, one.Agent, one.BegunAt, one.SeenAt, one.ID == signInOf(ctx),
				}
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "end-sign-in", Method: http.MethodDelete, Path: "/api/sessions/{id}",
		Summary: "End one of one's sessions", Errors: []int{404},
	},
		func(ctx context.Context, in *revokeInput) (*struct{}, error) {
			err := s.Store.EndSignIn(ctx, who(ctx).ID, in.ID)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("This session has ended already.")
			}
			if err != nil {
				return nil, s.failed(ctx, "sign-ins", err)
			}
			s.remembered.Purge() // whichever it was
			s.noted(ctx, in.caller, store.SignedOut, "one session")
			return nil, nil
		})
}
