package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/overview"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

type overviewInput struct {
	Body struct {
		View   view.Document `json:"view" doc:"Its filter decides which records count"`
		Fields []string      `json:"fields" minItems:"1" maxItems:"20" doc:"Paths of the fields to look over"`
	}
}

// FieldOverview is what a field holds under a filter.
type FieldOverview struct {
	Path      string       `json:"path"`
	Label     string       `json:"label"`
	Meaning   string       `json:"meaning"`
	Type      catalog.Type `json:"type" enum:"@types"`
	TypeName  string       `json:"typeName"`
	Records   int          `json:"records" doc:"Records that the filter keeps"`
	Filled    int          `json:"filled" doc:"Of them, those with a value"`
	Distinct  int          `json:"distinct" doc:"Different values"`
	Smallest  string       `json:"smallest,omitempty"`
	Largest   string       `json:"largest,omitempty"`
	Commonest []Common     `json:"commonest" doc:"The values that most records have"`
	Bins      []Bin        `json:"bins" doc:"How numbers and dates are spread; empty for others"`
	Remarks   []Remark     `json:"remarks" doc:"What is out of the ordinary, the gravest first"`
}

// Common is a value with the number of its records.
type Common struct {
	Label   string `json:"label"`
	Value   string `json:"value" doc:"As a condition's operand"`
	Records int    `json:"records"`
}

// Remark is one thing that is out of the ordinary.
type Remark struct {
	Kind  overview.Kind `json:"kind"`
	Words string        `json:"words"`
}

type overviewOutput struct {
	Body struct {
		Fields   []FieldOverview `json:"fields" doc:"In the order asked for"`
		Sentence string          `json:"sentence" doc:"Which records were looked at"`
	}
}

const (
	commonValues = 5
	overviewBins = 24
)

func (s *questions) registerOverview(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "overview", Method: http.MethodPost, Path: "/api/overview",
		Summary: "Look fields over under a filter: fullness, spread, commonest values, what is out of the ordinary",
		Errors:  []int{422}, MaxBodyBytes: maxBody,
	}, s.overview)
}

func (s *questions) overview(ctx context.Context, in *overviewInput) (*overviewOutput, error) {
	out := &overviewOutput{}
	out.Body.Fields = []FieldOverview{}
	for _, path := range in.Body.Fields {
		g, p, ref, err := s.filtered(ctx, &in.Body.View, path)
		if err != nil {
			return nil, err
		}
		profile, err := g.Reader.Profile(ctx, p, ref, commonValues, overviewBins)
		if err != nil {
			return nil, s.refused(ctx, err)
		}
		out.Body.Fields = append(out.Body.Fields, g.fieldOverview(ref, profile))
		out.Body.Sentence = filterWords(g, &in.Body.View)
	}
	return out, nil
}

func (g *requestScope) fieldOverview(ref catalog.Ref, p *result.Profile) FieldOverview {
	f := ref.Field
	out := FieldOverview{
		Path: ref.Path, Label: ref.Label, Meaning: f.Meaning, Type: f.Type, TypeName: f.Type.Info().Name,
		Records: p.Records, Filled: p.Records - p.Blank, Distinct: p.Distinct,
		Commonest: []Common{}, Bins: []Bin{}, Remarks: []Remark{},
	}
	pen := format.NewWriter(format.People, g.Calendar)
	if p.Distinct < p.Records-p.Blank || p.Distinct <= 1 { // where all differ, none is common
		for _, v := range p.Commonest {
			out.Commonest = append(out.Commonest, Common{pen.Cell(v.Value, f), result.Operand(g.Calendar, v.Value, f), v.Kept})
		}
	}
	if p.Spread != nil {
		out.Smallest, out.Largest = pen.Cell(p.Spread.Smallest, f), pen.Cell(p.Spread.Largest, f)
		for _, b := range p.Spread.Bins {
			out.Bins = append(out.Bins, g.bin(b, ref))
		}
	}
	for _, r := range overview.Of(g.Catalog.Set(ref.Set), f, p, g.Calendar) {
		out.Remarks = append(out.Remarks, Remark(r))
	}
	return out
}
