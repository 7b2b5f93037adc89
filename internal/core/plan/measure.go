package plan

import (
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/view"
)

// Measure is one figure to work out for every group.
type Measure struct {
	Ref   catalog.Ref
	Fn    view.Fn
	Label string
	// PerLinked says that a linked record counts once per group however many rows lead to
	// it: the one that Links lead to, which Via names.
	PerLinked bool
	Links     []string
	Via       string
	// Each, if set, names the record of which every one counts, although amounts of linked
	// records go in that several share: the values depend on both.
	Each string
	// Currencies are the paths of the fields that name the currency of what goes in. A
	// group that has several of one of them has no one figure.
	Currencies []string
	// Percent is that of a percentile, in millionths of one percent.
	Percent int64
	// By decides what is first and last; nil means the order of the records.
	By *catalog.Ref
	// Formula is worked out from the measures Args.
	Formula *formula.Calculation
	Args    []int
	// Prices says of an average whether the amounts repeat as prices do; a reader that is not told looks at the
	// first records.
	Prices *bool `json:",omitempty"`
	// Show, if set, is what the measure shows of the measure Of.
	Show view.Show
	Of   int
}

// PriceSample is how many of the first records are looked at to tell prices from amounts.
const PriceSample = 20_000

// PercentUnit is one percent in the unit of Measure.Percent.
const PercentUnit = 1_000_000

// Result describes the measure's values as a field.
func (m Measure) Result() catalog.Field {
	f := m.Fn.Result(m.Ref.Field)
	if m.Formula != nil {
		f = m.Formula.Type().Field(m.Ref.Path, m.Label)
	}
	switch m.Show {
	case view.ShareAll, view.ShareGroup, view.ShareRow, view.ShareColumn, view.Change:
		f = catalog.Field{Key: f.Key, Type: catalog.Percent, Scale: 2}
	case view.Rank:
		f = catalog.Field{Key: f.Key, Type: catalog.Whole}
	}
	f.Label = m.Label
	return f
}

// Same says whether two measures are the same figure; labels do not matter.
func (m Measure) Same(o Measure) bool {
	by := func(m Measure) string {
		if m.By == nil {
			return ""
		}
		return m.By.Path
	}
	return m.Ref.Path == o.Ref.Path && m.Fn == o.Fn && m.Percent == o.Percent && by(m) == by(o) &&
		m.Show == o.Show && m.PerLinked == o.PerLinked
}

// add returns the index of a measure, adding it if it is new.
func (k *checker) add(m Measure) int {
	if i := slices.IndexFunc(k.plan.Measures, m.Same); i >= 0 {
		return i
	}
	k.plan.Measures = append(k.plan.Measures, m)
	return len(k.plan.Measures) - 1
}

// total is a measure of a field; once says that a linked record is to count once.
func (k *checker) total(ref catalog.Ref, fn view.Fn, once bool) Measure {
	m := Measure{Ref: ref, Fn: fn}
	links, via := k.holder(ref)
	if m.PerLinked = once && len(links) > 0; m.PerLinked {
		m.Links, m.Via = links, via
	}
	if d := k.made[ref.Path]; d != nil && d.repeats && fn == view.Sum {
		m.Each = k.plan.One
	}
	if by := ref.CurrencyPath(); by != "" && fn.Info().Combines {
		m.Currencies = []string{by}
	}
	return m
}

// holder is the links to the record that holds a value: what is made of one linked
// record's fields alone is a value of that record. Via names it.
func (k *checker) holder(ref catalog.Ref) (links []string, via string) {
	d := k.made[ref.Path]
	if d == nil || len(d.links) == 0 {
		return ref.Links, ref.Via
	}
	links = slices.Concat(ref.Links, d.links)
	if last, err := k.catalog.Through(k.set, links, catalog.Field{}); err == nil {
		via = last.Via
	}
	return links, via
}

// heldBy finds the record that all values of a program belong to, by the links to it;
// repeats says that numbers of linked records go in that others share.
func (k *checker) heldBy(inputs []catalog.Ref) (links []string, repeats bool) {
	for i, in := range inputs {
		holder, _ := k.holder(in)
		if i == 0 {
			links = holder
			continue
		}
		n := 0
		for n < min(len(links), len(holder)) && links[n] == holder[n] {
			n++
		}
		links = links[:n:n]
	}
	for _, in := range inputs {
		holder, _ := k.holder(in)
		repeats = repeats || in.Field.Type.Numeric() && len(holder) > len(links)
	}
	return links, repeats
}

// measure resolves a total of a field.
func (k *checker) measure(ref catalog.Ref, t view.Total, heading, at string) (int, bool) {
	fits := view.FnsFor(ref.Field.Type)
	if !slices.Contains(fits, t.Fn) {
		k.fault(code.Total, at+".fn",
			"%q does not fit %s, which is %s; use %s", t.Fn, ref.Label, ref.Field.Type.Word(), view.Words(fits))
		return 0, false
	}
	m := k.total(ref, t.Fn, t.Fn.Info().DistinctPerLinked)
	if t.Fn == view.Percentile {
		p, err := ParseNumber(t.Percent, 6)
		if err != nil || p.Lo != p.Hi || p.Lo < 0 || p.Lo > 100*PercentUnit {
			k.fault(code.Percentile, at+".percent",
				"%q is not a percentile; give a number from 0 to 100, such as 90", t.Percent)
			return 0, false
		}
		m.Percent = p.Lo
	}
	if t.By != "" {
		by, ok := k.ref(t.By, at+".by")
		if !ok {
			return 0, false
		}
		if t.Fn != view.First && t.Fn != view.Last {
			k.fault(code.Total, at+".by", "only the first and the last value are found by another field")
			return 0, false
		}
		m.By = &by
	}
	m.Label = m.Words() + " " + catalog.LowerFirst(heading)
	if m.By != nil {
		m.Label += " by " + catalog.LowerFirst(m.By.Label)
	}
	return k.shown(m, t, at)
}

// calculatedMeasure resolves a field that is calculated from totals.
func (k *checker) calculatedMeasure(d *making, t view.Total, heading, at string) (int, bool) {
	m := Measure{Ref: d.Ref, Fn: view.Formula, Formula: d.Formula.Calculation, Label: heading}
	if d.broken {
		return 0, false
	}
	for i, total := range d.Formula.Totals {
		arg := k.argument(d, i, total)
		// Within a formula a count goes with its sum: SUM / COUNT is AVERAGE.
		counts := total.Fn == view.CountFilled && arg.Field.Type.Numeric()
		part := k.total(arg, total.Fn, total.Fn.Info().DistinctPerLinked || counts)
		part.Percent = total.Percent
		part.Label = part.Words() + " " + catalog.LowerFirst(arg.Label)
		if total.Arg == nil {
			part.Label = "number of " + k.plan.Many
		}
		m.Args = append(m.Args, k.add(part))
		for _, by := range part.Currencies {
			if !slices.Contains(m.Currencies, by) {
				m.Currencies = append(m.Currencies, by)
			}
		}
	}
	return k.shown(m, t, at)
}

// shown adds a measure, and what is shown of it.
func (k *checker) shown(m Measure, t view.Total, at string) (int, bool) {
	if t.Label != "" && t.Show == "" {
		m.Label = t.Label
	}
	of := k.add(m)
	if t.Show == "" {
		return of, true
	}
	if !slices.Contains(view.Shows(), t.Show) {
		k.fault(code.Choice, at+".show",
			"%q is nothing that can be shown; use %s", t.Show, view.Words(view.Shows()[1:]))
		return 0, false
	}
	if f := m.Result(); !f.Type.Numeric() {
		k.fault(code.Show, at+".show",
			"%s gives %s; shares, ranks and differences need numbers", m.Label, f.Type.Word())
		return 0, false
	}
	if t.Show.Additive() && !m.Additive() {
		k.fault(code.Show, at+".show",
			"parts of %s do not add up to the whole, so they have no share and no running sum; use a sum or a "+
				"count", m.Label)
		return 0, false
	}
	if (t.Show == view.ShareRow || t.Show == view.ShareColumn) && len(k.doc.Across) == 0 {
		k.fault(code.Show, at+".show", "shares of a line or a column need groups that run across")
		return 0, false
	}
	m.Show, m.Of = t.Show, of
	m.Label = t.Show.Words() + " " + m.Label
	if t.Label != "" {
		m.Label = t.Label
	}
	return k.add(m), true
}

// Additive says whether the figures of parts add up to that of the whole. Records
// linked to several parts count in each, and once in the whole.
func (m Measure) Additive() bool {
	return m.Fn.Info().AddsUp && !m.PerLinked
}

// Words says the total before a field's name: "average", "90th percentile of".
func (m Measure) Words() string {
	t := m.Ref.Field.Type
	switch {
	case m.Fn == view.Percentile:
		return ordinal(m.Percent) + " percentile of"
	}
	return m.Fn.Words(t)
}

// Heading is the short note under a column's heading.
func (m Measure) Heading() string {
	h := m.Fn.Heading(m.Ref.Field.Type)
	if m.Fn == view.Percentile {
		h = ordinal(m.Percent) + " percentile"
	}
	if m.Show != "" {
		h = map[view.Show]string{
			view.ShareAll: "share of all", view.ShareGroup: "share of group", view.ShareRow: "share of line",
			view.ShareColumn: "share of column",
			view.Running:     "running " + h, view.Rank: "rank by " + h, view.Difference: "difference",
			view.Change: "change",
		}[m.Show]
	}
	if m.PerLinked {
		h += " once per " + m.Via
	}
	if m.Each != "" {
		h += ", every " + m.Each + " counts"
	}
	return h
}
