package web

import (
	"context"
	"encoding/base64"
	"errors"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/export/logo"
	"gavrik/internal/store"
)

// Letterhead is what stands at the head of paper.
type Letterhead struct {
	Name    string `json:"name" maxLength:"120"`
	Address string `json:"address" maxLength:"500" doc:"Lines, each on its own"`
	Logo    string `json:"logo,omitempty" doc:"A PNG as a data: address; sent as a PNG or an SVG, it is drawn anew"`
}

type (
	letterheadOutput struct{ Body Letterhead }
	letterheadInput  struct {
		Body Letterhead
		caller
	}
)

const pngAddress = "data:image/png;base64,"

func (s *rules) registerLetterhead(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "letterhead", Method: http.MethodGet, Path: "/api/letterhead",
		Summary: "What stands at the head of paper",
	},
		func(ctx context.Context, _ *struct{}) (*letterheadOutput, error) {
			l, err := s.Store.Letterhead(ctx)
			if err != nil {
				return nil, s.failed(ctx, "letterhead", err)
			}
			return &letterheadOutput{letterheadOf(l)}, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "set-letterhead", Method: http.MethodPut, Path: "/api/letterhead",
		Summary: "Say what stands at the head of paper", Metadata: administrators,
		MaxBodyBytes: 2 * logo.MaxBytes, Errors: []int{403, 413, 422},
	}, s.setLetterhead)
}

func letterheadOf(l store.Letterhead) Letterhead {
	out := Letterhead{Name: l.Name, Address: l.Address}
	if len(l.Logo) > 0 {
		out.Logo = pngAddress + base64.StdEncoding.EncodeToString(l.Logo)
	}
	return out
}

func (s *rules) setLetterhead(ctx context.Context, in *letterheadInput) (*letterheadOutput, error) {
	l := store.Letterhead{Name: strings.TrimSpace(in.Body.Name), Address: strings.TrimSpace(in.Body.Address)}
	if in.Body.Logo != "" {
		_, data, _ := strings.Cut(in.Body.Logo, ";base64,")
		sent, err := base64.StdEncoding.DecodeString(data)
		if err == nil {
			l.Logo, err = logo.Draw(sent)
		}
		if err != nil {
			detail := "The logo was not taken: it is no data: address of a PNG or an SVG."
			if errors.Is(err, logo.ErrRefused) {
				detail = sentence(err.Error())
			}
			return nil, huma.Error422UnprocessableEntity(detail, &huma.ErrorDetail{Location: "body.logo", Message: detail})
		}
	}
	if err := s.Store.SetLetterhead(ctx, l); err != nil {
		return nil, s.failed(ctx, "letterhead", err)
	}
	s.noted(ctx, in.caller, store.Standards, "set the letterhead")
	return &letterheadOutput{letterheadOf(l)}, nil
}
