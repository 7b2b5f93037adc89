package page

import (
	"math"
	"strconv"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/chart"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

// The room of a chart, in points, and its parts.
const (
	chartHeight = 150
	chartTicks  = 4
	barPart     = 0.72 // of a place that its bars fill
)

// plot is the part of a page that a chart is drawn in.
type plot struct {
	metrics Metrics
	// size is that of the type around it.
	size float64
	page *Page
	of   *chart.Chart
	// edge is where everything begins; left to right and top to bottom are the edges of the marks.
	edge, left, right, top, bottom float64
	// low and high are the values at the bottom and the top.
	low, high float64
}

// drawable says whether a chart has marks.
func drawable(c *chart.Chart) bool {
	return c != nil && c.Trouble == "" && len(c.Places) > 0 && len(c.Series) > 0
}

// chart draws the view's chart above the table, and returns where the rest begins.
func (l *layout) chart(page *Page, y float64) float64 {
	c := l.Chart
	if !drawable(c) {
		return y
	}
	size := l.sheet.size
	p := &plot{
		metrics: l.Metrics, size: size, page: page, of: c, edge: l.sheet.margin, right: l.sheet.width - l.sheet.margin,
	}
	p.text(l.sheet.margin, y+size, SansBold, size, false, c.Total+" by "+catalog.LowerFirst(c.Axis))
	p.top = p.legend(y+size) + 1.4*size
	p.bottom = p.top + chartHeight
	p.marks()
	return p.bottom + 3*size
}

// marks draws the axes and the marks between the edges.
func (p *plot) marks() {
	size, page, unit := p.size, p.page, p.of.Unit
	if p.of.Kind == view.Shares {
		unit = "percent"
	}
	p.bounds()
	step := niceStep((p.high - p.low) / chartTicks)
	p.low, p.high = math.Floor(p.low/step)*step, math.Ceil(p.high/step)*step
	wide := 0.0
	for v := p.low; v <= p.high+step/2; v += step {
		wide = max(wide, p.metrics.Width(Sans, size*smallSize, tickText(v, step, unit)))
	}
	p.left = p.edge + wide + size*0.5
	for v := p.low; v <= p.high+step/2; v += step {
		at, text := p.at(v), tickText(v, step, unit)
		start := p.left - size*0.4 - p.metrics.Width(Sans, size*smallSize, text)
		page.Rules = append(page.Rules, Stroke{p.left, at, p.right, at, 0.3, math.Abs(v) > step/1000})
		p.text(start, at+size*0.3, Sans, size*smallSize, true, text)
	}
	switch p.of.Kind {
	case view.Lines:
		p.lines()
	case view.Areas:
		p.areas()
	default:
		p.bars()
	}
	p.places()
}

// stacked says whether marks of one place stand on each other.
func (p *plot) stacked() bool { return p.of.Kind.Whole() }

// value is a mark's, as it is drawn: of shares, in percent of its place or, of one series, of all.
func (p *plot) value(series, place int) float64 {
	v := p.of.Series[series].Marks[place].Value
	if v != v {
		return 0
	}
	if p.of.Kind != view.Shares {
		return v
	}
	whole := 0.0
	for s := range p.of.Series {
		for at, m := range p.of.Series[s].Marks {
			if m.Value == m.Value && (at == place || len(p.of.Series) == 1) {
				whole += m.Value
			}
		}
	}
	if whole == 0 {
		return 0
	}
	return 100 * v / whole
}

// bounds finds the lowest and the highest value; zero lies between them, but for lines.
func (p *plot) bounds() {
	for place := range p.of.Places {
		up, down := 0.0, 0.0
		for s := range p.of.Series {
			v := p.value(s, place)
			if !p.stacked() {
				up, down = max(up, v), min(down, v)
			} else if v > 0 {
				up += v
			} else {
				down += v
			}
		}
		p.high, p.low = max(p.high, up), min(p.low, down)
	}
	if p.high == p.low {
		p.high = p.low + 1
	}
}

// at is the height of a value.
func (p *plot) at(v float64) float64 {
	return p.bottom - (v-p.low)/(p.high-p.low)*(p.bottom-p.top)
}

// slot is where a place begins, and how wide it is.
func (p *plot) slot(place int) (x, width float64) {
	width = (p.right - p.left) / float64(len(p.of.Places))
	return p.left + width*float64(place), width
}

func (p *plot) bars() {
	for place := range p.of.Places {
		x, width := p.slot(place)
		x, width = x+width*(1-barPart)/2, width*barPart
		up, down := 0.0, 0.0
		for s := range p.of.Series {
			v := p.value(s, place)
			from, to, left, wide := 0.0, v, x, width
			switch {
			case p.stacked() && v >= 0:
				from, to = up, up+v
				up = to
			case p.stacked():
				from, to = down, down+v
				down = to
			default:
				wide = width / float64(len(p.of.Series))
				left = x + wide*float64(s)
			}
			if v != 0 {
				a, b := p.at(from), p.at(to)
				p.shape(s, false, []float64{left, a, left + wide, a, left + wide, b, left, b})
			}
		}
	}
}

func (p *plot) lines() {
	for s, series := range p.of.Series {
		var points []float64
		flush := func() {
			if len(points) == 2 { // a single moment between gaps
				points = append(points, points[0]+0.5, points[1])
			}
			if len(points) > 0 {
				p.shape(s, true, points)
			}
			points = nil
		}
		for place, m := range series.Marks {
			if m.Value != m.Value {
				flush()
				continue
			}
			x, width := p.slot(place)
			points = append(points, x+width/2, p.at(m.Value))
		}
		flush()
	}
}

func (p *plot) areas() {
	n := len(p.of.Places)
	below := make([]float64, n)
	for s := range p.of.Series {
		points := make([]float64, 0, 4*n)
		for place := range n {
			x, width := p.slot(place)
			points = append(points, x+width/2, p.at(below[place]+p.value(s, place)))
		}
		for place := n - 1; place >= 0; place-- {
			x, width := p.slot(place)
			points = append(points, x+width/2, p.at(below[place]))
			below[place] += p.value(s, place)
		}
		p.shape(s, false, points)
	}
}

// places writes what stands along the axis: of many, every so manieth.
func (p *plot) places() {
	size := p.size * smallSize
	wide := 0.0
	for _, name := range p.of.Places {
		wide = max(wide, p.metrics.Width(Sans, size, name))
	}
	_, slot := p.slot(0)
	every := max(1, int(math.Ceil(min(wide, 80)*1.1/slot)))
	for place := 0; place < len(p.of.Places); place += every {
		x, _ := p.slot(place)
		name := p.of.Places[place]
		if name == "" {
			name = "blank"
		}
		name = cut(p.metrics, Sans, size, slot*float64(every)*0.98, name)
		middle := x + slot/2 - p.metrics.Width(Sans, size, name)/2
		middle = min(max(middle, p.edge), p.right-p.metrics.Width(Sans, size, name))
		p.text(middle, p.bottom+size*1.3, Sans, size, true, name)
	}
}

// legend names the series below the chart's title, on as many lines as they need, and returns
// where it ends.
func (p *plot) legend(y float64) float64 {
	if len(p.of.Series) < 2 {
		return y
	}
	size, x := p.size*smallSize, p.edge
	y += leading(size)
	for s := range p.of.Series {
		name := p.of.Series[s].Label
		if name == "" {
			name = "blank"
		}
		name = cut(p.metrics, Sans, size, (p.right-p.edge)/3, name)
		wide := p.metrics.Width(Sans, size, name)
		if x+wide+size*1.1 > p.right && x > p.edge {
			x, y = p.edge, y+leading(size)
		}
		p.shape(s, false, []float64{x, y - size*0.7, x + size*0.7, y - size*0.7, x + size*0.7, y, x, y})
		x += size * 1.1
		p.text(x, y, Sans, size, false, name)
		x += wide + size*1.2
	}
	return y
}

func (p *plot) text(x, y float64, face Face, size float64, quiet bool, text string) {
	p.page.Texts = append(p.page.Texts, Text{x, y, face, size, quiet, text, About})
}

func (p *plot) shape(series int, line bool, points []float64) {
	p.page.Shapes = append(p.page.Shapes, Shape{points, series, line})
}

// niceStep is the distance of ticks: 1, 2 or 5 of a power of ten, at least as large as asked.
func niceStep(least float64) float64 {
	power := math.Pow(10, math.Floor(math.Log10(least)))
	for _, of := range []float64{1, 2, 5} {
		if of*power >= least*0.999 {
			return of * power
		}
	}
	return 10 * power
}

func tickText(v, step float64, unit string) string {
	decimals := max(0, -int(math.Floor(math.Log10(step))))
	text := format.Thousands(strconv.FormatFloat(v, 'f', decimals, 64))
	if text == "-0" {
		text = "0"
	}
	switch unit {
	case "percent":
		text += " %"
	case "hours":
		text += " h"
	}
	return text
}
