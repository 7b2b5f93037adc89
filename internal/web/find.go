package web

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/board"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// Finding is a view or a record set that the words of a question lead to.
type Finding struct {
	View    *ViewSummary `json:"view,omitempty"`
	Set     string       `json:"set,omitempty" doc:"In place of a view: key of the record set"`
	Matches []Match      `json:"matches" doc:"Where each word was met, the weightiest first"`
}

// Match is one word that was met.
type Match struct {
	Word string         `json:"word"`
	Part store.PartKind `json:"part" enum:"name,label,description,field,value,formula,sentence"`
	Text string         `json:"text" doc:"What stands there"`
}

type findInput struct {
	Words string `query:"words" maxLength:"400"`
}

type findOutput struct {
	Body struct {
		Found []Finding `json:"found" doc:"The nearest first"`
	}
}

// mostFound is how many findings are told.
const mostFound = 30

func (s *library) registerFind(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "find", Method: http.MethodGet, Path: "/api/find",
		Summary: "The views and record sets nearest to a question in words, and why each matches",
	}, s.find)
}

func (s *library) find(ctx context.Context, in *findInput) (*findOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if err := s.indexParts(ctx); err != nil {
		return nil, err
	}
	sets, err := g.setParts(ctx, in.Words)
	if err != nil {
		return nil, s.failed(ctx, "find", err)
	}
	found, err := s.Store.Find(ctx, who(ctx).ID, in.Words, sets, mostFound)
	if err != nil {
		return nil, s.failed(ctx, "find", err)
	}
	var keys []string
	for _, f := range found {
		if f.View {
			keys = append(keys, f.Key)
		}
	}
	views, err := s.Store.ViewsOf(ctx, who(ctx).ID, keys)
	if err != nil {
		return nil, s.failed(ctx, "views", err)
	}
	names, err := s.viewNames(ctx, boardsViews(views))
	if err != nil {
		return nil, err
	}
	byKey := map[string]store.View{}
	for _, v := range views {
		byKey[v.Key] = v
	}
	out := &findOutput{}
	out.Body.Found = []Finding{}
	for _, f := range found {
		one := Finding{Matches: make([]Match, len(f.Matches))}
		for i, m := range f.Matches {
			one.Matches[i] = Match{m.Word, m.Part, m.Words}
		}
		if f.View {
			v, ok := byKey[f.Key]
			if !ok {
				continue // it went meanwhile
			}
			summary := s.summary(ctx, g, v, false, names)
			one.View = &summary
		} else {
			one.Set = f.Key
		}
		out.Body.Found = append(out.Body.Found, one)
	}
	return out, nil
}

// indexParts tells the parts of views that were saved since anybody looked. They are what
// the view's document says, whoever reads it.
func (s *library) indexParts(ctx context.Context) error {
	fresh, err := s.Store.Unparted(ctx, who(ctx).ID)
	if err != nil {
		return s.failed(ctx, "find", err)
	}
	if len(fresh) == 0 {
		return nil
	}
	full, err := s.fullScope(ctx)
	if err != nil {
		return err
	}
	for _, v := range fresh {
		err := s.Store.SetParts(ctx, v.Key, v.Version, full.viewParts(v))
		if store.TroubleOf(err) == store.Defective && err != nil && ctx.Err() == nil {
			// It is this view's fault, and no reason to find nothing: by its name at least.
			s.Log.Error("find", "id", requestNumber(ctx), "view", v.Key, "error", err)
			err = s.Store.SetParts(ctx, v.Key, v.Version, []store.Part{
				{Kind: store.NamePart, Words: beginning(v.Name)},
			})
		}
		if err != nil {
			return s.failed(ctx, "find", err)
		}
	}
	return nil
}

const (
	// mostParts is how many parts of one view are told, longestPart how many bytes of each:
	// a view of fifty pages is found by its first words.
	mostParts   = 500
	longestPart = 2000
)

// beginning is as much of a text as is looked through.
func beginning(words string) string {
	if len(words) <= longestPart {
		return words
	}
	return strings.ToValidUTF8(words[:longestPart], "")
}

// viewParts is what a view says of itself.
func (g *requestScope) viewParts(v store.View) []store.Part {
	parts := []store.Part{{Kind: store.NamePart, Words: v.Name}}
	add := func(kind store.PartKind, words string) {
		if strings.TrimSpace(words) != "" && len(parts) < mostParts {
			parts = append(parts, store.Part{Kind: kind, Words: beginning(words)})
		}
	}
	add(store.LabelPart, v.Label)
	add(store.AboutPart, v.Description)
	if v.Kind == store.BoardKind {
		if doc, err := board.Parse(v.Document); err == nil {
			for _, p := range doc.Parts {
				add(store.FieldPart, p.Heading)
				add(store.AboutPart, p.Text)
			}
		}
		return parts
	}
	doc, err := view.Parse(v.Document)
	if err != nil {
		return parts
	}
	for _, one := range doc.Makes() {
		add(store.FieldPart, one.Label())
		switch {
		case one.Calculated != nil:
			add(store.FormulaPart, one.Label()+" = "+one.Calculated.Formula)
		case one.Bucket != nil:
			for _, band := range one.Bucket.Bands {
				add(store.ValuePart, band.Label)
			}
		case one.Linked != nil:
			values(one.Linked.Where, func(v string) { add(store.ValuePart, v) })
		}
	}
	values(doc.Filter, func(v string) { add(store.ValuePart, v) })
	p, err := g.Check(doc)
	if err != nil {
		return parts
	}
	for _, label := range p.Labels() {
		add(store.FieldPart, label)
	}
	add(store.SaysPart, brief.Text(brief.Write(p, doc, g.Catalog.Set(doc.Records))))
	return parts
}

// manyValues is how many operands of a list count: of thousands that were pasted, none
// tells what the view is about.
const manyValues = 50

// values calls do with the texts that conditions name.
func values(c *view.Condition, do func(string)) {
	if c == nil {
		return
	}
	for _, list := range [][]view.Condition{c.All, c.Any, c.None} {
		for i := range list {
			values(&list[i], do)
		}
	}
	if len(c.Values) <= manyValues {
		for _, v := range c.Values {
			do(v)
		}
	}
	do(c.Value)
	if c.Linked != nil {
		values(c.Linked.Where, do)
		values(c.Linked.Meets, do)
	}
	if c.Within != nil {
		values(c.Within.Filter, do)
	}
}

// setParts is what the record sets say of themselves, as far as the reader sees them,
// and which of their values hold words of the question.
func (g *requestScope) setParts(ctx context.Context, question string) (map[string][]store.Part, error) {
	out := map[string][]store.Part{}
	for _, set := range g.Catalog.Sets {
		if set.Hidden {
			continue
		}
		parts := []store.Part{{Kind: store.NamePart, Words: set.Label}, {Kind: store.AboutPart, Words: set.Grain}}
		var texts []catalog.Ref
		for _, r := range g.Catalog.Reach(set.Key, 1) {
			if r.Hidden {
				continue
			}
			if words := r.Label + " " + r.Field.Meaning; len(r.Links) == 0 {
				parts = append(parts, store.Part{Kind: store.FieldPart, Words: strings.TrimSpace(words)})
				texts = append(texts, r.Ref)
			} else if r.Field.Key == g.Catalog.Set(r.Set).Name {
				parts = append(parts, store.Part{Kind: store.FieldPart, Words: r.Label})
			}
		}
		for _, word := range store.Words(question) {
			if len(word) < 3 {
				continue // nearly every value would hold it
			}
			held, err := g.Reader.Holding(ctx, texts, word)
			if err != nil {
				return nil, err
			}
			for _, h := range held {
				for _, v := range h.Values {
					parts = append(parts, store.Part{Kind: store.ValuePart, Words: beginning(h.Ref.Label + ": " + v)})
				}
			}
		}
		out[set.Key] = parts
	}
	return out, nil
}
