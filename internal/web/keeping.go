package web

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/recurrence"
	"gavrik/internal/core/trigger"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// KeepingPlan is a plan by which results of a view are kept.
type KeepingPlan struct {
	When    recurrence.Rule       `json:"when"`
	Answers map[string]view.Given `json:"answers,omitempty" doc:"To the view's questions, by their names"`
	Hold    int                   `json:"hold" minimum:"1" maximum:"1000" doc:"How many of those kept by it are held on to"`
}

type (
	keepingOutput struct {
		Body struct {
			Plan  *KeepingPlan `json:"plan,omitempty" doc:"The reader's own; left out if there is none"`
			Words string       `json:"words" doc:"When, in words"`
			Stand string       `json:"stand" doc:"When it comes next, in words"`
			Why   string       `json:"why" doc:"Why it has paused, or empty"`
		}
	}
	setKeepingInput struct {
		Key  string `path:"key"`
		Body KeepingPlan
	}
)

func (s *recurring) registerKeeping(api huma.API) {
	op := func(id, method, summary string, codes ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: "/api/views/{key}/keeping", Summary: summary, Metadata: analysts,
			Errors: append(codes, 403, 404),
		}
	}
	huma.Register(api, op("keeping", http.MethodGet, "The plan by which one has results of a view kept"), s.keeping)
	huma.Register(api, op("set-keeping", http.MethodPut, "Have results of a view kept again and again", 422), s.setKeeping)
	huma.Register(api, op("end-keeping", http.MethodDelete, "Have no more results of a view kept; those that were stay"),
		func(ctx context.Context, in *viewInput) (*struct{}, error) {
			if _, err := s.savedView(ctx, in.Key); err != nil {
				return nil, err
			}
			if err := s.Store.EndKeeping(ctx, who(ctx).ID, in.Key); err != nil {
				return nil, s.failed(ctx, "keeping", err)
			}
			return nil, nil
		})
}

func (s *recurring) keeping(ctx context.Context, in *viewInput) (*keepingOutput, error) {
	if _, err := s.savedView(ctx, in.Key); err != nil {
		return nil, err
	}
	out := &keepingOutput{}
	k, err := s.Store.Keeping(ctx, who(ctx).ID, in.Key)
	if errors.Is(err, store.ErrNotFound) {
		return out, nil
	}
	if err != nil {
		return nil, s.failed(ctx, "keeping", err)
	}
	t, err := app.TermsOf(k.Rule, k.Answers, nil)
	if err != nil {
		return nil, s.failed(ctx, "keeping", err)
	}
	b := &out.Body
	b.Plan, b.Words, b.Why = &KeepingPlan{t.Rule, t.Answers, k.Hold}, t.Rule.Words(), sentence(k.PausedWhy)
	if k.NextAt != nil && k.PausedWhy == "" {
		b.Stand = "next " + dayWords(*k.NextAt, s.Workspace.Now(), s.Workspace.Calendar().Zone)
	}
	return out, nil
}

func (s *recurring) setKeeping(ctx context.Context, in *setKeepingInput) (*keepingOutput, error) {
	if _, err := s.savedView(ctx, in.Key); err != nil {
		return nil, err
	}
	t, _, err := s.asked(ctx, in.Key, &in.Body.When, in.Body.Answers, trigger.Trigger{})
	if err != nil {
		return nil, err
	}
	k := store.Keeping{
		View: in.Key, OwnerID: who(ctx).ID, Hold: in.Body.Hold, NextAt: s.Workspace.Next(t.Rule),
	}
	if k.Rule, k.Answers, _, err = keptTerms(t); err == nil {
		err = s.Store.SetKeeping(ctx, k)
	}
	if err != nil {
		return nil, s.failed(ctx, "keeping", err)
	}
	return s.keeping(ctx, &viewInput{in.Key})
}
