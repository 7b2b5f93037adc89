package web

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
)

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

func (s *questions) registerHolding(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "holding", Method: http.MethodGet, Path: "/api/catalog/{set}/holding",
		Summary: "Text fields of a record set, and of records linked from it, that hold a text", Errors: []int{404},
	}, s.holding)
}

func (s *questions) holding(ctx context.Context, in *holdingInput) (*holdingOutput, error) {
	h, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if h.Catalog.Set(in.Set) == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + in.Set + "\".")
	}
	var refs []catalog.Ref
	for _, r := range h.Catalog.Reach(in.Set, reachDepth) {
		if !r.Hidden {
			refs = append(refs, r.Ref)
		}
	}
	held, err := h.Reader.Holding(ctx, refs, strings.TrimSpace(in.Text))
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
