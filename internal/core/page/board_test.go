package page

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/view"
)

// drawnPanel is one of any kind in its place.
func drawnPanel(t *rapid.T, n, row int) Panel {
	p := Panel{Heading: fmt.Sprint("Heading ", n), Row: row, Wide: rapid.IntRange(2, 12).Draw(t, "wide"), High: rapid.IntRange(2, 14).Draw(t, "high")}
	long := strings.Repeat("a word or two ", rapid.IntRange(0, 30).Draw(t, "words"))
	switch rapid.IntRange(0, 4).Draw(t, "kind") {
	case 0:
		p.Figure = &Figure{Text: "62,318.60", Under: []string{"total claimed", long}}
	case 1:
		p.Words = []Paragraph{{Text: "To know", Heading: true}, {Text: long + "."}, {Text: "first", Item: true}}
	case 2:
		p.Why = "“Claims” cannot run: " + long
	case 3:
		p.Chart = &chart.Chart{Kind: view.Bars, Places: []string{"May", "June"}, Series: []chart.Series{
			{Label: long, Marks: []chart.Mark{{Value: 3}, {Value: -2}}}, {Label: "b", Marks: []chart.Mark{{Value: 1}, {Value: 5}}},
		}}
	default:
		lines := &Lines{Left: rapid.IntRange(0, 3).Draw(t, "left")}
		for c := range rapid.IntRange(1, 9).Draw(t, "columns") {
			lines.Headings, lines.Right = append(lines.Headings, fmt.Sprint("Total claimed ", c)), append(lines.Right, c > 0)
		}
		for range rapid.IntRange(0, 30).Draw(t, "rows") {
			cells := make([]string, len(lines.Headings))
			for i := range cells {
				cells[i] = "1,234.50"
			}
			lines.Rows = append(lines.Rows, Row{Cells: cells, Level: 1})
		}
		if len(lines.Rows) > 0 {
			lines.Total = &Row{Cells: append([]string{"All"}, lines.Rows[0].Cells[1:]...)}
		}
		p.Lines = lines
	}
	return p
}

// Whatever stands on a board, every part begins on some sheet, nothing is outside of the margins, and lines that
// have no room are counted.
func TestABoardStaysOnItsSheets(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		b := Board{Title: "Start of the week", Columns: 12, Metrics: typewriter{}, Moment: "today", Paper: &view.Paper{
			Size: rapid.SampledFrom([]view.PaperSize{view.A4, view.A3, view.Letter}).Draw(t, "size"), Sideways: rapid.Bool().Draw(t, "sideways"),
		}}
		for page := range rapid.IntRange(0, 3).Draw(t, "pages") {
			var panels []Panel
			row := 0
			for n := range rapid.IntRange(1, 6).Draw(t, "panels") {
				panels = append(panels, drawnPanel(t, page*10+n, row))
				row += panels[n].High
			}
			b.Pages = append(b.Pages, panels)
		}
		pages := LayBoard(b)
		require.NotEmpty(t, pages)
		margin := usualMargin * perMillimetre
		seen := map[string]int{}
		for _, p := range pages {
			for _, text := range p.Texts {
				if text.Role == Footing {
					continue
				}
				seen[text.Text]++
				require.GreaterOrEqual(t, text.X, margin-0.01, text.Text)
				require.LessOrEqual(t, text.X+(typewriter{}).Width(text.Face, text.Size, text.Text), p.Width-margin+1, text.Text)
				require.LessOrEqual(t, text.Y, p.Height-margin+0.01, text.Text)
			}
			for _, s := range p.Shapes {
				for i := 0; i+1 < len(s.Points); i += 2 {
					require.GreaterOrEqual(t, s.Points[i], margin-0.01)
					require.LessOrEqual(t, s.Points[i], p.Width-margin+0.01)
					require.LessOrEqual(t, s.Points[i+1], p.Height-margin+0.01)
				}
			}
		}
		for _, panels := range b.Pages {
			for _, p := range panels {
				require.NotZero(t, seen[p.Heading], p.Heading)
			}
		}
	})
}
