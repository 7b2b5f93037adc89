package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/facts"
	"gavrik/internal/store"
)

// RecordFact is a field that people fill in, as the one who asks may use it.
type RecordFact struct {
	facts.Fact
	Version   int       `json:"version"`
	MadeBy    string    `json:"madeBy"`
	MadeAt    time.Time `json:"madeAt"`
	Filled    int       `json:"filled" doc:"Values that are filled in, of records that are gone as well"`
	MayFill   bool      `json:"mayFill"`
	MayChange bool      `json:"mayChange"`
	Removed   bool      `json:"removed" doc:"It was taken away, and can be brought back with its values"`
}

type (
	factsOutput struct {
		Body struct {
			Facts  []RecordFact `json:"facts"`
			MayAdd bool         `json:"mayAdd"`
			// WhyNot says why nobody can add one.
			WhyNot string `json:"whyNot,omitempty" doc:"Why no fact can be added to this record set"`
		}
	}
	factOutput struct{ Body RecordFact }

	addFactInput struct {
		Set  string `path:"set"`
		Body facts.Fact
		caller
	}

	changeFactInput struct {
		Set  string `path:"set"`
		Key  string `path:"key"`
		Body struct {
			Base int        `json:"base" doc:"Version that was looked at"`
			Fact facts.Fact `json:"fact" doc:"Its type and its decimals stay"`
		}
		caller
	}

	factInput struct {
		Set string `path:"set"`
		Key string `path:"key"`
		caller
	}

	addingInput struct {
		Body struct {
			Analysts bool `json:"analysts" doc:"Analysts may add facts, too"`
		}
		caller
	}
	addingOutput struct {
		Body struct {
			Analysts bool `json:"analysts"`
		}
	}
)

func (s *rules) registerFacts(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "facts", Method: http.MethodGet, Path: "/api/facts/{set}",
		Summary: "Fields of a record set that people fill in", Errors: []int{404},
	}, func(ctx context.Context, in *fieldsInput) (*factsOutput, error) { return s.facts(ctx, in.Set) })
	huma.Register(api, huma.Operation{
		OperationID: "add-fact", Method: http.MethodPost, Path: "/api/facts/{set}", DefaultStatus: http.StatusCreated,
		Summary: "Add a field that people fill in", Metadata: analysts, Errors: []int{403, 404, 409, 422},
	}, s.addFact)
	huma.Register(api, huma.Operation{
		OperationID: "change-fact", Method: http.MethodPut, Path: "/api/facts/{set}/{key}",
		Summary:  "Change what a fact is called, means, and who fills it in",
		Metadata: analysts, Errors: []int{403, 404, 409, 422},
	}, s.changeFact)
	huma.Register(api, huma.Operation{
		OperationID: "remove-fact", Method: http.MethodDelete, Path: "/api/facts/{set}/{key}",
		Summary: "Take a fact away; its values are kept", Metadata: analysts, Errors: []int{403, 404},
	}, func(ctx context.Context, in *factInput) (*struct{}, error) { return s.removeFact(ctx, in, true) })
	huma.Register(api, huma.Operation{
		OperationID: "restore-fact", Method: http.MethodPost, Path: "/api/facts/{set}/{key}/restore",
		Summary: "Bring a fact back with its values", Metadata: analysts, Errors: []int{403, 404},
	}, func(ctx context.Context, in *factInput) (*struct{}, error) { return s.removeFact(ctx, in, false) })
	huma.Register(api, huma.Operation{
		OperationID: "adding", Method: http.MethodGet, Path: "/api/fact-adding", Summary: "Who may add facts",
		Metadata: administrators, Errors: []int{403},
	}, func(ctx context.Context, _ *struct{}) (*addingOutput, error) {
		d, err := s.App.Agreement(ctx)
		if err != nil {
			return nil, s.failed(ctx, "facts", err)
		}
		out := &addingOutput{}
		out.Body.Analysts = d.AnalystsAdd
		return out, nil
	})
	huma.Register(api, huma.Operation{
		OperationID: "settle-adding", Method: http.MethodPut, Path: "/api/fact-adding", Summary: "Settle who may add facts",
		Metadata: administrators, Errors: []int{403},
	}, func(ctx context.Context, in *addingInput) (*struct{}, error) {
		if err := s.Store.LetAnalystsAdd(ctx, in.Body.Analysts); err != nil {
			return nil, s.failed(ctx, "facts", err)
		}
		words := "analysts may add facts"
		if !in.Body.Analysts {
			words = "only administrators may add facts"
		}
		s.noted(ctx, in.caller, store.Permission, words)
		return nil, nil
	})
	s.registerFilling(api)
}

// mayAdd says whether a person may add facts, and change those that are there.
func mayAdd(p store.Person, d *app.Agreement) bool {
	return p.Administrator() || p.Role == store.Analyst && d.AnalystsAdd
}

func (s *rules) facts(ctx context.Context, key string) (*factsOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	set := g.Catalog.Set(key)
	if set == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + key + "\".")
	}
	out := &factsOutput{}
	out.Body.Facts = []RecordFact{}
	out.Body.MayAdd = mayAdd(who(ctx), g.Agreed)
	for _, f := range g.Facts.List {
		if f.Set == key && set.Field(f.Body.Key) != nil { // else it is kept from her, or waits
			out.Body.Facts = append(out.Body.Facts, g.fact(ctx, f))
		}
	}
	if out.Body.MayAdd {
		for _, f := range g.Facts.Removed {
			if f.Set == key {
				out.Body.Facts = append(out.Body.Facts, g.fact(ctx, f))
			}
		}
		if _, err := g.Keyable(set); err != nil {
			out.Body.WhyNot = sentence(err.Error())
		}
	}
	return out, nil
}

func (g *requestScope) fact(ctx context.Context, f store.Fact) RecordFact {
	p := who(ctx)
	return RecordFact{
		Fact: *f.Body, Version: f.Version, MadeBy: f.MadeBy, MadeAt: f.MadeAt, Filled: g.Facts.Values(f.ID),
		MayFill: !f.Removed && app.MayFill(p, f.Body), MayChange: mayAdd(p, g.Agreed), Removed: f.Removed,
	}
}

var errMayNotAdd = huma.Error403Forbidden(
	"Only administrators add facts here. Ask one to add it, or to let analysts do so.",
)

// checkedFact readies a fact that was sent; old is what it replaces, or nil.
func (s *rules) checkedFact(ctx context.Context, key string, f *facts.Fact, old *facts.Fact) (*requestScope, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	if !mayAdd(who(ctx), g.Agreed) {
		return nil, errMayNotAdd
	}
	set := g.Catalog.Set(key)
	if set == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + key + "\".")
	}
	f.Label = strings.Join(strings.Fields(f.Label), " ")
	if old != nil {
		f.Key, f.By, f.Type, f.Decimals = old.Key, old.By, old.Type, old.Decimals
	} else {
		if f.By, err = g.Keyable(set); err != nil {
			return nil, huma.Error422UnprocessableEntity(sentence(err.Error()))
		}
		if err := f.MakeKey(func(k string) bool {
			return set.Field(k) != nil || set.Link(k) != nil || g.Facts.Any(key, k)
		}); err != nil {
			return nil, refusedAt("label", sentence(err.Error()))
		}
	}
	if place, words := f.Check(); words != "" {
		return nil, refusedAt(place, words)
	}
	for _, other := range set.Fields {
		if other.Key != f.Key && strings.EqualFold(other.Label, f.Label) {
			return nil, refusedAt("label", fmt.Sprintf("%s have a field “%s” already; call the fact otherwise.", set.Label, other.Label))
		}
	}
	return g, nil
}

func refusedAt(place, words string) error {
	return huma.Error422UnprocessableEntity(words, &huma.ErrorDetail{Location: "body." + place, Message: words})
}

func (s *rules) addFact(ctx context.Context, in *addFactInput) (*factOutput, error) {
	f := in.Body
	g, err := s.checkedFact(ctx, in.Set, &f, nil)
	if err != nil {
		return nil, err
	}
	// Whoever has limits sees it at once only if an administrator has added it, or there are no limits.
	p := who(ctx)
	field := []store.SensitiveField{{Set: in.Set, Field: f.Key}}
	if err := s.Store.Know(ctx, field, p.Administrator() || !g.Agreed.Restricts()); err != nil {
		return nil, s.failed(ctx, "add fact", err)
	}
	err = s.Store.AddFact(ctx, p.Name, in.Set, &f)
	if errors.Is(err, store.ErrTaken) {
		return nil, huma.Error409Conflict("Somebody else has added a fact of this name meanwhile. Look at theirs first.")
	}
	if err != nil {
		return nil, s.failed(ctx, "add fact", err)
	}
	s.noted(ctx, in.caller, store.Describing, fmt.Sprintf("added the fact “%s” to %s", f.Label, g.Catalog.Set(in.Set).Many))
	return s.factNow(ctx, in.Set, f.Key)
}

// factNow is a fact as it is kept now.
func (s *rules) factNow(ctx context.Context, set, key string) (*factOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	f := g.Facts.Of(set, key)
	if f == nil {
		return nil, huma.Error404NotFound("There is no such fact.")
	}
	return &factOutput{g.fact(ctx, *f)}, nil
}

func (s *rules) changeFact(ctx context.Context, in *changeFactInput) (*factOutput, error) {
	now, err := s.App.Facts(ctx)
	if err != nil {
		return nil, s.failed(ctx, "change fact", err)
	}
	old := now.Of(in.Set, in.Key)
	if old == nil {
		return nil, huma.Error404NotFound("There is no such fact.")
	}
	f := in.Body.Fact
	g, err := s.checkedFact(ctx, in.Set, &f, old.Body)
	if err != nil {
		return nil, err
	}
	err = s.Store.ChangeFact(ctx, in.Set, in.Body.Base, &f)
	if errors.Is(err, store.ErrStale) {
		return nil, huma.Error409Conflict("Somebody else has changed this fact meanwhile, so nothing was written. Look at it first.")
	}
	if err != nil {
		return nil, s.failed(ctx, "change fact", err)
	}
	s.noted(ctx, in.caller, store.Describing, fmt.Sprintf("changed the fact “%s” of %s", f.Label, g.Catalog.Set(in.Set).Many))
	return s.factNow(ctx, in.Set, in.Key)
}

func (s *rules) removeFact(ctx context.Context, in *factInput, away bool) (*struct{}, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, err
	}
	if !mayAdd(who(ctx), g.Agreed) {
		return nil, errMayNotAdd
	}
	err = s.Store.RemoveFact(ctx, in.Set, in.Key, away)
	if errors.Is(err, store.ErrNotFound) {
		return nil, huma.Error404NotFound("There is no such fact.")
	}
	if err != nil {
		return nil, s.failed(ctx, "remove fact", err)
	}
	words := "took the fact %q of %q away"
	if !away {
		words = "brought the fact %q of %q back"
	}
	s.noted(ctx, in.caller, store.Describing, fmt.Sprintf(words, in.Key, in.Set))
	return nil, nil
}

// FillIn says how a field can be filled in by the one who asks.
type FillIn struct {
	Fact    string   `json:"fact" doc:"Key of the fact"`
	Type    string   `json:"type" enum:"text,decimal,money,date,yesno"`
	Choices []string `json:"choices" doc:"The only values that there can be, if there are any"`
}

// fillInOf says how a field of the record set at hand can be filled in, or nothing.
func (g *requestScope) fillInOf(ctx context.Context, set string, ref catalog.Ref) *FillIn {
	if len(ref.Links) > 0 {
		return nil
	}
	f := g.Facts.Of(set, ref.Field.Key)
	if f == nil || !app.MayFill(who(ctx), f.Body) {
		return nil
	}
	return &FillIn{f.Body.Key, string(f.Body.Type), append([]string{}, f.Body.Choices...)}
}
