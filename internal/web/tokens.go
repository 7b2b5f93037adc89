package web

import (
	"context"
	"crypto/sha256"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// Token lets a program act for a person, as far as running views goes.
type Token struct {
	ID     int64      `json:"id"`
	Name   string     `json:"name" doc:"What it is for"`
	MadeAt time.Time  `json:"madeAt"`
	UsedAt *time.Time `json:"usedAt,omitempty"`
	EndsAt time.Time  `json:"endsAt"`
	View   string     `json:"view,omitempty" doc:"Key of the one view that it runs; every view, if left out"`
}

type (
	tokensOutput struct {
		Body struct {
			Tokens []Token `json:"tokens" doc:"The newest first"`
		}
	}
	addTokenInput struct {
		Body struct {
			Name string `json:"name" minLength:"1" maxLength:"80" doc:"What it is for"`
			Days int    `json:"days" minimum:"1" maximum:"366" doc:"How long it lasts"`
			View string `json:"view,omitempty" doc:"Key of the one view that it is to run, which then may stand in an address as token=…"`
		}
		caller
	}
	addTokenOutput struct {
		Body struct {
			Token string `json:"token" doc:"Shown this once; only its hash is kept"`
		}
	}
	revokeInput struct {
		ID int64 `path:"id"`
		caller
	}
)

// hashed is what is kept of a token. It is random and long, so that one plain hash is
// enough.
func hashed(token string) []byte {
	sum := sha256.Sum256([]byte(token))
	return sum[:]
}

func (s *entrance) registerTokens(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "tokens", Method: http.MethodGet, Path: "/api/tokens",
		Summary: "One's own tokens for programs",
	},
		func(ctx context.Context, _ *struct{}) (*tokensOutput, error) {
			list, err := s.Store.Tokens(ctx, who(ctx).ID)
			if err != nil {
				return nil, s.failed(ctx, "tokens", err)
			}
			out := &tokensOutput{}
			out.Body.Tokens = make([]Token, len(list))
			for i, t := range list {
				out.Body.Tokens[i] = Token(t)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "add-token", Method: http.MethodPost, Path: "/api/tokens",
		Summary: "Make a token for a program", DefaultStatus: http.StatusCreated, Errors: []int{404, 422},
	},
		func(ctx context.Context, in *addTokenInput) (*addTokenOutput, error) {
			about := in.Body.Name
			if in.Body.View != "" {
				v, err := s.seen(ctx, in.Body.View, "view")
				if err != nil {
					return nil, err
				}
				if v.Kind == store.BoardKind {
					return nil, errIsBoard
				}
				about += "” for the view “" + v.Name
			}
			out := &addTokenOutput{}
			out.Body.Token = "gavrik_" + secret()
			ends, err := s.Store.AddToken(ctx, who(ctx).ID, in.Body.Name, hashed(out.Body.Token), in.Body.Days, in.Body.View)
			if err != nil {
				return nil, s.failed(ctx, "token", err)
			}
			s.noted(
				ctx, in.caller, store.TokenMade,
				fmt.Sprintf("made “%s”, until %s", about, ends.Format(time.DateOnly)),
			)
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "revoke-token", Method: http.MethodDelete, Path: "/api/tokens/{id}",
		Summary: "End a token at once", Errors: []int{404},
	},
		func(ctx context.Context, in *revokeInput) (*struct{}, error) {
			err := s.Store.Revoke(ctx, who(ctx).ID, in.ID)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("You have no such token.")
			}
			if err != nil {
				return nil, s.failed(ctx, "token", err)
			}
			s.noted(ctx, in.caller, store.TokenMade, fmt.Sprintf("revoked number %d", in.ID))
			return nil, nil
		})
}
