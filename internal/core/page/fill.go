package page

import (
	"context"
	"errors"
	"strconv"
	"strings"

	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// errDone ends a filling of pages of which no more are wanted.
var errDone = errors.New("no more pages")

// row is a line of the table, broken to the widths of its columns.
type row struct {
	level  int // 0 for the grand total
	record bool
	name   []string
	count  string
	cells  []cellText
	bars   []result.Bar
	height float64
	// again says that it stands for a group that goes on from the page before.
	again bool
}

type cellText struct {
	lines   []string
	picture string
}

// filling fills pages one after the other.
type filling struct {
	*layout
	pen *result.Pen
	do  func(Page) error
	// at are the pages that are being filled: those that stand beside each other.
	at []Page
	// y is where the next line begins.
	y      float64
	number int
	// open are the rows of the groups that the next line lies in; block holds rows until it is
	// known which of them stay together.
	open, block []row
	begun       bool // a line stands on the table already
}

// fill lays all lines on pages and calls do for each.
func (l *layout) fill(ctx context.Context, do func(Page) error) error {
	f := &filling{layout: l, pen: l.sum.Pen(format.People), do: do}
	err := f.all(ctx)
	if errors.Is(err, errDone) {
		return nil
	}
	return err
}

func (f *filling) all(ctx context.Context) error {
	f.begin()
	err := f.Result.EachLine(ctx, result.Open{Depth: f.Table.Depth}, func(line result.Line) error {
		return f.take(f.row(line))
	})
	if err != nil {
		return err
	}
	if err := f.total(); err != nil {
		return err
	}
	if err := f.closing(); err != nil {
		return err
	}
	return f.end()
}

// total places the rows that were held back and the grand total, which stands on no page alone.
func (f *filling) total() error {
	rows := f.block
	f.block = nil
	if !f.Table.Labelled && !f.totals() {
		return f.placeAll(rows)
	}
	grand := f.row(f.sum.GrandTotal)
	if n := len(rows); n > 1 && !f.fits(f.heightOf(rows)+grand.height) {
		if err := f.placeAll(rows[:n-1]); err != nil {
			return err
		}
		rows = rows[n-1:]
	}
	return f.placeAll(append(rows, grand))
}

// totals says whether any column shows a total of all records.
func (f *filling) totals() bool {
	for _, c := range f.columns {
		if f.sum.GrandTotal.Cells[c.Head].Kind != cell.Blank {
			return true
		}
	}
	return false
}

// closing writes how many records there are, and what a reader has to know.
func (f *filling) closing() error {
	size := f.sheet.size
	var lines []string
	if f.has(view.PaperCount) && f.Words.Count != "" {
		lines = append(lines, f.Words.Count)
	}
	for _, note := range f.Words.Notes {
		lines = append(lines, wrap(f.Metrics, Sans, size*smallSize, f.sheet.room(), note+".", 6)...)
	}
	for i, text := range lines {
		if !f.fits(leading(size)) {
			f.open = nil
			if err := f.next(); err != nil {
				return err
			}
		}
		if i == 0 {
			f.y += size * 0.6
		}
		f.y += leading(size)
		f.at[0].Texts = append(
			f.at[0].Texts, Text{f.sheet.margin, f.y, Sans, size * smallSize, true, text, About},
		)
	}
	return nil
}

// row breaks a line to the widths of its columns.
func (f *filling) row(line result.Line) row {
	size, face := f.sheet.size, Sans
	r := row{level: line.Level, record: line.IsRecord, cells: make([]cellText, len(f.columns))}
	lines, high := 1, 0.0
	if !line.IsRecord {
		face = SansBold
		r.count = format.Thousands(strconv.Itoa(line.Count))
		room := f.names - f.inset(r.level) - f.Metrics.Width(Sans, size*smallSize, r.count) - size*0.5
		r.name = wrap(f.Metrics, SerifBold, size, max(room, size*3), f.nameOf(f.pen, line), wrapLines)
		lines = max(lines, len(r.name))
	}
	for i, c := range f.columns {
		switch of := line.Cells[c.Head]; {
		case of.Kind == cell.Blank:
		case of.Kind == cell.Picture:
			r.cells[i].picture, high = of.Text, pictureHigh*size
		case (c.Right || c.Whole) && of.Kind != cell.Several:
			r.cells[i].lines = []string{textOf(f.pen, line, c.Head)} // a number is never broken
		default:
			r.cells[i].lines = wrap(f.Metrics, face, size, c.width, textOf(f.pen, line, c.Head), wrapLines)
			lines = max(lines, len(r.cells[i].lines))
		}
	}
	r.bars = append(r.bars, line.Bars...)
	r.height = max(float64(lines)*leading(size), high) + size*0.3
	return r
}

func (f *filling) inset(level int) float64 { return float64(max(0, level-1)) * indent * f.sheet.size }

// take takes the next row, and places those that stand before it once it is known what of them
// stays together: a group's line and at least two of its lines.
func (f *filling) take(r row) error {
	if len(f.block) > 0 && (!r.record && r.level <= f.block[0].level || f.breaksAt(r)) {
		if err := f.release(true); err != nil {
			return err
		}
	}
	f.block = append(f.block, r)
	chain := 0
	for chain < len(f.block) && !f.block[chain].record &&
		(chain == 0 || f.block[chain].level > f.block[chain-1].level) {
		chain++
	}
	with := 2
	if chain < len(f.block) && !f.block[chain].record {
		with = 1 // the last of the chain is a line of the group around it
	}
	if len(f.block) >= chain+with {
		return f.release(false)
	}
	return nil
}

// breaksAt says whether a row begins a page of its own.
func (f *filling) breaksAt(r row) bool {
	return !r.record && r.level > 0 && r.level <= f.Paper.Break && f.begun
}

// release places the rows held back; of those at the end that are groups' the next may be lines
// of, so that they are held further, unless all are wanted.
func (f *filling) release(everything bool) error {
	end := len(f.block)
	for !everything && end > 1 && !f.block[end-1].record {
		end--
	}
	rows := f.block[:end]
	rest := append([]row{}, f.block[end:]...)
	err := f.placeAll(rows)
	f.block = rest
	return err
}

func (f *filling) heightOf(rows []row) float64 {
	sum := 0.0
	for _, r := range rows {
		sum += r.height
	}
	return sum
}

func (f *filling) bottom() float64 { return f.sheet.height - f.sheet.margin }

func (f *filling) fits(height float64) bool { return f.y+height <= f.bottom() }

// placeAll places rows that stay together if a page has room for them.
func (f *filling) placeAll(rows []row) error {
	if len(rows) == 0 {
		return nil
	}
	f.closeTo(rows[0])
	if f.breaksAt(rows[0]) || !f.fits(f.heightOf(rows)) && f.begun {
		if err := f.next(); err != nil {
			return err
		}
	}
	for _, r := range rows {
		f.closeTo(r)
		if !f.fits(r.height) && f.begun {
			if err := f.next(); err != nil {
				return err
			}
		}
		f.place(r)
		if !r.record && r.level > 0 {
			f.open = append(f.open, r)
		}
	}
	return nil
}

// closeTo closes the groups that a row does not lie in.
func (f *filling) closeTo(r row) {
	if r.record {
		return
	}
	for len(f.open) > 0 && f.open[len(f.open)-1].level >= max(r.level, 1) {
		f.open = f.open[:len(f.open)-1]
	}
}

// begin begins the first pages.
func (f *filling) begin() {
	f.blank()
	f.y = f.layout.chart(&f.at[0], f.above(&f.at[0]))
	f.headed()
}

// blank begins empty pages that stand beside each other.
func (f *filling) blank() {
	f.at = make([]Page, len(f.folds))
	for i := range f.at {
		f.at[i] = Page{
			Number: f.number + i + 1, Width: f.sheet.width, Height: f.sheet.height,
			Texts: []Text{}, Rules: []Stroke{}, Fills: []Fill{}, Shapes: []Shape{}, Pictures: []Picture{},
		}
	}
	f.number += len(f.folds)
	f.y = f.sheet.margin
}

// headed puts the headings of the columns on the pages.
func (f *filling) headed() {
	y := f.y
	for i := range f.at {
		f.y = f.head(&f.at[i], i, y)
	}
}

// goesOn stands beside the name of a group that began on a page before.
const goesOn = "continued"

// next goes on to the next pages: the headings again, and the groups that go on.
func (f *filling) next() error {
	if err := f.end(); err != nil {
		return err
	}
	f.blank()
	f.headed()
	f.begun = false
	for _, g := range f.open {
		size := f.sheet.size
		room := f.names - f.inset(g.level) - f.Metrics.Width(Sans, size*smallSize, goesOn) - size
		again := row{
			level: g.level, cells: make([]cellText, len(f.columns)), height: leading(size) + size*0.3, again: true,
			name: []string{cut(f.Metrics, SerifBold, size, max(room, size*3), strings.Join(g.name, " "))},
		}
		if f.fits(again.height * 3) {
			f.place(again)
		}
	}
	f.begun = false // what goes on is no line yet
	return nil
}

// end hands over the pages that are full.
func (f *filling) end() error {
	for _, p := range f.at {
		if err := f.do(p); err != nil {
			return err
		}
	}
	return nil
}
