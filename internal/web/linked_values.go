package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Values of the records that link to those at hand: what is offered where a field is looked for,
// and what one that is being made looks like.

// LinkedOffer is a value of linked records that can be had.
type LinkedOffer struct {
	Label    string           `json:"label"`
	Meaning  string           `json:"meaning" doc:"How it comes about, in words"`
	TypeName string           `json:"typeName"`
	Type     catalog.Type     `json:"type" enum:"@types"`
	By       LinkBy           `json:"by" doc:"The records it is taken of"`
	Made     view.LinkedValue `json:"made" doc:"As a document makes it; its key is to be chosen"`
}

type linkedOffersOutput struct {
	Body struct {
		Offers []LinkedOffer `json:"offers"`
	}
}

// LinkedSample is a record's value.
type LinkedSample struct {
	Record string `json:"record"`
	Value  string `json:"value"`
}

type linkedValueOutput struct {
	Body struct {
		Words   string         `json:"words" doc:"How it comes about"`
		Field   *Field         `json:"field,omitempty" doc:"The value as a field; none if it has a fault"`
		Samples []LinkedSample `json:"samples" doc:"Of records that have one, the largest"`
		Blank   int            `json:"blank" doc:"Records without a value"`
		Records int            `json:"records" doc:"How many there are"`
		Notes   []string       `json:"notes" doc:"What its reader has to know"`
		Faults  []string       `json:"faults"`
	}
}

func (s *questions) registerLinkedValues(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "linked-offers", Method: http.MethodGet, Path: "/api/catalog/{set}/linked-values",
		Summary: "Values of the records that link to those of a set", Errors: []int{404},
	}, s.linkedOffers)
	huma.Register(api, huma.Operation{
		OperationID: "linked-value", Method: http.MethodPost, Path: "/api/linked-value",
		Summary:      "What a value of linked records, or one that sets records beside each other, looks like",
		MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.linkedValue)
}

func (s *questions) linkedOffers(ctx context.Context, in *fieldsInput) (*linkedOffersOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if g.Catalog.Set(in.Set) == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + in.Set + "\".")
	}
	out := &linkedOffersOutput{}
	out.Body.Offers = []LinkedOffer{}
	for _, by := range linkedBy(g.Catalog, in.Set) {
		out.Body.Offers = append(out.Body.Offers, g.offersOf(in.Set, by)...)
	}
	return out, nil
}

// mostOffers is how many values of the records of one way are offered.
const mostOffers = 60

// offersOf are the values that can be taken of the records of one way.
func (g *requestScope) offersOf(set string, by LinkBy) []LinkedOffer {
	from := g.Catalog.Set(by.Records)
	doc := &view.Document{Gavrik: view.Version, Records: set}
	labels := map[string]bool{} // of two fields that are called the same, the first is offered
	add := func(label string, take view.Take, field, date string) {
		if !labels[label] && len(doc.Linked) < mostOffers {
			labels[label] = true
			doc.Linked = append(doc.Linked, view.LinkedValue{
				Key: fmt.Sprint("offer", len(doc.Linked)), Label: label, Records: by.Records, By: by.By, Take: take,
				Field: field, Date: date,
			})
		}
	}
	add("Number of "+from.Many, view.TakeCount, "", "")
	fields := g.takenFields(by)
	date := mainDate(from, fields)
	if date != nil {
		add("Last "+catalog.LowerFirst(date.Label), view.TakeLargest, date.Path, "")
	}
	for _, f := range fields {
		if date != nil && f.Path != date.Path {
			add(fmt.Sprintf("Latest %s’s %s", from.One, catalog.LowerFirst(f.Label)), view.TakeLatest, f.Path, date.Path)
		}
	}
	for _, f := range fields {
		name := catalog.LowerFirst(f.Label)
		for _, take := range []view.Take{view.TakeSum, view.TakeAverage, view.TakeJoined} {
			switch {
			case !slices.Contains(view.TakesFor(f.Field.Type), take):
			case take == view.TakeJoined && f.Field.Type != catalog.Text:
			case take == view.TakeJoined:
				add(fmt.Sprintf("All %s of %s", catalog.Plural(name), from.Many), take, f.Path, "")
			default:
				add(fmt.Sprintf("%s %s of %s", catalog.UpperFirst(take.Words(f.Field.Type)), name, from.Many), take, f.Path, "")
			}
		}
	}
	p, err := g.Check(doc)
	if err != nil { // nothing is offered that could not be had
		return nil
	}
	var out []LinkedOffer
	for _, v := range doc.Linked {
		d := p.Derived[v.Key]
		if d == nil {
			continue
		}
		v.Key = ""
		out = append(out, LinkedOffer{
			Label: v.Label, Meaning: catalog.UpperFirst(brief.DrawnFrom(p, d, nil)), Type: d.Ref.Field.Type,
			TypeName: d.Ref.Field.Type.Info().Name, By: by, Made: v,
		})
	}
	return out
}

// takenFields are the fields of linking records that values are offered of: their own, and what
// the records are known by that they link to, but for those on the way back.
func (g *requestScope) takenFields(by LinkBy) []catalog.Reached {
	back := strings.Split(by.By, ".")[0]
	return slices.DeleteFunc(g.Catalog.Reach(by.Records, 1), func(r catalog.Reached) bool {
		switch {
		case r.Hidden, r.Field.Technical(), r.Field.Type == catalog.Picture:
			return true
		case len(r.Links) == 1:
			return r.Links[0] == back || r.Field.Key != g.Catalog.Set(r.Set).Name
		}
		return r.Field.Unique
	})
}

// mainDate is the date that tells which record is the latest: the first that a view of the records
// starts with, or the first there is.
func mainDate(from *catalog.RecordSet, fields []catalog.Reached) *catalog.Reached {
	for _, wanted := range []func(path string) bool{
		func(path string) bool { return slices.Contains(from.Standard, path) },
		func(string) bool { return true },
	} {
		for i, f := range fields {
			if f.Field.Type.Temporal() && len(f.Links) == 0 && wanted(f.Path) {
				return &fields[i]
			}
		}
	}
	return nil
}

// shownLinked is how many records a preview shows.
const shownLinked = 4

func (s *questions) linkedValue(ctx context.Context, in *madeInput) (*linkedValueOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &linkedValueOutput{}
	b := &out.Body
	b.Samples, b.Notes, b.Faults = []LinkedSample{}, []string{}, []string{}
	doc := in.Body.View.Selection()
	if !slices.ContainsFunc(doc.Beside, func(b view.Beside) bool { return b.Key == in.Body.Key }) {
		doc.Filter = nil // what it is does not depend on which records are kept
	}
	p, ref, err := g.Field(doc, in.Body.Key)
	var faults plan.Faults
	if errors.As(err, &faults) {
		for _, f := range faults {
			b.Faults = append(b.Faults, sentence(f.Message))
		}
		return out, nil
	}
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	d := p.Derived[in.Body.Key]
	if d == nil || d.Linked == nil && d.Beside == nil {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The view draws no value %q of other records.", in.Body.Key))
	}
	set := g.Catalog.Set(doc.Records)
	doc.Columns = []view.Column{{Field: set.Name}, {Field: in.Body.Key}}
	doc.Sort = []view.Sort{{Field: in.Body.Key, Desc: true}}
	a, err := g.Answer(ctx, doc)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	window, err := a.Window(ctx, result.Open{}, 0, shownLinked)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	pen := a.Pen(format.People)
	for _, line := range window.Lines {
		if cells := pen.Cells(line); cells[1] != "" {
			b.Samples = append(b.Samples, LinkedSample{cells[0], cells[1]})
		}
	}
	values, err := g.Reader.Values(ctx, p, ref, "", 0)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	var as *view.Made
	for _, one := range doc.Makes() {
		if one.Key() == in.Body.Key {
			as = &one.Made
		}
	}
	f := derivedField(p, d, nil, as)
	b.Field, b.Words, b.Records, b.Blank = &f, f.Meaning, a.Kept, values.BlankKept
	b.Notes = append(b.Notes, a.NotesInWords()...)
	return out, nil
}
