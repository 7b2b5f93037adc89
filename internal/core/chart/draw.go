package chart

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
	"gavrik/internal/core/view"
)

// drawer makes one chart.
type drawer struct {
	result.Result
	*result.Summary
	ctx     context.Context
	spec    *plan.Chart
	out     *Chart
	pen     *result.Pen
	w       *format.Writer
	measure *plan.Measure // nil for the number of records

	axis, by *level // by is nil for one series
	turned   bool   // the axis is the inner level, or the one across
	// whole is the column that shows the figure of all records, or -1; across are those of the
	// groups across; read are all whose cells are looked at.
	whole        int
	across, read []int
	keys         []result.Key // of the groups at the places drawn
	// currency is the first that was met; several says that there are others.
	currency string
	several  bool
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
	d.layout()
	if err := d.measureLevels(); err != nil {
		return err
	}
	d.out.Axis = d.axis.group.Label()
	if d.by != nil {
		d.out.By = d.by.group.Label()
	}
	if d.NoRecords && len(d.axis.spots) == 0 {
		d.out.Trouble = "All that would be drawn is held back: its groups are of too few records."
		return nil
	}
	d.out.Fits = d.fitting()
	d.out.Kind = cmp.Or(d.out.Kind, d.out.Fits)
	switch {
	case d.out.Kind.Whole() && !d.additive() && (d.by != nil || d.out.Kind == view.Shares):
		d.out.Trouble = "The parts of " + d.out.Total +
			" do not add up to a whole, so they cannot be put together; choose bars or lines."
		return nil
	case d.several:
		d.out.Trouble = "Amounts in several currencies have no axis in common; filter to one to draw them."
		return nil
	}
	places := d.chosenPlaces()
	d.out.Places, d.keys = make([]string, len(places)), make([]result.Key, len(places))
	draw := d.series
	if d.by == nil {
		draw = d.single
	}
	if err := draw(indexOf(places)); err != nil {
		return err
	}
	d.fillTime()
	return nil
}

// place names the group at a place of the axis.
func (d *drawer) place(i int, k result.Key) {
	d.out.Places[i], d.keys[i] = d.name(d.axis, k), k
}

// bySize says whether the places stand by how much is drawn there.
func (d *drawer) bySize() bool {
	return d.spec.Order == view.LargestFirst || d.spec.Order == view.SmallestFirst
}

// measureLevels finds the groups of both levels, the sizes of those along the axis, and whether
// there are several currencies.
func (d *drawer) measureLevels() error {
	if d.whole >= 0 {
		all, err := d.Group("", d.read)
		if err != nil {
			return err
		}
		d.currencies(all.Cells[d.whole])
	}
	err := d.each(func(f figure) {
		spot := d.axis.at(f.axis)
		if v := d.value(f); v == v {
			spot.size += v
		}
		if d.by != nil {
			d.by.at(f.by)
		}
		if d.whole >= 0 {
			d.currencies(f.line.Cells[d.whole])
		}
	})
	d.axis.arrange()
	if d.by != nil {
		d.by.arrange()
	}
	return err
}

// additive says whether the marks of parts add up to that of the whole.
func (d *drawer) additive() bool {
	return d.measure == nil || d.measure.Show == "" && d.measure.Additive()
}

// fitting is the kind of chart that shows the groups best: time runs along a line,
// parts of a whole stand on each other.
func (d *drawer) fitting() view.ChartKind {
	switch {
	case d.by != nil && d.additive():
		return view.Stacked
	case d.by != nil && d.axis.temporal():
		return view.Lines
	case d.axis.temporal() && len(d.axis.spots) > 24:
		return view.Areas
	}
	return view.Bars
}

// chosenPlaces are the places that are drawn, in their order. What could not be told apart any
// more is left out, and said: the first places are kept or, along time, the last.
func (d *drawer) chosenPlaces() []spot {
	spots := d.axis.spots
	if d.bySize() {
		spots = d.axis.bySize(d.spec.Order == view.LargestFirst)
	}
	n, from, most, which := len(spots), 0, MaxPlaces, "first"
	if d.axis.temporal() && !d.bySize() {
		from, most, which = n-MaxMoments, MaxMoments, "last"
	}
	if n <= most {
		return spots
	}
	d.note(fmt.Sprintf("The %s %d of %d are drawn.", which, most, n))
	return spots[from : from+most]
}

// single draws one series and, of a comparison, that of its other side.
func (d *drawer) single(at map[int]int) error {
	sides := []Series{{Label: d.out.Total, Marks: noMarks(len(at))}}
	other := -1
	if d.Plan.Compare != nil && d.measure != nil && d.measure.Show == "" {
		other = d.otherOf(d.whole)
		sides = append(sides, Series{Label: d.Plan.Compare.Label, Marks: noMarks(len(at))})
	}
	err := d.each(func(f figure) {
		i, drawn := at[f.axis.Place]
		if !drawn {
			return
		}
		d.place(i, f.axis)
		sides[0].Marks[i] = d.mark(f)
		if len(sides) > 1 {
			f.head = other
			sides[1].Marks[i] = d.mark(f)
			sides[1].Marks[i].Leads = false
		}
	})
	d.out.Series = sides
	return err
}

// series draws as many series as there are colours. Series that add up are put
// together, so that the whole stays whole.
func (d *drawer) series(at map[int]int) error {
	chosen, err := d.chosenSeries(at)
	if err != nil {
		return err
	}
	n, drawn := len(d.by.spots), indexOf(chosen)
	for range chosen {
		d.out.Series = append(d.out.Series, Series{Marks: noMarks(len(at))})
	}
	rest := Series{Label: fmt.Sprintf("%d others", n-len(chosen)), Marks: noMarks(len(at))}
	err = d.each(func(f figure) {
		i, placed := at[f.axis.Place]
		if !placed {
			return
		}
		d.place(i, f.axis)
		if s, own := drawn[f.by.Place]; own {
			d.out.Series[s].Label = d.name(d.by, f.by)
			d.out.Series[s].Marks[i] = d.mark(f)
		} else if v := d.value(f); v == v {
			rest.add(i, v)
		}
	})
	switch {
	case n == len(chosen):
	case d.additive():
		for i, m := range rest.Marks {
			if m.Value == m.Value {
				rest.Marks[i].Text = d.w.Float(m.Value, catalog.Field{Type: catalog.Decimal})
			}
		}
		d.note(fmt.Sprintf("The %d largest have a colour of their own; the other %d stand together.",
			len(chosen), n-len(chosen)))
		d.out.Series = append(d.out.Series, rest)
	default:
		d.note(fmt.Sprintf("The %d largest of %d are drawn; the ledger has all.", len(chosen), n))
	}
	return err
}

// chosenSeries are the groups with a colour of their own, in their order: the largest at the
// places that are drawn.
func (d *drawer) chosenSeries(at map[int]int) ([]spot, error) {
	if len(d.by.spots) <= MaxSeries {
		return d.by.spots, nil
	}
	err := d.each(func(f figure) {
		if _, drawn := at[f.axis.Place]; drawn {
			if v := d.value(f); v == v {
				d.by.at(f.by).size += math.Abs(v)
			}
		}
	})
	largest := indexOf(d.by.bySize(true)[:MaxSeries-1])
	return slices.DeleteFunc(slices.Clone(d.by.spots), func(s spot) bool {
		_, chosen := largest[s.place]
		return !chosen
	}), err
}

// add adds to the mark at a place, which none stood at if it is no number.
func (s *Series) add(i int, v float64) {
	if m := &s.Marks[i]; m.Value != m.Value {
		m.Value = v
	} else {
		m.Value += v
	}
}

func noMarks(n int) []Mark {
	out := make([]Mark, n)
	for i := range out {
		out[i] = Mark{Value: math.NaN(), Head: -1}
	}
	return out
}

// name is what a group of a level is called.
func (d *drawer) name(l *level, k result.Key) string {
	if k.Joined > 0 && l.depth > 1 && l.group.Rest == "" {
		return "others" // as many as differ from parent to parent
	}
	return result.Named(d.pen.Group(l.group, k))
}

func (d *drawer) note(text string) {
	if !slices.Contains(d.out.Notes, text) {
		d.out.Notes = append(d.out.Notes, text)
	}
}
