package engine

import (
	"cmp"
	"context"
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/turn"
	"gavrik/internal/core/view"
)

// Bounds of a chart that can still be read.
const (
	MaxPlaces  = 150
	MaxMoments = 1500 // places along time, which need no labels of their own
	MaxSeries  = 9
)

// Chart draws what the document's chart asks for, or nil if it has none. It holds no
// more than can be drawn, however many groups there are.
func (r *Result) Chart(ctx context.Context) (*result.Chart, error) {
	spec := r.Plan.Chart
	if spec == nil {
		return nil, nil
	}
	defer turn.Of(ctx).Rest()
	d := &drawer{
		Result: r, ctx: ctx, spec: spec, out: &result.Chart{Kind: spec.Kind, Total: "number of " + r.Plan.Many},
		pen: r.Pen(format.People), w: format.NewWriter(format.People, r.Plan.Calendar),
	}
	return d.out, d.draw()
}

// drawer makes one chart.
type drawer struct {
	*Result
	ctx     context.Context
	spec    *plan.Chart
	out     *result.Chart
	pen     *result.Pen
	w       *format.Writer
	measure *plan.Measure // nil for the number of records
	// heads are the columns that show the figure, by the node across.
	heads map[int32]int
}

func (d *drawer) draw() error {
	switch {
	case len(d.Plan.Groups)+len(d.Plan.Across) == 0:
		d.out.Trouble = "A chart draws groups; group by something first."
		return nil
	case d.spec.Missing != "":
		d.out.Trouble = d.spec.Missing
		return nil
	}
	if d.spec.Column >= 0 {
		d.measure = &d.Plan.Measures[d.Plan.Columns[d.spec.Column].Measure]
		d.out.Total = d.measure.Label
	}
	g, err := d.grid()
	if err != nil {
		return err
	}
	d.out.Axis, d.out.By = g.axis.level.Label(), ""
	if g.by != nil {
		d.out.By = g.by.level.Label()
	}
	d.out.Fits = d.fitting(g)
	d.out.Kind = cmp.Or(d.out.Kind, d.out.Fits)
	if d.out.Kind.Whole() && !d.additive() && (g.by != nil || d.out.Kind == view.Shares) {
		d.out.Trouble = fmt.Sprintf("The parts of %s do not add up to a whole, so they cannot be put together; choose bars or lines.", d.out.Total)
		return nil
	}
	d.heads = map[int32]int{}
	for i, h := range d.Heads {
		if h.Part != result.Own || d.measure != nil && h.Column != d.spec.Column {
			continue
		}
		at := int32(0)
		if d.across != nil {
			at = d.across.nodeOf(h.AcrossPath)
		}
		if _, known := d.heads[at]; !known {
			d.heads[at] = i
		}
	}
	if head, ok := d.heads[0]; ok && d.measure != nil && d.cells[head].severalCurrencies() {
		d.out.Trouble = "Amounts in several currencies have no axis in common; filter to one to draw them."
		return nil
	}
	places, err := d.chosenPlaces(g)
	if err != nil {
		return err
	}
	for _, key := range places {
		d.out.Places = append(d.out.Places, d.name(g.axis, key))
	}
	if g.by == nil {
		return d.single(g, places)
	}
	return d.series(g, places)
}

// additive says whether the marks of parts add up to that of the whole.
func (d *drawer) additive() bool {
	return d.measure == nil || d.measure.Show == "" && d.measure.Additive()
}

// fitting is the kind of chart that shows the groups best: time runs along a line,
// parts of a whole stand on each other.
func (d *drawer) fitting(g *grid) view.ChartKind {
	timely := temporal(g.axis.level)
	switch {
	case g.by != nil && d.additive():
		return view.Stacked
	case g.by != nil && timely:
		return view.Lines
	case timely && len(g.axis.keys) > 24:
		return view.Areas
	}
	return view.Bars
}

// temporal says whether a level runs along time.
func temporal(g plan.Group) bool { return g.Ref.Field.Type.Temporal() && !g.Unit.Cyclic() }

// chosenPlaces are the numbers of the places that are drawn, in their order. What could
// not be told apart any more is left out, and said: the first places are kept or, along
// time, the last.
func (d *drawer) chosenPlaces(g *grid) ([]uint32, error) {
	keys := g.axis.keys
	bySize := d.spec.Order == view.LargestFirst || d.spec.Order == view.SmallestFirst
	if bySize {
		sizes := make([]float64, len(keys))
		err := g.each(d.ctx, func(axis, _ int, at place) {
			if v := d.value(at, result.Own); v == v {
				sizes[axis] += v
			}
		})
		if err != nil {
			return nil, err
		}
		order := make([]int, len(keys))
		for i := range order {
			order[i] = i
		}
		slices.SortStableFunc(order, func(a, b int) int {
			if d.spec.Order == view.LargestFirst {
				a, b = b, a
			}
			return cmp.Compare(sizes[a], sizes[b])
		})
		keys = picked(keys, order)
	}
	n, from, most, which := len(keys), 0, MaxPlaces, "first"
	if temporal(g.axis.level) && !bySize {
		from, most, which = n-MaxMoments, MaxMoments, "last"
	}
	if n <= most {
		return keys, nil
	}
	d.note(fmt.Sprintf("The %s %d of %d are drawn.", which, most, n))
	return keys[from : from+most], nil
}

// single draws one series and, of a comparison, that of its other side.
func (d *drawer) single(g *grid, places []uint32) error {
	at := placesOf(places)
	own := result.ChartSeries{Label: d.out.Total, Marks: noMarks(len(places))}
	sides := []result.ChartSeries{own}
	compared := d.Plan.Compare != nil && d.measure != nil && d.measure.Show == ""
	if compared {
		sides = append(sides, result.ChartSeries{Label: d.Plan.Compare.Label, Marks: noMarks(len(places))})
	}
	err := g.each(d.ctx, func(axis, _ int, cell place) {
		i, drawn := at[g.axis.keys[axis]]
		if !drawn {
			return
		}
		sides[0].Marks[i] = d.mark(cell, result.Own)
		if compared {
			sides[1].Marks[i] = d.mark(cell, result.Other)
		}
	})
	d.out.Series = sides
	return err
}

// series draws as many series as there are colours. Series that add up are put
// together, so that the whole stays whole.
func (d *drawer) series(g *grid, places []uint32) error {
	at := placesOf(places)
	n := len(g.by.keys)
	kept := make([]int, n)
	for i := range kept {
		kept[i] = i
	}
	if n > MaxSeries {
		sizes := make([]float64, n)
		err := g.each(d.ctx, func(axis, by int, cell place) {
			if _, drawn := at[g.axis.keys[axis]]; drawn {
				if v := d.value(cell, result.Own); v == v {
					sizes[by] += math.Abs(v)
				}
			}
		})
		if err != nil {
			return err
		}
		slices.SortStableFunc(kept, func(a, b int) int { return cmp.Compare(sizes[b], sizes[a]) })
		kept = kept[:MaxSeries-1]
		slices.Sort(kept)
	}
	drawn := map[int]int{}
	for i, by := range kept {
		drawn[by] = i
		label := d.name(*g.by, g.by.keys[by])
		d.out.Series = append(d.out.Series, result.ChartSeries{Label: label, Marks: noMarks(len(places))})
	}
	rest := result.ChartSeries{Label: fmt.Sprintf("%d others", n-len(kept)), Marks: noMarks(len(places))}
	err := g.each(d.ctx, func(axis, by int, cell place) {
		i, placed := at[g.axis.keys[axis]]
		if !placed {
			return
		}
		if s, own := drawn[by]; own {
			d.out.Series[s].Marks[i] = d.mark(cell, result.Own)
		} else if v := d.value(cell, result.Own); v == v {
			if rest.Marks[i].Value != rest.Marks[i].Value {
				rest.Marks[i].Value = 0
			}
			rest.Marks[i].Value += v
		}
	})
	switch {
	case n == len(kept):
	case d.additive():
		for i, m := range rest.Marks {
			if m.Value == m.Value {
				rest.Marks[i].Text = d.w.Float(m.Value, catalog.Field{Type: catalog.Decimal})
			}
		}
		d.note(fmt.Sprintf("The %d largest have a colour of their own; the other %d stand together.",
			len(kept), n-len(kept)))
		d.out.Series = append(d.out.Series, rest)
	default:
		d.note(fmt.Sprintf("The %d largest of %d are drawn; the ledger has all.", len(kept), n))
	}
	return err
}

// placesOf says where each number stands in a list of them.
func placesOf(keys []uint32) map[uint32]int {
	out := make(map[uint32]int, len(keys))
	for i, key := range keys {
		out[key] = i
	}
	return out
}

func noMarks(n int) []result.Mark {
	out := make([]result.Mark, n)
	for i := range out {
		out[i] = result.Mark{Value: math.NaN(), Head: -1}
	}
	return out
}

// head is the column that shows a cell's figure, or -1.
func (d *drawer) head(p place, part result.Part) int {
	head, ok := d.heads[p.across]
	if !ok {
		return -1
	}
	if part == result.Other {
		column := d.Heads[head].Column
		return slices.IndexFunc(d.Heads, func(h result.Head) bool { return h.Column == column && h.Part == result.Other })
	}
	return head
}

// value is the figure of a cell of the ledger, in the chart's unit; NaN for none.
func (d *drawer) value(p place, part result.Part) float64 {
	head := d.head(p, part)
	if d.measure == nil {
		return float64(d.records(p, head))
	}
	if head < 0 {
		return math.NaN()
	}
	f := d.cells[head]
	return d.inUnit(f.float(p.down), d.Heads[head].Field)
}

// severalCurrencies says whether figures have amounts in more than one currency.
func (f *aggregates) severalCurrencies() bool {
	if len(f.mixed) > 0 {
		return true
	}
	named := slices.DeleteFunc(slices.Clone(f.currency), func(c string) bool { return c == "" })
	slices.Sort(named)
	return len(slices.Compact(named)) > 1
}

// records is how many records a cell holds.
func (d *drawer) records(p place, head int) int {
	if p.across == 0 {
		return d.side.size(p.down)
	}
	return d.cellRecords(d.Heads[max(head, 0)], p.down)
}

// mark is a cell's figure with what it leads to.
func (d *drawer) mark(p place, part result.Part) result.Mark {
	head := d.head(p, part)
	m := result.Mark{Value: d.value(p, part), Group: d.tree.pathOf(p.down), Head: head, Leads: part == result.Own}
	if d.measure == nil {
		if p.across == 0 {
			m.Head = -1
		}
		m.Text = d.w.Number(int64(d.records(p, head)), catalog.Field{Type: catalog.Whole})
	} else if head >= 0 {
		m.Text = d.pen.Figure(head, d.cells[head].cell(p.down, d.Heads[head].Field))
	}
	return m
}

// inUnit is a stored value as the chart's axis counts.
func (d *drawer) inUnit(v float64, f catalog.Field) float64 {
	power := f.Scale
	if f.Approx {
		power = 0
	}
	if f.Format != nil {
		power += f.Format.In.Power()
	}
	switch f.Type {
	case catalog.Percent:
		d.out.Unit = "percent"
	case catalog.Duration:
		d.out.Unit = "hours"
		return v / 3.6e9
	}
	return v / math.Pow10(power)
}

func (d *drawer) note(text string) {
	if !slices.Contains(d.out.Notes, text) {
		d.out.Notes = append(d.out.Notes, text)
	}
}

func picked[T any](list []T, order []int) []T {
	out := make([]T, len(order))
	for i, at := range order {
		out[i] = list[at]
	}
	return out
}
