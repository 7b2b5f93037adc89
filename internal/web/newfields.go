package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/store"
)

// NewField is a field, or a record set, that came with a later load or was renamed:
// whoever has limits does not see it before an administrator says so.
type NewField struct {
	Set   string    `json:"set"`
	Field string    `json:"field" doc:"Empty for a whole record set"`
	Label string    `json:"label"`
	Of    string    `json:"of" doc:"Label of the record set"`
	Since time.Time `json:"since"`
}

type showInput struct {
	Set  string `path:"set"`
	Body struct {
		Field string `json:"field" maxLength:"200" doc:"Empty for the record set with the fields that came with it"`
	}
	caller
}

func (s *rules) registerNewFields(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "show-new", Method: http.MethodPost, Path: "/api/catalog/{set}/shown",
		Summary: "Show a new field or record set to those whose limits allow it", Metadata: administrators,
		Errors: []int{403, 404},
	},
		func(ctx context.Context, in *showInput) (*struct{}, error) {
			g, err := s.fullScope(ctx)
			if err != nil {
				return nil, err
			}
			set := g.Catalog.Set(in.Set)
			if set == nil || in.Body.Field != "" && set.Field(in.Body.Field) == nil {
				return nil, huma.Error404NotFound("There is no such field any more. Load the records again, and look.")
			}
			err = s.Store.ShowField(ctx, store.SensitiveField{Set: in.Set, Field: in.Body.Field})
			if errors.Is(err, store.ErrNotFound) {
				return nil, huma.Error404NotFound("This field is not known yet. Load the records again, and look.")
			}
			if err != nil {
				return nil, s.failed(ctx, "new field", err)
			}
			words := set.Label
			if in.Body.Field != "" {
				words = fmt.Sprintf("%s of %s", set.Field(in.Body.Field).Label, set.Many)
			}
			s.noted(ctx, in.caller, store.Permission, words+", which is new, may be seen")
			return nil, nil
		})
}

// newFields are those that nobody has shown yet; of a new record set, the set alone.
func (g *requestScope) newFields() []NewField {
	out := []NewField{}
	for _, k := range g.Agreed.Known {
		set := g.Catalog.Set(k.Set)
		switch {
		case k.Shown || set == nil || k.Field != "" && (set.Field(k.Field) == nil || !g.Agreed.Shows(k.Set, "")):
		case k.Field == "":
			out = append(out, NewField{k.Set, "", set.Label, set.Label, k.Since})
		default:
			out = append(out, NewField{k.Set, k.Field, set.Field(k.Field).Label, set.Label, k.Since})
		}
	}
	return out
}

// lost says which limits and marks name what is not there any more: it may have come back
// under another name.
func (g *requestScope) lost() []string {
	out := []string{}
	gone := func(set, field, whose string) {
		switch of := g.Catalog.Set(set); {
		case of == nil:
			out = append(out, fmt.Sprintf("%s the record set “%s”, which is not there any more.", whose, set))
		case field != "" && of.Field(field) == nil:
			out = append(
				out, fmt.Sprintf("%s the field “%s” of %s, which is not there any more.", whose, field, of.Many),
			)
		}
	}
	for _, f := range g.Agreed.Sensitive {
		gone(f.Set, f.Field, "The mark “sensitive” is on")
	}
	for _, group := range g.Agreed.Groups {
		for _, l := range group.Limits {
			whose := fmt.Sprintf("The group “%s” limits", group.Name)
			gone(l.Set, "", whose)
			if g.Catalog.Set(l.Set) != nil {
				for _, f := range l.Fields {
					gone(l.Set, f, whose)
				}
			}
		}
	}
	return out
}
