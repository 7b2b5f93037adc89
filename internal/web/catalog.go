package web

import (
	"context"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// RecordSet is what one row of a view can be.
type RecordSet struct {
	Key   string `json:"key"`
	Label string `json:"label"`
	One   string `json:"one" doc:"One of them, in running text"`
	Many  string `json:"many" doc:"Several, in running text"`
	Grain string `json:"grain" doc:"What one row is, in a sentence"`
	Count int    `json:"count" doc:"How many there are; -1 if that is not known"`
	About bool   `json:"about,omitempty" doc:"Count is estimated"`
	Stays bool   `json:"stays,omitempty" doc:"The records are not in memory, and are asked for in their database"`
	// Settled is only told to administrators.
	Settled  string         `json:"settled,omitempty" enum:"here,server,size" doc:"For administrators, of records that stay: by whom that was settled, on the page of the records, by how the server was started, or by their size"`
	Standard []string       `json:"standard" doc:"Paths of the standard columns"`
	LinkedBy []LinkBy       `json:"linkedBy" doc:"Other records that link here"`
	Links    []catalog.Link `json:"links" doc:"Records that these link to"`
	Name     string         `json:"name" doc:"Key of the field that people know a record by"`
	Address  string         `json:"address" doc:"Key of the field that no two records share, by which one is opened; empty if there is none"`
	Withheld []string       `json:"withheld" doc:"Labels of fields and links that are kept from the reader"`
	Start    *view.Document `json:"start,omitempty" doc:"The standard view, with which a new one starts"`
	Own      bool           `json:"own" doc:"An administrator has set the standard columns"`
	Hidden   bool           `json:"hidden,omitempty" doc:"Not offered where record sets are chosen"`
	Source   string         `json:"source,omitempty" doc:"The database it comes from, if not the first"`
}

// LinkBy is a way from the records of another set to those at hand.
type LinkBy struct {
	Records string `json:"records" doc:"Key of the other set"`
	By      string `json:"by" doc:"The links that lead here, their keys joined by dots"`
	Label   string `json:"label" doc:"The other records"`
	Many    string `json:"many" doc:"The same in running text"`
	Way     string `json:"way" doc:"The links in words"`
}

// Followed is how a source of records is followed.
type Followed struct {
	Source   string `json:"source,omitempty"`
	How      string `json:"how" doc:"In words, as a sentence"`
	Streamed bool   `json:"streamed" doc:"Changes come as they are committed"`
	Since    string `json:"since"`
}

// followed says how the sources of the records are followed.
func (s *questions) followed(g *requestScope) []Followed {
	out := []Followed{}
	if s.Following == nil {
		return out
	}
	for _, one := range s.Following.States() {
		if !one.Files && one.How != "" {
			out = append(out, Followed{one.Source, sentence(one.How), one.Streamed, g.Moment(one.Since)})
		}
	}
	return out
}

type catalogOutput struct {
	Body struct {
		Sets     []RecordSet `json:"sets"`
		Withheld []string    `json:"withheld" doc:"Labels of record sets that are kept from the reader"`
		Followed []Followed  `json:"followed" doc:"For administrators: how the sources of the records are followed"`
		Reshaped []string    `json:"reshaped" doc:"For administrators: what has become of record sets, fields and links while the server ran, the newest first"`
		Notices  []string    `json:"notices" doc:"For administrators: what the database holds that could not be offered, and how to mend it"`
		AsOf     time.Time   `json:"asOf" doc:"Moment of the records"`
		Stale    string      `json:"stale,omitempty" doc:"That the records could not be loaded again, and since when"`
	}
}

// Field is a field that a view of some record set can use.
type Field struct {
	Path     string       `json:"path"`
	Label    string       `json:"label" doc:"Label with as much of the way as it needs"`
	Way      []string     `json:"way" doc:"Labels of the links followed"`
	Meaning  string       `json:"meaning"`
	Type     catalog.Type `json:"type" enum:"@types"`
	TypeName string       `json:"typeName" doc:"The type in words"`
	Numeric  bool         `json:"numeric" doc:"Values are aligned to the right"`
	Filled   float64      `json:"filled" doc:"Share of the field's records that are not blank, from 0 to 1; -1 if nobody has looked"`
	First    bool         `json:"first,omitempty" doc:"Filled and the samples are of the first records alone"`
	Samples  []string     `json:"samples"`
	Ops      []OpChoice   `json:"ops" doc:"Operators that fit, the likeliest first"`
	Fns      []FnChoice   `json:"fns" doc:"Totals that fit, the likeliest first"`
	Beside   []BesideTake `json:"beside" doc:"What can be shown of it beside its group, or beside the record before"`
	Takes    []TakeChoice `json:"takes" doc:"What can be taken of it where its records link to others"`
	Kind     string       `json:"kind,omitempty" enum:"calculated,per_total,bucket,linked,beside" doc:"How it is made; none for a stored field"`
	Shared   bool         `json:"shared,omitempty" doc:"It is a definition that all views share"`
	Unique   bool         `json:"unique,omitempty" doc:"No two records of its set share a value"`
	Apart    *FieldName   `json:"apart,omitempty" doc:"Of a text that several records may have: the field that tells them apart all the same"`
	// Technical fields come last wherever a field is looked for.
	Technical bool `json:"technical,omitempty" doc:"A key that only tells records apart"`
	Hidden    bool `json:"hidden,omitempty" doc:"Not offered where fields are looked for"`
	// FillIn says how the reader can fill it in.
	FillIn *FillIn `json:"fillIn,omitempty" doc:"It is a fact of these records that the reader may fill in"`
}

// FieldName is a field by its path.
type FieldName struct {
	Path  string `json:"path"`
	Label string `json:"label"`
}

// OpChoice is an operator with its words.
type OpChoice struct {
	Op      view.Op      `json:"op"`
	Label   string       `json:"label"`
	Operand view.Operand `json:"operand" enum:"@operands" doc:"What it compares with"`
	Fields  bool         `json:"fields" doc:"May compare with a second field"`
}

// FnChoice is a total with its words.
type FnChoice struct {
	Fn    view.Fn `json:"fn"`
	Label string  `json:"label"`
}

// TakeChoice is what can be taken of linked records with its words.
type TakeChoice struct {
	Take  view.Take `json:"take" enum:"@takes"`
	Label string    `json:"label"`
}

// BesideTake is what a record can be set beside, with its words.
type BesideTake struct {
	Take    view.BesideTake `json:"take" enum:"@beside"`
	Label   string          `json:"label"`
	Ordered bool            `json:"ordered" doc:"It goes by an order of the records"`
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

func (s *questions) registerCatalog(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "catalog", Method: http.MethodGet, Path: "/api/catalog", Summary: "Record sets",
	},
		func(ctx context.Context, _ *struct{}) (*catalogOutput, error) {
			h, err := s.scope(ctx)
			if err != nil {
				return nil, err
			}
			out := &catalogOutput{}
			out.Body.AsOf = h.AsOf
			if stale := s.Workspace.Stale(); stale != "" {
				out.Body.Stale = sentence(stale)
			}
			out.Body.Sets, out.Body.Notices, out.Body.Withheld = []RecordSet{}, []string{}, []string{}
			out.Body.Reshaped, out.Body.Followed = []string{}, []Followed{}
			if who(ctx).Administrator() {
				out.Body.Notices = append(out.Body.Notices, h.Catalog.Notices...)
				out.Body.Followed = s.followed(h)
				for _, one := range slices.Backward(s.Workspace.Reshaped()) {
					out.Body.Reshaped = append(out.Body.Reshaped, h.Moment(one.At)+": "+one.What)
				}
			}
			for _, set := range h.Catalog.Restricted {
				out.Body.Withheld = append(out.Body.Withheld, set.Label)
			}
			settled, err := s.settled(ctx, h)
			if err != nil {
				return nil, s.failed(ctx, "catalog", err)
			}
			for _, set := range h.Catalog.Sets {
				columns, start, own := h.standard(set)
				out.Body.Sets = append(out.Body.Sets, RecordSet{
					Key: set.Key, Label: set.Label, One: set.One, Many: set.Many, Grain: set.Grain, Standard: columns, Start: start,
					Own: own, Withheld: restrictedIn(h, set.Key),
					Count: rowsOf(h, set.Key), About: h.aboutOf(set.Key), Stays: set.Stays, Settled: settled[set.Key],
					LinkedBy: linkedBy(h.Catalog, set.Key),
					Links:    append([]catalog.Link{}, set.Links...), Name: set.Name, Address: set.Address(),
					Hidden: set.Hidden, Source: set.Source,
				})
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "fields", Method: http.MethodGet, Path: "/api/catalog/{set}/fields",
		Summary: "Fields of a record set and of the records linked from it", Errors: []int{404},
	},
		func(ctx context.Context, in *fieldsInput) (*fieldsOutput, error) { return s.fields(ctx, in.Set) })
	huma.Register(api, huma.Operation{
		OperationID: "refresh", Method: http.MethodPost, Path: "/api/refresh", Summary: "Load the records again",
		Metadata: administrators, Errors: []int{403, 502},
	},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			if err := s.Workspace.Refresh(ctx); err != nil {
				s.Log.Error("refresh", "error", err)
				return nil, huma.NewError(
					http.StatusBadGateway, "The records could not be loaded again; those in memory stay. "+err.Error(),
				)
			}
			return nil, nil
		})
}

// linkedDepth is how many links away other records are offered for conditions.
const linkedDepth = 2

// linkedBy lists the ways that lead to a set from others, the shortest first.
func linkedBy(c *catalog.Catalog, set string) []LinkBy {
	out := []LinkBy{}
	for _, from := range c.Sets {
		if from.Key == set || from.Hidden {
			continue
		}
		seen := map[string]bool{}
		for _, r := range c.Reach(from.Key, linkedDepth) {
			by := strings.Join(r.Links, ".")
			if r.Set != set || seen[by] || r.HiddenWay {
				continue
			}
			seen[by] = true
			one := LinkBy{
				Records: from.Key, By: by, Label: from.Label, Many: from.Many,
				Way: strings.ToLower(strings.Join(r.Way, " › ")),
			}
			if l := from.Link(by); l != nil && l.Back != "" {
				one.Label, one.Many = l.Back, catalog.LowerFirst(l.Back)
			}
			out = append(out, one)
		}
	}
	slices.SortStableFunc(out, func(a, b LinkBy) int {
		return strings.Count(a.By, ".") - strings.Count(b.By, ".")
	})
	return out
}

func (s *questions) fields(ctx context.Context, set string) (*fieldsOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	if g.Catalog.Set(set) == nil {
		return nil, huma.Error404NotFound("There is no record set \"" + set + "\".")
	}
	out := &fieldsOutput{}
	for _, r := range g.Catalog.Reach(set, reachDepth) {
		facts, err := g.Reader.Facts(ctx, nil, r.Ref)
		if err != nil {
			return nil, s.failed(ctx, "fields", err)
		}
		f := g.fieldOf(r.Ref, r.Way, facts)
		f.Hidden, f.FillIn = r.Hidden, g.fillInOf(ctx, set, r.Ref)
		if apart, err := g.Catalog.Resolve(set, r.Path+"."+catalog.Each); err == nil {
			f.Apart = &FieldName{apart.Path, apart.Label}
		}
		out.Body.Fields = append(out.Body.Fields, f)
	}
	p, err := g.Check(&view.Document{Gavrik: view.Version, Records: set})
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	for _, d := range g.Agreed.Definitions.Fields(g.Catalog, set, p) {
		facts := result.Facts{}
		if d.Formula == nil || !d.Formula.PerTotal() {
			if facts, err = g.Reader.Facts(ctx, p, d.Ref); err != nil {
				return nil, s.refused(ctx, err)
			}
		}
		f := derivedField(p, d.Derived, d.Way, nil)
		f.Filled, f.First, f.Samples = filled(facts), facts.First, append(f.Samples, g.samples(facts, d.Ref)...)
		out.Body.Fields = append(out.Body.Fields, f)
	}
	return out, nil
}

// fieldOf describes a field of the catalog.
func (g *requestScope) fieldOf(ref catalog.Ref, way []string, facts result.Facts) Field {
	f := plainField(ref, way)
	f.Filled, f.First, f.Samples = filled(facts), facts.First, append(f.Samples, g.samples(facts, ref)...)
	return f
}

// shownSamples is how many of a field's values are named.
const shownSamples = 3

// samples are a few of a field's values, as people read them.
func (g *requestScope) samples(facts result.Facts, ref catalog.Ref) (out []string) {
	w := format.NewWriter(format.People, g.Calendar)
	for _, c := range facts.Samples {
		text := w.Cell(c, ref.Field)
		if len(out) < shownSamples && !slices.Contains(out, text) {
			out = append(out, text)
		}
	}
	return out
}

// plainField describes a field without what it holds.
func plainField(ref catalog.Ref, way []string) Field {
	return Field{
		Path: ref.Path, Label: ref.Label, Way: append([]string{}, way...), Meaning: ref.Field.Meaning,
		Type:     ref.Field.Type,
		TypeName: ref.Field.Type.Info().Name, Numeric: ref.Field.Type.Numeric(), Samples: []string{}, Filled: 1,
		Takes: takes(ref.Field.Type), Beside: besides(ref.Field.Type),
		Ops: ops(ref.Field.Type), Fns: fns(ref.Field.Type), Unique: ref.Field.Unique, Technical: ref.Field.Technical(),
	}
}

const unknownShare = -1

func filled(facts result.Facts) float64 {
	if facts.Rows == 0 && facts.First {
		return unknownShare
	}
	if facts.Rows == 0 {
		return 0
	}
	return 1 - float64(facts.Blanks)/float64(facts.Rows)
}

// derivedField describes a field that is made. One that is calculated from
// totals is a column, and nothing to filter, group or total by.
func derivedField(p *plan.Plan, d *plan.Derived, way []string, as *view.Made) Field {
	f := plainField(d.Ref, way)
	inner := d
	if d.There != nil {
		inner = d.Inner()
	}
	switch {
	case inner.Formula != nil && inner.Formula.PerTotal():
		f.Kind, f.Ops, f.Fns, f.Takes = "per_total", []OpChoice{}, []FnChoice{}, []TakeChoice{}
		f.Beside = []BesideTake{}
	case inner.Formula != nil:
		f.Kind = "calculated"
	case inner.Linked != nil:
		f.Kind = "linked"
	case inner.Beside != nil:
		f.Kind = "beside"
	default:
		f.Kind = "bucket"
		for _, b := range inner.Bucket.Bands {
			f.Samples = append(f.Samples, b.Label)
		}
	}
	switch {
	case inner.Formula != nil:
		f.Meaning = "= " + inner.Formula.Tidy
	case inner.Bucket == nil:
		f.Meaning = catalog.UpperFirst(brief.DrawnFrom(p, d, as))
	default:
		f.Meaning = "Bands of " + catalog.LowerFirst(inner.Bucket.Of.Label)
	}
	f.Shared = d.There != nil || d.Definition != nil
	return f
}

// made describes what a document itself makes.
func made(p *plan.Plan, doc *view.Document) []Field {
	out := []Field{}
	for _, one := range doc.Makes() {
		if d := p.Derived[one.Key()]; d != nil {
			out = append(out, derivedField(p, d, nil, &one.Made))
		}
	}
	slices.SortFunc(out, func(a, b Field) int { return strings.Compare(a.Path, b.Path) })
	return out
}

func ops(t catalog.Type) []OpChoice {
	var out []OpChoice
	for _, op := range view.OpsFor(t) {
		info := op.Info()
		out = append(out, OpChoice{Op: op, Label: info.LabelFor(t), Operand: info.Operand, Fields: info.Fields})
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

func takes(t catalog.Type) []TakeChoice {
	out := []TakeChoice{}
	for _, take := range view.TakesFor(t) {
		out = append(out, TakeChoice{Take: take, Label: take.Words(t)})
	}
	return out
}

func besides(t catalog.Type) []BesideTake {
	out := []BesideTake{}
	for _, take := range view.BesideTakes() {
		if take.Fits(t) {
			out = append(out, BesideTake{take, take.Words(), take.Ordered()})
		}
	}
	return out
}

// aboutOf says that how many records of a set there are is estimated.
func (g *requestScope) aboutOf(set string) bool {
	extent, _ := g.Reader.Extent(set)
	return extent.About && extent.Records != result.Unknown
}

// rowsOf is how many records of a set there are, or result.Unknown.
func rowsOf(g *requestScope, set string) int {
	extent, _ := g.Reader.Extent(set)
	return extent.Records
}
