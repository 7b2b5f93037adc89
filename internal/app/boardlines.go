package app

import (
	"context"

	"gavrik/internal/core/board"
	"gavrik/internal/core/result"
)

// linesOfPart is how many lines a part shows whose author has not said.
const linesOfPart = 20

// PartLines are the lines that a part of a board shows.
type PartLines struct {
	// Why says why there are none; empty if there are.
	Why string
	// Heads are the columns that are shown, by their place in the summary.
	Heads []int
	Lines []result.Line
	// Total is the line of all, below groups.
	Total *result.Line
	// More is how many lines are not shown.
	More int
}

// PartLines are the first lines of an answered part: of groups, with the columns that say something of them; or
// of records, with their values.
func (a *Answer) PartLines(ctx context.Context, part board.Part) (PartLines, error) {
	var out PartLines
	groups := part.Show == board.Groups
	if groups && len(a.Plan.Groups) == 0 {
		out.Why = "This view groups nothing. Group it, or show its records as a table."
		return out, nil
	}
	opened, lines := 0, part.Lines
	if groups {
		opened = min(part.Depth, len(a.Plan.Groups)-1)
	}
	if lines == 0 {
		lines = linesOfPart
	}
	w, err := a.Window(ctx, result.Open{Depth: opened}, 0, lines)
	if err != nil {
		return out, err
	}
	for at, h := range a.Heads {
		c := a.Plan.Columns[h.Column]
		if groups && c.Measure >= 0 || !groups && c.Values && h.Part == result.Own {
			out.Heads = append(out.Heads, at)
		}
	}
	out.Lines, out.More = w.Lines, w.Total-len(w.Lines)
	if groups && w.Total > 0 {
		out.Total = &a.GrandTotal
	}
	return out, nil
}
