package app

import (
	"context"
	"errors"
	"fmt"
	"slices"

	"gavrik/internal/core/board"
	"gavrik/internal/core/code"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/store"
)

// BoardView is a view of a board as a reader of it finds it.
type BoardView struct {
	Key  string
	View store.View
	Doc  *view.Document
	Plan *plan.Plan
	// Why says why nothing of it can be shown; empty if it can.
	Why string
	// Least, if not 0, says that its reader sees groups of so many records at least, and no record. Its
	// questions are answered by its owner then.
	Least  int
	within *Scope
	// Alone says that its reader may open the view by itself, too.
	Alone bool
}

// FoundBoard is a board as a person finds it.
type FoundBoard struct {
	Doc *board.Board
	// Views are its views, in its order.
	Views []BoardView
	// Questions are what it asks for them.
	Questions []board.Question
}

// FindBoard looks the views of a board up, each as a person may see it. of is the board as it is saved, nil
// for none: one that is shared with her for its totals shows those of the views that are on it and that its
// owner sees, whether or not they are shared with her themselves.
func (a *App) FindBoard(
	ctx context.Context, g *Scope, p store.Person, doc *board.Board, of *store.View,
) (*FoundBoard, error) {
	views, err := a.boardViews(ctx, g, p, doc.Views(), of)
	if err != nil {
		return nil, err
	}
	return &FoundBoard{doc, views, questionsOf(g, views)}, nil
}

// FindSavedBoard is FindBoard of a board as it is saved.
func (a *App) FindSavedBoard(ctx context.Context, g *Scope, p store.Person, of store.View) (*FoundBoard, error) {
	doc, err := board.Parse(of.Document)
	if err != nil {
		return nil, err
	}
	return a.FindBoard(ctx, g, p, doc, &of)
}

// View is a view of the board by its key.
func (b *FoundBoard) View(key string) BoardView {
	return b.Views[slices.IndexFunc(b.Views, func(v BoardView) bool { return v.Key == key })]
}

// NameOf names a view of the board.
func (b *FoundBoard) NameOf(key string) string { return board.Named(b.View(key).View.Name) }

func (a *App) boardViews(
	ctx context.Context, g *Scope, p store.Person, keys []string, of *store.View,
) ([]BoardView, error) {
	views, err := a.Store.ViewsOf(ctx, p.ID, keys)
	if err != nil {
		return nil, err
	}
	byKey, alone := map[string]store.View{}, map[string]bool{}
	for _, v := range views {
		byKey[v.Key], alone[v.Key] = v, true
	}
	if of != nil && of.Least > 0 {
		if err := a.throughBoard(ctx, *of, byKey); err != nil {
			return nil, err
		}
	}
	out := make([]BoardView, len(keys))
	for i, key := range keys {
		v, ok := byKey[key]
		if !ok {
			out[i] = BoardView{Key: key, Why: "This view is not there any more, or it is not shared with you."}
			continue
		}
		if out[i], err = a.boardView(ctx, g, v); err != nil {
			return nil, err
		}
		out[i].Alone = alone[key]
	}
	return out, nil
}

// throughBoard adds the views that are on a board which is shared for its totals, as its owner sees them, to
// be told of in totals; so are those that are there already.
func (a *App) throughBoard(ctx context.Context, of store.View, byKey map[string]store.View) error {
	doc, err := board.Parse(of.Document)
	if err != nil {
		return err
	}
	owners, err := a.Store.ViewsOf(ctx, of.OwnerID, doc.Views())
	if err != nil {
		return err
	}
	for _, v := range owners {
		if mine, ok := byKey[v.Key]; ok {
			v = mine
		}
		v.Least = max(v.Least, of.Least)
		byKey[v.Key] = v
	}
	return nil
}

func (a *App) boardView(ctx context.Context, g *Scope, v store.View) (BoardView, error) {
	out := BoardView{Key: v.Key, View: v, within: g}
	if v.Kind == store.BoardKind {
		out.Why = fmt.Sprintf("“%s” is a board. A board shows views; choose one of its.", v.Name)
		return out, nil
	}
	doc, err := view.Parse(v.Document)
	if err == nil {
		if out.Least = g.Least(v, doc.Records); out.Least > 0 {
			var failed error
			if out.within, failed = a.InTotals(ctx, g, doc.Records); failed != nil {
				return out, failed
			}
		}
		out.Doc = doc
		out.Plan, err = out.within.Check(doc)
	}
	if err != nil {
		out.Why = fmt.Sprintf("“%s” cannot run: %s", v.Name, firstOf(err))
	}
	return out, nil
}

// firstOf is the first thing that is wrong.
func firstOf(err error) string {
	var faults view.Faults
	if errors.As(err, &faults) && len(faults) > 0 {
		return faults[0].Message
	}
	return err.Error()
}

// questionsOf are what a board asks for its views.
func questionsOf(g *Scope, views []BoardView) []board.Question {
	var sources []board.Source
	for _, v := range views {
		if v.Plan == nil || v.Least > 0 {
			continue
		}
		s := board.Source{View: v.Key}
		for _, c := range v.Doc.Parameters() {
			ref, err := v.Plan.Field(g.Catalog, c.Field)
			if err != nil {
				continue // the check has refused it already
			}
			s.Asks = append(s.Asks, board.Ask{Condition: *c, Ref: ref})
		}
		sources = append(sources, s)
	}
	return board.Questions(sources)
}

// PartAnswer is what a part of a board shows.
type PartAnswer struct {
	BoardView
	// Waits is the question without whose answer the view says nothing; else there is an Answer.
	Waits  string
	Answer *Answer
}

// AnswerPart answers a part of a board, with answers to its view's own questions. A Why says that nothing can
// be shown, and is no error.
func (a *App) AnswerPart(
	ctx context.Context, part board.Part, v BoardView, answers map[string]view.Given,
) (PartAnswer, error) {
	out := PartAnswer{BoardView: v}
	if v.Why != "" {
		return out, nil
	}
	doc, err := view.Parse(v.View.Document) // answers are put into it, and parts are answered side by side
	if err != nil {
		return out, err
	}
	if v.Least > 0 && len(answers) > 0 {
		out.Why = fmt.Sprintf("“%s” is shown by its totals, as its owner has answered it; it takes no other answers.", v.View.Name)
		return out, nil
	}
	if err := doc.AnswerWith(answers); err != nil {
		out.Why = err.Error()
		return out, nil
	}
	if v.Least > 0 && part.Show == board.Table {
		out.Why = fmt.Sprintf("“%s” is shown by its totals, without its records.", v.View.Name)
		return out, nil
	}
	if part.Show == board.Table && keepsByTotal(v.Plan) {
		out.Why = fmt.Sprintf(
			"“%s” leaves groups out with their records, so a table of records would show too many. Show its groups.",
			v.View.Name,
		)
		return out, nil
	}
	shape(doc, v.Plan, part)
	out.Doc = doc
	var answer *Answer
	if v.Least > 0 {
		answer, err = a.Totals(ctx, v.within, doc, v.Least)
	} else {
		answer, err = v.within.Answer(ctx, doc)
	}
	var faults view.Faults
	var why *KeptError
	switch {
	case errors.As(err, &why):
		out.Why = fmt.Sprintf("“%s”: %s", v.View.Name, why.Why)
	case errors.As(err, &faults) && faults[0].Code == code.MissingParameter:
		out.Waits = faults[0].Message
	case errors.As(err, &faults):
		out.Why = fmt.Sprintf("“%s” cannot run: %s", v.View.Name, faults[0].Message)
	case err != nil:
		return out, err
	default:
		out.Answer = answer
	}
	return out, nil
}

// shape makes of a view's document what a part shows of it. What shows figures as they stand in the view is
// left as it is, so that both are worked out once.
func shape(doc *view.Document, p *plan.Plan, part board.Part) {
	switch part.Show {
	case board.Table:
		doc.Groups, doc.Across, doc.Compare, doc.Chart = nil, nil, nil, nil
	case board.Chart:
		spec := view.Chart{}
		if doc.Chart != nil {
			spec = *doc.Chart
		} else {
			spec.Field, spec.Fn = firstTotal(p)
		}
		if part.Field != "" || part.Count {
			spec.Field, spec.Fn = part.Field, part.Fn
		}
		doc.Chart = &spec
	}
}

// keepsByTotal says whether it is up to the groups of a plan which records are in its result.
func keepsByTotal(p *plan.Plan) bool {
	return slices.ContainsFunc(slices.Concat(p.Groups, p.Across), plan.Group.LeavesOut)
}

// firstTotal is the first total of a plan that can be drawn; none, if there is none.
func firstTotal(p *plan.Plan) (path string, fn view.Fn) {
	for _, c := range p.Columns {
		if c.Measure >= 0 && p.Measures[c.Measure].Show == "" && p.Measures[c.Measure].Result().Type.Numeric() {
			return c.Ref.Path, p.Measures[c.Measure].Fn
		}
	}
	return "", ""
}
