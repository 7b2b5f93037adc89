package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/code"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Chapter is a part of the reference of formulas.
type Chapter struct {
	Title     string     `json:"title"`
	Functions []Function `json:"functions"`
}

// Function is a function of formulas with its words.
type Function struct {
	Name      string `json:"name"`
	Arguments string `json:"arguments"`
	Meaning   string `json:"meaning"`
	Result    string `json:"result"`
	Blanks    string `json:"blanks"`
	Example   string `json:"example"`
}

type functionsOutput struct {
	Body struct {
		Chapters []Chapter `json:"chapters"`
	}
}

// madeInput is a view with one of the fields that it makes.
type madeInput struct {
	Body struct {
		View view.Document `json:"view" doc:"With the field among its calculated fields or buckets"`
		Key  string        `json:"key" doc:"Key of the calculated field or bucket"`
	}
}

// FormulaFault is what is wrong with a formula, and where.
type FormulaFault struct {
	From    int       `json:"from" doc:"First character of the place, from 0"`
	To      int       `json:"to" doc:"Character behind the place"`
	Code    code.Code `json:"code" doc:"Which fault it is, for programs; docs/errors.md lists them"`
	Message string    `json:"message"`
}

// FormulaLook is a formula at work on real records.
type FormulaLook struct {
	Faults   []FormulaFault `json:"faults" doc:"What is wrong with it, in the order of the places; then there is no result"`
	PerTotal bool           `json:"perTotal" doc:"Worked out from totals for each group, not for each record"`
	Type     string         `json:"type"`
	Word     string         `json:"word" doc:"What the result is, in words"`
	Numeric  []bool         `json:"numeric" doc:"Which of them are aligned to the right"`
	Fn       view.Fn        `json:"fn,omitempty" doc:"The total that fits best"`
	Approx   bool           `json:"approx" doc:"Binary floating point: a quotient, a root, a power"`
	Decimals int            `json:"decimals"`
	Heads    []string       `json:"heads" doc:"Fields used, and the result"`
	Rows     [][]string     `json:"rows"`
	Kept     int            `json:"kept"`
	Blanks   int            `json:"blanks" doc:"Records without a result; those that failed are among them"`
	Problems []string       `json:"problems"`
	Bins     []Bin          `json:"bins" doc:"How the results are spread"`
}

type formulaOutput struct{ Body FormulaLook }

func (s *questions) registerFormula(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "functions", Method: http.MethodGet, Path: "/api/functions",
		Summary: "The functions of formulas",
	},
		func(context.Context, *struct{}) (*functionsOutput, error) {
			out := &functionsOutput{}
			for _, c := range formula.Chapters() {
				chapter := Chapter{Title: c.Title}
				for _, f := range c.Functions {
					chapter.Functions = append(chapter.Functions, Function{
						Name: f.Name, Arguments: f.Arguments, Meaning: f.Meaning, Result: f.Result, Blanks: f.BlankRule(),
						Example: f.Example,
					})
				}
				out.Body.Chapters = append(out.Body.Chapters, chapter)
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "formula", Method: http.MethodPost, Path: "/api/formula",
		Summary: "Check a formula and try it on real records", MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.formula)
	huma.Register(api, huma.Operation{
		OperationID: "bucket", Method: http.MethodPost, Path: "/api/bucket",
		Summary: "Count what lies in each band of a bucket", MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.bucket)
	huma.Register(api, huma.Operation{
		OperationID: "split", Method: http.MethodPost, Path: "/api/split", Summary: "Propose bands for a field",
		MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.split)
	huma.Register(api, huma.Operation{
		OperationID: "units", Method: http.MethodPost, Path: "/api/units",
		Summary:      "Count the groups that units of time would make of a field, and propose one",
		MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.units)
}

func (s *questions) formula(ctx context.Context, in *madeInput) (*formulaOutput, error) {
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	doc := in.Body.View
	at := slices.IndexFunc(doc.Calculated, func(c view.Calculated) bool { return c.Key == in.Body.Key })
	if at < 0 {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf(
			"The view has no calculated field %q.", in.Body.Key,
		))
	}
	doc.Columns, doc.Sort, doc.Across, doc.Compare = []view.Column{{Field: in.Body.Key}}, nil, nil, nil
	groups := doc.Groups
	doc.Groups = nil
	p, err := g.Check(&doc)
	var faults plan.Faults
	if errors.As(err, &faults) {
		return &formulaOutput{
			FormulaLook{
				Heads: []string{}, Numeric: []bool{}, Rows: [][]string{}, Problems: []string{}, Bins: []Bin{},
				Faults: faultsOf(faults, fmt.Sprintf("calculated[%d]", at), doc.Calculated[at].Label),
			},
		}, nil
	}
	if err != nil {
		return nil, s.failed(ctx, "formula", err)
	}
	d := p.Derived[in.Body.Key]
	look := FormulaLook{
		PerTotal: d.Formula.PerTotal(), Type: string(d.Ref.Field.Type), Word: d.Ref.Field.Type.Word(),
		Approx: d.Ref.Field.Approx, Decimals: d.Ref.Field.Scale, Heads: []string{}, Numeric: []bool{},
		Rows: [][]string{}, Problems: []string{}, Bins: []Bin{},
		Faults: []FormulaFault{},
	}
	if f := d.Ref.Field; !look.PerTotal && f.Type.Numeric() {
		look.Fn = view.FnsFor(f.Type)[0]
	}
	if look.PerTotal {
		err = g.tryTotals(ctx, &doc, groups, &look)
	} else {
		err = g.tryRecords(ctx, &doc, d, &look)
	}
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	return &formulaOutput{look}, nil
}

// faultsOf picks the faults of one calculated field among those of a document.
func faultsOf(faults plan.Faults, at, label string) []FormulaFault {
	var out []FormulaFault
	for _, f := range faults {
		if !strings.HasPrefix(f.Path, at) {
			continue
		}
		message := strings.TrimPrefix(f.Message, label+": ")
		if f.To > 0 { // the place is shown, so it need not be said
			if _, rest, ok := strings.Cut(message, ": "); ok {
				message = rest
			}
		}
		out = append(out, FormulaFault{From: f.From, To: f.To, Code: f.Code, Message: sentence(message)})
	}
	if len(out) == 0 { // another field's, such as one that goes by a name that this one had
		return []FormulaFault{{Code: faults[0].Code, Message: sentence(faults[0].Message)}}
	}
	return out
}

// tried is how many records a formula is tried on.
const tried = 10

// tryRecords shows a formula beside the fields it uses.
func (g *requestScope) tryRecords(
	ctx context.Context, doc *view.Document, d *plan.Derived, look *FormulaLook,
) error {
	doc.Columns = nil
	for _, in := range d.Formula.Calculation.Inputs {
		look.Heads, look.Numeric = append(look.Heads, in.Label), append(look.Numeric, in.Field.Type.Numeric())
		doc.Columns = append(doc.Columns, view.Column{Field: in.Path})
	}
	look.Heads, look.Numeric = append(look.Heads, d.Ref.Label), append(look.Numeric, d.Ref.Field.Type.Numeric())
	doc.Columns = append(doc.Columns, view.Column{Field: d.Ref.Path})
	a, err := g.Answer(ctx, doc)
	if err != nil {
		return err
	}
	w, err := a.Window(ctx, result.Open{}, 0, tried)
	if err != nil {
		return err
	}
	pen := a.Pen(format.People)
	for _, l := range w.Lines {
		look.Rows = append(look.Rows, pen.Cells(l))
	}
	look.Kept = a.Kept
	for _, p := range a.Problems {
		look.Problems = append(look.Problems, p.String())
	}
	spread, err := g.Reader.Distribution(ctx, a.Plan, d.Ref, 24)
	if err != nil {
		return err
	}
	look.Blanks = spread.BlankKept
	for _, b := range spread.Bins {
		look.Bins = append(look.Bins, g.bin(b, d.Ref))
	}
	return nil
}

// tryTotals shows a formula of totals for the outermost groups of the view, and for
// all records.
func (g *requestScope) tryTotals(
	ctx context.Context, doc *view.Document, groups []view.Group, look *FormulaLook,
) error {
	look.Heads = []string{
		"", "Records",
		doc.Calculated[slices.IndexFunc(doc.Calculated, func(c view.Calculated) bool { return c.Key == doc.Columns[0].Field })].Label,
	}
	look.Numeric = []bool{false, true, true}
	if len(groups) > 0 {
		first := groups[0]
		first.Order = nil // it may go by a total that is not shown here
		doc.Groups = []view.Group{first}
	}
	a, err := g.Answer(ctx, doc)
	if err != nil {
		return err
	}
	pen := a.Pen(format.People)
	if len(a.Plan.Groups) > 0 {
		look.Heads[0] = a.Plan.Groups[0].Label()
		w, err := a.Window(ctx, result.Open{}, 0, tried)
		if err != nil {
			return err
		}
		for _, l := range w.Lines {
			look.Rows = append(look.Rows, append([]string{pen.Label(l), fmt.Sprint(l.Count)}, pen.Cells(l)...))
		}
	}
	grand := pen.Cells(a.GrandTotal)
	look.Rows = append(look.Rows, append([]string{"All", fmt.Sprint(a.Kept)}, grand...))
	look.Kept = a.Kept
	for _, p := range a.Problems {
		look.Problems = append(look.Problems, p.String())
	}
	return nil
}
