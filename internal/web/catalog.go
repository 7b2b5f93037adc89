package web

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

// RecordSet is what one row of a view can be.
type RecordSet struct {
	Key      string   `json:"key"`
	Label    string   `json:"label"`
	One      string   `json:"one" doc:"One of them, in running text"`
	Grain    string   `json:"grain" doc:"What one row is, in a sentence"`
	Count    int      `json:"count"`
	Standard []string `json:"standard" doc:"Paths of the standard columns"`
}

type catalogOutput struct {
	Body struct {
		Sets    []RecordSet `json:"sets"`
		Notices []string    `json:"notices" doc:"What the database holds that could not be offered, and how to mend it"`
		AsOf    time.Time   `json:"asOf" doc:"Moment of the records"`
	}
}

// Field is a field that a view of some record set can use.
type Field struct {
	Path    string       `json:"path"`
	Label   string       `json:"label" doc:"Label with as much of the way as it needs"`
	Way     []string     `json:"way" doc:"Labels of the links followed"`
	Meaning string       `json:"meaning"`
	Type    catalog.Type `json:"type" enum:"text,whole,decimal,money,percent,date,datetime,duration,yesno,picture"`
	Numeric bool         `json:"numeric" doc:"Values are aligned to the right"`
	Filled  float64      `json:"filled" doc:"Share of the field's records that are not blank, from 0 to 1"`
	Samples []string     `json:"samples"`
	Ops     []OpChoice   `json:"ops" doc:"Operators that fit, the likeliest first"`
	Fns     []FnChoice   `json:"fns" doc:"Totals that fit, the likeliest first"`
}

// OpChoice is an operator with its words.
type OpChoice struct {
	Op     view.Op `json:"op"`
	Label  string  `json:"label"`
	Fields bool    `json:"fields" doc:"May compare with a second field"`
}

// FnChoice is a total with its words.
type FnChoice struct {
	Fn    view.Fn `json:"fn"`
	Label string  `json:"label"`
}

type fieldsInput struct {
	Set string `path:"set"`
}

type fieldsOutput struct {
	Body struct {
		Fields []Field `json:"fields"`
	}
}

// reachDepth is how many links away fields are offered.
const reachDepth = 4

func (s *server) registerCatalog(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "catalog", Method: http.MethodGet, Path: "/api/catalog", Summary: "Record sets"},
		func(_ context.Context, _ *struct{}) (*catalogOutput, error) {
			h := s.Workspace.held.Load()
			out := &catalogOutput{}
			out.Body.AsOf = h.engine.Snapshot().AsOf
			out.Body.Notices = append([]string{}, h.catalog.Notices...)
			for _, set := range h.catalog.Sets {
				out.Body.Sets = append(out.Body.Sets, RecordSet{
					Key: set.Key, Label: set.Label, One: set.One, Grain: set.Grain, Standard: set.Standard,
					Count: h.engine.Snapshot().Tables[set.Key].Rows,
				})
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{OperationID: "fields", Method: http.MethodGet, Path: "/api/catalog/{set}/fields", Summary: "Fields of a record set and of the records linked from it", Errors: []int{404}},
		func(_ context.Context, in *fieldsInput) (*fieldsOutput, error) { return s.fields(in.Set) })
	huma.Register(api, huma.Operation{OperationID: "refresh", Method: http.MethodPost, Path: "/api/refresh", Summary: "Load the records again", Errors: []int{403, 502}},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			if !who(ctx).Administrator {
				return nil, huma.Error403Forbidden("Only an administrator can load the records again.")
			}
			if err := s.Workspace.Refresh(ctx); err != nil {
				s.Log.Error("refresh", "error", err)
				return nil, huma.NewError(http.StatusBadGateway, "The records could not be loaded again; those in memory stay. "+err.Error())
			}
			return nil, nil
		})
}

func (s *server) fields(set string) (*fieldsOutput, error) {
	h := s.Workspace.held.Load()
	if h.catalog.Set(set) == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + set + "\".")
	}
	pen := format.NewWriter(format.People, s.Workspace.Calendar())
	out := &fieldsOutput{}
	for _, r := range h.catalog.Reach(set, reachDepth) {
		facts, err := h.engine.Facts(r.Ref, pen)
		if err != nil {
			return nil, s.failed("fields", err)
		}
		f := Field{
			Path: r.Path, Label: r.Label, Way: append([]string{}, r.Way...), Meaning: r.Field.Meaning, Type: r.Field.Type,
			Numeric: r.Field.Type.Numeric(), Samples: append([]string{}, facts.Samples...),
			Ops: ops(r.Field.Type), Fns: fns(r.Field.Type),
		}
		if facts.Rows > 0 {
			f.Filled = 1 - float64(facts.Blanks)/float64(facts.Rows)
		}
		out.Body.Fields = append(out.Body.Fields, f)
	}
	return out, nil
}

func ops(t catalog.Type) []OpChoice {
	var out []OpChoice
	for _, op := range view.OpsFor(t) {
		label := op.Words(t)
		switch op {
		case view.OneOf:
			label = "is one of"
		case view.NoneOf:
			label = "is none of"
		case view.Between:
			label = "is between"
		case view.NotBetween:
			label = "is not between"
		case view.In:
			label = "is in a period"
		case view.NotIn:
			label = "is not in a period"
		}
		out = append(out, OpChoice{Op: op, Label: label, Fields: op.ComparesFields()})
	}
	return out
}

func fns(t catalog.Type) []FnChoice {
	var out []FnChoice
	for _, fn := range view.FnsFor(t) {
		out = append(out, FnChoice{Fn: fn, Label: fn.Heading(t)})
	}
	return out
}
