package page

import (
	"context"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// typewriter is type of which every character is as wide.
type typewriter struct{}

func (typewriter) Width(face Face, size float64, text string) float64 {
	part := 0.5
	if strings.HasSuffix(string(face), "bold") {
		part = 0.55
	}
	return part * size * float64(len([]rune(text)))
}

// ran is a result of crossings with amounts of their own, in groups of two levels.
func ran(t require.TestingT, n, ports, boats, columns int) result.Result {
	set := &catalog.RecordSet{Key: "crossings", Label: "Crossings", One: "crossing", Many: "crossings"}
	tb := table.New("crossings", n)
	text := func(key string, value func(i int) string) {
		dict, codes := table.NewDictBuilder(), make([]uint32, n)
		for i := range codes {
			codes[i] = dict.CodeOf(value(i))
		}
		tb.Add(key, dict.Build(codes))
		set.Fields = append(set.Fields, catalog.Field{Key: key, Label: strings.ToUpper(key), Type: catalog.Text})
	}
	text("port", func(i int) string { return fmt.Sprintf("Port %d of the sound", i%ports) })
	text("boat", func(i int) string { return fmt.Sprintf("Boat %d", i/ports%boats) })
	text("remark", func(i int) string { return strings.Repeat("rough sea ", i%7) })
	doc := &view.Document{
		Gavrik: 1, Records: "crossings", Groups: []view.Group{{Field: "port"}, {Field: "boat"}},
		Columns: []view.Column{{Field: "remark"}},
	}
	for c := range columns {
		key, values := fmt.Sprintf("fare%d", c), make([]int64, n)
		for i := range values {
			values[i] = int64(i*37%9000+c) + 1
		}
		tb.Add(key, table.NewNumbers(values))
		set.Fields = append(set.Fields, catalog.Field{Key: key, Label: key, Type: catalog.Money, Scale: 2})
		doc.Columns = append(doc.Columns, view.Column{Field: key, Totals: []view.Total{{Fn: view.Sum}}})
	}
	c := &catalog.Catalog{Sets: []*catalog.RecordSet{set}}
	p, err := plan.Check(doc, c, calendar.Calendar{})
	require.NoError(t, err)
	res, err := engine.New(
		&table.Snapshot{Tables: map[string]*table.Table{"crossings": tb}}, c, engine.Options{},
	).Run(context.Background(), p)
	require.NoError(t, err)
	return res
}

func input(res result.Result, depth int, paper *view.Paper) Input {
	sum := res.Summarize()
	t := Table{
		Depth: depth, Records: depth == 2, Label: "Port / Boat", Labelled: true, Spans: []bool{false}, Own: 0,
	}
	for i, h := range sum.Heads {
		c := sum.Plan.Columns[h.Column]
		if depth == 2 || c.Measure >= 0 {
			t.Columns = append(t.Columns, Column{
				Head: i, Heading: []string{c.Heading}, Right: h.Field.Type.Numeric(), Figures: c.Measure >= 0,
			})
		}
	}
	return Input{Result: res, Table: t, Paper: paper, Metrics: typewriter{}, Words: Words{
		Title: "Crossings by port", Brief: "Crossings, grouped by port then boat.", Count: "all crossings",
		Notes: []string{"kept from you: nothing"},
	}}
}

// Whatever the paper: every line stands on exactly one page, in order and uncut; numbers stand on
// it whole; headings and the groups that go on begin each page; a group's line is not the last
// of its page; and what stands on the pages adds up to the total.
func TestEveryLineStandsOnOnePage(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(0, 260).Draw(t, "records")
		res := ran(t, n, rapid.IntRange(1, 5).Draw(t, "ports"), rapid.IntRange(1, 4).Draw(t, "boats"), rapid.IntRange(1, 14).Draw(t, "columns"))
		depth := rapid.IntRange(0, 2).Draw(t, "depth")
		paper := &view.Paper{
			Size:     rapid.SampledFrom([]view.PaperSize{"", view.A3, view.Letter, view.Legal}).Draw(t, "size"),
			Sideways: rapid.Bool().Draw(t, "sideways"), Over: rapid.Bool().Draw(t, "over"),
			Margin: rapid.SampledFrom([]int{0, 5, 30}).Draw(t, "margin"), Type: rapid.IntRange(6, 14).Draw(t, "type"),
			Break: rapid.IntRange(0, 2).Draw(t, "break"),
		}
		pages, err := Lay(t.Context(), input(res, depth, paper))
		var wide *Error
		if err != nil {
			require.ErrorAs(t, err, &wide)
			require.False(t, paper.Over && paper.Margin < 30, "narrow columns go over the edge: %s", err)
			return
		}
		var all []Page
		require.NoError(t, pages.Each(t.Context(), 1, pages.Count, func(p Page) error {
			all = append(all, p)
			return nil
		}))
		require.Len(t, all, pages.Count)
		checkPages(t, pages, all)
		checkLines(t, pages, all, res)
	})
}

// checkPages looks at each page by itself.
func checkPages(t *rapid.T, pages *Pages, all []Page) {
	for i, p := range all {
		require.Equal(t, i+1, p.Number)
		require.Equal(t, pages.Count, p.Of)
		headings := 0
		for _, text := range p.Texts {
			require.GreaterOrEqual(t, text.X, 0.0)
			right := text.X + typewriter{}.Width(text.Face, text.Size, text.Text)
			require.LessOrEqual(t, right, p.Width-pages.sheet.margin+1, "%q of page %d", text.Text, p.Number)
			require.LessOrEqual(t, text.Y, p.Height)
			if text.Role == Heading {
				headings++
			}
			if text.Role == Value || text.Role == Group {
				require.LessOrEqual(t, text.Y, p.Height-pages.sheet.margin+1, "page %d: %q", p.Number, text.Text)
			}
		}
		require.GreaterOrEqual(t, headings, len(pages.folds[i%len(pages.folds)]), "page %d has its headings", p.Number)
		require.Contains(t, texts(p, Footing), fmt.Sprintf("Page %d of %d", i+1, len(all)))
	}
	require.Contains(t, texts(all[0], Title), "Crossings by port")
}

// checkLines compares the lines of all pages with those of the result.
func checkLines(t *rapid.T, pages *Pages, all []Page, res result.Result) {
	sum := res.Summarize()
	pen := sum.Pen(format.People)
	want := map[int][]string{} // the cells of each column, from the first line to the last
	groups := []string{}
	require.NoError(t, res.EachLine(t.Context(), result.Open{Depth: pages.Table.Depth}, func(l result.Line) error {
		if !l.IsRecord {
			groups = append(groups, pen.Label(l))
		}
		cells := pen.Cells(l)
		for _, c := range pages.Table.Columns {
			if text := strings.TrimSpace(cells[c.Head]); text != "" && c.Right {
				want[c.Head] = append(want[c.Head], text)
			}
		}
		return nil
	}))
	for _, c := range pages.Table.Columns {
		if text := pen.Cells(sum.GrandTotal)[c.Head]; text != "" && c.Right {
			want[c.Head] = append(want[c.Head], text)
		}
	}
	got, named, sums := map[int][]string{}, []string{}, map[int]float64{}
	for i, p := range all {
		fold := i % len(pages.folds)
		ends := map[float64]int{} // the columns of numbers, by where they end
		for at, col := range pages.folds[fold] {
			ends[math.Round(pages.xs[fold][at]+pages.columns[col].width)] = pages.columns[col].Head
		}
		inOrder := slices.Clone(p.Texts)
		slices.SortStableFunc(inOrder, func(a, b Text) int { return int(math.Round(a.Y - b.Y)) })
		begins := true // nothing but what goes on stands on the page yet
		last := Text{}
		for at, text := range inOrder {
			end := math.Round(text.X + typewriter{}.Width(text.Face, text.Size, text.Text))
			head, number := ends[end]
			switch {
			case text.Role == Value && number && pages.columns[columnOf(pages, head)].Right && !text.Quiet:
				got[head] = append(got[head], text.Text)
				if text.Face == Sans {
					sums[head] += amount(t, text.Text)
				}
				begins = false
			case text.Role == Group && fold == 0:
				// The name may be broken; what stands right of its last part says if it goes on.
				name, again := text.Text, false
				for _, beside := range inOrder[max(0, at-1):min(len(inOrder), at+4)] {
					again = again || beside.Text == "continued" && beside.Y == text.Y
				}
				if again {
					require.True(t, begins, "what goes on stands before all others")
				} else {
					named = append(named, name)
				}
			}
			if text.Role == Value || text.Role == Group {
				last = text
			}
		}
		if i < len(all)-len(pages.folds) && pages.Table.Records && pages.Paper.Break == 0 {
			require.NotEqual(t, Group, last.Role, "page %d ends with a group whose records are elsewhere", p.Number)
		}
	}
	for head, cells := range want {
		require.Equal(t, cells, got[head], "column %d", head)
		if pages.Table.Records {
			require.InDelta(t, amount(t, cells[len(cells)-1]), sums[head], 0.001, "what stands on the pages adds up")
		}
	}
	require.Equal(t, strings.Join(append(groups, "All crossings"), " "), strings.Join(named, " "))
}

func columnOf(p *Pages, head int) int {
	return slices.IndexFunc(p.columns, func(c column) bool { return c.Head == head })
}

func amount(t *rapid.T, text string) float64 {
	var v float64
	_, err := fmt.Sscan(strings.ReplaceAll(text, ",", ""), &v)
	require.NoError(t, err, text)
	return v
}

func texts(p Page, role Role) []string {
	var out []string
	for _, t := range p.Texts {
		if t.Role == role {
			out = append(out, t.Text)
		}
	}
	return out
}

func TestPaperSaysWhatDoesNotFit(t *testing.T) {
	res := ran(t, 30, 2, 2, 60)
	_, err := Lay(t.Context(), input(res, 2, &view.Paper{Margin: 50}))
	require.ErrorContains(t, err, "61 columns are too wide for this paper: in type that can still be read ")
	require.ErrorContains(t, err, "let columns go over the edge")
	pages, err := Lay(t.Context(), input(res, 2, &view.Paper{Over: true}))
	require.NoError(t, err)
	beside := pages.Beside()
	require.Greater(t, len(beside), 3)
	require.Equal(t, 61, len(slices.Concat(beside...)), "every column stands on one of the pages beside each other")
	_, err = Lay(t.Context(), input(ran(t, 400_000, 3, 3, 1), 2, &view.Paper{Type: 14}))
	require.ErrorContains(t, err, "lines are more than 8,000 pages; close a level of groups")
	narrow := ran(t, 3, 1, 1, 1)
	pages, err = Lay(t.Context(), Input{
		Result: narrow, Table: input(narrow, 2, nil).Table, Metrics: typewriter{}, Words: Words{Title: strings.Repeat("long ", 2000)},
	})
	require.NoError(t, err)
	require.NoError(t, pages.Each(t.Context(), 1, 1, func(p Page) error {
		title := texts(p, Title)
		require.Len(t, title, 3)
		require.True(t, strings.HasSuffix(title[2], "…"))
		return nil
	}))
	stopped, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = Lay(stopped, input(ran(t, 5000, 3, 3, 1), 2, nil))
	require.ErrorIs(t, err, context.Canceled)
}

// A text that is broken loses nothing but blanks until it is cut, and no line is too wide.
func TestTextsAreBroken(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`([a-zé€]{0,30}[ \n]){0,12}`).Draw(t, "text")
		width := float64(rapid.IntRange(5, 60).Draw(t, "width"))
		most := rapid.IntRange(1, 12).Draw(t, "most")
		lines := wrap(typewriter{}, Sans, 10, width, text, most)
		require.LessOrEqual(t, len(lines), most)
		for _, line := range lines {
			require.LessOrEqual(t, typewriter{}.Width(Sans, 10, line), max(width, 10), line)
		}
		// The first character of what is cut stands at least, with its ellipsis.
		got, want := strings.Join(lines, ""), strings.Join(strings.Fields(text), "")
		got = strings.ReplaceAll(got, " ", "")
		if head, cut := strings.CutSuffix(got, "…"); cut {
			require.True(t, strings.HasPrefix(want, head))
		} else {
			require.Equal(t, want, got)
		}
	})
	// What is too long to be looked at whole is not.
	long := strings.Repeat("w", 4<<20)
	require.Equal(t, []string{"www", "ww…"}, wrap(typewriter{}, Sans, 10, 15, long, 2))
}
