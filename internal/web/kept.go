package web

import (
	"context"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kept"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// KeptResult is what a view said at a moment.
type KeptResult struct {
	Key      string      `json:"key"`
	View     string      `json:"view" doc:"Key of its view"`
	ViewName string      `json:"viewName"`
	Name     string      `json:"name" doc:"Its keeper's word for it, or empty"`
	By       string      `json:"by" doc:"Who kept it"`
	At       time.Time   `json:"at" doc:"When it was kept"`
	AsOf     time.Time   `json:"asOf" doc:"The moment of its records"`
	AsOfText string      `json:"asOfText"`
	Version  int         `json:"version" doc:"Of the view"`
	ByPlan   bool        `json:"byPlan" doc:"It was kept by a plan, which lets go of the oldest"`
	Mine     bool        `json:"mine" doc:"The reader may let go of it"`
	Bytes    int64       `json:"bytes" doc:"How much it takes in the database"`
	Why      string      `json:"why,omitempty" doc:"Why it is not shown to the reader; what follows is left out then"`
	Sentence string      `json:"sentence"`
	Records  int64       `json:"records"`
	Totals   []KeptTotal `json:"totals" doc:"Of all records; the count of them first"`
}

// KeptTotal is a total of all records of a kept result.
type KeptTotal struct {
	Path  string  `json:"path" doc:"With fn, names it through all kept results of a view; both are empty for the count of records"`
	Fn    view.Fn `json:"fn"`
	Label string  `json:"label"`
	Text  string  `json:"text"`
	Value string  `json:"value" doc:"As programs read it; empty for none"`
}

// KeptRecord is a record of a kept result.
type KeptRecord struct {
	Record string   `json:"record" doc:"What it is opened by"`
	Cells  []string `json:"cells"`
}

// KeptChange is a record that differs.
type KeptChange struct {
	Record  string        `json:"record" doc:"What it is opened by"`
	Changes []FieldChange `json:"changes"`
}

// FieldChange is a value that differs.
type FieldChange struct {
	Column int    `json:"column" doc:"Place among the columns"`
	From   string `json:"from"`
	To     string `json:"to"`
}

// FigurePair is a total then and now.
type FigurePair struct {
	Label  string `json:"label"`
	Before string `json:"before"`
	Now    string `json:"now"`
}

type (
	keepInput struct {
		Key  string `path:"key"`
		Body struct {
			View view.Document `json:"view" doc:"The view's document with its answers"`
			Name string        `json:"name,omitempty" maxLength:"120" doc:"A word of one's own for it"`
		}
	}
	keptOutput     struct{ Body KeptResult }
	openKeptOutput struct {
		Body struct {
			KeptResult
			Document view.Document `json:"document"`
		}
	}
	keptListOutput struct {
		Body struct {
			Kept []KeptResult `json:"kept" doc:"The newest first"`
		}
	}
	ofKeptResult struct {
		Key string `path:"key"`
	}
	differencesInput struct {
		Key  string `path:"key"`
		With string `query:"with" maxLength:"40" doc:"Key of another kept result; what the view says now, if left out"`
	}
	differencesOutput struct {
		Body struct {
			Before        string       `json:"before" doc:"The moment of the earlier one, with its name"`
			Now           string       `json:"now" doc:"The moment of the later one"`
			Columns       []string     `json:"columns" doc:"Those that both have"`
			Came          int          `json:"came" doc:"Records that the later one has and the earlier has not"`
			Went          int          `json:"went"`
			Changed       int          `json:"changed"`
			Same          int          `json:"same"`
			Totals        []FigurePair `json:"totals"`
			ListedCame    []KeptRecord `json:"listedCame" doc:"The first of them"`
			ListedWent    []KeptRecord `json:"listedWent"`
			ListedChanged []KeptChange `json:"listedChanged"`
		}
	}
)

func (s *library) registerKept(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "keep-result", Method: http.MethodPost, Path: "/api/views/{key}/kept", MaxBodyBytes: maxBody,
		Summary: "Keep what a view says now", DefaultStatus: http.StatusCreated, Errors: []int{403, 404, 422}, Metadata: analysts,
	}, s.keep)
	huma.Register(api, huma.Operation{
		OperationID: "kept-results", Method: http.MethodGet, Path: "/api/views/{key}/kept",
		Summary: "What was kept of a view", Errors: []int{404},
	}, s.listKept)
	huma.Register(api, huma.Operation{
		OperationID: "kept-result", Method: http.MethodGet, Path: "/api/kept/{key}", Errors: []int{404, 422},
		Summary: "A kept result; its lines are read by running its document with the header " + KeptHeader,
	}, s.openKept)
	huma.Register(api, huma.Operation{
		OperationID: "let-go-of-kept", Method: http.MethodDelete, Path: "/api/kept/{key}",
		Summary: "Let go of a kept result", Errors: []int{404},
	},
		func(ctx context.Context, in *ofKeptResult) (*struct{}, error) {
			if _, err := s.keptResult(ctx, in.Key); err != nil {
				return nil, err
			}
			if err := s.Store.LetGo(ctx, who(ctx).ID, in.Key); err != nil {
				return nil, huma.Error404NotFound("Who kept it, or owns its view, can let go of it.")
			}
			return nil, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "kept-differences", Method: http.MethodGet, Path: "/api/kept/{key}/differences",
		Summary: "What became of the records of a kept result", Errors: []int{404, 422},
	}, s.differences)
}

// toldKept is a kept result as its reader is told of it.
func (s *library) toldKept(g *requestScope, k store.Kept) (KeptResult, app.AboutKept, error) {
	out := KeptResult{
		Key: k.Key, View: k.View, ViewName: k.ViewName, Name: k.Name, By: k.By, At: k.At, AsOf: k.AsOf, Version: k.Version,
		AsOfText: g.Moment(k.AsOf), ByPlan: k.ByPlan, Mine: k.Mine, Bytes: k.Bytes, Totals: []KeptTotal{},
	}
	about, err := app.AboutOf(k)
	if err != nil {
		return out, about, err
	}
	if out.Why = sentence(g.MayShow(about)); out.Why != "" {
		return out, about, nil
	}
	out.Sentence, out.Records = k.Sentence, k.Records
	for _, t := range about.Totals {
		out.Totals = append(out.Totals, KeptTotal(t))
	}
	return out, about, nil
}

func (s *library) keep(ctx context.Context, in *keepInput) (*keptOutput, error) {
	v, err := s.view(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if _, err := viewDocument(v.Body); err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	there, err := s.Store.KeptOf(ctx, who(ctx).ID, in.Key)
	if err != nil {
		return nil, s.failed(ctx, "kept results", err)
	}
	if err := notMore(len(there), "results kept of this view"); err != nil {
		return nil, err
	}
	key, err := s.Keep(ctx, g.Scope, who(ctx), app.Keeping{
		View: in.Key, Name: strings.TrimSpace(in.Body.Name), Document: &in.Body.View,
	})
	if err != nil {
		return nil, s.notKept(ctx, err)
	}
	k, err := s.keptResult(ctx, key)
	if err != nil {
		return nil, err
	}
	told, _, err := s.toldKept(g, k)
	if err != nil {
		return nil, s.failed(ctx, "kept result", err)
	}
	return &keptOutput{told}, nil
}

func (s *library) listKept(ctx context.Context, in *viewInput) (*keptListOutput, error) {
	v, err := s.view(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	if _, err := viewDocument(v.Body); err != nil {
		return nil, err
	}
	list, err := s.Store.KeptOf(ctx, who(ctx).ID, in.Key)
	if err != nil {
		return nil, s.failed(ctx, "kept results", err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	out := &keptListOutput{}
	out.Body.Kept = make([]KeptResult, len(list))
	for i, k := range list {
		if out.Body.Kept[i], _, err = s.toldKept(g, k); err != nil {
			return nil, s.failed(ctx, "kept results", err)
		}
	}
	return out, nil
}

func (s *library) openKept(ctx context.Context, in *ofKeptResult) (*openKeptOutput, error) {
	k, err := s.keptResult(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	told, about, err := s.toldKept(g, k)
	if err != nil {
		return nil, s.failed(ctx, "kept result", err)
	}
	if told.Why != "" {
		return nil, huma.Error422UnprocessableEntity(told.Why)
	}
	out := &openKeptOutput{}
	out.Body.KeptResult, out.Body.Document = told, *about.Document
	return out, nil
}

// listedRecords is how many records of each kind a comparison lists.
const listedRecords = 500

func (s *library) differences(ctx context.Context, in *differencesInput) (*differencesOutput, error) {
	before, err := s.keptResult(ctx, in.Key)
	if err != nil {
		return nil, err
	}
	var with *store.Kept
	if in.With != "" {
		other, err := s.keptResult(ctx, in.With)
		if err != nil {
			return nil, err
		}
		if other.View != before.View {
			return nil, huma.Error422UnprocessableEntity("Results of one view are compared; this is of another.")
		}
		with = &other
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	c, err := s.CompareKept(ctx, g.Scope, before, with)
	if err != nil {
		return nil, s.notKept(ctx, err)
	}
	out := &differencesOutput{}
	b := &out.Body
	called := func(a *app.Answer) string {
		for _, k := range []*store.Kept{&before, with} {
			if k != nil && k.Name != "" && a.Name == app.KeptName(k.Key) {
				return "“" + k.Name + "”, " + g.Moment(a.AsOf)
			}
		}
		return g.Moment(a.AsOf)
	}
	b.Before, b.Now = called(c.Before), called(c.Now)
	b.Came, b.Went, b.Changed, b.Same = len(c.Came), len(c.Went), len(c.Changed), c.Same
	w := comparisonWriter{
		c, c.Before.Pen(format.People), c.Now.Pen(format.People), format.NewWriter(format.Plain, c.Now.Plan.Calendar),
	}
	b.Columns = []string{}
	for _, p := range c.Columns {
		b.Columns = append(b.Columns, c.Now.Plan.Columns[c.Now.Heads[p.Now].Column].Heading)
	}
	b.Totals = w.totals()
	b.ListedCame = w.records(c.Later, w.now, c.Came, func(p kept.Pair) int { return p.Now })
	b.ListedWent = w.records(c.Earlier, w.before, c.Went, func(p kept.Pair) int { return p.Before })
	b.ListedChanged = w.changes()
	return out, nil
}

// comparisonWriter writes a comparison as texts.
type comparisonWriter struct {
	c           *app.Comparison
	before, now *result.Pen
	address     *format.Writer
}

func (w comparisonWriter) totals() []FigurePair {
	count := func(n int) string { return format.Thousands(strconv.Itoa(n)) }
	out := []FigurePair{{w.c.Now.Plan.Many, count(w.c.Before.Kept), count(w.c.Now.Kept)}}
	for _, p := range w.c.Totals {
		out = append(out, FigurePair{
			Label:  w.c.Now.Label(w.c.Now.Heads[p.Now]),
			Before: w.before.Figure(p.Before, w.c.Before.GrandTotal.Cells[p.Before]),
			Now:    w.now.Figure(p.Now, w.c.Now.GrandTotal.Cells[p.Now]),
		})
	}
	return out
}

// name is what a record is opened by, as text.
func (w comparisonWriter) name(l result.Line) string {
	f := w.c.Now.Set.Field(w.c.Now.Plan.Address)
	if f == nil {
		return l.Record.Text
	}
	return w.address.Cell(l.Record, *f)
}

func (w comparisonWriter) records(
	of *kept.Result, pen *result.Pen, rows []int, side func(kept.Pair) int,
) []KeptRecord {
	out := []KeptRecord{}
	for _, row := range rows[:min(len(rows), listedRecords)] {
		line := of.Record(row)
		one := KeptRecord{Record: w.name(line), Cells: []string{}}
		for _, p := range w.c.Columns {
			one.Cells = append(one.Cells, pen.Value(side(p), line.Cells[side(p)]))
		}
		out = append(out, one)
	}
	return out
}

func (w comparisonWriter) changes() []KeptChange {
	out := []KeptChange{}
	for _, c := range w.c.Changed[:min(len(w.c.Changed), listedRecords)] {
		was, is := w.c.Earlier.Record(c.Before), w.c.Later.Record(c.Now)
		one := KeptChange{Record: w.name(is)}
		for _, at := range c.Columns {
			p := w.c.Columns[at]
			one.Changes = append(one.Changes, FieldChange{
				at, w.before.Value(p.Before, was.Cells[p.Before]), w.now.Value(p.Now, is.Cells[p.Now]),
			})
		}
		out = append(out, one)
	}
	return out
}
