package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

type changesInput struct {
	Body struct {
		From Content `json:"from"`
		To   Content `json:"to"`
	}
}

type changesOutput struct {
	Body struct {
		Changes []string `json:"changes" doc:"What leads from one to the other, a phrase for each; none if both say the same"`
	}
}

func (s *questions) registerChanges(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "changes", Method: http.MethodPost, Path: "/api/changes",
		Summary: "What changed between two states of a view or a board, in words", MaxBodyBytes: 2 * maxBody,
		Errors: []int{422},
	}, s.changes)
}

func (s *questions) changes(ctx context.Context, in *changesInput) (*changesOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	changes, err := s.changed(ctx, g, in.Body.From, in.Body.To)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out := &changesOutput{}
	out.Body.Changes = append([]string{}, changes...)
	return out, nil
}
