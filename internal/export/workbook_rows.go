package export

import (
	"fmt"
	"strings"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
)

// Pages is how many sheets so many rows need, each below one line of headings.
func Pages(rows int) int { return max(1, (rows+sheetRows-2)/(sheetRows-1)) }

// rows writes plain data: a line of headings and one for each row, as a table with filters.
// What does not fit into one sheet goes on in the next.
func (b *workbook) rows(s Sheet, o Options) error {
	if err := fitsSheet(len(s.Columns)); err != nil {
		return err
	}
	// Quarters and weeks have names that no format of a date gives.
	for i, c := range s.Columns {
		switch c.Unit {
		case calendar.ByMonth:
			s.Columns[i].Field.Format = &catalog.Format{Date: catalog.MonthYear}
		case calendar.ByYear:
			s.Columns[i].Field.Format = &catalog.Format{Date: catalog.YearOnly}
		case "", calendar.ByDay:
		default:
			s.Columns[i].Field = catalog.Field{Type: catalog.Text}
		}
	}
	var page *dataPage
	values, cells := make([]any, len(s.Columns)), make([]excelize.Cell, len(s.Columns))
	for i := range values {
		values[i] = &cells[i]
	}
	err := s.Each(func(row []cell.Cell) (err error) {
		if page == nil || page.rows == b.most {
			if err := page.close(); err != nil {
				return err
			}
			if page, err = b.dataPage(s, o); err != nil {
				return err
			}
		}
		for i, c := range row {
			col := s.Columns[i]
			cells[i].StyleID, cells[i].Value = page.styles[i], b.value(c, col.Field)
			if col.Field.Type == catalog.Text && c.Kind == cell.Date {
				cells[i].Value = s.calendar.Label(col.Unit, c.Int)
			}
			if cells[i].Value == nil {
				cells[i].StyleID = 0
			}
		}
		page.rows++
		return page.to.SetRow(cellName(1, page.rows), values)
	})
	if err == nil && page == nil { // no records: headings alone
		page, err = b.dataPage(s, o)
	}
	if err != nil {
		return err
	}
	return page.close()
}

// fitsSheet says why so many columns make no sheet.
func fitsSheet(columns int) error {
	switch {
	case columns > sheetCols:
		return &Refused{"columns", fmt.Sprintf(
			"a spreadsheet has at most %d columns; take fewer than these %d", sheetCols, columns,
		)}
	case columns == 0:
		return &Refused{"columns", "there is no column to take; choose one"}
	}
	return nil
}

// dataPage is one sheet of plain data.
type dataPage struct {
	to     *excelize.StreamWriter
	rows   int // written, that of the headings included
	number int // of the sheet
	styles []int
	cols   int
}

func (b *workbook) dataPage(s Sheet, o Options) (*dataPage, error) {
	name, err := b.sheet(b.source.Set.Label)
	if err != nil {
		return nil, err
	}
	p := &dataPage{rows: 1, number: len(b.file.GetSheetList()), cols: len(s.Columns)}
	if p.to, err = b.file.NewStreamWriter(name); err != nil {
		return nil, err
	}
	head, err := b.style(style{look: heading, ruled: true})
	if err != nil {
		return nil, err
	}
	row := make([]any, len(s.Columns))
	for i, heading := range s.Names(o.Keys) {
		row[i] = excelize.Cell{StyleID: head, Value: heading}
		id, err := b.style(style{
			number: numberFormat(s.Columns[i].Field, ""), right: s.Columns[i].Field.Type.Numeric(),
		})
		if err != nil {
			return nil, err
		}
		p.styles = append(p.styles, id)
		if err := p.to.SetColWidth(i+1, i+1, widthOf(s.Columns[i].Field, heading)); err != nil {
			return nil, err
		}
	}
	if err := p.to.SetPanes(frozen(0, 1)); err != nil {
		return nil, err
	}
	return p, p.to.SetRow("A1", row)
}

// close ends a sheet; of none, it does nothing.
func (p *dataPage) close() error {
	if p == nil {
		return nil
	}
	// A table has a line below its headings, also an empty one.
	err := p.to.AddTable(&excelize.Table{
		Range: "A1:" + cellName(p.cols, max(p.rows, 2)), Name: fmt.Sprintf("Data_%d", p.number),
		StyleName: "TableStyleLight1",
	})
	if err != nil {
		return err
	}
	return p.to.Flush()
}

// frozen keeps so many columns and rows in sight.
func frozen(cols, rows int) *excelize.Panes {
	pane := "bottomRight"
	if cols == 0 {
		pane = "bottomLeft"
	}
	return &excelize.Panes{
		Freeze: true, XSplit: cols, YSplit: rows, TopLeftCell: cellName(cols+1, rows+1), ActivePane: pane,
	}
}

// widthOf is how wide a column is that nobody has set, in characters.
func widthOf(f catalog.Field, heading string) float64 {
	words := 12.0
	switch f.Type {
	case catalog.DateTime:
		words = 20
	case catalog.Text:
		words = 24
	}
	longestWord := 0
	for w := range strings.FieldsSeq(heading) {
		longestWord = max(longestWord, len([]rune(w)))
	}
	return min(60, max(words, float64(longestWord)+4))
}
