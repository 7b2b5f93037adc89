package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/people"
	"gavrik/internal/store"
)

type (
	enrolOutput struct {
		Body struct {
			Secret  string `json:"secret" doc:"To be typed into the app, where it cannot take the picture"`
			Address string `json:"address" doc:"The same as an address that opens the app"`
			Picture string `json:"picture" doc:"A picture of the address, as a data URL"`
		}
	}
	codeInput struct {
		Body struct {
			Code string `json:"code" maxLength:"40" doc:"The code of the app, or a spare one"`
		}
		caller
	}
	spareOutput struct {
		Body struct {
			Spare []string `json:"spare" doc:"Codes for whoever has lost the app, shown this once"`
		}
	}
	requireInput struct {
		Body struct {
			Required bool `json:"required"`
		}
		caller
	}
	requireOutput struct {
		Body struct {
			Required bool `json:"required"`
		}
	}
)

func (s *entrance) registerSecond(api huma.API) {
	const path = "/api/second-factor"
	op := func(id, method, path, summary string, who map[string]any, errs ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: path, Summary: summary, Metadata: who, Errors: errs,
		}
	}
	huma.Register(api, op(
		"enrol", http.MethodPost, path, "Begin to set up a second factor (RFC 6238)", whileChanging, 409,
	),
		func(ctx context.Context, _ *struct{}) (*enrolOutput, error) {
			e, err := s.desk.Enrol(ctx, who(ctx))
			if err != nil {
				return nil, s.secondFault(ctx, err)
			}
			out := &enrolOutput{}
			out.Body.Secret, out.Body.Address, out.Body.Picture = e.Secret, e.Address, e.Picture
			return out, nil
		})
	huma.Register(api, op(
		"confirm-second", http.MethodPut, path, "Ask for codes from now on", whileChanging, 403, 409,
	),
		func(ctx context.Context, in *codeInput) (*spareOutput, error) {
			spare, err := s.desk.Confirm(ctx, who(ctx), in.Body.Code)
			if err != nil {
				return nil, s.secondFault(ctx, err)
			}
			s.remembered.Purge()
			s.noted(ctx, in.caller, store.Password, "set up a second factor")
			out := &spareOutput{}
			out.Body.Spare = spare
			return out, nil
		})
	huma.Register(api, op(
		"drop-second", http.MethodPost, path+"/off", "Ask for no codes any more", nil, 403, 409,
	),
		func(ctx context.Context, in *codeInput) (*struct{}, error) {
			if err := s.desk.TurnOff(ctx, who(ctx), in.Body.Code); err != nil {
				return nil, s.secondFault(ctx, err)
			}
			s.remembered.Purge()
			s.noted(ctx, in.caller, store.Password, "took the second factor away")
			return nil, nil
		})
	huma.Register(api, op(
		"second-required", http.MethodGet, path+"/required", "Whether everybody with a password needs one", nil,
	),
		func(ctx context.Context, _ *struct{}) (*requireOutput, error) {
			on, err := s.Store.SecondRequired(ctx)
			if err != nil {
				return nil, s.failed(ctx, "second factor", err)
			}
			out := &requireOutput{}
			out.Body.Required = on
			return out, nil
		})
	huma.Register(api, op("require-second", http.MethodPut, path+"/required", "Settle it", administrators, 403),
		func(ctx context.Context, in *requireInput) (*struct{}, error) {
			if err := s.Store.RequireSecond(ctx, in.Body.Required); err != nil {
				return nil, s.failed(ctx, "second factor", err)
			}
			if _, err := s.App.Agreement(ctx); err != nil { // from the next request on
				return nil, err
			}
			words := "a second factor is required of everybody with a password"
			if !in.Body.Required {
				words = "a second factor is not required any more"
			}
			s.noted(ctx, in.caller, store.Permission, words)
			return nil, nil
		})
	huma.Register(api, op(
		"reset-second", http.MethodDelete, "/api/people/{id}/second-factor", "Take somebody's second factor away",
		administrators, 403, 404,
	),
		func(ctx context.Context, in *personInput) (*struct{}, error) {
			p, err := s.Store.Person(ctx, in.ID)
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("There is no such person.")
			}
			if err == nil {
				err = s.Store.TurnSecondOff(ctx, in.ID)
			}
			if err != nil {
				return nil, s.failed(ctx, "second factor", err)
			}
			s.remembered.Purge()
			s.noted(ctx, in.caller, store.Password, fmt.Sprintf("took the second factor of %s away", named(p)))
			return nil, nil
		})
}

// secondDue says whether a person must set a second factor up before anything else.
func (s *entrance) secondDue(ctx context.Context, p store.Person) (bool, error) {
	if p.PasswordHash == "" || p.SecondOn || p.Changing {
		return false, nil
	}
	if d := s.App.LastAgreement(); d != nil {
		return d.SecondRequired, nil
	}
	d, err := s.App.Agreement(ctx)
	if err != nil {
		return false, err
	}
	return d.SecondRequired, nil
}

func (s *entrance) secondFault(ctx context.Context, err error) error {
	switch {
	case errors.Is(err, people.ErrWrong):
		return huma.Error403Forbidden(
			"This is not the code that the app shows just now, nor a spare one. A code is taken once; wait for the next one.",
		)
	case errors.Is(err, people.ErrSecondRequired):
		return huma.Error403Forbidden(sentence(err.Error()))
	case errors.Is(err, store.ErrTaken):
		return huma.Error409Conflict("The second factor is set up already, or was not begun. Look again.")
	}
	return s.failed(ctx, "second factor", err)
}
