package export

import (
	"cmp"
	"context"
	"fmt"
	"math"

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
	// sizes are how many lines lie below each group line, in their order.
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
	if l.closes() {
		if err := s.line(l.sum.GrandTotal); err != nil {
			return err
		}
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
func (s *ledgerSheet) open(headings []headingRow) (err error) {
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

// widthAt is how wide a column of the sheet is, counted from 0, in characters.
func (s *ledgerSheet) widthAt(column int) float64 {
	switch at := column - s.front; {
	case at < 0 && column == 0:
		return 34
	case at < 0 || at >= len(s.heads):
		return 10
	default:
		h := s.sum.Heads[s.heads[at]]
		c := s.sum.Plan.Columns[h.Column]
		f, least := h.Field, 0.0
		if s.records && c.Values {
			f = c.Ref.Field
		}
		if f.Type == catalog.DateTime {
			least = 19
		}
		if c.Width > 0 {
			return max(float64(c.Width)/7+1, least) // pixels of a digit
		}
		words := 0 // of the grand total, which is the longest as a rule
		if c := s.sum.GrandTotal.Cells[s.heads[at]]; c.Kind != cell.Several {
			words = len([]rune(s.pen.Figure(s.heads[at], c))) + 3
		}
		return max(widthOf(f, c.Heading), float64(words))
	}
}

// widths sets the columns' widths and what stays in sight.
func (s *ledgerSheet) widths() error {
	for column := range s.front + len(s.heads) {
		if err := s.to.SetColWidth(column+1, column+1, s.widthAt(column)); err != nil {
			return err
		}
	}
	stay := s.front
	for _, at := range s.heads {
		if !s.sum.Plan.Columns[s.sum.Heads[at].Column].Frozen {
			break
		}
		stay++
	}
	return s.to.SetPanes(frozen(stay, s.first-1))
}

// heading writes the title, the brief, and the rows of headings.
func (s *ledgerSheet) heading(rows []headingRow) error {
	id, err := s.style(style{look: title})
	if err != nil {
		return err
	}
	name := excelize.Cell{StyleID: id, Value: s.source.heading()}
	if err := s.to.SetRow("A1", []any{name}, excelize.RowOpts{Height: 26}); err != nil {
		return err
	}
	if id, err = s.style(style{look: sentence}); err != nil {
		return err
	}
	// The brief runs over the columns, or over some more where these are narrow.
	columns, wide := 0, 0.0
	for ; columns < max(s.front+len(s.heads), 1) || wide < briefWidth; columns++ {
		wide += s.widthAt(columns)
	}
	height := excelize.RowOpts{Height: min(400, 15*math.Ceil(1+float64(len([]rune(s.about.Brief)))/wide))}
	err = s.to.SetRow("A2", []any{excelize.Cell{StyleID: id, Value: s.about.Brief}}, height)
	if err != nil {
		return err
	}
	if err := s.to.MergeCell("A2", cellName(columns, 2)); err != nil {
		return err
	}
	for i, row := range rows {
		if err := s.headingRow(row, topRows+i, i == len(rows)-1); err != nil {
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

// briefWidth is over how many characters the brief runs at least.
const briefWidth = 80

// headingRow writes one row of headings; the last has a rule below.
func (s *ledgerSheet) headingRow(of headingRow, row int, last bool) error {
	as := style{look: note, ruled: last}
	if of.own {
		as.look = heading
	}
	cells := make([]any, s.front)
	left, err := s.style(as)
	if err != nil {
		return err
	}
	for i := range cells {
		cells[i] = excelize.Cell{StyleID: left}
	}
	if of.own && s.front > 0 {
		cells[0] = excelize.Cell{StyleID: left, Value: s.levelsInWords()}
		right := as
		right.right = true
		id, err := s.style(right)
		if err != nil {
			return err
		}
		cells[1] = excelize.Cell{StyleID: id, Value: catalog.UpperFirst(s.sum.Plan.Many)}
	}
	at, height := s.front, 1.0 // in lines: a row that is streamed does not grow to what is in it
	for _, part := range of.spans {
		as.right, as.middle = s.sum.Heads[s.heads[at-s.front]].Field.Type.Numeric(), part.over > 1
		as.look = note
		if of.own || part.over > 1 {
			as.look = heading
		}
		height = max(height, math.Ceil(float64(len([]rune(part.text))+2)/s.widthAt(at)))
		id, err := s.style(as)
		if err != nil {
			return err
		}
		for range part.over {
			cells = append(cells, excelize.Cell{StyleID: id, Value: part.text})
		}
		if part.over > 1 && part.text != "" {
			if err := s.to.MergeCell(cellName(at+1, row), cellName(at+part.over, row)); err != nil {
				return err
			}
		}
		at += part.over
	}
	return s.to.SetRow(cellName(1, row), cells, excelize.RowOpts{Height: 15*min(height, 6) + 2})
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
	as.number, as.right = numberFormat(f, currency), f.Type.Numeric()
	if c.Kind == cell.Several {
		to.Value, as.number = s.pen.Figure(head, c), "@"
	} else {
		to.Value = s.value(c, f)
	}
	id, err := s.style(as)
	to.StyleID = id
	return err
}
