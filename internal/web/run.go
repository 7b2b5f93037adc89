package web

import (
	"context"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/core/brief"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/pgreader"
)

// Phrase is a run of the brief with what its step did.
type Phrase struct {
	Kind  brief.Kind      `json:"kind" enum:"plain,records,filter,group,totals,columns,sort,compare,made"`
	Text  string          `json:"text"`
	Short string          `json:"short,omitempty" doc:"What it folds to where room is short"`
	Path  string          `json:"path" doc:"Place in the view document; empty for plain text"`
	Count *int            `json:"count,omitempty" doc:"Records left after this phrase"`
	Step  *Step           `json:"step,omitempty"`
	Ask   *view.Parameter `json:"ask,omitempty" doc:"The question whose answer it says"`
}

// Step is what one condition did.
type Step struct {
	Left           int      `json:"left" doc:"Records left after it, in reading order"`
	Alone          int      `json:"alone" doc:"Records that it alone would take away"`
	Dates          string   `json:"dates" doc:"Days that a relative period stands for today"`
	BlanksKept     int      `json:"blanksKept" doc:"Records kept because the field is blank"`
	Unmatched      []string `json:"unmatched" doc:"The first listed values that no record has"`
	UnmatchedCount int      `json:"unmatchedCount"`
}

// ColumnHead is a column of the ledger.
type ColumnHead struct {
	Index   int     `json:"index" doc:"Index among the document's columns; -1 for the number of records"`
	Field   string  `json:"field"`
	Heading string  `json:"heading"`
	Note    string  `json:"note" doc:"What the totals of the column are"`
	Fn      view.Fn `json:"fn"`
	Type    string  `json:"type"`
	Numeric bool    `json:"numeric" doc:"Values are aligned to the right"`
	Figures bool    `json:"figures" doc:"Totals are aligned to the right"`
	Width   int     `json:"width"`
	Frozen  bool    `json:"frozen,omitempty" doc:"Stays in sight"`
	Values  bool    `json:"values" doc:"Record lines show values"`

	Part   string   `json:"part,omitempty" enum:"other,change,percent" doc:"Side of a comparison; none for the view's own"`
	Side   string   `json:"side,omitempty" doc:"The part in words"`
	Across []string `json:"across,omitzero" doc:"Labels of the groups across it belongs to, from the outermost in"`
	Whole  bool     `json:"whole,omitempty" doc:"In a crosstab: the column holds the parts of a group across, or all"`
}

// Level is a level of groups.
type Level struct {
	Label  string `json:"label"`
	Groups int    `json:"groups"`
}

// Line is a line of the ledger.
type Line struct {
	Level int    `json:"level" doc:"0 for the grand total, 1 for outermost groups; a record's is one more than its group's"`
	Group string `json:"group,omitempty" doc:"Path of the group; empty for a record"`
	Label string `json:"label,omitempty"`
	Open  bool   `json:"open,omitempty"`
	Count int    `json:"count,omitempty"`
	// Others is only there in a comparison.
	Others *int     `json:"others,omitempty" doc:"Records of the other side of a comparison"`
	Cells  []string `json:"cells"`
	Record string   `json:"record,omitempty" doc:"A record's value of its set's address"`
	Mixes  []Mix    `json:"mixes,omitempty" doc:"Averages of prices that differ"`
	Bars   []Bar    `json:"bars,omitempty" doc:"Cells that are measured by a bar"`
}

// Bar measures a cell against the largest of the lines of its kind.
type Bar struct {
	Cell int     `json:"cell" doc:"Place among the cells"`
	Part float64 `json:"part" doc:"From -1 to 1"`
}

// Trouble is something met on the way, and what to do about it.
type Trouble struct {
	Text string `json:"text"`
	// At most one of these says where a click leads.
	Condition *view.Condition `json:"condition,omitempty" doc:"Keeps the records that it befell"`
	Phrase    string          `json:"phrase,omitempty" doc:"Path of the condition to look at"`
	Group     string          `json:"group,omitempty" doc:"Path of the field to group by"`
}

// Mix is an average that stands for several prices.
type Mix struct {
	Cell int    `json:"cell" doc:"Place of the average among the cells"`
	Low  string `json:"low" doc:"The smallest price"`
	High string `json:"high"`
}

// Tally accounts for every record.
type Tally struct {
	All      int       `json:"all"`
	Fewer    bool      `json:"fewer,omitempty" doc:"All are those that the reader may see; there are others"`
	Kept     int       `json:"kept"`
	Groups   int       `json:"groups"`
	Others   *int      `json:"others,omitempty" doc:"Records of the other side of a comparison"`
	Side     string    `json:"side,omitempty" doc:"What the other side is called"`
	Many     string    `json:"many" doc:"What the records are called"`
	Check    string    `json:"check" doc:"How the subtotals compare with the grand total"`
	Adds     bool      `json:"adds" doc:"They do add up"`
	Problems []Trouble `json:"problems" doc:"What was met on the way"`
	AsOf     time.Time `json:"asOf"`
	AsOfText string    `json:"asOfText"`
	Micros   int64     `json:"micros" doc:"Time the computation took"`
	Asked    bool      `json:"asked,omitempty" doc:"It was worked out of records that stay in their database; asOf is when that was asked"`
}

type runInput struct {
	Body struct {
		View  view.Document `json:"view"`
		Shown bool          `json:"shown,omitempty" doc:"Leave columns out whose field is not there any more, and say so; otherwise they are faults"`
		Anew  bool          `json:"anew,omitempty" doc:"Ask databases again where records stay in them, whatever they said a while ago"`
		Opening
	}
}

type runOutput struct {
	Body struct {
		Brief    []Phrase     `json:"brief"`
		Sentence string       `json:"sentence"`
		Columns  []ColumnHead `json:"columns"`
		Levels   []Level      `json:"levels"`
		Result   string       `json:"result" doc:"Names the result, for reading further lines of it; empty if it is too large to be kept"`
		Version  string       `json:"version" doc:"Tells the answer from those over other records"`
		Lines
		Grand Line     `json:"grand"`
		Tally Tally    `json:"tally"`
		Made  []Field  `json:"made" doc:"Fields that the document makes for itself"`
		Chart *Drawing `json:"chart,omitempty" doc:"Only with the first lines, and if the document asks for one"`
	}
}

func (s *questions) registerRun(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "run", Method: http.MethodPost, Path: "/api/run",
		Summary: "Compute a view and read a part of it", MaxBodyBytes: maxBody, Errors: []int{422}, Metadata: ofKept,
	},
		func(ctx context.Context, in *runInput) (*runOutput, error) {
			if in.Body.Anew {
				ctx = pgreader.Anew(ctx)
			}
			g, a, err := s.answered(ctx, &in.Body.View, in.Body.Shown)
			if err != nil {
				return nil, err
			}
			out := &runOutput{}
			b := &out.Body
			if b.Lines, err = a.lines(ctx, &in.Body.Opening); err != nil {
				return nil, s.refused(ctx, err)
			}
			if b.Version = a.Name; g.Keeps(a.Answer) {
				b.Result = a.Name
			}
			phrases := brief.Write(a.Plan, a.Doc, a.Set)
			b.Brief, b.Sentence = withSteps(phrases, a), brief.Text(phrases)
			b.Columns, b.Levels = columnHeads(a.Summary), levels(a)
			b.Grand = a.written([]result.Line{a.GrandTotal}, in.Body.style())[0]
			b.Tally = tally(a)
			if stale := s.Workspace.Stale(); stale != "" {
				b.Tally.Problems = append(b.Tally.Problems, Trouble{Text: stale})
			}
			b.Made = made(a.Plan, a.Doc)
			if in.Body.Offset == 0 {
				if b.Chart, err = drawing(ctx, a); err != nil {
					return nil, s.refused(ctx, err)
				}
			}
			return out, nil
		})
	huma.Register(api, huma.Operation{
		OperationID: "values", Method: http.MethodPost, Path: "/api/values",
		Summary: "Distinct values of a field under a view's filter", MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.values)
	huma.Register(api, huma.Operation{
		OperationID: "distribution", Method: http.MethodPost, Path: "/api/distribution",
		Summary: "How a field's values are spread under a view's filter, against all", MaxBodyBytes: maxBody,
		Errors: []int{422},
	}, s.distribution)
	huma.Register(api, huma.Operation{
		OperationID: "explain", Method: http.MethodPost, Path: "/api/explain", Summary: "How a total came about",
		MaxBodyBytes: maxBody, Errors: []int{404, 422},
	}, s.explain)
}

func withSteps(phrases []brief.Phrase, a *answer) []Phrase {
	byPath := map[string]result.Step{}
	for _, st := range a.Steps {
		byPath[st.Path] = st
	}
	out := make([]Phrase, len(phrases))
	for i, p := range phrases {
		out[i] = Phrase{Kind: p.Kind, Text: p.Text, Short: p.Short, Path: p.Path, Ask: p.Parameter}
		if p.Kind == brief.Records {
			out[i].Count = &a.All
		}
		if st, ok := byPath[p.Path]; ok && p.Kind == brief.Filter {
			out[i].Count = &st.Left
			out[i].Step = &Step{
				Left: st.Left, Alone: st.Alone, Dates: st.Dates, BlanksKept: st.BlanksKept,
				Unmatched: append([]string{}, st.Unmatched...), UnmatchedCount: st.UnmatchedCount,
			}
		}
	}
	return out
}

func columnHeads(r *result.Summary) []ColumnHead {
	pen := r.Pen(format.People)
	out := make([]ColumnHead, len(r.Heads))
	for i, head := range r.Heads {
		c := r.Plan.Columns[head.Column]
		h := ColumnHead{
			Index: c.Doc, Field: c.Ref.Path, Heading: c.Heading, Type: string(c.Ref.Field.Type),
			Numeric: c.Ref.Field.Type.Numeric(), Width: c.Width, Frozen: c.Frozen,
			Values: c.Values && head.Part == result.Own,
		}
		if c.Measure >= 0 {
			m := r.Plan.Measures[c.Measure]
			h.Fn, h.Note, h.Figures = m.Fn, m.Heading(), head.Field.Type.Numeric()
			if f := head.Field.Format; f != nil && f.In != "" {
				h.Note += ", " + string(f.In)
			}
		}
		h.Part, h.Side = string(head.Part), r.PartLabel(head.Part)
		if len(r.Plan.Across) > 0 {
			h.Across, h.Whole, h.Values = append(
				[]string{}, pen.Across(head.Across)...,
			), len(head.Across) < len(r.Plan.Across), false
		}
		out[i] = h
	}
	return out
}

func levels(a *answer) []Level {
	out := make([]Level, len(a.Plan.Groups))
	for i, g := range a.Plan.Groups {
		out[i] = Level{Label: g.Label(), Groups: a.Levels[i]}
	}
	return out
}

// written writes lines.
func (a *answer) written(in []result.Line, style format.Style) []Line {
	pen := a.Pen(style)
	address := format.NewWriter(format.Plain, a.Plan.Calendar)
	out := make([]Line, len(in))
	for i, l := range in {
		out[i] = Line{
			Level: l.Level, Group: l.Group, Label: pen.Label(l), Open: l.Open, Count: l.Count, Cells: pen.Cells(l),
		}
		if l.IsRecord && a.Plan.Address != "" {
			out[i].Record = address.Cell(l.Record, *a.Set.Field(a.Plan.Address))
		}
		for _, m := range l.Mixes {
			low, high := pen.Mix(m)
			out[i].Mixes = append(out[i].Mixes, Mix{m.Cell, low, high})
		}
		for _, b := range l.Bars {
			out[i].Bars = append(out[i].Bars, Bar(b))
		}
		if a.Plan.Compare != nil && !l.IsRecord {
			out[i].Others = &l.Others
		}
	}
	return out
}

func tally(a *answer) Tally {
	t := Tally{
		All: a.All, Fewer: a.Fewer, Kept: a.Kept, Groups: a.Groups(), Many: a.Set.Noun(a.Kept), AsOf: a.AsOf,
		AsOfText: a.AsOf.In(a.Plan.Calendar.Zone).Format("15:04"), Micros: a.Took.Microseconds(),
		Problems: troubles(a), Asked: a.Asked, Adds: len(a.Check.Wrong) == 0,
	}
	if c := a.Plan.Compare; c != nil {
		t.Others, t.Side = &a.Others, c.Label
	}
	switch {
	case !a.Check.Groups || a.Check.Measures == 0:
	case t.Adds:
		t.Check = "subtotals add up to the total"
	default:
		t.Check = "subtotals of " + strings.Join(a.Check.Wrong, ", ") + " do not add up; please report this"
	}
	return t
}

// troubles are what the reader should know of, each with the way to its records.
func troubles(a *answer) []Trouble {
	out := []Trouble{}
	for _, n := range a.Notes() {
		t := Trouble{Text: n.Text, Phrase: n.Phrase, Group: n.Group}
		if n.Failed != "" {
			t.Condition = &view.Condition{Field: n.Failed, Op: view.Failed}
		}
		out = append(out, t)
	}
	return out
}
