package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"reflect"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/description"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/reading"
	"gavrik/internal/store"
)

// SetDescription is what people say about a record set, beside what its database says.
type SetDescription struct {
	Version int                  `json:"version" doc:"To be given back with a change; 0 while nobody has said anything"`
	Said    description.SetWords `json:"said" doc:"What people say; the rest is as loaded"`
	By      map[string]Saying    `json:"by" doc:"Who said what, and when: by path, as \"fields.booked_at.label\""`
	Loaded  LoadedSet            `json:"loaded"`
	// Problems are statements that do not hold any more.
	Problems []DescriptionProblem `json:"problems" doc:"Statements that do not hold over the records as loaded"`
}

// Saying is who said something, and when.
type Saying struct {
	Who string    `json:"who"`
	At  time.Time `json:"at"`
}

// DescriptionProblem is a statement that does not hold.
type DescriptionProblem struct {
	Path    string `json:"path"`
	Message string `json:"message"`
}

// LoadedSet is a record set as its database describes it.
type LoadedSet struct {
	Label  string         `json:"label"`
	One    string         `json:"one"`
	Many   string         `json:"many"`
	Grain  string         `json:"grain"`
	Name   string         `json:"name"`
	Source string         `json:"source" doc:"The database it comes from; empty for the first"`
	Fields []LoadedField  `json:"fields" doc:"In the order of the database"`
	Links  []catalog.Link `json:"links"`
}

// LoadedField is a field as its database describes it.
type LoadedField struct {
	Key        string          `json:"key"`
	Label      string          `json:"label"`
	Meaning    string          `json:"meaning"`
	Type       catalog.Type    `json:"type" enum:"@types"`
	TypeName   string          `json:"typeName"`
	Currency   string          `json:"currency"`
	CurrencyBy string          `json:"currencyBy"`
	Unique     bool            `json:"unique"`
	Last       bool            `json:"last" doc:"Comes last where fields are looked for, unless people say otherwise"`
	Sensitive  bool            `json:"sensitive"`
	Targets    []ReadingTarget `json:"targets" doc:"Types that its values can be read as"`
}

// ReadingTarget is a type that values can be read as, and how.
type ReadingTarget struct {
	Type catalog.Type `json:"type" enum:"@types"`
	Name string       `json:"name"`
	Ways []ReadingWay `json:"ways" doc:"The likeliest first"`
}

// ReadingWay is how values stand for others.
type ReadingWay struct {
	Key   string `json:"key"`
	Words string `json:"words"`
}

type (
	descriptionOutput struct{ Body SetDescription }

	describeInput struct {
		Set  string `path:"set"`
		Body struct {
			Version int                  `json:"version" doc:"That which was looked at"`
			Said    description.SetWords `json:"said"`
			Anyway  bool                 `json:"anyway,omitempty" doc:"Also if saved views would not run any more"`
		}
		caller
	}

	readAsInput struct {
		Set  string `path:"set"`
		Body struct {
			Field string       `json:"field" maxLength:"200"`
			Type  catalog.Type `json:"type" enum:"@types"`
			Read  string       `json:"read,omitempty" maxLength:"40" doc:"The way; the likeliest, if left out"`
		}
	}

	readAsOutput struct {
		Body struct {
			Filled   int          `json:"filled" doc:"Records with a value"`
			Lost     int          `json:"lost" doc:"Values that cannot be read so"`
			Examples []string     `json:"examples" doc:"The first of those"`
			Samples  []ReadSample `json:"samples" doc:"The first that can"`
		}
	}
)

// ReadSample is a value before and after.
type ReadSample struct {
	Before string `json:"before"`
	After  string `json:"after"`
}

func (s *rules) registerDescriptions(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "description", Method: http.MethodGet, Path: "/api/catalog/{set}/description",
		Summary: "What people say about a record set, and what its database says", Metadata: analysts,
		Errors: []int{403, 404},
	}, func(ctx context.Context, in *fieldsInput) (*descriptionOutput, error) {
		return s.description(ctx, in.Set)
	})
	huma.Register(api, huma.Operation{
		OperationID: "describe", Method: http.MethodPut, Path: "/api/catalog/{set}/description",
		Summary: "Say what the records of a set and their fields are called and mean", Metadata: analysts,
		Errors: []int{403, 404, 409, 422},
	}, s.describe)
	huma.Register(api, huma.Operation{
		OperationID: "read-as", Method: http.MethodPost, Path: "/api/catalog/{set}/read-as",
		Summary: "Look at what a field would be as another type", Metadata: analysts, Errors: []int{403, 404, 422},
	}, s.readAs)
}

// described finds a record set for somebody who may say something about it: administrators, and its owner
// if it came as a file.
func (s *rules) described(ctx context.Context, key string) (*requestScope, *catalog.RecordSet, error) {
	g, err := s.fullScope(ctx)
	if err != nil {
		return nil, nil, err
	}
	p, b := who(ctx), g.Agreed.BroughtInAs(key)
	if !p.Administrator() && (b == nil || b.Owner != p.ID) {
		return nil, nil, huma.Error403Forbidden("Only administrators describe these records. Ask one.")
	}
	set := g.AsLoaded().Set(key)
	if set == nil {
		return nil, nil, huma.Error404NotFound("There is no record set \"" + key + "\".")
	}
	return g, set, nil
}

// leadsInSight refuses links to what somebody does not see: which of her values are found there would
// tell of it.
func (s *rules) leadsInSight(ctx context.Context, before, said *description.SetWords) error {
	g, err := s.scope(ctx)
	if err != nil {
		return err
	}
	if said == nil || who(ctx).Administrator() {
		return nil
	}
	for key, l := range said.Links {
		if l == nil || l.Leads == nil {
			continue
		}
		if was := before.Links[key]; was != nil && reflect.DeepEqual(was.Leads, l.Leads) {
			continue // it is said already
		}
		set := g.Catalog.Set(l.Leads.To)
		for _, into := range l.Leads.Into {
			if set.Field(into) == nil {
				return refusedAt("said.links."+key, "The records that this link leads to are not there. Choose others, or take the link away.")
			}
		}
	}
	return nil
}

func (s *rules) description(ctx context.Context, key string) (*descriptionOutput, error) {
	g, set, err := s.described(ctx, key)
	if err != nil {
		return nil, err
	}
	d := g.Agreed.DescribedSet(key)
	out := SetDescription{
		Version: d.Version, Said: *d.Body, By: map[string]Saying{}, Problems: []DescriptionProblem{},
		Loaded: LoadedSet{
			Label: set.Label, One: set.One, Many: set.Many, Grain: set.Grain, Name: set.Name, Source: set.Source,
			Fields: []LoadedField{}, Links: append([]catalog.Link{}, set.Links...),
		},
	}
	for path, by := range d.Said {
		out.By[path] = Saying(by)
	}
	for _, f := range set.Fields {
		out.Loaded.Fields = append(out.Loaded.Fields, LoadedField{
			Key: f.Key, Label: f.Label, Meaning: f.Meaning, Type: f.Type, TypeName: typeChoice(f.Type),
			Currency: f.Currency, CurrencyBy: f.CurrencyBy, Unique: f.Unique, Last: f.Technical(), Targets: targets(f.Type),
			Sensitive: slices.Contains(g.Agreed.Sensitive, store.SensitiveField{Set: key, Field: f.Key}),
		})
	}
	for _, p := range g.Problems {
		if p.Set == key {
			out.Problems = append(out.Problems, DescriptionProblem{p.Path, p.Message})
		}
	}
	return &descriptionOutput{out}, nil
}

// typeChoice names a type where one is chosen: two kinds of numbers stand side by side there.
func typeChoice(t catalog.Type) string {
	switch t {
	case catalog.Whole:
		return "whole number"
	case catalog.Decimal:
		return "number with decimals"
	}
	return t.Info().Name
}

func targets(t catalog.Type) []ReadingTarget {
	out := []ReadingTarget{}
	for _, to := range reading.Targets(t) {
		one := ReadingTarget{Type: to, Name: typeChoice(to)}
		for _, w := range reading.Ways(t, to) {
			one.Ways = append(one.Ways, ReadingWay{w.Key, w.Words})
		}
		out = append(out, one)
	}
	return out
}

func (s *rules) describe(ctx context.Context, in *describeInput) (*descriptionOutput, error) {
	g, set, err := s.described(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	said, _ := trimmed(in.Body.Said).Apart() // marks of sensitive fields have an operation of their own
	if err := s.leadsInSight(ctx, g.Agreed.DescribedSet(in.Set).Body, said); err != nil {
		return nil, err
	}
	tried, err := g.Describes(ctx, in.Set, said)
	if err != nil {
		return nil, s.failed(ctx, "describe", err)
	}
	if problems := tried.Problems; len(problems) > 0 {
		var details []error
		for _, p := range problems {
			at := "body.said"
			if p.Set != in.Set { // a link of another set that would not hold any more
				at = "sets." + p.Set
			}
			details = append(details, &placed{Location: strings.TrimSuffix(at+"."+p.Path, "."), Message: p.Message})
		}
		return nil, huma.Error422UnprocessableEntity(problems[0].Message, details...)
	}
	if !in.Body.Anyway {
		if err := s.breaking(ctx, g, tried); err != nil {
			return nil, err
		}
	}
	changed, err := s.Store.Describe(ctx, who(ctx).Name, in.Set, in.Body.Version, said)
	switch {
	case errors.Is(err, store.ErrStale):
		return nil, huma.Error409Conflict(fmt.Sprintf(
			"Somebody else has described %s meanwhile, so nothing was written. Look at what is said now, and say yours again.", set.Many))
	case err != nil:
		return nil, s.failed(ctx, "describe", err)
	}
	if len(changed) > 0 {
		s.noted(ctx, in.caller, store.Describing, describedWords(set, said, changed))
	}
	return s.description(ctx, in.Set)
}

// breaking says which saved views run now and would not any more, if there are any.
func (s *rules) breaking(ctx context.Context, g *requestScope, tried *app.Tried) error {
	seen, hidden, err := s.users(ctx)
	if err != nil {
		return err
	}
	breaks := func(u user) bool {
		_, err := plan.CheckWith(u.doc, tried.Catalog, g.Agreed.Definitions, g.Calendar)
		return err != nil
	}
	var names []string
	for _, u := range seen {
		if breaks(u) {
			names = append(names, "“"+u.view.Name+"”")
		}
	}
	if n := len(names) - namedUsers; n > 0 {
		names = append(names[:namedUsers], fmt.Sprintf("%d other views", n))
	}
	others := 0
	for _, u := range hidden {
		if breaks(u) {
			others++
		}
	}
	if others > 0 {
		names = append(names, counted(others, "view of others", "views of others"))
	}
	if len(names) == 0 {
		return nil
	}
	detail := fmt.Sprintf("Then %s would not run any more, and would have to be mended.", strings.Join(names, ", "))
	return huma.Error409Conflict(detail, &huma.ErrorDetail{Location: "body.anyway", Message: detail})
}

// trimmed is a description without spaces around its words; a word of nothing but spaces says nothing.
func trimmed(said description.SetWords) *description.SetWords {
	for _, text := range []*string{&said.Label, &said.One, &said.Many, &said.Grain} {
		*text = strings.Join(strings.Fields(*text), " ")
	}
	for _, f := range said.Fields {
		if f != nil {
			f.Label = strings.Join(strings.Fields(f.Label), " ")
		}
	}
	for _, l := range said.Links {
		if l != nil {
			l.Label, l.Back = strings.Join(strings.Fields(l.Label), " "), strings.Join(strings.Fields(l.Back), " ")
		}
	}
	return said.Tidied()
}

// maxTold is how many changes one line of the trail names.
const maxTold = 8

func describedWords(set *catalog.RecordSet, said *description.SetWords, changed []string) string {
	now := said.Said()
	var words []string
	for _, path := range changed[:min(len(changed), maxTold)] {
		if value := now[path]; value != "" {
			words = append(words, path+" is "+value)
		} else {
			words = append(words, path+" is set back")
		}
	}
	if more := len(changed) - len(words); more > 0 {
		words = append(words, fmt.Sprintf("and %d more", more))
	}
	return set.Label + ": " + strings.Join(words, "; ")
}

func (s *rules) readAs(ctx context.Context, in *readAsInput) (*readAsOutput, error) {
	g, set, err := s.described(ctx, in.Set)
	if err != nil {
		return nil, err
	}
	if set.Field(in.Body.Field) == nil {
		return nil, huma.Error404NotFound("There is no such field.")
	}
	r, err := g.ReadAs(ctx, in.Set, in.Body.Field, in.Body.Type, in.Body.Read)
	if errors.Is(err, app.ErrUnread) {
		f := set.Field(in.Body.Field)
		return nil, refusedAt("type", fmt.Sprintf(
			"%s is %s, and cannot be read as %s so.", f.Label, f.Type.Word(), in.Body.Type.Word(),
		))
	}
	if err != nil {
		return nil, s.failed(ctx, "read as", err)
	}
	out := &readAsOutput{}
	out.Body.Filled, out.Body.Lost = r.Filled, r.Lost
	out.Body.Examples, out.Body.Samples = append([]string{}, r.Examples...), []ReadSample{}
	pen := format.NewWriter(format.People, g.Calendar)
	for _, pair := range r.Samples {
		out.Body.Samples = append(out.Body.Samples, ReadSample{pen.Cell(pair[0], r.Before), pen.Cell(pair[1], r.After)})
	}
	return out, nil
}
