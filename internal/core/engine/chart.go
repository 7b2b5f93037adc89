package engine

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// Chart is one total of the groups as marks along an axis, one series for each group
// of a second level.
type Chart struct {
	// Kind is the one asked for or, if none was, Fits, which suits the groups best.
	Kind, Fits view.ChartKind
	// Total names what is drawn, Axis and By the levels; By is empty for one series.
	Total, Axis, By string
	// Unit is what the values are: "percent", "hours", or "" for plain numbers.
	Unit   string
	Places []string // along the axis
	Series []ChartSeries
	// Trouble says why nothing is drawn, and how to mend it.
	Trouble string
	// Notes say what is left out.
	Notes []string
}

// ChartSeries is the marks of one colour, one for each place of the axis.
type ChartSeries struct {
	Label string
	Marks []Mark
}

// Mark is one figure of a chart.
type Mark struct {
	// Value is NaN where there is no figure. Text is the figure as the ledger shows it.
	Value float64
	Text  string
	// Group and Head lead to the cell of the ledger that it stands for; Head is -1 for
	// the number of records. Leads is false where there is no such cell, or where it is
	// one of the other side of a comparison.
	Group string
	Head  int
	Leads bool
}

// Bounds of a chart that can still be read.
const (
	MaxPlaces  = 150
	MaxMoments = 1500 // places along time, which need no labels of their own
	MaxSeries  = 9
)

// Chart draws what the document's chart asks for, or nil if it has none.
func (r *Result) Chart() *Chart {
	spec := r.Plan.Chart
	if spec == nil {
		return nil
	}
	d := &drawer{Result: r, spec: spec, out: &Chart{Kind: spec.Kind, Total: "number of " + r.Plan.Many}, w: &windower{Result: r, pen: r.pen(format.People)}}
	d.draw()
	return d.out
}

// drawer makes one chart.
type drawer struct {
	*Result
	spec    *plan.Chart
	out     *Chart
	w       *windower
	measure *plan.Measure // nil for the number of records
}

func (d *drawer) draw() {
	switch {
	case len(d.Plan.Groups)+len(d.Plan.Across) == 0:
		d.out.Trouble = "A chart draws groups; group by something first."
		return
	case d.spec.Missing != "":
		d.out.Trouble = d.spec.Missing
		return
	}
	if d.spec.Column >= 0 {
		d.measure = &d.Plan.Measures[d.Plan.Columns[d.spec.Column].Measure]
		d.out.Total = d.measure.Label
	}
	g := d.grid()
	d.out.Axis, d.out.By = g.axis.level.Label(), ""
	if g.by != nil {
		d.out.By = g.by.level.Label()
	}
	d.out.Fits = d.fitting(g)
	d.out.Kind = cmp.Or(d.out.Kind, d.out.Fits)
	if d.out.Kind.Whole() && !d.additive() && (g.by != nil || d.out.Kind == view.Shares) {
		d.out.Trouble = fmt.Sprintf("The parts of %s do not add up to a whole, so they cannot be put together; choose bars or lines.", d.out.Total)
		return
	}
	d.marks(g)
	d.arrange()
	d.limitPlaces(temporal(g.axis.level))
	d.limitSeries()
}

// additive says whether the marks of parts add up to that of the whole.
func (d *drawer) additive() bool {
	return d.measure == nil || d.measure.Show == "" && d.measure.Additive()
}

// fitting is the kind of chart that shows the groups best: time runs along a line,
// parts of a whole stand on each other.
func (d *drawer) fitting(g grid) view.ChartKind {
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

// places are the groups of a level, by the numbers of their values.
type places struct {
	level plan.Group
	keys  []uint32
	names map[uint32]string
}

// grid is the level along the axis, and the one that makes the series, if any.
type grid struct {
	axis places
	by   *places
	// cells says where the number of a place and that of a series meet.
	cells map[[2]uint32]place
}

// place is a node down and a node across of the ledger.
type place struct{ down, across int32 }

// grid chooses the levels. Of two, the one that runs along time makes the axis.
func (d *drawer) grid() grid {
	g := grid{cells: map[[2]uint32]place{}}
	var first, second places
	switch down, across := d.Plan.Groups, d.Plan.Across; {
	case len(down) > 0 && len(across) > 0:
		first, second = d.level(d.tree, down, 1), d.level(d.across, across, 1)
		d.each(d.tree, 1, func(i int32) {
			d.each(d.across, 1, func(j int32) {
				g.cells[[2]uint32{d.tree.nodes[i].key, d.across.nodes[j].key}] = place{i, j}
			})
		})
	case len(across) > 0:
		first = d.level(d.across, across, 1)
		d.each(d.across, 1, func(j int32) { g.cells[[2]uint32{d.across.nodes[j].key, 0}] = place{0, j} })
	case len(down) > 1:
		first, second = d.level(d.tree, down, 1), d.level(d.tree, down, 2)
		d.each(d.tree, 2, func(i int32) {
			n := d.tree.nodes[i]
			g.cells[[2]uint32{d.tree.nodes[n.parent].key, n.key}] = place{i, 0}
		})
	default:
		first = d.level(d.tree, down, 1)
		d.each(d.tree, 1, func(i int32) { g.cells[[2]uint32{d.tree.nodes[i].key, 0}] = place{i, 0} })
	}
	g.axis = first
	if second.keys == nil {
		return g
	}
	if temporal(second.level) && !temporal(first.level) {
		turned := map[[2]uint32]place{}
		for at, p := range g.cells {
			turned[[2]uint32{at[1], at[0]}] = p
		}
		g.cells, g.axis, second = turned, second, first
	}
	g.by = &second
	return g
}

func (d *drawer) each(t *tree, level int32, do func(i int32)) {
	for i := range t.nodes {
		if t.nodes[i].level == level {
			do(int32(i))
		}
	}
}

// level lists the groups of a level, equal ones of several parents once. They stand
// as in the ledger or, for time and where parents differ, in the order of the values.
func (d *drawer) level(t *tree, groups []plan.Group, level int32) places {
	out := places{level: groups[level-1], names: map[uint32]string{}}
	d.each(t, level, func(i int32) {
		key := t.nodes[i].key
		if _, known := out.names[key]; known {
			return
		}
		name := nodeLabel(d.Plan, t, groups, d.w.pen.w, i)
		if t.nodes[i].joined > 0 && level > 1 && out.level.Rest == "" {
			name = "others" // as many as differ from parent to parent
		}
		out.names[key] = named(name)
		out.keys = append(out.keys, key)
	})
	if level > 1 || temporal(out.level) {
		slices.SortFunc(out.keys, func(a, b uint32) int {
			return cmp.Compare(a-1, b-1) // the blank's number, 0, comes last
		})
	}
	return out
}

// marks fills the chart in.
func (d *drawer) marks(g grid) {
	for _, key := range g.axis.keys {
		d.out.Places = append(d.out.Places, g.axis.names[key])
	}
	by := &places{keys: []uint32{0}, names: map[uint32]string{0: d.out.Total}}
	if g.by != nil {
		by = g.by
	}
	for _, s := range by.keys {
		series := ChartSeries{Label: by.names[s], Marks: make([]Mark, len(g.axis.keys))}
		for i, key := range g.axis.keys {
			series.Marks[i] = Mark{Value: math.NaN(), Head: -1}
			if p, ok := g.cells[[2]uint32{key, s}]; ok {
				series.Marks[i] = d.mark(p, Own)
			}
		}
		d.out.Series = append(d.out.Series, series)
	}
	if c := d.Plan.Compare; c != nil && g.by == nil && d.measure != nil && d.measure.Show == "" {
		other := ChartSeries{Label: c.Label}
		for _, key := range g.axis.keys {
			other.Marks = append(other.Marks, d.mark(g.cells[[2]uint32{key, 0}], Other))
		}
		d.out.Series = append(d.out.Series, other)
	}
}

// mark reads the figure of a cell of the ledger.
func (d *drawer) mark(p place, part Part) Mark {
	group := d.tree.pathOf(p.down)
	across := ""
	if d.across != nil {
		across = d.across.pathOf(p.across)
	}
	if d.measure == nil {
		n := d.side.size(p.down)
		head := -1
		if p.across > 0 {
			head = slices.IndexFunc(d.Heads, func(h Head) bool { return h.AcrossPath == across })
			n = d.cellRecords(d.Heads[max(head, 0)], p.down)
		}
		return Mark{Value: float64(n), Text: d.w.pen.w.Number(int64(n), catalog.Field{Type: catalog.Whole}), Group: group, Head: head, Leads: true}
	}
	head := slices.IndexFunc(d.Heads, func(h Head) bool {
		return h.Column == d.spec.Column && h.Part == part && h.AcrossPath == across
	})
	f, as := d.cells[head], d.Heads[head].Field
	m := Mark{Value: d.inUnit(f.float(p.down), as), Text: d.w.figure(as, f, p.down), Group: group, Head: head, Leads: part == Own}
	if len(f.mixed[p.down]) > 0 {
		m.Value = math.NaN()
		d.note("Amounts in several currencies are not drawn; filter to one.")
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

// arrange puts the places into the order of their sizes, if that is asked for.
func (d *drawer) arrange() {
	if d.spec.Order != view.LargestFirst && d.spec.Order != view.SmallestFirst {
		return
	}
	sizes := make([]float64, len(d.out.Places))
	order := make([]int, len(d.out.Places))
	for i := range order {
		order[i] = i
		for _, s := range d.out.Series {
			if v := s.Marks[i].Value; v == v {
				sizes[i] += v
			}
		}
	}
	slices.SortStableFunc(order, func(a, b int) int {
		if d.spec.Order == view.LargestFirst {
			a, b = b, a
		}
		return cmp.Compare(sizes[a], sizes[b])
	})
	d.out.Places = picked(d.out.Places, order)
	for i := range d.out.Series {
		d.out.Series[i].Marks = picked(d.out.Series[i].Marks, order)
	}
}

func picked[T any](list []T, order []int) []T {
	out := make([]T, len(order))
	for i, at := range order {
		out[i] = list[at]
	}
	return out
}

// limitPlaces leaves out what could not be told apart any more, and says so: the first
// places are kept or, along time, the last.
func (d *drawer) limitPlaces(timely bool) {
	n, from, most, which := len(d.out.Places), 0, MaxPlaces, "first"
	if timely && d.spec.Order == "" {
		from, most, which = n-MaxMoments, MaxMoments, "last"
	}
	if n <= most {
		return
	}
	d.note(fmt.Sprintf("The %s %d of %d are drawn.", which, most, n))
	d.out.Places = d.out.Places[from : from+most]
	for i := range d.out.Series {
		d.out.Series[i].Marks = d.out.Series[i].Marks[from : from+most]
	}
}

// limitSeries keeps as many series as there are colours. Series that add up are put
// together, so that the whole stays whole.
func (d *drawer) limitSeries() {
	n := len(d.out.Series)
	if n <= MaxSeries {
		return
	}
	sizes := make([]float64, n)
	order := make([]int, n)
	for i, s := range d.out.Series {
		order[i] = i
		for _, m := range s.Marks {
			if m.Value == m.Value {
				sizes[i] += math.Abs(m.Value)
			}
		}
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(sizes[b], sizes[a]) })
	kept := order[:MaxSeries-1]
	slices.Sort(kept)
	rest := order[MaxSeries-1:]
	series := picked(d.out.Series, kept)
	if d.additive() {
		d.note(fmt.Sprintf("The %d largest have a colour of their own; the other %d stand together.", len(kept), len(rest)))
		series = append(series, d.together(rest))
	} else {
		d.note(fmt.Sprintf("The %d largest of %d are drawn; the ledger has all.", len(kept), n))
	}
	d.out.Series = series
}

// together adds series up.
func (d *drawer) together(which []int) ChartSeries {
	out := ChartSeries{Label: fmt.Sprintf("%d others", len(which)), Marks: make([]Mark, len(d.out.Places))}
	for i := range out.Marks {
		out.Marks[i] = Mark{Value: math.NaN(), Head: -1}
		for _, s := range which {
			if v := d.out.Series[s].Marks[i].Value; v == v {
				if out.Marks[i].Value != out.Marks[i].Value {
					out.Marks[i].Value = 0
				}
				out.Marks[i].Value += v
			}
		}
		if v := out.Marks[i].Value; v == v {
			out.Marks[i].Text = d.w.pen.w.Float(v, catalog.Field{Type: catalog.Decimal})
		}
	}
	return out
}
