package web

import (
	"context"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

// ViewFile is views as a file, with what they are made of, to be brought in elsewhere.
type ViewFile struct {
	Views       []FiledView      `json:"views"`
	Definitions []DefinitionBody `json:"definitions" doc:"Those that the views use"`
}

// FiledView is a view in a file.
type FiledView struct {
	Name        string        `json:"name"`
	Description string        `json:"description,omitempty"`
	Document    view.Document `json:"document"`
}

type viewFileInput struct {
	Keys []string `query:"keys" required:"true" maxItems:"200" doc:"Keys of the views"`
}

type viewFileOutput struct {
	Disposition string `header:"Content-Disposition"`
	Body        ViewFile
}

func (s *library) registerViewFiles(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "view-file", Method: http.MethodGet, Path: "/api/view-files",
		Summary: "Views as a file, with the definitions that they use", Errors: []int{404},
	}, s.viewFile)
}

func (s *library) viewFile(ctx context.Context, in *viewFileInput) (*viewFileOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &viewFileOutput{Body: ViewFile{Definitions: []DefinitionBody{}}}
	name := "views"
	for _, key := range in.Keys {
		v, err := s.view(ctx, key)
		if err != nil {
			return nil, err
		}
		if name = "views"; len(in.Keys) == 1 {
			name = v.Body.Name
		}
		doc, err := viewDocument(v.Body)
		if err != nil {
			return nil, ofView(v.Body.Name, err)
		}
		out.Body.Views = append(out.Body.Views, FiledView{v.Body.Name, v.Body.Description, *doc})
		// A view that cannot run is a file all the same; what it would use is not known then.
		if p, err := g.Check(doc); err == nil {
			out.Body.Definitions = usedBy(p, out.Body.Definitions)
		}
	}
	out.Disposition = attachmentNamed(export.FileName(name) + ".view.json")
	return out, nil
}

// usedBy adds the definitions that a plan uses, once each.
func usedBy(p *plan.Plan, have []DefinitionBody) []DefinitionBody {
	paths := make([]string, 0, len(p.Derived))
	for path := range p.Derived {
		paths = append(paths, path)
	}
	slices.Sort(paths) // the same file every time
	for _, path := range paths {
		d := p.Derived[path]
		if d.Definition == nil {
			continue
		}
		one := DefinitionBody{Records: p.Records, Made: *d.Definition}
		if !slices.ContainsFunc(have, func(h DefinitionBody) bool {
			return h.Records == one.Records && h.Key() == one.Key()
		}) {
			have = append(have, one)
		}
	}
	for _, other := range p.Others() {
		have = usedBy(other, have)
	}
	return have
}
