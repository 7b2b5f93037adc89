package web

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// Definition is a field that all views of a record set share.
type Definition struct {
	Records string `json:"records"`
	Key     string `json:"key"`
	Version int    `json:"version"`
	view.Made
	Words    string      `json:"words" doc:"What it is, or what is wrong with it"`
	Broken   bool        `json:"broken"`
	Owner    string      `json:"owner"`
	Editable bool        `json:"editable"`
	SavedAt  time.Time   `json:"savedAt"`
	SavedBy  string      `json:"savedBy"`
	UsedIn   []NamedView `json:"usedIn" doc:"Views that the reader may see"`
	Hidden   int         `json:"hidden" doc:"Views of others that use it, too"`
}

// NamedView is a view by its name.
type NamedView struct {
	Key  string `json:"key"`
	Name string `json:"name"`
}

// Effect is what a changed definition does to one view.
type Effect struct {
	View   NamedView `json:"view"`
	Fault  string    `json:"fault" doc:"Why the view would not run any more"`
	Totals []Moved   `json:"totals" doc:"The number of records and the grand totals"`
	Same   bool      `json:"same" doc:"None of them changes"`
}

// Moved is a figure before and after.
type Moved struct {
	Label  string `json:"label"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// DefinitionBody is a definition as it is to be.
type DefinitionBody struct {
	Records string `json:"records,omitempty" doc:"Key of the record set; that of the address, where it names one"`
	view.Made
}

type (
	definitionsOutput struct {
		Body struct {
			Definitions []Definition `json:"definitions"`
		}
	}
	definitionOutput      struct{ Body Definition }
	addDefinitionInput    struct{ Body DefinitionBody }
	deleteDefinitionInput struct {
		Set    string `path:"set"`
		Key    string `path:"key"`
		Anyway bool   `query:"anyway" doc:"Delete it even if views use it, which then do not run"`
	}
	saveDefinitionInput struct {
		Set  string `path:"set"`
		Key  string `path:"key"`
		Body struct {
			DefinitionBody
			Base int `json:"base" doc:"Version that the change was made from"`
		}
	}
	effectsOutput struct {
		Body struct {
			Effects []Effect `json:"effects"`
			Hidden  int      `json:"hidden" doc:"Views of others that use it and may change"`
		}
	}
)

func (s *rules) registerDefinitions(api huma.API) {
	op := func(id, method, path, summary string, errs ...int) huma.Operation {
		return huma.Operation{
			OperationID: id, Method: method, Path: path, Summary: summary, MaxBodyBytes: maxBody, Errors: errs,
		}
	}
	huma.Register(
		api,
		op("definitions", http.MethodGet, "/api/definitions", "Fields that views share"),
		s.listDefinitions,
	)
	add := op(
		"add-definition", http.MethodPost, "/api/definitions",
		"Share a field with all views of a record set", 403, 409, 422,
	)
	add.DefaultStatus, add.Metadata = http.StatusCreated, analysts
	huma.Register(api, add, s.addDefinition)
	huma.Register(
		api,
		op(
			"effects", http.MethodPost, "/api/definitions/{set}/{key}/effects",
			"What a change of a definition would do to the views that use it", 404, 422,
		),
		s.effects,
	)
	huma.Register(
		api,
		forAnalysts(op(
			"save-definition", http.MethodPut, "/api/definitions/{set}/{key}", "Save a new version of a definition",
			403, 404, 409, 422,
		)),
		s.saveDefinition,
	)
	huma.Register(
		api,
		forAnalysts(op(
			"delete-definition", http.MethodDelete, "/api/definitions/{set}/{key}", "Delete a definition", 403, 404,
			409,
		)),
		s.deleteDefinition,
	)
}

func forAnalysts(op huma.Operation) huma.Operation {
	op.Metadata = analysts
	return op
}

func (s *rules) listDefinitions(ctx context.Context, _ *struct{}) (*definitionsOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	seen, hidden, err := s.users(ctx)
	if err != nil {
		return nil, err
	}
	out := &definitionsOutput{}
	out.Body.Definitions = []Definition{}
	for _, one := range g.Agreed.List {
		if g.Catalog.Set(one.Records) == nil {
			continue // of records that are kept from the reader
		}
		d, err := g.definition(ctx, one)
		if err != nil {
			return nil, s.failed(ctx, "definitions", err)
		}
		for _, u := range using(seen, one.Records, one.Key) {
			d.UsedIn = append(d.UsedIn, NamedView{u.view.Key, u.view.Name})
		}
		d.Hidden = len(using(hidden, one.Records, one.Key))
		out.Body.Definitions = append(out.Body.Definitions, d)
	}
	return out, nil
}

// definition describes a stored one.
func (g *requestScope) definition(ctx context.Context, one store.Definition) (Definition, error) {
	d := Definition{
		Records: one.Records, Key: one.Key, Version: one.Version, Owner: one.OwnerName, SavedAt: one.SavedAt,
		SavedBy: one.SavedByName, UsedIn: []NamedView{},
		Editable: one.OwnerID == who(ctx).ID && who(ctx).Role != store.Reader || who(ctx).Administrator(),
	}
	var body plan.Definition
	if err := json.Unmarshal(one.Body, &body); err != nil {
		return d, fmt.Errorf("web: definition %s: %w", one.Key, err)
	}
	d.Made = body
	p, err := g.Check(&view.Document{
		Gavrik: view.Version, Records: one.Records, Columns: []view.Column{{Field: one.Key}},
	})
	if err != nil {
		d.Words, d.Broken = sentence(strings.Split(err.Error(), "\n")[0]), true
		return d, nil
	}
	made := p.Derived[one.Key]
	if made == nil {
		_, err := p.Field(g.Catalog, one.Key)
		d.Words, d.Broken = sentence(err.Error()), true
		if !d.Editable { // what is written in it may tell of what is restricted for the reader
			d.bare()
		}
		return d, nil
	}
	f := derivedField(p, made, nil, nil)
	d.Words = f.Meaning
	if f.Kind == "bucket" {
		d.Words += ": " + strings.Join(f.Samples, ", ")
	}
	return d, nil
}

// bare leaves nothing of a definition but its name.
func (d *Definition) bare() {
	d.Made = d.Made.Bare()
}

// changed is drafted for a definition that is there. Something that is kept from its
// author may stay in it, if it was there before; she may not bring it in.
func (s *rules) changed(
	ctx context.Context, g *requestScope, in DefinitionBody, key string,
) (plan.Definition, plan.Definitions, error) {
	body, defs, err := g.drafted(in, key)
	var faults plan.Faults
	if !errors.As(err, &faults) {
		return body, defs, err
	}
	full, errF := s.fullScope(ctx)
	if errF != nil {
		return body, nil, errF
	}
	body, defs, errF = full.drafted(in, key)
	if errF != nil {
		return body, nil, err // in the words that she may read
	}
	before := full.madeOf(in.Records, key, full.Agreed.Definitions)
	for of := range full.madeOf(in.Records, key, defs) {
		if !of.seenBy(g.Catalog) && !before[of] {
			return body, nil, err
		}
	}
	return body, defs, nil
}

// part is a stored field or, without one, a record set that a definition is made of.
type part struct{ set, field string }

// seenBy says whether a reader of a catalog may see it.
func (p part) seenBy(c *catalog.Catalog) bool {
	set := c.Set(p.set)
	field := p.field
	if text, apart := catalog.Named(field); apart {
		field = text
	}
	return set != nil && (field == "" || set.Field(field) != nil)
}

// madeOf is what a definition is made of, by way of others, too.
func (g *requestScope) madeOf(records, key string, defs plan.Definitions) map[part]bool {
	out := map[part]bool{}
	p, err := plan.CheckWith(&view.Document{
		Gavrik: view.Version, Records: records, Columns: []view.Column{{Field: key}},
	}, g.Catalog, defs, g.Calendar)
	if err != nil {
		return out
	}
	for _, ref := range p.Stored() {
		out[part{ref.Set, ref.Field.Key}] = true
	}
	for _, other := range p.Others() {
		out[part{other.Records, ""}] = true
	}
	return out
}

// drafted checks a definition as it is to be, and what else uses it.
func (g *requestScope) drafted(in DefinitionBody, key string) (plan.Definition, plan.Definitions, error) {
	body := in.Made
	if body.Kinds() != 1 {
		return body, nil, plan.Faults{{
			Path: "calculated", Message: "a definition is a calculated field, a bucket, a linked value or a field beside others; give one of them",
		}}
	}
	own := &view.Document{Gavrik: view.Version, Records: in.Records}
	own.Make(body)
	label := body.Key()
	if key != "" && label != key {
		return body, nil, plan.Faults{
			{Path: "key", Message: "the key of a definition stays as it is; its label can change"},
		}
	}
	defs, err := g.Agreed.With(in.Records, label, &body)
	if err != nil {
		return body, nil, err
	}
	// As a view's own field first: what is wrong with its key and label is found there.
	if _, err := plan.CheckWith(own, g.Catalog, g.Agreed.Definitions, g.Calendar); err != nil {
		return body, nil, err
	}
	p, err := plan.CheckWith(&view.Document{
		Gavrik: view.Version, Records: in.Records, Columns: []view.Column{{Field: label}},
	}, g.Catalog, defs, g.Calendar)
	if err == nil && len(p.Restricted) > 0 { // a column would be left out; nobody shares what she may not see
		_, err = p.Field(g.Catalog, label)
		err = plan.Faults{{Path: "calculated", Message: err.Error()}}
	}
	return body, defs, err
}

func (s *rules) addDefinition(ctx context.Context, in *addDefinitionInput) (*definitionOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	body, _, err := g.drafted(in.Body, "")
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	text, err := stored(body)
	if err != nil {
		return nil, s.failed(ctx, "save definition", err)
	}
	err = s.Store.AddDefinition(ctx, who(ctx).ID, in.Body.Records, body.Key(), text)
	if errors.Is(err, store.ErrTaken) {
		return nil, huma.Error409Conflict(
			"There is a definition of that name for these records already. Use it, or choose another name.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "save definition", err)
	}
	return s.storedDefinition(ctx, in.Body.Records, body.Key())
}

func (s *rules) storedDefinition(ctx context.Context, records, key string) (*definitionOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	one, ok := g.stored(records, key)
	if !ok {
		return nil, huma.Error404NotFound("There is no such definition.")
	}
	d, err := g.definition(ctx, one)
	if err != nil {
		return nil, s.failed(ctx, "definition", err)
	}
	return &definitionOutput{d}, nil
}

func (g *requestScope) stored(records, key string) (store.Definition, bool) {
	i := slices.IndexFunc(g.Agreed.List, func(d store.Definition) bool {
		return d.Records == records && d.Key == key
	})
	if i < 0 {
		return store.Definition{}, false
	}
	return g.Agreed.List[i], true
}

// editableDefinition returns one that the person may change, or the problem.
func (s *rules) editableDefinition(
	ctx context.Context, g *requestScope, records, key string,
) (store.Definition, error) {
	one, ok := g.stored(records, key)
	if !ok || g.Catalog.Set(records) == nil {
		return one, huma.Error404NotFound("There is no such definition.")
	}
	if one.OwnerID != who(ctx).ID && !who(ctx).Administrator() {
		return one, huma.Error403Forbidden(
			"This definition belongs to " + one.OwnerName + ". Make one of your own instead.",
		)
	}
	return one, nil
}

func (s *rules) saveDefinition(ctx context.Context, in *saveDefinitionInput) (*definitionOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if _, err := s.editableDefinition(ctx, g, in.Set, in.Key); err != nil {
		return nil, err
	}
	in.Body.Records = in.Set
	body, _, err := s.changed(ctx, g, in.Body.DefinitionBody, in.Key)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	text, err := stored(body)
	if err != nil {
		return nil, s.failed(ctx, "save definition", err)
	}
	err = s.Store.SaveDefinition(ctx, who(ctx).ID, in.Set, in.Key, in.Body.Base, text)
	if errors.Is(err, store.ErrStale) {
		return nil, huma.Error409Conflict(
			"The definition was saved elsewhere while you worked, so nothing was written. Look at the newer one first.",
		)
	}
	if err != nil {
		return nil, s.failed(ctx, "save definition", err)
	}
	return s.storedDefinition(ctx, in.Set, in.Key)
}

func (s *rules) deleteDefinition(ctx context.Context, in *deleteDefinitionInput) (*struct{}, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if _, err := s.editableDefinition(ctx, g, in.Set, in.Key); err != nil {
		return nil, err
	}
	if !in.Anyway {
		if err := s.unused(ctx, in.Set, in.Key); err != nil {
			return nil, err
		}
	}
	if err := s.Store.DeleteDefinition(ctx, in.Set, in.Key); err != nil {
		return nil, s.failed(ctx, "delete definition", err)
	}
	return nil, nil
}

// since says which definitions that a document uses have changed after a moment.
func (g *requestScope) since(doc *view.Document, saved time.Time) []string {
	out := []string{}
	p, err := g.Check(doc)
	if err != nil {
		return out // it says so when it runs
	}
	for _, use := range p.Uses() {
		one, ok := g.stored(use[0], use[1])
		if !ok || !one.SavedAt.After(saved) {
			continue
		}
		label := g.Agreed.Definitions.Label(use[0], use[1])
		out = append(out, fmt.Sprintf("%s was changed by %s on %s", label, one.SavedByName, g.Moment(one.SavedAt)))
	}
	return out
}
