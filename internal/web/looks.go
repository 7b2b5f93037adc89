package web

import (
	"context"
	"gavrik/internal/core/result"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

type behindInput struct {
	Body struct {
		View   view.Document `json:"view"`
		Group  string        `json:"group,omitempty" doc:"Path of the group; empty for the grand total"`
		Column int           `json:"column" minimum:"-1" doc:"Place among the columns of a run, which matters in a crosstab; -1 for any"`
	}
}

type behindOutput struct {
	Body struct {
		Conditions []view.Condition `json:"conditions" doc:"What the records meet beside the view's own filter"`
		Labels     []string         `json:"labels" doc:"The groups they lie in, from the outermost in, down and then across"`
	}
}

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

type holdingInput struct {
	Set  string `path:"set"`
	Text string `query:"text" maxLength:"200" required:"true" doc:"What the values must hold"`
}

type holdingOutput struct {
	Body struct {
		Fields []Holding `json:"fields" doc:"The nearest first"`
	}
}

// Holding is a text field that holds what was searched for.
type Holding struct {
	Path   string   `json:"path"`
	Found  int      `json:"found" doc:"How many of its different values hold the text"`
	Values []string `json:"values" doc:"The first of them"`
}

func (s *server) registerLooks(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "behind", Method: http.MethodPost, Path: "/api/behind", Summary: "The conditions that lead to the records behind a figure", MaxBodyBytes: maxBody, Errors: []int{404, 422}}, s.behind)
	huma.Register(api, huma.Operation{OperationID: "changes", Method: http.MethodPost, Path: "/api/changes", Summary: "What changed between two states of a view, in words", MaxBodyBytes: 2 * maxBody, Errors: []int{422}}, s.changes)
	huma.Register(api, huma.Operation{OperationID: "holding", Method: http.MethodGet, Path: "/api/catalog/{set}/holding", Summary: "Text fields of a record set, and of records linked from it, that hold a text", Errors: []int{404}}, s.holding)
}

func (s *server) behind(ctx context.Context, in *behindInput) (*behindOutput, error) {
	_, a, err := s.answered(ctx, &in.Body.View, true)
	if err != nil {
		return nil, err
	}
	through, err := a.DrillThrough(in.Body.Group, in.Body.Column)
	if err != nil {
		return nil, huma.Error404NotFound(sentence(strings.TrimPrefix(err.Error(), "engine: ")))
	}
	out := &behindOutput{}
	out.Body.Conditions = append([]view.Condition{}, through.Conditions...)
	out.Body.Labels = append([]string{}, a.Pen(format.People).Groups(through.Down, through.Across)...)
	return out, nil
}

func (s *server) changes(ctx context.Context, in *changesInput) (*changesOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	version := func(doc *view.Document) (brief.Version, error) {
		p, err := g.check(doc)
		if err != nil {
			return brief.Version{}, s.refused(ctx, err)
		}
		return brief.Version{Doc: doc, Plan: p, Set: g.catalog.Set(doc.Records)}, nil
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

func (s *server) holding(ctx context.Context, in *holdingInput) (*holdingOutput, error) {
	h, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if h.catalog.Set(in.Set) == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + in.Set + "\".")
	}
	var refs []catalog.Ref
	for _, r := range h.catalog.Reach(in.Set, reachDepth) {
		refs = append(refs, r.Ref)
	}
	held, err := h.reader.Holding(ctx, refs, strings.TrimSpace(in.Text))
	if err != nil {
		return nil, s.failed(ctx, "holding", err)
	}
	out := &holdingOutput{}
	out.Body.Fields = []Holding{}
	for _, x := range held {
		out.Body.Fields = append(out.Body.Fields, Holding{Path: x.Ref.Path, Found: x.Found, Values: x.Values})
	}
	return out, nil
}

// Drawing is a chart of the groups: one total as marks along an axis.
type Drawing struct {
	Kind    view.ChartKind `json:"kind"`
	Fits    view.ChartKind `json:"fits" doc:"The kind that fits the groups"`
	Total   string         `json:"total" doc:"What is drawn"`
	Axis    string         `json:"axis" doc:"The level along the axis"`
	By      string         `json:"by" doc:"The level that makes the series; empty for one series"`
	Unit    string         `json:"unit" enum:"percent,hours," doc:"What the values are; none for plain numbers"`
	Places  []string       `json:"places" doc:"Labels along the axis"`
	Series  []ChartSeries  `json:"series"`
	Trouble string         `json:"trouble" doc:"Why nothing is drawn, and how to mend it"`
	Notes   []string       `json:"notes" doc:"What is left out"`
}

// ChartSeries is the marks of one colour.
type ChartSeries struct {
	Label string `json:"label"`
	Marks []Mark `json:"marks" doc:"One for each place"`
}

// Mark is one figure of a chart.
type Mark struct {
	Value  *float64 `json:"value,omitempty" doc:"None where there is no figure"`
	Text   string   `json:"text" doc:"As the ledger shows it"`
	Group  string   `json:"group,omitempty" doc:"Path of the group it stands for"`
	Column int      `json:"column" doc:"Place among the columns of the run; -1 for the number of records"`
	Leads  bool     `json:"leads" doc:"It stands for one group, whose records can be seen"`
}

func chart(ctx context.Context, r result.Result) (*Drawing, error) {
	c, err := r.Chart(ctx)
	if c == nil || err != nil {
		return nil, err
	}
	out := &Drawing{Kind: c.Kind, Fits: c.Fits, Total: c.Total, Axis: c.Axis, By: c.By, Unit: c.Unit, Places: append([]string{}, c.Places...), Series: []ChartSeries{}, Trouble: c.Trouble, Notes: append([]string{}, c.Notes...)}
	for _, s := range c.Series {
		series := ChartSeries{Label: s.Label, Marks: make([]Mark, len(s.Marks))}
		for i, m := range s.Marks {
			series.Marks[i] = Mark{Text: m.Text, Group: m.Group, Column: m.Head, Leads: m.Leads}
			if m.Value == m.Value {
				series.Marks[i].Value = &m.Value
			}
		}
		out.Series = append(out.Series, series)
	}
	return out, nil
}
