package app

import (
	"context"
	"fmt"

	"gavrik/internal/core/board"
	"gavrik/internal/core/format"
	"gavrik/internal/store"
)

// CheckBoard says what is wrong with terms of a board as somebody sees it. A board comes always: what it waits
// for would be its views'.
func (a *App) CheckBoard(ctx context.Context, g *Scope, p store.Person, t Terms, of store.View) error {
	doc, err := board.Parse(of.Document)
	if err != nil {
		return err
	}
	if t.Trigger.On != "" {
		return &TermsError{"a board comes always; have one of its views delivered only if something is so"}
	}
	views, err := a.BoardViews(ctx, g, p, doc.Views(), &of)
	if err != nil {
		return err
	}
	questions := g.BoardQuestions(views)
	if _, unasked := board.Answers(questions, t.Answers, ""); len(unasked) > 0 {
		return &TermsError{fmt.Sprintf("none of the board's views asks for %s", format.Listed(unasked))}
	}
	for _, q := range questions {
		if _, ok := t.Answers[q.Name]; q.Required && !ok && !q.Condition.Answered() {
			return &TermsError{fmt.Sprintf("“%s” waits for an answer", q.Condition.Parameter.Label)}
		}
	}
	return nil
}
