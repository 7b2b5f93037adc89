package app

import (
	"fmt"

	"gavrik/internal/core/board"
	"gavrik/internal/core/format"
)

// Check says what is wrong with terms of a board as somebody finds it. A board comes always: what it waits for
// would be its views'.
func (b *FoundBoard) Check(t Terms) error {
	if t.Trigger.On != "" {
		return &TermsError{"a board comes always; have one of its views delivered only if something is so"}
	}
	if unasked := board.Unasked(b.Questions, t.Answers); len(unasked) > 0 {
		return &TermsError{fmt.Sprintf("none of the board's views asks for %s", format.Listed(unasked))}
	}
	for _, q := range b.Questions {
		if _, ok := t.Answers[q.Name]; q.Required && !ok && !q.Condition.Answered() {
			return &TermsError{fmt.Sprintf("“%s” waits for an answer", q.Condition.Parameter.Label)}
		}
	}
	return nil
}
