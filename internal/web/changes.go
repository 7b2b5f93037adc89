package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/view"
)

type changesInput struct {
	Body struct {
		From view.Document `json:"from"`
		To   view.Document `json:"to"`
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
		Summary: "What changed between two states of a view, in words", MaxBodyBytes: 2 * maxBody,
		Errors: []int{422},
	}, s.changes)
}

func (s *questions) changes(ctx context.Context, in *changesInput) (*changesOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	version := func(doc *view.Document) (brief.Version, error) {
		p, err := g.Check(doc)
		if err != nil {
			return brief.Version{}, s.refused(ctx, err)
		}
		return brief.Version{Doc: doc, Plan: p, Set: g.Catalog.Set(doc.Records)}, nil
	}
	from, err := version(&in.Body.From)
	if err != nil {
		return nil, err
	}
	to, err := version(&in.Body.To)
	if err != nil {
		return nil, err
	}
	out := &changesOutput{}
	out.Body.Changes = append([]string{}, brief.Changes(from, to)...)
	return out, nil
}
