package web

import (
	"context"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

type valuesInput struct {
	Body struct {
		View   view.Document `json:"view" doc:"Its filter decides which records count; leave the condition being edited out"`
		Field  string        `json:"field"`
		Search string        `json:"search,omitempty" maxLength:"200"`
		Limit  int           `json:"limit" minimum:"1" maximum:"1000"`
	}
}

// ValueCount is one value with its counts.
type ValueCount struct {
	Value string `json:"value" doc:"As a condition's operand"`
	Label string `json:"label"`
	Kept  int    `json:"kept" doc:"Records that have it under the filter"`
	All   int    `json:"all" doc:"Records that have it without any filter"`
}

type valuesOutput struct {
	Body struct {
		Distinct  int          `json:"distinct" doc:"Different values there are"`
		Found     int          `json:"found" doc:"Of them, those that hold the search text"`
		Values    []ValueCount `json:"values"`
		BlankKept int          `json:"blankKept"`
		BlankAll  int          `json:"blankAll"`
	}
}

func (s *questions) values(ctx context.Context, in *valuesInput) (*valuesOutput, error) {
	g, p, ref, err := s.filtered(ctx, &in.Body.View, in.Body.Field)
	if err != nil {
		return nil, err
	}
	v, err := g.Reader.Values(ctx, p, ref, strings.TrimSpace(in.Body.Search), in.Body.Limit)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out := &valuesOutput{}
	out.Body.Distinct, out.Body.Found = v.Distinct, v.Found
	out.Body.BlankKept, out.Body.BlankAll = v.BlankKept, v.BlankAll
	out.Body.Values = make([]ValueCount, len(v.List))
	people := format.NewWriter(format.People, g.Calendar)
	for i, x := range v.List {
		out.Body.Values[i] = ValueCount{
			Value: result.Operand(g.Calendar, x.Value, ref.Field), Label: people.Cell(x.Value, ref.Field),
			Kept: x.Kept, All: x.All,
		}
	}
	return out, nil
}

// filtered checks what a question about one field under a view's filter needs: a
// fault elsewhere in the view must not stop it.
func (s *questions) filtered(
	ctx context.Context, doc *view.Document, field string,
) (*requestScope, *plan.Plan, catalog.Ref, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, nil, catalog.Ref{}, err
	}
	p, ref, err := g.Field(doc, field)
	if err != nil {
		return nil, nil, ref, s.refused(ctx, err)
	}
	return g, p, ref, nil
}
