package export

import (
	"context"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Preview is what an export would be.
type Preview struct {
	// Lines is how many, without headings, Sheets how many sheets of a spreadsheet they take.
	Lines, Sheets int
	// Bytes is how large the file would be; Exact says that it was not estimated.
	Bytes int64
	Exact bool
	// Columns are those that can be chosen among; none, where all are taken as they are.
	Columns []Column
	// Headings and First are the first lines as texts.
	Headings []string
	First    [][]string
	// Numeric marks the columns of numbers.
	Numeric []bool
}

// How much of a file is made to say how large the whole would be, and shown.
const (
	triedLines = 2000
	shownLines = 6
)

// Look says what Write would write, without writing all of it.
func Look(ctx context.Context, s Source, o Options) (Preview, error) {
	out := Preview{Sheets: 1}
	_, err := o.Settle()
	if err == nil {
		out.Lines, err = Lines(ctx, s, o)
	}
	if err != nil {
		return out, err
	}
	if o.Rows == AsLaid {
		err = out.lookAtLedger(ctx, s, o)
	} else {
		err = out.lookAtSheet(ctx, s, o)
	}
	if err != nil {
		return out, err
	}
	var written counted
	s.Progress, s.first = nil, min(out.Lines, triedLines)
	if err := Write(ctx, &written, s, o); err != nil {
		return out, err
	}
	out.Bytes, out.Exact = int64(written), out.Lines <= triedLines
	if !out.Exact {
		out.Bytes = int64(float64(written) * float64(out.Lines) / triedLines)
	}
	return out, nil
}

// counted counts bytes that go nowhere.
type counted int64

func (c *counted) Write(p []byte) (int, error) {
	*c += counted(len(p))
	return len(p), nil
}

func (p *Preview) lookAtSheet(ctx context.Context, s Source, o Options) error {
	whole := o
	whole.Columns = nil
	all, err := s.sheet(ctx, whole)
	if err != nil {
		return err
	}
	p.Columns = all.Columns
	s.Progress, s.first = nil, shownLines
	sheet, err := s.sheet(ctx, o)
	if err != nil {
		return err
	}
	if o.Format == "xlsx" {
		p.Sheets = Pages(p.Lines)
	}
	p.Headings = sheet.Names(o.Keys)
	for _, c := range sheet.Columns {
		p.Numeric = append(p.Numeric, c.Field.Type.Numeric())
	}
	if o.Format == "html" || o.Format == "xlsx" {
		w := format.NewWriter(format.People, sheet.calendar)
		return sheet.Each(func(row []cell.Cell) error {
			texts := make([]string, len(row))
			for i, c := range row {
				texts[i] = sheet.Columns[i].text(w, sheet.calendar, c)
			}
			p.First = append(p.First, texts)
			return nil
		})
	}
	return sheet.EachText(func(row []string) error {
		p.First = append(p.First, append([]string{}, row...))
		return nil
	})
}

func (p *Preview) lookAtLedger(ctx context.Context, s Source, o Options) error {
	s.Progress, s.first = nil, shownLines
	l := s.ledger(o)
	if l.labelled() {
		p.Headings = []string{l.levelsInWords(), catalog.UpperFirst(l.sum.Plan.Many)}
		p.Numeric = []bool{false, true}
	}
	for _, at := range l.heads {
		p.Headings = append(p.Headings, l.headingOf(at))
		p.Numeric = append(p.Numeric, l.sum.Heads[at].Field.Type.Numeric())
	}
	pen := l.sum.Pen(format.People)
	return l.each(ctx, func(line result.Line) error {
		texts, cells := []string{}, pen.Cells(line)
		switch {
		case l.labelled() && line.IsRecord:
			texts = append(texts, "", "")
		case l.labelled():
			texts = append(texts, result.Named(pen.Label(line)), thousands(line.Count))
		}
		for _, at := range l.heads {
			texts = append(texts, cells[at])
		}
		p.First = append(p.First, texts)
		return nil
	})
}
