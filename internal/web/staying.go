package web

import (
	"context"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/result"
	"gavrik/internal/store"
)

// By whom it was settled that records stay in their database.
const (
	settledHere     = "here"
	settledByServer = "server"
	settledBySize   = "size"
)

type stayInput struct {
	Set  string `path:"set"`
	Body struct {
		Stays bool `json:"stays" doc:"The records stay in their database, and are asked for there"`
	}
	caller
}

// Asking is a question of the one who asks that a database is working on.
type Asking struct {
	Records  string  `json:"records" doc:"Key of the record set"`
	Many     string  `json:"many" doc:"What its records are called"`
	About    int     `json:"about,omitempty" doc:"About how many there are, if that may be told"`
	Seconds  float64 `json:"seconds" doc:"For how long it has been under way"`
	Expected float64 `json:"expected" doc:"Seconds that it may take in all, by how long others took; 0 if nobody knows"`
	Parts    int     `json:"parts,omitempty" doc:"Parts of the table that are asked"`
	Done     int     `json:"done,omitempty" doc:"Of them, those that have answered"`
}

type askingOutput struct {
	Body struct {
		Asking []Asking `json:"asking" doc:"The first one first"`
	}
}

func (s *questions) registerStaying(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "stay", Method: http.MethodPut, Path: "/api/staying/{set}",
		Summary:  "Leave the records of a set in their database, or have them in memory",
		Metadata: administrators, Errors: []int{403, 404, 409, 502},
	}, s.stay)
	huma.Register(api, huma.Operation{
		OperationID: "asking", Method: http.MethodGet, Path: "/api/asking",
		Summary: "Questions of one's own that databases are working on",
	}, s.asking)
}

// settled says of record sets that stay by whom that was settled; for administrators.
func (s *questions) settled(ctx context.Context, g *requestScope) (map[string]string, error) {
	out := map[string]string{}
	if !who(ctx).Administrator() {
		return out, nil
	}
	here, err := s.Store.Staying(ctx)
	if err != nil {
		return nil, err
	}
	for _, set := range g.Catalog.Sets {
		switch {
		case !set.Stays:
		case g.StaysBySize(set.Key):
			out[set.Key] = settledBySize
		case slices.Contains(here, set.Key):
			out[set.Key] = settledHere
		default:
			out[set.Key] = settledByServer
		}
	}
	return out, nil
}

func (s *questions) stay(ctx context.Context, in *stayInput) (*struct{}, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	set := g.Catalog.Set(in.Set)
	if set == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + in.Set + "\".")
	}
	settled, err := s.settled(ctx, g)
	if err != nil {
		return nil, s.failed(ctx, "staying", err)
	}
	switch {
	case set.File:
		return nil, huma.Error409Conflict("What came in a file is in memory.")
	case set.Stays && settled[set.Key] == settledBySize:
		return nil, huma.Error409Conflict(
			"In memory " + set.Many + " would take more than they may; give the server more with --memory-records.",
		)
	case set.Stays && settled[set.Key] == settledByServer:
		return nil, huma.Error409Conflict("The server was started so that " + set.Many + " stay: --in-database.")
	case set.Stays == in.Body.Stays:
		return nil, nil
	}
	if err := s.Store.LetStay(ctx, set.Key, in.Body.Stays); err != nil {
		return nil, s.failed(ctx, "staying", err)
	}
	if err := s.Workspace.Refresh(ctx); err != nil {
		s.Log.Error("staying", "set", set.Key, "error", err)
		// What could not be done is not left to the next load.
		if err := s.Store.LetStay(context.WithoutCancel(ctx), set.Key, set.Stays); err != nil {
			s.Log.Error("staying", "set", set.Key, "error", err)
		}
		return nil, huma.NewError(
			http.StatusBadGateway, "The records could not be loaded so; everything is as it was. "+sentence(err.Error()),
		)
	}
	words := set.Many + " stay in their database"
	if !in.Body.Stays {
		words = set.Many + " are in memory"
	}
	s.noted(ctx, in.caller, store.Describing, words)
	return nil, nil
}

func (s *questions) asking(ctx context.Context, _ *struct{}) (*askingOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &askingOutput{}
	out.Body.Asking = []Asking{}
	for _, q := range s.Workspace.Asking(ctx) {
		set := g.Catalog.Set(q.Set)
		if set == nil {
			continue // it is asked of for a rule
		}
		one := Asking{
			Records: set.Key, Many: set.Many, Seconds: q.For.Seconds(),
			Expected: q.Expected.Seconds(), Parts: q.Parts, Done: q.Done,
		}
		if n := rowsOf(g, set.Key); n != result.Unknown {
			one.About = n
		}
		out.Body.Asking = append(out.Body.Asking, one)
	}
	return out, nil
}
