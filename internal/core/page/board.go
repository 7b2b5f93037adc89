package page

import (
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/chart"
	"gavrik/internal/core/view"
)

// Board is several parts that are laid out on sheets: each page of the board begins one, and goes on where its
// rows do not fit.
type Board struct {
	Title string
	// About is what stands below the title: what was answered, a line for each.
	About []string
	// Moment, Made and Author stand at the foot.
	Moment, Made, Author string
	Letterhead           *Letterhead
	// Columns is how many columns the grid has.
	Columns int
	Pages   [][]Panel
	Paper   *view.Paper // nil is as usual
	Metrics Metrics
}

// Panel is a part: a box in the grid, with what stands in it.
type Panel struct {
	// Column and Row are from 0; Wide and High count columns and rows.
	Column, Row, Wide, High int
	Heading                 string
	// One of these is what is shown; Why says why nothing is.
	Figure *Figure
	Chart  *chart.Chart
	Lines  *Lines
	Words  []Paragraph
	Why    string
	// Foot stands small at the foot.
	Foot string
}

// Figure is a number by itself, and what stands below it.
type Figure struct {
	Text  string
	Under []string
}

// Lines are a small table.
type Lines struct {
	Headings []string
	// Right says which columns are set to the right.
	Right []bool
	Rows  []Row
	// Total is the line of all, and stands below whatever there is room for; nil for none.
	Total *Row
	// Left counts lines that are left out already.
	Left int
}

// Row is a line of a small table.
type Row struct {
	Cells []string
	// Level is how far its first cell stands in, from 1.
	Level int
}

// Paragraph is words of somebody's own.
type Paragraph struct {
	Text string
	// Heading is set larger; Item stands in a list.
	Heading, Item bool
}

// The sizes of a board on paper, in points.
const (
	usualRow = 30
	inset    = 6
)

// LayBoard lays a board out.
func LayBoard(b Board) []Page {
	if b.Paper == nil {
		b.Paper = &view.Paper{Sideways: true}
	}
	words := Words{Letterhead: b.Letterhead, Moment: b.Moment, Made: b.Made, Author: b.Author}
	s := &boardSheet{
		Board: b, layout: &layout{Input: Input{Paper: b.Paper, Metrics: b.Metrics, Words: words}, sheet: sheetOf(b.Paper)},
	}
	for _, panels := range b.Pages {
		s.lay(panels)
	}
	if len(s.pages) == 0 {
		s.begin()
	}
	for i := range s.pages {
		s.pages[i].Number, s.pages[i].Of = i+1, len(s.pages)
		s.layout.foot(&s.pages[i])
	}
	return s.pages
}

// boardSheet fills sheets with panels.
type boardSheet struct {
	Board
	*layout
	pages []Page
	// top is where the panels of the sheet begin.
	top float64
}

// begin begins a sheet; the first has the title.
func (s *boardSheet) begin() *Page {
	s.pages = append(s.pages, Page{
		Width: s.sheet.width, Height: s.sheet.height,
		Texts: []Text{}, Rules: []Stroke{}, Fills: []Fill{}, Shapes: []Shape{}, Pictures: []Picture{},
	})
	page := &s.pages[len(s.pages)-1]
	s.top = s.sheet.margin
	if len(s.pages) == 1 {
		y := s.layout.letterhead(page)
		put := func(text string, face Face, size float64, role Role) {
			y += leading(size)
			text = cut(s.Board.Metrics, face, size, s.sheet.room(), text)
			page.Texts = append(page.Texts, Text{s.sheet.margin, y, face, size, role == About, text, role})
		}
		put(s.Title, SerifBold, s.sheet.size*titleSize, Title)
		for _, line := range s.About[:min(len(s.About), 6)] {
			put(line, Sans, s.sheet.size, About)
		}
		s.top = y + s.sheet.size
	}
	return page
}

// lay puts the panels of a board's page on sheets: all of them on one if its rows can be made to fit, no lower
// than half of what is usual; else as many as fit, and the others on the next.
func (s *boardSheet) lay(panels []Panel) {
	panels = slices.Clone(panels)
	slices.SortStableFunc(panels, func(a, b Panel) int { return a.Row - b.Row })
	for len(panels) > 0 {
		page, first := s.begin(), panels[0].Row
		room := s.sheet.height - s.sheet.margin - s.top - 2*s.sheet.size
		end := func(of []Panel) (rows int) {
			for _, p := range of {
				rows = max(rows, p.Row-first+p.High)
			}
			return rows
		}
		row := min(usualRow, max(usualRow/2, room/float64(end(panels))))
		fit := 1
		for fit < len(panels) && float64(end(panels[:fit+1]))*row <= room+0.01 {
			fit++
		}
		for _, p := range panels[:fit] {
			column := s.sheet.room() / float64(s.Columns)
			left, top := s.sheet.margin+column*float64(p.Column), s.top+row*float64(p.Row-first)
			s.panel(page, p, left, top, left+column*float64(p.Wide), min(top+row*float64(p.High), s.top+room))
		}
		panels = panels[fit:]
	}
}

// panel draws a box and what is in it.
func (s *boardSheet) panel(page *Page, p Panel, left, top, right, bottom float64) {
	for _, r := range [][4]float64{{left, top, right, top}, {left, bottom, right, bottom}, {left, top, left, bottom}, {right, top, right, bottom}} {
		page.Rules = append(page.Rules, Stroke{r[0], r[1], r[2], r[3], 0.5, true})
	}
	size := s.sheet.size
	w := &boxWriter{m: s.Board.Metrics, page: page, left: left + inset, right: right - inset, y: top + inset/2, bottom: bottom - inset/2}
	if p.Foot != "" && bottom-top > 6*size {
		w.bottom -= leading(size * smallSize)
		page.Texts = append(page.Texts, Text{
			w.left, bottom - inset/2, Sans, size * smallSize, true,
			cut(s.Board.Metrics, Sans, size*smallSize, right-left-2*inset, p.Foot), About,
		})
	}
	if p.Heading != "" {
		w.put(p.Heading, SerifBold, size*1.1, false, 1, Heading)
	}
	switch {
	case p.Why != "":
		w.put(p.Why, Sans, size, true, 8, About)
	case p.Figure != nil:
		w.put(p.Figure.Text, SansBold, size*2, false, 1, Value)
		for _, text := range p.Figure.Under {
			w.put(text, Sans, size*smallSize, true, 1, About)
		}
	case drawable(p.Chart):
		c := &plot{metrics: s.Board.Metrics, size: size, page: page, of: p.Chart, edge: w.left, right: w.right}
		c.top, c.bottom = c.legend(w.y)+size, w.bottom-size*1.8
		if c.bottom-c.top > 2*size {
			c.marks()
		}
	case p.Chart != nil:
		w.put(p.Chart.Trouble, Sans, size, true, 8, About)
	case p.Lines != nil:
		w.lines(p.Lines, size)
	default:
		w.words(p.Words, size)
	}
}

// boxWriter writes from the top of a box down.
type boxWriter struct {
	m                      Metrics
	page                   *Page
	left, right, y, bottom float64
}

// put writes a text on so many lines at most, as far as there is room.
func (w *boxWriter) put(text string, face Face, size float64, quiet bool, most int, role Role) {
	for _, line := range wrap(w.m, face, size, w.right-w.left, text, most) {
		if w.y+leading(size) > w.bottom+0.01 {
			return
		}
		w.y += leading(size)
		w.page.Texts = append(w.page.Texts, Text{w.left, w.y - size*0.25, face, size, quiet, line, role})
	}
}

func (w *boxWriter) words(list []Paragraph, size float64) {
	for _, p := range list {
		switch {
		case p.Heading:
			w.put(p.Text, SerifBold, size*1.2, false, 3, Heading)
		case p.Item:
			w.put("– "+p.Text, Sans, size, false, 20, About)
		default:
			w.put(p.Text, Sans, size, false, 40, About)
		}
		w.y += size * 0.3
	}
}

// lines writes a small table: the first column has what the others leave, and of those as many stand there as
// leave it a third.
func (w *boxWriter) lines(t *Lines, size float64) {
	room := w.right - w.left
	widths := make([]float64, len(t.Headings))
	for i, h := range t.Headings {
		widths[i] = longestWord(w.m, SansBold, size, h)
		for _, r := range t.Rows {
			widths[i] = max(widths[i], min(w.m.Width(SansBold, size, r.Cells[i]), room/3))
		}
		widths[i] += size
	}
	shown, used := 1, 0.0
	for shown < len(widths) && used+widths[shown] <= room*2/3 {
		used += widths[shown]
		shown++
	}
	if spare := room - used; shown == len(widths) && t.Total == nil { // records: no column is a name
		for i := range widths {
			widths[i] += (spare - widths[0]) / float64(shown)
		}
	} else {
		widths[0] = spare
	}
	row := func(cells []string, face Face, indent float64, quiet bool, role Role) bool {
		if w.y+leading(size) > w.bottom {
			return false
		}
		w.y += leading(size)
		x := w.left
		for i := range shown {
			in := 0.0
			if i == 0 {
				in = indent
			}
			text := cut(w.m, face, size, widths[i]-size*0.6-in, cells[i])
			at := x + in
			if t.Right[i] {
				at = x + widths[i] - w.m.Width(face, size, text)
			}
			w.page.Texts = append(w.page.Texts, Text{at, w.y - size*0.25, face, size, quiet, text, role})
			x += widths[i]
		}
		return true
	}
	w.headings(t, widths[:shown], size)
	w.rule(0.5, false)
	notes := leading(size * smallSize)
	held := notes
	if t.Total != nil {
		held += leading(size) + 1
	}
	w.bottom -= held
	left := t.Left
	for _, r := range t.Rows {
		if left > t.Left || !row(r.Cells, Sans, float64(max(0, r.Level-1))*indent*size, false, Value) {
			left++
			continue
		}
		w.rule(0.3, true)
	}
	if w.bottom += held - notes; t.Total != nil {
		row(t.Total.Cells, SansBold, 0, false, Value)
	}
	w.bottom += notes
	if text := leftOut(left, len(widths)-shown); text != "" {
		w.put(text, Sans, size*smallSize, true, 1, About)
	}
}

// headings writes those of the columns, on as many lines as the longest needs.
func (w *boxWriter) headings(t *Lines, widths []float64, size float64) {
	lines := make([][]string, len(widths))
	most := 0
	for i, width := range widths {
		lines[i] = wrap(w.m, SansBold, size, width-size*0.6, t.Headings[i], 3)
		most = max(most, len(lines[i]))
	}
	if w.y+float64(most)*leading(size) > w.bottom {
		return
	}
	x := w.left
	for i, width := range widths {
		for n, text := range lines[i] {
			at := x
			if t.Right[i] {
				at = x + width - w.m.Width(SansBold, size, text)
			}
			y := w.y + leading(size)*float64(most-len(lines[i])+n+1) - size*0.25
			w.page.Texts = append(w.page.Texts, Text{at, y, SansBold, size, true, text, Heading})
		}
		x += width
	}
	w.y += leading(size) * float64(most)
}

// rule draws a line below what was written last.
func (w *boxWriter) rule(width float64, faint bool) {
	w.y++
	w.page.Rules = append(w.page.Rules, Stroke{w.left, w.y, w.right, w.y, width, faint})
}

// leftOut says how many lines and columns are not shown.
func leftOut(lines, columns int) string {
	var parts []string
	for _, p := range []struct {
		n    int
		what string
	}{{lines, "line"}, {columns, "column"}} {
		switch {
		case p.n == 1:
			parts = append(parts, "1 more "+p.what)
		case p.n > 1:
			parts = append(parts, fmt.Sprintf("%d more %ss", p.n, p.what))
		}
	}
	if len(parts) == 0 {
		return ""
	}
	return strings.Join(parts, " and ") + " in the view"
}
