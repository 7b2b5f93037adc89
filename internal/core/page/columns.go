package page

import (
	"context"
	"fmt"
	"math"
	"strconv"
	"strings"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
)

// Column is a column of the table.
type Column struct {
	// Head is its place among the heads of the result.
	Head int
	// Heading are its headings from the top down; equal neighbours of a row that Spans stand
	// as one over all of them.
	Heading []string
	// Right aligns values to the right; Whole ones, such as dates, are not broken; Figures says
	// that groups have totals in it.
	Right, Whole, Figures bool
	Frozen, Picture       bool
}

// Table is what is laid out: the ledger with its groups open so far.
type Table struct {
	Depth int
	// Records says that their lines are shown.
	Records bool
	// Label heads the names of groups; Labelled says that lines have some.
	Label    string
	Labelled bool
	Columns  []Column
	// Spans says of each row of headings whether equal neighbours are one; Own is that of the
	// columns' own headings.
	Spans []bool
	Own   int
}

// column is one as it is placed.
type column struct {
	Column
	// natural is the width that nothing is broken at, least the one that numbers and words
	// need.
	natural, least float64
	width          float64
}

// The room beside what stands in a column, and the bounds of widths in type sizes.
const (
	gap         = 0.7
	widestGap   = 2.2
	widestText  = 26
	widestLabel = 24
	pictureWide = 5
	pictureHigh = 3.2
	wrapLines   = 5 // of a value
)

// label is the column of the groups' names; it comes before all others.
type labelColumn struct{ natural, least, width float64 }

// measure finds how wide columns are, in type of size one: all values are looked at, since no
// number may be cut.
func (l *layout) measure(ctx context.Context) error {
	l.columns = make([]column, len(l.Table.Columns))
	for i, c := range l.Table.Columns {
		col := &l.columns[i]
		col.Column = c
		for _, h := range c.Heading {
			word := longestWord(l.Metrics, SansBold, 1, h)
			col.least = max(col.least, word)
			col.natural = max(col.natural, min(word*1.6, l.Metrics.Width(SansBold, 1, h)))
		}
		if c.Picture {
			col.least, col.natural = pictureWide, pictureWide
		}
	}
	l.label.natural = l.Metrics.Width(SansBold, 1, l.Table.Label)
	l.label.least = longestWord(l.Metrics, SansBold, 1, l.Table.Label)
	pen := l.sum.Pen(format.People)
	err := l.Result.EachLine(ctx, result.Open{Depth: l.Table.Depth}, func(line result.Line) error {
		l.lines++
		l.measureLine(pen, line)
		return nil
	})
	if err != nil {
		return err
	}
	l.measureLine(pen, l.sum.GrandTotal)
	return nil
}

func (l *layout) measureLine(pen *result.Pen, line result.Line) {
	face := Sans
	if !line.IsRecord {
		face = SansBold
		name := l.nameOf(pen, line)
		inset := float64(max(0, line.Level-1)) * indent
		beside := l.Metrics.Width(Sans, smallSize, format.Thousands(strconv.Itoa(line.Count))) + 0.6
		l.label.natural = max(l.label.natural, inset+l.Metrics.Width(SerifBold, 1, name)+beside)
		word := min(longestWord(l.Metrics, SerifBold, 1, name), widestLabel/2)
		l.label.least = max(l.label.least, inset+word+beside)
	}
	for i := range l.columns {
		col := &l.columns[i]
		if col.Picture || line.Cells[col.Head].Kind == cell.Blank {
			continue
		}
		text := textOf(pen, line, col.Head)
		width := l.Metrics.Width(face, 1, text)
		col.natural = max(col.natural, width)
		if (col.Right || col.Whole) && line.Cells[col.Head].Kind != cell.Several {
			col.least = max(col.least, width)
		} else {
			col.least = max(col.least, min(longestWord(l.Metrics, face, 1, text), widestText/2))
		}
	}
}

func textOf(pen *result.Pen, line result.Line, head int) string {
	if line.IsRecord {
		return pen.Value(head, line.Cells[head])
	}
	return pen.Figure(head, line.Cells[head])
}

// nameOf is what stands in front of a group's line.
func (l *layout) nameOf(pen *result.Pen, line result.Line) string {
	if line.Level == 0 {
		return pen.Label(line)
	}
	return result.Named(pen.Label(line))
}

// indent is how far the names of inner groups stand in, in type sizes.
const indent = 1.2

// fit sets the widths: as they are natural if there is room, else narrower; then, as the set-up
// says, in smaller type or on pages beside each other.
func (l *layout) fit() error {
	room := l.sheet.room()
	for i := range l.columns {
		c := &l.columns[i]
		c.natural = min(max(c.natural, c.least), max(widestText, c.least))
	}
	if l.Table.Labelled {
		l.label.natural = min(l.label.natural, max(widestLabel, l.label.least))
	} else {
		l.label = labelColumn{}
	}
	names := l.label
	if lead := l.lead(); lead > 0 {
		// Names of groups run over columns that say nothing of groups.
		in := float64(len(l.sum.Plan.Groups))*indent + 0.3
		l.label, l.leading = labelColumn{natural: in, least: in}, lead
	}
	natural, least := l.label.natural, l.label.least
	for _, c := range l.columns {
		natural, least = natural+c.natural+gap, least+c.least+gap
	}
	switch size := l.sheet.size; {
	case natural*size <= room:
		l.folds = [][]int{all(len(l.columns))}
	case least*size <= room:
		l.folds = [][]int{all(len(l.columns))}
		l.squeeze(natural, least, room/size)
	case l.Paper.Over:
		l.label, l.leading = names, 0
		return l.fold()
	default:
		l.sheet.size = math.Floor(room/least*10) / 10
		if l.sheet.size < leastType {
			return &Error{fmt.Sprintf(
				"%d columns are too wide for this paper: in type that can still be read %d of them fit; "+
					"let columns go over the edge, turn the paper sideways, or take wider paper or fewer columns",
				len(l.columns), l.fitting(room/leastType),
			)}
		}
		l.folds = [][]int{all(len(l.columns))}
		l.squeeze(natural, least, room/l.sheet.size)
	}
	l.place()
	return nil
}

// lead is how many columns from the left on have nothing to say of groups, if they have room for
// the names of groups.
func (l *layout) lead() int {
	if !l.Table.Labelled || !l.Table.Records {
		return 0
	}
	n, width := 0, 0.0
	for n < len(l.columns) && !l.columns[n].Figures {
		width += l.columns[n].least + gap
		n++
	}
	if width < leastLead {
		return 0
	}
	return n
}

// leastLead is how wide columns are at least that names of groups run over.
const leastLead = 14

// squeeze takes from each column its part of what is too wide.
func (l *layout) squeeze(natural, least, room float64) {
	part := 0.0 // of the way from natural to least
	if natural > least {
		part = min(1, max(0, (natural-room)/(natural-least)))
	}
	narrow := func(natural, least float64) float64 { return natural - (natural-least)*part }
	l.label.natural = narrow(l.label.natural, l.label.least)
	for i := range l.columns {
		c := &l.columns[i]
		c.natural = narrow(c.natural, c.least)
	}
}

// fitting is how many columns fit at their least.
func (l *layout) fitting(room float64) int {
	used := l.label.least
	for i, c := range l.columns {
		if used += c.least + gap; used > room {
			return i
		}
	}
	return len(l.columns)
}

// fold lets columns go over the edge: each page beside the first begins with the names of the
// lines and the columns that stay.
func (l *layout) fold() error {
	room, size := l.sheet.room(), l.sheet.size
	// The names of lines may have a third of each page.
	l.label.natural = max(l.label.least, min(l.label.natural, room/size/3))
	front := l.label.natural
	var frozen []int
	for i, c := range l.columns {
		if c.Frozen {
			frozen = append(frozen, i)
			front += c.least + gap
		}
	}
	if front*size > room/2 {
		frozen, front = nil, l.label.natural // what stays would leave no room for the rest
	}
	fold, used := append([]int{}, frozen...), front
	for i := range l.columns {
		c := &l.columns[i]
		if c.Frozen && len(frozen) > 0 {
			c.natural = c.least
			continue
		}
		c.natural = min(c.natural, max(c.least, (room/size-front)*0.6))
		if (front+c.natural+gap)*size > room {
			return &Error{fmt.Sprintf(
				"the column “%s” is too wide for this paper: "+
					"turn it sideways, take wider paper, smaller type or narrower margins",
				strings.Join(c.Heading, " "),
			)}
		}
		if (used+c.natural+gap)*size > room && len(fold) > len(frozen) {
			l.folds = append(l.folds, fold)
			fold, used = append([]int{}, frozen...), front
		}
		fold, used = append(fold, i), used+c.natural+gap
	}
	l.folds = append(l.folds, fold)
	l.place()
	return nil
}

// place turns widths in type sizes into points, and sets the columns of each fold side by side.
func (l *layout) place() {
	size := l.sheet.size
	l.label.width = l.label.natural * size
	l.names = l.label.width
	// What room is left goes between the columns, as far as the eye follows a line.
	between := gap
	if len(l.folds) == 1 && len(l.columns) > 0 {
		used := l.label.natural
		for _, c := range l.columns {
			used += c.natural + gap
		}
		between += min(widestGap-gap, max(0, (l.sheet.room()/size-used)/float64(len(l.columns))))
	}
	for i := range l.columns {
		l.columns[i].width = l.columns[i].natural * size
	}
	l.xs = make([][]float64, len(l.folds))
	for f, fold := range l.folds {
		x := l.sheet.margin + l.label.width
		for _, i := range fold {
			if x > l.sheet.margin {
				x += between * size
			}
			l.xs[f] = append(l.xs[f], x)
			x += l.columns[i].width
		}
	}
	for i := range l.leading {
		l.names += between*size + l.columns[i].width
	}
}

func all(n int) []int {
	out := make([]int, n)
	for i := range out {
		out[i] = i
	}
	return out
}
