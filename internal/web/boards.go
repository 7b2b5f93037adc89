package web

import (
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"gavrik/internal/app"
	"gavrik/internal/core/board"
	"gavrik/internal/core/brief"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// BoardView is a view of a board, as its reader finds it.
type BoardView struct {
	Key    string        `json:"key"`
	Name   string        `json:"name"`
	Set    string        `json:"set" doc:"Key of its record set"`
	Owner  string        `json:"owner"`
	Alone  bool          `json:"alone" doc:"The reader may open it by itself, too"`
	Why    string        `json:"why" doc:"Why nothing of it can be shown; empty if it can"`
	Least  int           `json:"least" doc:"If not 0, groups of so many records at least are shown, and no record"`
	Levels int           `json:"levels" doc:"How many levels of groups it has"`
	Totals []BoardTotal  `json:"totals" doc:"What can stand as a figure"`
	View   view.Document `json:"view" doc:"What it asks"`
}

// BoardPage is a run of parts that are seen together.
type BoardPage struct {
	Rows  int      `json:"rows" doc:"How many rows of the grid it has"`
	Parts []string `json:"parts" doc:"Keys of its parts"`
}

// BoardTotal is a total of a view that can be shown by itself.
type BoardTotal struct {
	Field  string  `json:"field"`
	Fn     view.Fn `json:"fn"`
	Label  string  `json:"label"`
	Number bool    `json:"number" doc:"It can be drawn"`
}

// BoardQuestion is one that is asked once for all views that ask the same.
type BoardQuestion struct {
	Name      string         `json:"name"`
	Condition view.Condition `json:"condition" doc:"As the first view that asks it has it"`
	View      string         `json:"view" doc:"Key of that view"`
	Required  bool           `json:"required"`
	Differs   bool           `json:"differs" doc:"The views propose different answers; without one, each goes by its own"`
	Of        []board.Of     `json:"of" doc:"Each view's own name for it"`
}

// PartAnswer is what a part of a board shows.
type PartAnswer struct {
	Name     string     `json:"name" doc:"The view's"`
	Sentence string     `json:"sentence" doc:"What the view says of itself"`
	Why      string     `json:"why" doc:"Why nothing is shown; empty if something is"`
	Waits    string     `json:"waits" doc:"The question that has to be answered first"`
	AsOf     *time.Time `json:"asOf,omitempty"`
	AsOfText string     `json:"asOfText"`
	Counted  string     `json:"counted" doc:"How many records there are, in words"`
	Problems []Trouble  `json:"problems"`
	Micros   int64      `json:"micros" doc:"Time the computation took, in microseconds"`

	Figure *BoardFigure `json:"figure,omitempty"`
	Chart  *Drawing     `json:"chart,omitempty"`
	Spec   *view.Chart  `json:"spec,omitempty" doc:"How the chart is drawn"`
	Heads  []ColumnHead `json:"heads,omitzero" doc:"Columns of the lines"`
	Lines  []Line       `json:"lines,omitzero"`
	More   int          `json:"more,omitempty" doc:"How many lines are not shown"`
	HTML   string       `json:"html,omitempty" doc:"Of a text: as it is shown, with nothing in it that acts"`
}

// BoardFigure is a total of all records, with its change where the view compares.
type BoardFigure struct {
	Label   string `json:"label"`
	Text    string `json:"text" doc:"Empty where there is none"`
	Other   string `json:"other"`
	Change  string `json:"change"`
	Percent string `json:"percent"`
	Against string `json:"against" doc:"What it is compared with"`
	Sign    int    `json:"sign" doc:"Of the change: -1, 0 or 1"`
}

type (
	lookAtBoardInput struct {
		Body struct {
			Board   board.Board           `json:"board"`
			Saved   string                `json:"saved,omitempty" maxLength:"40" doc:"Key of the board as it is saved, which may be shared for its totals"`
			Shares  []Share               `json:"shares,omitempty" maxItems:"100" doc:"Who is to see the board, to be told which views they do not see"`
			Answers map[string]view.Given `json:"answers,omitempty" doc:"To the board's questions, to be told which it does not ask"`
		}
	}
	lookAtBoardOutput struct {
		Body struct {
			Sentence  string          `json:"sentence" doc:"What the board shows, in words"`
			Views     []BoardView     `json:"views"`
			Questions []BoardQuestion `json:"questions"`
			Unasked   []string        `json:"unasked" doc:"Names of answers that no view asks for"`
			Pages     []BoardPage     `json:"pages" doc:"Parts that are seen together, where a board is shown page by page"`
			Narrower  []string        `json:"narrower" doc:"Names of views that not everyone sees who sees the board"`
		}
	}
	boardPartInput struct {
		Body struct {
			Part    board.Part            `json:"part"`
			Saved   string                `json:"saved,omitempty" maxLength:"40" doc:"Key of the board as it is saved, which may be shared for its totals"`
			Answers map[string]view.Given `json:"answers,omitempty" doc:"To its view's own questions"`
		}
	}
	boardPartOutput struct{ Body PartAnswer }
)

func (s *questions) registerBoards(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "look-at-board", Method: http.MethodPost, Path: "/api/boards/look",
		Summary: "What a board is made of: its views, and what it asks for all of them", MaxBodyBytes: maxBody,
		Errors: []int{422},
	}, s.lookAtBoard)
	huma.Register(api, huma.Operation{
		OperationID: "board-part", Method: http.MethodPost, Path: "/api/boards/part",
		Summary: "What a part of a board shows", MaxBodyBytes: maxBody, Errors: []int{422},
	}, s.boardPart)
}

func (s *questions) lookAtBoard(ctx context.Context, in *lookAtBoardInput) (*lookAtBoardOutput, error) {
	doc := &in.Body.Board
	if err := doc.Check(); err != nil {
		return nil, s.refusedAt(ctx, "body.board", err)
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	of, err := s.savedBoard(ctx, in.Body.Saved)
	if err != nil {
		return nil, err
	}
	found, err := s.FindBoard(ctx, g.Scope, who(ctx), doc, of)
	if err != nil {
		return nil, s.failed(ctx, "board", err)
	}
	out := &lookAtBoardOutput{}
	b := &out.Body
	b.Views, b.Questions, b.Unasked, b.Narrower = []BoardView{}, []BoardQuestion{}, []string{}, []string{}
	for _, v := range found.Views {
		b.Views = append(b.Views, boardView(v))
		if v.Alone && narrower(v.View.Shares, in.Body.Shares) {
			b.Narrower = append(b.Narrower, v.View.Name)
		}
	}
	b.Pages = []BoardPage{}
	for _, page := range doc.Pages() {
		of := BoardPage{Rows: page.Rows, Parts: []string{}}
		for _, p := range page.Places {
			of.Parts = append(of.Parts, doc.Parts[p.Part].Key)
		}
		b.Pages = append(b.Pages, of)
	}
	b.Sentence = doc.Sentence(found.NameOf)
	for _, q := range found.Questions {
		b.Questions = append(b.Questions, BoardQuestion(q))
	}
	b.Unasked = append(b.Unasked, board.Unasked(found.Questions, in.Body.Answers)...)
	return out, nil
}

// savedBoard is a board as it is saved, nil for none, or the problem.
func (s service) savedBoard(ctx context.Context, key string) (*store.View, error) {
	if key == "" {
		return nil, nil
	}
	v, err := s.seen(ctx, key, "board")
	if err != nil {
		return nil, err
	}
	if v.Kind != store.BoardKind {
		return nil, noSuch("board")
	}
	return &v, nil
}

func boardView(v app.BoardView) BoardView {
	out := BoardView{
		Key: v.Key, Name: v.View.Name, Owner: v.View.OwnerName, Why: v.Why, Least: v.Least, Alone: v.Alone, Totals: []BoardTotal{},
		View: view.Document{Gavrik: view.Version, Columns: []view.Column{}},
	}
	if v.Doc == nil {
		return out
	}
	out.Set, out.View = v.Doc.Records, *v.Doc
	if v.Plan == nil {
		return out
	}
	out.Levels = len(v.Plan.Groups)
	for _, c := range v.Plan.Columns {
		if c.Measure < 0 {
			continue
		}
		m := v.Plan.Measures[c.Measure]
		out.Totals = append(out.Totals, BoardTotal{c.Ref.Path, m.Fn, m.Label, m.Result().Type.Numeric()})
	}
	return out
}

// narrower says whether somebody sees a board who does not see a view of it.
func narrower(of []store.Share, seenBy []Share) bool {
	covers := func(want Share) bool {
		return slices.ContainsFunc(of, func(have store.Share) bool {
			everyone := have.Role == "" && have.Group == 0
			return everyone || have.Role == want.Role && have.Group == want.Group
		})
	}
	return slices.ContainsFunc(seenBy, func(want Share) bool { return want.Totals == 0 && !covers(want) })
}

func (s *questions) boardPart(ctx context.Context, in *boardPartInput) (*boardPartOutput, error) {
	part := in.Body.Part
	alone := board.Board{Gavrik: board.Version, Parts: []board.Part{part}}
	if err := alone.Check(); err != nil {
		return nil, s.refusedAt(ctx, "body", err)
	}
	out := &boardPartOutput{PartAnswer{Problems: []Trouble{}}}
	if part.Show == board.Text {
		out.Body.HTML = safeHTML(part.Text)
		return out, nil
	}
	g, err := s.scope(ctx)
	if err != nil {
		return nil, err
	}
	of, err := s.savedBoard(ctx, in.Body.Saved)
	if err != nil {
		return nil, err
	}
	found, err := s.FindBoard(ctx, g.Scope, who(ctx), &alone, of)
	if err != nil {
		return nil, s.failed(ctx, "board", err)
	}
	p, err := s.AnswerPart(ctx, part, found.View(part.View), in.Body.Answers)
	if err != nil {
		return nil, s.refused(ctx, err)
	}
	out.Body.Name, out.Body.Why, out.Body.Waits = p.View.Name, sentence(p.Why), p.Waits
	if p.Answer == nil {
		return out, nil
	}
	return out, s.writePart(ctx, &out.Body, part, &answer{p.Answer})
}

// writePart writes what a part shows of its answered view.
func (s *questions) writePart(ctx context.Context, out *PartAnswer, part board.Part, a *answer) error {
	out.Sentence = brief.Text(brief.Write(a.Plan, a.Doc, a.Set))
	out.AsOf, out.AsOfText = &a.AsOf, a.AsOf.In(a.Plan.Calendar.Zone).Format("15:04")
	out.Counted, out.Problems, out.Micros = a.CountedText(), troubles(a), a.Took.Microseconds()
	if stale := s.Workspace.Stale(); stale != "" {
		out.Problems = append(out.Problems, Trouble{Text: stale})
	}
	switch part.Show {
	case board.Figure:
		f := a.Figure(part.Field, part.Fn, part.Count)
		if out.Why = f.Why; f.Why != "" {
			return nil
		}
		out.Figure = &BoardFigure{f.Label, f.Text, f.Other, f.Change, f.Percent, f.Against, f.Sign}
	case board.Chart:
		var err error
		if out.Chart, err = drawing(ctx, a); err != nil {
			return s.refused(ctx, err)
		}
		out.Spec = a.Doc.Chart
	default:
		return s.writeLines(ctx, out, part, a)
	}
	return nil
}

// writeLines writes the lines of a part.
func (s *questions) writeLines(ctx context.Context, out *PartAnswer, part board.Part, a *answer) error {
	of, err := a.PartLines(ctx, part)
	if err != nil {
		return s.refused(ctx, err)
	}
	if out.Why = of.Why; of.Why != "" {
		return nil
	}
	heads := columnHeads(a.Summary)
	out.Heads, out.More = []ColumnHead{}, of.More
	for _, at := range of.Heads {
		out.Heads = append(out.Heads, heads[at])
	}
	if of.Total != nil {
		of.Lines = append(of.Lines, *of.Total)
	}
	out.Lines = a.written(of.Lines, format.People)
	for i := range out.Lines {
		l := &out.Lines[i]
		cells := make([]string, len(of.Heads))
		for n, at := range of.Heads {
			cells[n] = l.Cells[at]
		}
		l.Cells, l.Mixes, l.Bars = cells, nil, nil
	}
	return nil
}
