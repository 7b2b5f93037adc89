package board

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/format"
)

// shown is how what a part shows is called, one and several.
var shown = map[Show][2]string{
	Figure: {"a figure", "figures"}, Chart: {"a chart", "charts"}, Groups: {"a list of groups", "lists of groups"},
	Table: {"a table", "tables"}, Text: {"a text", "texts"},
}

// Named is what a view of a board is called; name is empty for one that its reader does not find.
func Named(name string) string { return cmp.Or(name, "a view that is not there") }

// Called says what a part is, and of which view.
func (p Part) Called(name func(view string) string) string {
	switch {
	case p.Show == Text:
		first, _, _ := strings.Cut(strings.TrimLeft(p.Text, "# \n"), "\n")
		return fmt.Sprintf("the text “%s”", short(first))
	case p.Heading != "":
		return fmt.Sprintf("%s “%s”", strings.TrimPrefix(shown[p.Show][0], "a "), p.Heading)
	}
	return fmt.Sprintf("%s of “%s”", strings.TrimPrefix(shown[p.Show][0], "a "), name(p.View))
}

func short(text string) string {
	if runes := []rune(text); len(runes) > 40 {
		return strings.TrimSpace(string(runes[:39])) + "…"
	}
	return text
}

// Sentence says what a board shows, and of which views: "Two figures and a chart of “Claims by age”".
func (d *Board) Sentence(name func(view string) string) string {
	if len(d.Parts) == 0 {
		return "An empty sheet."
	}
	counts := map[Show]int{}
	for _, p := range d.Parts {
		counts[p.Show]++
	}
	var what []string
	for _, show := range []Show{Figure, Chart, Groups, Table, Text} {
		switch n := counts[show]; n {
		case 0:
		case 1:
			what = append(what, shown[show][0])
		default:
			what = append(what, fmt.Sprintf("%d %s", n, shown[show][1]))
		}
	}
	var of []string
	for _, v := range d.Views() {
		if n := name(v); !slices.Contains(of, "“"+n+"”") {
			of = append(of, "“"+n+"”")
		}
	}
	const named = 3
	if len(of) > named+1 {
		of = append(of[:named:named], fmt.Sprintf("%d more views", len(of)-named))
	}
	out := format.Listed(what)
	if len(of) > 0 {
		out += " of " + format.Listed(of)
	}
	return format.Sentence(out)
}

// Changes says what leads from one board to another, a phrase for each change; none, if both are the same.
func Changes(before, after *Board, name func(view string) string) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	place := func(d *Board, key string) int {
		return slices.IndexFunc(d.Parts, func(p Part) bool { return p.Key == key })
	}
	for _, p := range after.Parts {
		if place(before, p.Key) < 0 {
			say("%s added", p.Called(name))
		}
	}
	for _, p := range before.Parts {
		at := place(after, p.Key)
		if at < 0 {
			say("%s taken off", p.Called(name))
			continue
		}
		p.changed(after.Parts[at], name, say)
	}
	if moved := moves(before, after); len(moved) == 1 {
		say("%s moved", moved[0].Called(name))
	} else if len(moved) > 1 {
		say("%d parts moved", len(moved))
	}
	return out
}

// changed says what became of a part.
func (p Part) changed(to Part, name func(view string) string, say func(string, ...any)) {
	who := p.Called(name)
	if p.Show != to.Show || p.View != to.View {
		say("%s became %s", who, to.Called(name))
	} else if p.Heading != to.Heading && to.Heading != "" {
		say("%s is headed “%s”", who, to.Heading)
	} else if p.Heading != to.Heading {
		say("%s is headed by its view's name again", who)
	}
	if p.Field != to.Field || p.Fn != to.Fn || p.Count != to.Count {
		say("%s shows another total", who)
	}
	if p.Text != to.Text {
		say("%s was written anew", who)
	}
	if p.Depth != to.Depth || p.Lines != to.Lines {
		say("%s shows other lines", who)
	}
	wideBefore, highBefore := p.Size()
	if wide, high := to.Size(); wide != wideBefore || high != highBefore {
		say("%s is %d columns wide and %d rows high, and was %d and %d", who, wide, high, wideBefore, highBefore)
	}
	if p.Page != to.Page {
		say("%s %s", who, map[bool]string{true: "begins a page", false: "no longer begins a page"}[to.Page])
	}
}

// moves are the parts that have to move to lead from one order to another: the fewest. The others, the
// longest run that keeps its order, stay (a longest increasing subsequence, by squares: boards are small).
func moves(before, after *Board) (out []Part) {
	var places []int
	var both []Part
	for _, p := range after.Parts {
		if at := slices.IndexFunc(before.Parts, func(b Part) bool { return b.Key == p.Key }); at >= 0 {
			places, both = append(places, at), append(both, p)
		}
	}
	longest, from := make([]int, len(places)), make([]int, len(places))
	best := -1
	for i := range places {
		longest[i], from[i] = 1, -1
		for j := range i {
			if places[j] < places[i] && longest[j] >= longest[i] {
				longest[i], from[i] = longest[j]+1, j
			}
		}
		if best < 0 || longest[i] > longest[best] {
			best = i
		}
	}
	stays := map[int]bool{}
	for at := best; at >= 0; at = from[at] {
		stays[at] = true
	}
	for i, p := range both {
		if !stays[i] {
			out = append(out, p)
		}
	}
	return out
}
