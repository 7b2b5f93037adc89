package export

import (
	"context"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Letter is what a message says of a result: what it is, its headline figures, its first lines.
type Letter struct {
	About
	// Counted says how many records there are, AsOfText their moment; Many is what they are called.
	Counted  string `json:"counted"`
	AsOfText string `json:"asOfText"`
	Many     string `json:"many"`
	// Figures are the grand totals, the first ones.
	Figures []LetterFigure `json:"figures,omitzero"`
	// LinesOf names what the lines are of; Labelled says that they have labels beside their cells.
	LinesOf  string       `json:"linesOf,omitempty"`
	Labelled bool         `json:"labelled"`
	Headings []LetterCell `json:"headings,omitzero"`
	Lines    []LetterLine `json:"lines,omitzero"`
	// More is how many lines and Columns how many columns are left out.
	More    int `json:"more,omitempty"`
	Columns int `json:"columns,omitempty"`
}

// LetterFigure is one headline figure.
type LetterFigure struct {
	Label string `json:"label"`
	Text  string `json:"text"`
}

// LetterCell is a value or a heading; Right says that it is of a column of numbers.
type LetterCell struct {
	Text  string `json:"text"`
	Right bool   `json:"right,omitempty"`
}

// LetterLine is a line of a group or a record.
type LetterLine struct {
	// Level is 1 for an outermost group; a record's is 0 where nothing is grouped.
	Level int          `json:"level,omitempty"`
	Label string       `json:"label,omitempty"`
	Count string       `json:"count,omitempty"`
	Cells []LetterCell `json:"cells"`
}

// The bounds of what a message shows.
const (
	letterFigures = 4
	letterColumns = 6
)

// LetterOf is what a message says of a result, with so many lines at most: of groups down to the
// innermost level, or of records where nothing is grouped.
func LetterOf(ctx context.Context, s Source, lines int) (Letter, error) {
	sum := s.Result.Summarize()
	out := Letter{About: s.about(), Counted: s.counts(), AsOfText: s.moment(sum.AsOf), Many: sum.Plan.Many}
	out.Title = s.heading()
	pen, levels := sum.Pen(format.People), len(sum.Plan.Groups)
	out.Labelled = levels > 0
	w, err := s.Result.Window(ctx, result.Open{Depth: max(levels-1, 0)}, 0, lines)
	if err != nil {
		return out, err
	}
	shown := s.letterHeads(sum, levels > 0)
	out.Columns = max(len(shown)-letterColumns, 0)
	shown = shown[:min(len(shown), letterColumns)]
	if out.Labelled {
		out.LinesOf = s.ledger(Options{}).levelsInWords()
	}
	for _, at := range shown {
		out.Headings = append(out.Headings, LetterCell{sum.Label(sum.Heads[at]), sum.Heads[at].Field.Type.Numeric()})
	}
	for at, c := range sum.GrandTotal.Cells {
		h := sum.Heads[at]
		if c.Kind == cell.Blank || len(out.Figures) == letterFigures || len(h.Across) > 0 || h.Part == result.Percent {
			continue
		}
		out.Figures = append(out.Figures, LetterFigure{sum.Label(h), pen.Figure(at, c)})
	}
	for _, l := range w.Lines {
		line := LetterLine{}
		if !l.IsRecord {
			line.Level, line.Label, line.Count = l.Level, result.Named(pen.Label(l)), thousands(l.Count)
		}
		texts := pen.Cells(l)
		for i, at := range shown {
			line.Cells = append(line.Cells, LetterCell{texts[at], out.Headings[i].Right})
			if l.Cells[at].Kind == cell.Picture {
				line.Cells[i].Text = ""
			}
		}
		out.Lines = append(out.Lines, line)
	}
	out.More = w.Total - len(w.Lines)
	return out, nil
}

// letterHeads are the columns of a message: where groups are shown, those that say something of them.
func (s Source) letterHeads(sum *result.Summary, groups bool) (out []int) {
	for at, h := range sum.Heads {
		if !groups || sum.Plan.Columns[h.Column].Measure >= 0 {
			out = append(out, at)
		}
	}
	return out
}
