package page

import (
	"fmt"
	"strings"

	"gavrik/internal/core/view"
)

// The type of what stands above the table, in type sizes.
const (
	titleSize = 2
	briefSize = 1.25
	smallSize = 0.85
)

// above writes the heading of the first page and returns where the table begins.
func (l *layout) above(page *Page) float64 {
	size, width := l.sheet.size, l.sheet.room()
	y := l.letterhead(page)
	// The table has half of the first page at least.
	limit := max(l.sheet.height/2, y)
	put := func(text string, face Face, size float64, quiet bool, most int) {
		if text == "" {
			return
		}
		for _, line := range wrap(l.Metrics, face, size, width, text, most) {
			if y += leading(size); y > limit {
				return
			}
			role := About
			if size >= l.sheet.size*titleSize {
				role = Title
			}
			page.Texts = append(page.Texts, Text{l.sheet.margin, y, face, size, quiet, line, role})
		}
	}
	w := l.Words
	if l.has(view.PaperTitle) {
		put(w.Title, SerifBold, size*titleSize, false, 3)
	}
	put(w.Subtitle, Serif, size*briefSize, true, 3)
	for _, line := range w.Lines {
		put(line, Sans, size, false, 3)
	}
	if l.has(view.PaperBrief) {
		y += size * 0.3
		put(w.Brief, Serif, size*briefSize, false, 8)
	}
	if l.has(view.PaperConditions) && len(w.Conditions) > 0 {
		put("Always: "+strings.Join(w.Conditions, "; "), Sans, size, true, 4)
	}
	if l.has(view.PaperAnswers) {
		for _, a := range w.Answers {
			put(a[0]+"  "+a[1], SansBold, size, false, 2)
		}
	}
	if y > l.sheet.margin {
		y += size
	}
	return y
}

// The room of a logo, in points: 60 by 18 mm.
const (
	logoWidth  = 60 * perMillimetre
	logoHeight = 18 * perMillimetre
)

// letterhead draws whose paper it is, the logo at the left and the name at the right, and returns
// where the rest begins.
func (l *layout) letterhead(page *Page) float64 {
	top, h, size := l.sheet.margin, l.Words.Letterhead, l.sheet.size
	if h == nil || !l.has(view.PaperLetterhead) {
		return top
	}
	bottom := top
	room := l.sheet.room()
	if h.Logo != "" && h.Ratio > 0 {
		width := min(logoWidth, logoHeight*h.Ratio, room/2)
		page.Pictures = append(page.Pictures, Picture{l.sheet.margin, top, width, width / h.Ratio, h.Logo})
		bottom = top + width/h.Ratio
		room -= width + size
	}
	y := top
	put := func(text string, face Face, size float64) {
		text = cut(l.Metrics, face, size, room, text)
		y += leading(size)
		at := l.sheet.width - l.sheet.margin - l.Metrics.Width(face, size, text)
		page.Texts = append(page.Texts, Text{at, y, face, size, face != SerifBold, text, About})
	}
	if h.Name != "" {
		put(h.Name, SerifBold, size*1.2)
	}
	for _, line := range h.Address[:min(len(h.Address), 6)] {
		put(line, Sans, size*smallSize)
	}
	bottom = max(bottom, y) + size*0.8
	right := l.sheet.width - l.sheet.margin
	page.Rules = append(page.Rules, Stroke{l.sheet.margin, bottom, right, bottom, 0.4, true})
	return bottom + size*0.6
}

// foot writes what stands below the table of every page, and above it on those after the first.
func (l *layout) foot(page *Page) {
	size := l.sheet.size * smallSize
	y := l.sheet.height - l.sheet.margin*0.5
	var parts []string
	for _, part := range []struct {
		part       view.PaperPart
		text, word string
	}{
		{view.PaperMoment, l.Words.Moment, "records as of "}, {view.PaperMade, l.Words.Made, "printed "},
		{view.PaperAuthor, l.Words.Author, "by "},
	} {
		if part.text != "" && l.has(part.part) {
			parts = append(parts, part.word+part.text)
		}
	}
	right := ""
	if l.has(view.PaperPages) {
		right = fmt.Sprintf("Page %d of %d", page.Number, page.Of)
	}
	taken := l.Metrics.Width(Sans, size, right)
	left := cut(l.Metrics, Sans, size, l.sheet.room()-taken-2*size, strings.Join(parts, " · "))
	if len(parts) > 0 {
		page.Texts = append(page.Texts, Text{l.sheet.margin, y, Sans, size, true, left, Footing})
	}
	if right != "" {
		page.Texts = append(
			page.Texts, Text{l.sheet.width - l.sheet.margin - taken, y, Sans, size, true, right, Footing},
		)
	}
	if page.Number > 1 && l.has(view.PaperTitle) && l.Words.Title != "" {
		title := cut(l.Metrics, Serif, size, l.sheet.room(), l.Words.Title)
		at := Text{l.sheet.margin, l.sheet.margin * 0.7, Serif, size, true, title, Footing}
		page.Texts = append(page.Texts, at)
	}
}

// headingRow is one row of headings as it is placed.
type headingRow struct {
	// cells are the lines of each column; first says where a heading begins that runs over
	// several.
	cells  [][]string
	height float64
}

// headings breaks the headings of the columns.
func (l *layout) headings() {
	size := l.sheet.size
	for r := range l.Table.Spans {
		row := headingRow{cells: make([][]string, len(l.columns)), height: leading(size)}
		for i, c := range l.columns {
			face := SansBold
			if r > l.Table.Own {
				face = Sans
			}
			if l.Table.Spans[r] {
				row.cells[i] = []string{c.Heading[r]}
				continue
			}
			row.cells[i] = wrap(l.Metrics, face, size, c.width, c.Heading[r], 4)
			row.height = max(row.height, float64(len(row.cells[i]))*leading(size))
		}
		l.heads = append(l.heads, row)
	}
}

// head draws the headings of a fold at a height, and returns where the lines begin.
func (l *layout) head(page *Page, fold int, y float64) float64 {
	size, left := l.sheet.size, l.sheet.margin
	bottom := y
	if l.leading > 0 {
		bottom += leading(size)
	}
	for _, row := range l.heads {
		bottom += row.height
	}
	if l.leading > 0 && l.Table.Label != "" { // above the columns that the names run over
		text := cut(l.Metrics, SansBold, size, l.names, l.Table.Label)
		page.Texts = append(page.Texts, Text{left, y + size, SansBold, size, true, text, Heading})
	} else if l.Table.Labelled && len(l.heads) > 0 {
		lines := wrap(l.Metrics, SansBold, size, l.label.width, l.Table.Label, len(l.heads)+3)
		for i, text := range lines {
			at := bottom - leading(size)*float64(len(lines)-1-i) - size*0.35
			page.Texts = append(page.Texts, Text{left, at, SansBold, size, false, text, Heading})
		}
	}
	top := y
	if l.leading > 0 {
		top += leading(size)
	}
	for r, row := range l.heads {
		top += row.height
		l.headRow(page, fold, r, top)
	}
	if len(l.heads) > 0 {
		page.Rules = append(page.Rules, Stroke{left, bottom, l.right(fold), bottom, 0.8, false})
	}
	return bottom + size*0.25
}

// headRow draws one row of headings, whose lines end at a height.
func (l *layout) headRow(page *Page, fold, r int, bottom float64) {
	size, row := l.sheet.size, l.heads[r]
	face, quiet := SansBold, false
	if r > l.Table.Own {
		face, quiet = Sans, true
	}
	columns := l.folds[fold]
	for at := 0; at < len(columns); at++ {
		i := columns[at]
		c, x, width := l.columns[i], l.xs[fold][at], l.columns[i].width
		right := c.Right
		if l.Table.Spans[r] {
			from := at
			for at+1 < len(columns) && l.columns[columns[at+1]].Heading[r] == c.Heading[r] {
				at++
			}
			width = l.xs[fold][at] + l.columns[columns[at]].width - x
			right = false
			if at > from && c.Heading[r] != "" {
				page.Rules = append(page.Rules, Stroke{x, bottom, x + width, bottom, 0.3, false})
			}
		}
		lines := row.cells[i]
		if l.Table.Spans[r] {
			lines = []string{cut(l.Metrics, face, size, width, c.Heading[r])}
		}
		for n, text := range lines {
			if text == "" {
				continue
			}
			start := x
			if right {
				start = x + width - l.Metrics.Width(face, size, text)
			}
			at := bottom - leading(size)*float64(len(lines)-1-n) - size*0.35
			page.Texts = append(page.Texts, Text{start, at, face, size, quiet, text, Heading})
		}
	}
}

// right is where the last column of a fold ends.
func (l *layout) right(fold int) float64 {
	columns := l.folds[fold]
	if len(columns) == 0 {
		return l.sheet.margin + l.label.width
	}
	last := len(columns) - 1
	return l.xs[fold][last] + l.columns[columns[last]].width
}
