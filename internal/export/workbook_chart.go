package export

import (
	"context"
	"fmt"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/view"
)

// chartedGroups is how many groups' rows are kept for a chart to read: more than it can draw.
const chartedGroups = chart.MaxMoments * chart.MaxSeries

// chart draws the view's chart on a sheet of its own, from a small table whose cells read
// those of the ledger.
func (b *workbook) chart(ctx context.Context, from *ledgerSheet) error {
	drawn, err := chart.Draw(ctx, b.source.Result)
	if err != nil || drawn == nil || drawn.Trouble != "" || len(drawn.Places) == 0 {
		return err
	}
	name, err := b.sheet("Chart")
	if err != nil {
		return err
	}
	wide, fit, pages := "landscape", true, 1
	if err := b.file.SetSheetProps(name, &excelize.SheetPropsOptions{FitToPage: &fit}); err != nil {
		return err
	}
	if err := b.file.SetPageLayout(name, &excelize.PageLayoutOptions{
		Orientation: &wide, FitToWidth: &pages, FitToHeight: &pages,
	}); err != nil {
		return err
	}
	head, err := b.style(style{look: heading, ruled: true})
	if err != nil {
		return err
	}
	put := func(col, row int, value any) error { return b.file.SetCellValue(name, cellName(col, row), value) }
	if err := put(1, 1, drawn.Axis); err != nil {
		return err
	}
	for i, place := range drawn.Places {
		if err := put(1, i+2, place); err != nil {
			return err
		}
	}
	if err := b.file.SetColWidth(name, "A", "A", 24); err != nil {
		return err
	}
	if last, err := excelize.ColumnNumberToName(len(drawn.Series) + 1); err != nil {
		return err
	} else if err := b.file.SetColWidth(name, "B", last, 16); err != nil {
		return err
	}
	out := &excelize.Chart{
		Type: chartTypes[drawn.Kind], Title: excelize.ChartTitle{
			Paragraph: []excelize.RichTextRun{{Text: drawn.Total + " by " + drawn.Axis}},
		},
		Dimension: excelize.ChartDimension{Width: 960, Height: 480},
		Legend:    excelize.ChartLegend{Position: "bottom"}, ShowBlanksAs: "gap",
	}
	if len(drawn.Series) == 1 {
		out.Legend.Position = "none"
	}
	number := ""
	for i, series := range drawn.Series {
		label := series.Label
		if label == "" {
			label = drawn.Total
		}
		if err := put(i+2, 1, label); err != nil {
			return err
		}
		for j, m := range series.Marks {
			if m.Value != m.Value {
				continue
			}
			at := cellName(i+2, j+2)
			if err := b.file.SetCellValue(name, at, m.Value/perUnit[drawn.Unit]); err != nil {
				return err
			}
			if cell := from.cellOf(m); cell != "" {
				if err := b.file.SetCellFormula(name, at, cell); err != nil {
					return err
				}
			}
			if m.Head >= 0 {
				number = numberFormat(from.sum.Heads[m.Head].Field, "")
			}
		}
		col := cellName(i+2, 1)
		last := cellName(i+2, len(drawn.Places)+1)
		out.Series = append(out.Series, excelize.ChartSeries{
			Fill:       excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{inks[i%len(inks)]}},
			Name:       fmt.Sprintf("'%s'!%s", name, absolute(col)),
			Categories: fmt.Sprintf("'%s'!$A$2:$A$%d", name, len(drawn.Places)+1),
			Values:     fmt.Sprintf("'%s'!%s:%s", name, absolute(cellName(i+2, 2)), absolute(last)),
		})
	}
	if number != "" {
		id, err := b.style(style{number: number, right: true})
		if err != nil {
			return err
		}
		last := cellName(len(drawn.Series)+1, len(drawn.Places)+1)
		if err := b.file.SetCellStyle(name, "B2", last, id); err != nil {
			return err
		}
	}
	if err := b.file.SetCellStyle(name, "A1", cellName(len(drawn.Series)+1, 1), head); err != nil {
		return err
	}
	return b.file.AddChart(name, cellName(1, len(drawn.Places)+4), out)
}

// inks are the colours of series, in their order; neighbours differ in lightness, too.
var inks = []string{"1F5C4D", "D9A441", "7A2E4D", "8FA8BF", "3D5670", "C98BA3", "6FA08F", "B3761A", "A39B8B"}

var chartTypes = map[view.ChartKind]excelize.ChartType{
	view.Bars: excelize.Col, view.Stacked: excelize.ColStacked, view.Lines: excelize.Line,
	view.Areas: excelize.AreaStacked, view.Shares: excelize.Doughnut,
}

// perUnit is what a chart's units are in a spreadsheet's: percentages are parts of one there,
// durations parts of a day.
var perUnit = map[string]float64{"": 1, "percent": 100, "hours": 24}

// cellOf is the cell of the ledger that a mark stands for, or empty.
func (s *ledgerSheet) cellOf(m chart.Mark) string {
	row := s.rows[m.Group]
	if row == 0 || !m.Leads {
		return ""
	}
	column := 2 // the number of records
	if m.Head >= 0 {
		if column = s.live.columns[m.Head]; column == 0 {
			return ""
		}
	}
	return fmt.Sprintf("'%s'!%s", s.name, absolute(cellName(column, row)))
}

// absolute is a cell's name that does not move.
func absolute(cell string) string {
	col, row, err := excelize.SplitCellName(cell)
	if err != nil {
		return cell
	}
	return fmt.Sprintf("$%s$%d", col, row)
}
