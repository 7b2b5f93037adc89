package export

import (
	"cmp"
	"context"
	"fmt"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// ledgerSheet is the ledger in a workbook: foldable group lines above what is in them, their
// totals as formulas where a spreadsheet can say them, and the grand total at the end.
type ledgerSheet struct {
	*workbook
	ledger
	to   *excelize.StreamWriter
	name string
	pen  *result.Pen
	live *formulas
	// front is how many columns stand before the heads: the groups' labels and their counts.
	front int
	// first is the row of the first line, row the last that was written.
	first, row int
	values     []any
	cells      []excelize.Cell
	// sizes are how many lines lie below each group line, in their order; ends is taken of it
	// as lines are written.
	sizes []int
	seen  int // group lines written
	// rows are those of groups whose figures a chart reads.
	rows map[string]int
}

// ledger writes the sheet of the ledger, and that of its chart.
func (b *workbook) ledger(ctx context.Context, l ledger) error {
	s := &ledgerSheet{workbook: b, ledger: l, pen: l.sum.Pen(format.People), rows: map[string]int{}}
	if s.labelled() {
		s.front = 2
	}
	lines, err := l.lines(ctx)
	if err != nil {
		return err
	}
	if err := fitsLedger(l, lines); err != nil {
		return err
	}
	headings := l.headings()
	s.first = topRows + len(headings)
	if err := s.measureGroups(ctx); err != nil {
		return err
	}
	s.live = newFormulas(l, s.front)
	b.totals = s.live.notes()
	if err := s.open(headings); err != nil {
		return err
	}
	if err := l.each(ctx, s.line); err != nil {
		return err
	}
	if err := s.line(l.sum.GrandTotal); err != nil {
		return err
	}
	if err := s.to.Flush(); err != nil {
		return err
	}
	return b.chart(ctx, s)
}

// topRows is the row of the first headings, below the title and the brief.
const topRows = 4

// fitsLedger says why so many lines make no sheet: formulas read the lines of one.
func fitsLedger(l ledger, lines int) error {
	if n := 2 + len(l.heads); n > sheetCols {
		return &Refused{"rows", fmt.Sprintf("a spreadsheet has at most %d columns; this has %d", sheetCols, n)}
	}
	if room := sheetRows - topRows - len(l.headings()); lines > room {
		return &Refused{"rows", fmt.Sprintf(
			"laid out, these are %s lines, and a sheet has room for %s; open fewer levels of groups, or take plain data",
			thousands(lines), thousands(room),
		)}
	}
	return nil
}

// measureGroups counts the lines below each group line before any is written: formulas name
// their range, which lies below.
func (s *ledgerSheet) measureGroups(ctx context.Context) error {
	levels := len(s.sum.Plan.Groups)
	if levels == 0 {
		return nil
	}
	var open []int // the group lines that the line at hand lies in
	return s.result.EachLine(ctx, result.Open{Depth: min(s.depth, levels-1)}, func(l result.Line) error {
		for _, at := range open[:l.Level-1] {
			s.sizes[at]++
		}
		open = append(open[:l.Level-1], len(s.sizes))
		s.sizes = append(s.sizes, 0)
		if s.records && l.Level == levels {
			for _, at := range open {
				s.sizes[at] += l.Count
			}
		}
		return nil
	})
}

// open writes what stands above the lines.
func (s *ledgerSheet) open(headings [][]span) (err error) {
	if s.name, err = s.sheet(s.source.Set.Label); err != nil {
		return err
	}
	below, fit, wide := false, true, "landscape"
	pages := 0
	if err := s.file.SetSheetProps(s.name, &excelize.SheetPropsOptions{
		OutlineSummaryBelow: &below, FitToPage: &fit,
	}); err != nil {
		return err
	}
	if err := s.file.SetPageLayout(s.name, &excelize.PageLayoutOptions{
		Orientation: &wide, FitToHeight: &pages,
	}); err != nil {
		return err
	}
	for i, at := range s.heads {
		if why := s.live.why(at); why != "" {
			if err := s.file.AddComment(s.name, excelize.Comment{
				Cell: cellName(s.front+i+1, s.first-1), Author: "Gavrik", Text: why,
			}); err != nil {
				return err
			}
		}
	}
	if s.to, err = s.file.NewStreamWriter(s.name); err != nil {
		return err
	}
	if err := s.widths(); err != nil {
		return err
	}
	return s.heading(headings)
}

// widths sets the columns' widths and what stays in sight.
func (s *ledgerSheet) widths() error {
	if s.front > 0 {
		if err := s.to.SetColWidth(1, 1, 34); err != nil {
			return err
		}
		if err := s.to.SetColWidth(2, 2, 10); err != nil {
			return err
		}
	}
	stay, staying := s.front, true
	for i, at := range s.heads {
		h := s.sum.Heads[at]
		c := s.sum.Plan.Columns[h.Column]
		width := widthOf(h.Field, c.Heading)
		if c.Width > 0 {
			width = float64(c.Width) / 7 // pixels of a digit
		}
		if err := s.to.SetColWidth(s.front+i+1, s.front+i+1, width); err != nil {
			return err
		}
		if staying = staying && c.Frozen; staying {
			stay++
		}
	}
	return s.to.SetPanes(frozen(stay, s.first-1))
}

// heading writes the title, the brief, and the rows of headings.
func (s *ledgerSheet) heading(rows [][]span) error {
	about := s.source.about()
	for i, l := range []struct {
		text string
		look look
	}{{cmp.Or(about.Title, s.source.Set.Label), title}, {about.Brief, note}} {
		id, err := s.style(style{look: l.look})
		if err != nil {
			return err
		}
		if err := s.to.SetRow(cellName(1, i+1), []any{excelize.Cell{StyleID: id, Value: l.text}}); err != nil {
			return err
		}
	}
	for i, spans := range rows {
		last := i == len(rows)-1
		row, look := make([]any, s.front), note
		if last {
			look = heading
		}
		left, err := s.style(style{look: look})
		if err != nil {
			return err
		}
		if last && s.front > 0 {
			row[0] = excelize.Cell{StyleID: left, Value: s.levelsInWords()}
			row[1] = excelize.Cell{StyleID: left, Value: catalog.UpperFirst(s.sum.Plan.Many)}
		}
		at := s.front
		for _, part := range spans {
			h := s.sum.Heads[s.heads[at-s.front]]
			id, err := s.style(style{look: look, right: h.Field.Type.Numeric()})
			if err != nil {
				return err
			}
			for range part.over {
				row = append(row, excelize.Cell{StyleID: id, Value: part.text})
			}
			if part.over > 1 && part.text != "" {
				if err := s.to.MergeCell(cellName(at+1, topRows+i), cellName(at+part.over, topRows+i)); err != nil {
					return err
				}
			}
			at += part.over
		}
		if err := s.to.SetRow(cellName(1, topRows+i), row); err != nil {
			return err
		}
	}
	s.row = s.first - 1
	s.cells = make([]excelize.Cell, s.front+len(s.heads))
	s.values = make([]any, len(s.cells))
	for i := range s.values {
		s.values[i] = &s.cells[i]
	}
	return nil
}

// line writes a line of the ledger.
func (s *ledgerSheet) line(l result.Line) error {
	s.row++
	levels, opts := len(s.sum.Plan.Groups), excelize.RowOpts{}
	at := place{row: s.row, level: l.Level}
	as := style{look: plain}
	switch {
	case l.IsRecord:
		opts.OutlineLevel = min(levels, outlineMax)
	case l.Level == 0:
		as.look, at.from, at.to = grandTotal, s.first, s.row-1
		s.rows[""] = s.row
	default:
		as.look, as.level, opts.OutlineLevel = group, l.Level, min(l.Level-1, outlineMax)
		at.from, at.to = s.row+1, s.row+s.sizes[s.seen]
		s.seen++
		if s.sum.Plan.Chart != nil && len(s.rows) < chartedGroups {
			s.rows[l.Group] = s.row
		}
	}
	if s.front > 0 {
		if err := s.label(l, as); err != nil {
			return err
		}
	}
	for i, head := range s.heads {
		if err := s.cell(&s.cells[s.front+i], l, head, as, at); err != nil {
			return err
		}
	}
	return s.to.SetRow(cellName(1, s.row), s.values, opts)
}

// label writes what a line is of, and how many records it has.
func (s *ledgerSheet) label(l result.Line, as style) error {
	s.cells[0], s.cells[1] = excelize.Cell{}, excelize.Cell{}
	if l.IsRecord {
		return nil
	}
	text, err := s.style(style{number: "@", look: as.look, level: as.level})
	if err != nil {
		return err
	}
	number, err := s.style(style{number: "#,##0", look: as.look, level: as.level, right: true})
	if err != nil {
		return err
	}
	name := s.pen.Label(l)
	if l.Level > 0 {
		name = result.Named(name)
	}
	s.cells[0] = excelize.Cell{StyleID: text, Value: name}
	s.cells[1] = excelize.Cell{StyleID: number, Value: l.Count}
	return nil
}

// cell writes one value or total.
func (s *ledgerSheet) cell(to *excelize.Cell, l result.Line, head int, as style, at place) error {
	h, c := s.sum.Heads[head], l.Cells[head]
	f := h.Field
	if l.IsRecord {
		f = s.sum.Plan.Columns[h.Column].Ref.Field
		f.Format = cmp.Or(s.sum.Plan.Columns[h.Column].Format, f.Format)
	}
	*to = excelize.Cell{}
	if !l.IsRecord {
		to.Formula = s.live.of(head, at, c)
	}
	if l.IsRecord && c.Kind == cell.Blank {
		return nil
	}
	currency := ""
	if c.More != nil {
		currency = c.More.Currency
	}
	as.number, as.right = numberFormat(f, currency), !l.IsRecord && f.Type != catalog.Text
	if c.Kind == cell.Several {
		to.Value, as.number = s.pen.Figure(head, c), "@"
	} else {
		to.Value = s.value(c, f)
	}
	id, err := s.style(as)
	to.StyleID = id
	return err
}
