package deliver

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/page"
	"gavrik/internal/store"
)

// Every kind of part reads well as a page and as plain text, what is left out is counted, and nothing that
// people wrote acts.
func TestALetterOfABoard(t *testing.T) {
	rows := make([]page.Row, 9)
	for i := range rows {
		rows[i] = page.Row{Level: 1, Cells: []string{fmt.Sprint("Oxley ", i), "1", "2", "3", "4", "5", "6", "7"}}
	}
	panels := []page.Panel{
		{Heading: "Open <claims>", Figure: &page.Figure{Text: "62,318.60", Under: []string{"total claimed", "994 claims"}}},
		{Heading: "Late", Why: "“Late” cannot run: it names what is not there"},
		{Words: []page.Paragraph{{Text: "To know", Heading: true}, {Text: "<script>x</script>", Item: true}, {Text: "words"}}},
		{Heading: "By month", Chart: &chart.Chart{Axis: "Month", Total: "total claimed", Places: []string{"May", ""}, Series: []chart.Series{
			{Marks: []chart.Mark{{Text: "12.50"}, {Text: "3.00"}}},
		}}},
		{Heading: "Nothing", Chart: &chart.Chart{Trouble: "Group by something first."}},
		{Heading: "Routes", Foot: "two are left out", Lines: &page.Lines{
			Headings: []string{"", "a", "b", "c", "d", "e", "f", "g"}, Right: make([]bool, 8), Rows: rows, Left: 2,
			Total: &page.Row{Cells: []string{"All", "9", "", "", "", "", "", ""}},
		}},
	}
	m := &made{board: &boardLetter{Title: "Monday", Brief: "Parts.", Answers: []string{"Which routes? Oxley"}, AsOfText: "9:30"}}
	for _, p := range panels {
		m.board.Parts = append(m.board.Parts, partOf(p, 5))
	}
	out, err := compose(store.Delivery{ViewName: "Monday"}, Content{Note: "Good morning"}, m, letterPage{Why: "You have it sent.", Stop: "https://x.example/stop"})
	require.NoError(t, err)
	require.Equal(t, "Monday", out.Subject)
	for _, words := range []string{
		"62,318.60", "total claimed", "994 claims", "cannot run: it names what is not there", "To know", "words", "12.50", "blank",
		"Group by something first", "Oxley 4", "two are left out", "Which routes? Oxley", "Good morning", "As of 9:30",
	} {
		require.Contains(t, out.HTML, words)
		require.Contains(t, out.Text, words)
	}
	require.NotContains(t, out.HTML, "<script>")
	require.NotContains(t, out.HTML, "<claims>")
	require.NotContains(t, out.Text, "Oxley 5")
	require.Contains(t, out.HTML, "and 6 more lines, 1 more column", "four of its lines, and two that were left out before")
	require.Contains(t, out.Text, "All", "the line of all stands below those that are shown")
	require.Less(t, strings.Index(out.Text, "Oxley 4"), strings.LastIndex(out.Text, "All "))
}
