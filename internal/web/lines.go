package web

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Opening says which lines are wanted.
type Opening struct {
	Depth   int      `json:"depth" minimum:"-1" maximum:"20" doc:"Levels of groups that are open; -1 for the grand total alone"`
	Toggled []string `json:"toggled,omitempty" maxItems:"10000" doc:"Paths of groups that are the other way round"`
	Offset  int      `json:"offset,omitempty" minimum:"0" doc:"First line wanted"`
	Limit   int      `json:"limit" minimum:"0" maximum:"1000" doc:"Lines wanted"`
	Plain   bool     `json:"plain,omitempty" doc:"Cells for other programs: plain decimals, ISO 8601 dates"`
}

func (o *Opening) style() format.Style {
	if o.Plain {
		return format.Plain
	}
	return format.People
}

// Lines are a part of a result.
type Lines struct {
	Lines  []Line `json:"lines"`
	Above  []Line `json:"above" doc:"Lines of the groups that the first line lies in"`
	Total  int    `json:"total" doc:"Lines there are with these groups open"`
	Offset int    `json:"offset"`
}

type linesInput struct {
	Body struct {
		Result string `json:"result" maxLength:"4000" doc:"As the run that answered the view named it"`
		Opening
	}
}

type linesOutput struct{ Body Lines }

func (s *questions) registerLines(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "lines", Method: http.MethodPost, Path: "/api/lines",
		Summary: "Read further lines of a result", MaxBodyBytes: maxBody, Errors: []int{410, 422}, Metadata: ofKept,
	}, s.lines)
}

// lines reads a result that was answered before. The view is neither read, nor checked, nor
// run again, so the lines fit those read before. A name leads to nothing but what a reader who
// sees the same was answered.
func (s *questions) lines(ctx context.Context, in *linesInput) (*linesOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	found, ok := g.Kept(in.Body.Result)
	if !ok {
		return nil, huma.NewError(http.StatusGone, "The result is not kept any more; run the view again.")
	}
	lines, err := (&answer{found}).lines(ctx, &in.Body.Opening)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	return &linesOutput{lines}, nil
}

// lines reads a part of a result.
func (a *answer) lines(ctx context.Context, o *Opening) (Lines, error) {
	w, err := a.Window(ctx, result.Open{Depth: o.Depth, Toggled: o.Toggled}, o.Offset, o.Limit)
	if err != nil {
		return Lines{}, err
	}
	return Lines{
		Lines: a.written(w.Lines, o.style()), Above: a.written(w.Above, o.style()), Total: w.Total,
		Offset: w.Offset,
	}, nil
}
