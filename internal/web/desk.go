package web

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

type (
	arrangeInput struct {
		Body struct {
			Keys []string `json:"keys" maxItems:"1000" doc:"Favorites in their order"`
		}
	}
	putAwayInput struct {
		Key  string `path:"key"`
		Body struct {
			Away bool `json:"away" doc:"It is not shown on the reader's desk"`
		}
	}
	answersInput struct {
		Key  string `path:"key"`
		Body struct {
			Answers map[string]json.RawMessage `json:"answers" doc:"Each as the operands of its condition"`
		}
	}
	answersOutput struct {
		Body struct {
			Answers map[string]json.RawMessage `json:"answers"`
		}
	}
	standardInput struct {
		Set  string `path:"set"`
		Body struct {
			Columns []string       `json:"columns,omitempty" maxItems:"200" doc:"Paths of the standard columns; those that the database suggests, if left out"`
			View    *view.Document `json:"view,omitempty" doc:"The standard view; none, if left out"`
		}
		caller
	}
)

func (s *library) registerDesk(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "arrange-favorites", Method: http.MethodPut, Path: "/api/favorites",
		Summary: "Put the favorites on one's desk into an order",
	},
		func(ctx context.Context, in *arrangeInput) (*struct{}, error) {
			if err := s.Store.Arrange(ctx, who(ctx).ID, in.Body.Keys); err != nil {
				return nil, s.failed(ctx, "favorites", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "put-away", Method: http.MethodPut, Path: "/api/favorites/{key}",
		Summary: "Take a shared favorite off one's own desk, or bring it back", Errors: []int{404},
	},
		func(ctx context.Context, in *putAwayInput) (*struct{}, error) {
			if _, err := s.view(ctx, in.Key); err != nil {
				return nil, err
			}
			if err := s.Store.PutAway(ctx, who(ctx).ID, in.Key, in.Body.Away); err != nil {
				return nil, s.failed(ctx, "favorites", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "keep-answers", Method: http.MethodPut, Path: "/api/views/{key}/answers",
		Summary: "Remember what one answered to a view's questions", MaxBodyBytes: maxBody, Errors: []int{404},
	},
		func(ctx context.Context, in *answersInput) (*struct{}, error) {
			if _, err := s.view(ctx, in.Key); err != nil {
				return nil, err
			}
			text, err := stored(in.Body.Answers)
			if err == nil {
				err = s.Store.KeepAnswers(ctx, who(ctx).ID, in.Key, text)
			}
			if err != nil {
				return nil, s.failed(ctx, "answers", err)
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "last-answers", Method: http.MethodGet, Path: "/api/views/{key}/answers",
		Summary: "What one answered last",
	},
		func(ctx context.Context, in *viewInput) (*answersOutput, error) {
			text, err := s.Store.LastAnswers(ctx, who(ctx).ID, in.Key)
			out := &answersOutput{}
			out.Body.Answers = map[string]json.RawMessage{}
			if err == nil && text != nil {
				err = json.Unmarshal(text, &out.Body.Answers)
			}
			if err != nil {
				return nil, s.failed(ctx, "answers", err)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "set-standard", Method: http.MethodPut, Path: "/api/catalog/{set}/standard",
		Summary: "Say what new views of a record set start with", Metadata: administrators, MaxBodyBytes: maxBody,
		Errors: []int{403, 404, 422},
	}, s.setStandard)
}

func (s *library) setStandard(ctx context.Context, in *standardInput) (*struct{}, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	set := g.Catalog.Set(in.Set)
	if set == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + in.Set + "\".")
	}
	st := store.Standard{Records: in.Set, Columns: in.Body.Columns}
	about := "columns as the database suggests"
	if len(in.Body.Columns) > 0 {
		about = fmt.Sprintf("%d columns", len(in.Body.Columns))
		doc := &view.Document{Gavrik: view.Version, Records: in.Set}
		for _, path := range in.Body.Columns {
			doc.Columns = append(doc.Columns, view.Column{Field: path})
		}
		if _, err := g.Check(doc); err != nil {
			return nil, s.refused(ctx, err)
		}
	}
	if doc := in.Body.View; doc != nil {
		if doc.Records != in.Set {
			return nil, huma.Error422UnprocessableEntity(fmt.Sprintf(
				"This view is of %s; the standard view of %s has to be of %s.", doc.Records, set.Many, set.Many,
			))
		}
		if _, err := g.Check(doc); err != nil {
			return nil, s.refused(ctx, err)
		}
		if st.Document, err = stored(doc); err != nil {
			return nil, s.failed(ctx, "standard", err)
		}
		about += ", and a standard view"
	}
	if err := s.Store.SetStandard(ctx, who(ctx).ID, st); err != nil {
		return nil, s.failed(ctx, "standard", err)
	}
	s.noted(ctx, in.caller, store.Standards, fmt.Sprintf("%s: %s", set.Label, about))
	return nil, nil
}

// standard is what a new view of a record set starts with: the columns that an
// administrator has set, as far as the reader sees them, or else those that the
// database suggests; and the standard view, if there is one that she can run.
func (g *requestScope) standard(set *catalog.RecordSet) (columns []string, start *view.Document, own bool) {
	for _, st := range g.Agreed.Standards {
		if st.Records != set.Key {
			continue
		}
		for _, path := range st.Columns {
			doc := &view.Document{Gavrik: view.Version, Records: set.Key, Columns: []view.Column{{Field: path}}}
			if p, err := g.Check(doc); err == nil && len(p.Columns) > 0 {
				columns = append(columns, path)
			}
		}
		if doc, err := view.Parse(st.Document); st.Document != nil && err == nil {
			if _, err := g.Check(doc); err == nil {
				start = doc
			}
		}
		own = len(st.Columns) > 0
	}
	if len(columns) == 0 {
		columns = append([]string{}, set.Standard...)
	}
	return columns, start, own
}
