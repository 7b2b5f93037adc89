package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/explain"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

type drillThroughInput struct {
	Body struct {
		View   view.Document `json:"view"`
		Group  string        `json:"group,omitempty" doc:"Path of the group; empty for the grand total"`
		Column int           `json:"column" minimum:"-1" doc:"Place among the columns of a run, which matters in a crosstab; -1 for any"`
	}
}

type drillThroughOutput struct {
	Body struct {
		Conditions []view.Condition `json:"conditions" doc:"What the records meet beside the view's own filter"`
		Labels     []string         `json:"labels" doc:"The groups they lie in, from the outermost in, down and then across"`
	}
}

func (s *questions) registerDrillThrough(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "behind", Method: http.MethodPost, Path: "/api/behind",
		Summary: "The conditions that lead to the records behind a figure", MaxBodyBytes: maxBody,
		Errors: []int{404, 422},
	}, s.drillThrough)
}

func (s *questions) drillThrough(ctx context.Context, in *drillThroughInput) (*drillThroughOutput, error) {
	_, a, err := s.answered(ctx, &in.Body.View, true)
	if err != nil {
		return nil, err
	}
	through, err := explain.DrillThrough(ctx, a, in.Body.Group, in.Body.Column)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out := &drillThroughOutput{}
	out.Body.Conditions = append([]view.Condition{}, through.Conditions...)
	out.Body.Labels = append([]string{}, a.Pen(format.People).Groups(through.Down, through.Across)...)
	return out, nil
}
