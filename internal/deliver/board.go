package deliver

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"gavrik/internal/app"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/page"
	"gavrik/internal/export"
	"gavrik/internal/store"
)

// boardLetter is what a letter says of a board.
type boardLetter struct {
	Title    string      `json:"title"`
	Brief    string      `json:"brief"`
	Answers  []string    `json:"answers,omitzero"`
	AsOfText string      `json:"asOfText"`
	Parts    []boardPart `json:"parts"`
}

// boardPart is a part of a board in a letter.
type boardPart struct {
	Heading string `json:"heading,omitempty"`
	// Why says why nothing is shown.
	Why    string   `json:"why,omitempty"`
	Figure string   `json:"figure,omitempty"`
	Under  []string `json:"under,omitzero"`
	// Table are its lines, or the figures of its chart.
	Table *export.Letter   `json:"table,omitempty"`
	Words []page.Paragraph `json:"words,omitzero"`
	Foot  string           `json:"foot,omitempty"`
}

// Inline says that the part is a figure, which stands beside others.
func (p boardPart) Inline() bool { return p.Figure != "" }

// ofBoard is what letters of a board say to a reader: each of her own, as not everyone sees the same views.
func (s *Service) ofBoard(
	ctx context.Context, r reader, d store.Delivery, t app.Terms, content Content, run string,
) (*made, error) {
	answers, err := json.Marshal(t.Answers)
	if err != nil {
		return nil, err
	}
	name := fmt.Sprint("board ", run, " ", r.scope.Sees(), " ", r.person.ID, " ", d.Key, string(answers))
	return s.making(ctx, name, func() (*made, error) {
		found, err := s.app.FindSavedBoard(ctx, r.scope, r.person, r.of)
		if err != nil {
			return nil, err
		}
		if err := found.Check(t); err != nil {
			return nil, err
		}
		answered, err := s.app.AnswerBoard(ctx, found, t.Answers)
		if err != nil {
			return nil, err
		}
		b, err := answered.Paper(ctx, r.scope, cmp.Or(d.ViewName, "Board"))
		if err != nil {
			return nil, err
		}
		return s.makeBoard(ctx, b, d, content)
	})
}

func (s *Service) makeBoard(ctx context.Context, b export.Board, d store.Delivery, content Content) (*made, error) {
	out := &made{board: &boardLetter{Title: b.Title, Brief: b.Brief, Answers: b.About, AsOfText: b.Moment}}
	for _, p := range b.Pages {
		for _, panel := range p {
			out.board.Parts = append(out.board.Parts, partOf(panel, cmp.Or(content.Lines, usualLines)))
		}
	}
	letterhead, err := s.app.Store.Letterhead(ctx)
	if err != nil {
		return nil, err
	}
	b.Heads, b.By, b.Author = (*export.Letterhead)(&letterhead), d.OwnerName, d.OwnerName
	b.At = s.app.Workspace.Now()
	for _, o := range content.Files {
		if o.Format != "pdf" {
			out.told = append(out.told, "A board is attached as paper (PDF) only; files of other formats are made of its views.")
			continue
		}
		to := &bounded{most: mostAttached}
		err := export.WriteBoard(ctx, to, b)
		switch {
		case errors.Is(err, errTooLarge):
			out.told = append(out.told, fmt.Sprintf("The paper is larger than %d MB and is not attached; take it from Gavrik.", mostAttached>>20))
		case err != nil:
			return nil, err
		default:
			out.files = append(out.files, File{export.FileName(d.ViewName) + ".pdf", "application/pdf", bytes.Clone(to.Bytes())})
		}
	}
	return out, nil
}

// partOf is a part of a board on paper as a letter has it, with so many lines at most.
func partOf(p page.Panel, lines int) boardPart {
	out := boardPart{Heading: p.Heading, Why: p.Why, Words: p.Words, Foot: p.Foot}
	switch {
	case p.Why != "":
	case p.Figure != nil:
		out.Figure, out.Under = p.Figure.Text, p.Figure.Under
	case p.Chart != nil && p.Chart.Trouble != "":
		out.Why = p.Chart.Trouble
	case p.Chart != nil:
		out.Table = tableOf(figuresOf(p.Chart), lines)
	case p.Lines != nil:
		out.Table = tableOf(p.Lines, lines)
	}
	return out
}

// letterColumns is how many columns of a board's lines a letter has room for.
const letterColumns = 7

// tableOf are lines as a letter shows them.
func tableOf(l *page.Lines, most int) *export.Letter {
	shown := min(len(l.Headings), letterColumns)
	out := &export.Letter{More: l.Left, Columns: len(l.Headings) - shown}
	for i := range shown {
		out.Headings = append(out.Headings, export.LetterCell{Text: l.Headings[i], Right: l.Right[i]})
	}
	add := func(r page.Row) {
		line := export.LetterLine{Level: r.Level}
		for i := range shown {
			line.Cells = append(line.Cells, export.LetterCell{Text: r.Cells[i], Right: l.Right[i]})
		}
		out.Lines = append(out.Lines, line)
	}
	for i, r := range l.Rows {
		if i == most {
			out.More += len(l.Rows) - most
			break
		}
		add(r)
	}
	if l.Total != nil {
		add(*l.Total)
	}
	return out
}

// figuresOf are the figures of a chart as lines: one for each place.
func figuresOf(c *chart.Chart) *page.Lines {
	out := &page.Lines{Headings: []string{c.Axis}, Right: []bool{false}}
	for _, s := range c.Series {
		out.Headings, out.Right = append(out.Headings, cmp.Or(s.Label, c.Total)), append(out.Right, true)
	}
	for at, place := range c.Places {
		row := page.Row{Cells: []string{cmp.Or(place, "blank")}}
		for _, s := range c.Series {
			row.Cells = append(row.Cells, s.Marks[at].Text)
		}
		out.Rows = append(out.Rows, row)
	}
	return out
}
