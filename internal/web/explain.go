package web

import (
	"context"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/explain"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

type distributionInput struct {
	Body struct {
		View  view.Document `json:"view"`
		Field string        `json:"field"`
		Bins  int           `json:"bins" minimum:"4" maximum:"200" doc:"How many stretches at most"`
	}
}

// Bin is one stretch of a distribution.
type Bin struct {
	Label string `json:"label"`
	From  string `json:"from,omitempty" doc:"Lower bound as a condition's operand, itself included"`
	Below string `json:"below,omitempty" doc:"Upper bound, itself left out"`
	To    string `json:"to,omitempty" doc:"Upper bound, itself included"`
	Value string `json:"value,omitempty" doc:"In place of bounds: the one value"`
	Kept  int    `json:"kept"`
	All   int    `json:"all"`
}

type distributionOutput struct {
	Body struct {
		Bins      []Bin  `json:"bins"`
		BlankKept int    `json:"blankKept"`
		BlankAll  int    `json:"blankAll"`
		Smallest  string `json:"smallest" doc:"Under the filter"`
		Largest   string `json:"largest"`
	}
}

func (s *questions) distribution(ctx context.Context, in *distributionInput) (*distributionOutput, error) {
	g, p, ref, err := s.filtered(ctx, &in.Body.View, in.Body.Field)
	if err != nil {
		return nil, err
	}
	d, err := g.Reader.Distribution(ctx, p, ref, in.Body.Bins)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out := &distributionOutput{}
	out.Body.Bins = make([]Bin, len(d.Bins))
	for i, b := range d.Bins {
		out.Body.Bins[i] = g.bin(b, ref)
	}
	people := format.NewWriter(format.People, g.Calendar)
	out.Body.BlankKept, out.Body.BlankAll = d.BlankKept, d.BlankAll
	out.Body.Smallest, out.Body.Largest = people.Cell(d.Smallest, ref.Field), people.Cell(d.Largest, ref.Field)
	return out, nil
}

// bin writes a stretch of a distribution.
func (g *requestScope) bin(b result.Bin, of catalog.Ref) Bin {
	operand := func(c cell.Cell) string { return result.Operand(g.Calendar, c, of.Field) }
	return Bin{
		Label: b.Label(g.Calendar, of.Field), From: operand(b.From), Below: operand(b.Below), To: operand(b.To),
		Value: operand(b.Value), Kept: b.Kept, All: b.All,
	}
}

type explainInput struct {
	Body struct {
		View   view.Document `json:"view"`
		Group  string        `json:"group,omitempty" doc:"Path of the group; empty for the grand total"`
		Column int           `json:"column" minimum:"0" doc:"Place among the columns of a run"`
	}
}

// Explanation tells how a total came about.
type Explanation struct {
	Label    string   `json:"label"`
	Value    string   `json:"value" doc:"As the ledger shows it"`
	Sentence string   `json:"sentence" doc:"The whole in words"`
	Groups   []string `json:"groups"`
	Records  int      `json:"records"`
	Counted  int      `json:"counted" doc:"Values that went in; -1 if not known"`
	Blanks   int      `json:"blanks" doc:"Values passed over because they are blank; -1 if not known"`
	Once     string   `json:"once,omitempty" doc:"The linked record that counts once"`
	Formula  string   `json:"formula,omitempty"`
	Mix      bool     `json:"mix,omitempty" doc:"An average of prices that differ"`
	Problems []string `json:"problems"`
}

type explainOutput struct{ Body Explanation }

func (s *questions) explain(ctx context.Context, in *explainInput) (*explainOutput, error) {
	_, a, err := s.answered(ctx, &in.Body.View, true)
	if err != nil {
		return nil, err
	}
	x, err := explain.Figure(ctx, a, in.Body.Group, in.Body.Column)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	pen := a.Pen(format.People)
	out := &explainOutput{Body: Explanation{
		Label: x.Label, Value: pen.Figure(x.Head, x.Value), Sentence: x.Sentence(a.Summary),
		Groups:  append(append([]string{}, pen.Labels(x.Down)...), pen.Across(x.Across)...),
		Records: x.Records, Counted: x.Counted, Blanks: x.Blanks, Once: x.PerLinked, Mix: x.Mix != nil,
		Formula: x.Formula, Problems: []string{},
	}}
	for _, p := range x.Problems {
		out.Body.Problems = append(out.Body.Problems, p.String())
	}
	return out, nil
}
