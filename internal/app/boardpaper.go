package app

import (
	"context"
	"fmt"
	"strings"

	"gavrik/internal/core/board"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/format"
	"gavrik/internal/core/page"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/export"
)

// AnsweredBoard is a board with what each of its parts shows.
type AnsweredBoard struct {
	*FoundBoard
	// Given are the answers to the board's questions.
	Given map[string]view.Given
	// Parts are in the board's order; those of texts show nothing of a view.
	Parts []PartAnswer
}

// AnswerBoard answers all parts of a board as somebody finds it, one after the other.
func (a *App) AnswerBoard(
	ctx context.Context, b *FoundBoard, given map[string]view.Given,
) (*AnsweredBoard, error) {
	out := &AnsweredBoard{FoundBoard: b, Given: given}
	for _, part := range b.Doc.Parts {
		if part.Show == board.Text {
			out.Parts = append(out.Parts, PartAnswer{})
			continue
		}
		own := board.Answers(b.Questions, given, part.View)
		one, err := a.AnswerPart(ctx, part, b.View(part.View), own)
		if err != nil {
			return nil, err
		}
		out.Parts = append(out.Parts, one)
	}
	return out, nil
}

// Paper is the board as it goes on paper.
func (b *AnsweredBoard) Paper(ctx context.Context, g *Scope, title string) (export.Board, error) {
	out := export.Board{
		Board: page.Board{
			Title: title, Columns: board.Columns,
			Moment: g.Moment(g.AsOf),
		},
		Brief: b.Doc.Sentence(b.NameOf),
	}
	for _, q := range b.Questions {
		c := q.Condition
		if answer, ok := b.Given[q.Name]; ok {
			c.Value, c.To, c.Values, c.Period = answer.Value, answer.To, answer.Values, answer.Period
		} else if q.Differs {
			continue
		}
		if said := operandWords(c); said != "" {
			out.About = append(out.About, c.Parameter.Label+" "+said)
		}
	}
	for _, p := range b.Doc.Pages() {
		var panels []page.Panel
		for _, at := range p.Places {
			panel, err := b.panel(ctx, at.Part)
			if err != nil {
				return out, err
			}
			panel.Column, panel.Row, panel.Wide, panel.High = at.Column, at.Row, at.Wide, at.High
			panels = append(panels, panel)
		}
		out.Pages = append(out.Pages, panels)
	}
	return out, nil
}

// operandWords are what a condition compares with, in words.
func operandWords(c view.Condition) string {
	switch {
	case len(c.Values) > 0:
		return format.Listed(c.Values)
	case c.Period != nil:
		return c.Period.Words()
	case c.To != "":
		return c.Value + " to " + c.To
	}
	return c.Value
}

// panel is a part as it stands on paper.
func (b *AnsweredBoard) panel(ctx context.Context, at int) (page.Panel, error) {
	part, p := b.Doc.Parts[at], b.Parts[at]
	out := page.Panel{Heading: part.Heading, Why: p.Why}
	if part.Show == board.Text {
		out.Words = export.Paragraphs(part.Text)
		return out, nil
	}
	if out.Heading == "" {
		out.Heading = b.NameOf(part.View)
	}
	if p.Waits != "" {
		out.Why = p.Waits
	}
	if p.Answer == nil {
		return out, nil
	}
	out.Foot = strings.Join(p.Answer.NotesInWords(), "; ")
	var err error
	switch part.Show {
	case board.Figure:
		f := p.Answer.Figure(part.Field, part.Fn, part.Count)
		if out.Why = f.Why; f.Why == "" {
			out.Figure = figurePanel(f, p.Answer)
		}
	case board.Chart:
		out.Chart, err = chart.Draw(ctx, p.Answer.Result)
	default:
		var of PartLines
		if of, err = p.Answer.PartLines(ctx, part); err == nil {
			out.Lines, out.Why = p.Answer.small(of), of.Why
		}
	}
	return out, err
}

func figurePanel(f Figure, a *Answer) *page.Figure {
	out := &page.Figure{Text: f.Text, Under: []string{f.Label}}
	if f.Text == "" {
		out.Text = "none"
	}
	if !f.Counted {
		out.Under[0] += ", " + a.CountedText()
	}
	if f.Against != "" {
		change := f.Change
		if f.Percent != "" {
			change += ", " + f.Percent
		}
		out.Under = append(out.Under, fmt.Sprintf("%s against %s, %s", change, f.Against, f.Other))
	}
	return out
}

// small are a part's lines as a small table; nil for none.
func (a *Answer) small(of PartLines) *page.Lines {
	if of.Why != "" {
		return nil
	}
	pen, grouped := a.Pen(format.People), of.Total != nil
	out := &page.Lines{Left: of.More}
	if grouped {
		out.Headings, out.Right = []string{""}, []bool{false}
	}
	for _, at := range of.Heads {
		heading := a.Label(a.Heads[at])
		if !grouped {
			heading = a.Plan.Columns[a.Heads[at].Column].Heading
		}
		out.Headings = append(out.Headings, heading)
		out.Right = append(out.Right, a.Heads[at].Field.Type.Numeric())
	}
	row := func(l result.Line, name string) page.Row {
		r, texts := page.Row{Level: l.Level}, pen.Cells(l)
		if grouped {
			r.Cells = append(r.Cells, name)
		}
		for _, at := range of.Heads {
			text := texts[at]
			if l.Cells[at].Kind == cell.Picture {
				text = ""
			}
			r.Cells = append(r.Cells, text)
		}
		return r
	}
	for _, l := range of.Lines {
		out.Rows = append(out.Rows, row(l, result.Named(pen.Label(l))))
	}
	if grouped {
		total := row(*of.Total, "All")
		out.Total = &total
	}
	if len(out.Headings) == 0 {
		return nil
	}
	return out
}
