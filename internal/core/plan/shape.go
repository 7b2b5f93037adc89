package plan

import (
	"fmt"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

func (k *checker) columns() {
	if len(k.doc.Columns) > MaxColumns {
		k.fault("columns", "%d columns; at most %d can be shown", len(k.doc.Columns), MaxColumns)
		return
	}
	for i, c := range k.doc.Columns {
		at := fmt.Sprintf("columns[%d]", i)
		ref, ok := k.ref(c.Field, at+".field")
		if !ok {
			continue
		}
		heading := ref.Label
		if c.Heading != "" {
			heading = c.Heading
		}
		col := Column{Doc: i, Ref: ref, Heading: heading, Width: c.Width, Values: true, Measure: -1}
		if len(c.Totals) == 0 {
			k.plan.Columns = append(k.plan.Columns, col)
		}
		for j, t := range c.Totals {
			m, ok := k.measure(ref, t, heading, fmt.Sprintf("%s.totals[%d]", at, j))
			if !ok {
				continue
			}
			col.Measure, col.Values = m, j == 0
			k.plan.Columns = append(k.plan.Columns, col)
		}
	}
}

// measure returns the index of a total, adding it if it is new.
func (k *checker) measure(ref catalog.Ref, t view.Total, heading, at string) (int, bool) {
	fits := view.FnsFor(ref.Field.Type)
	if !slices.Contains(fits, t.Fn) {
		k.fault(at+".fn", "%q does not fit %s, which is %s; use one of %v", t.Fn, ref.Label, ref.Field.Type.Word(), fits)
		return 0, false
	}
	label := t.Label
	if label == "" {
		label = t.Fn.Words(ref.Field.Type) + " " + catalog.LowerFirst(heading)
	}
	m := Measure{Ref: ref, Fn: t.Fn, Label: label, Once: len(ref.Links) > 0 && t.Fn.OncePerLinked()}
	for i, have := range k.plan.Measures {
		if have.Ref.Path == m.Ref.Path && have.Fn == m.Fn {
			return i, true
		}
	}
	k.plan.Measures = append(k.plan.Measures, m)
	return len(k.plan.Measures) - 1, true
}

func (k *checker) groups() {
	if len(k.doc.Groups) > MaxLevels {
		k.fault("groups", "%d levels; at most %d can be grouped by", len(k.doc.Groups), MaxLevels)
		return
	}
	for i, g := range k.doc.Groups {
		at := fmt.Sprintf("groups[%d]", i)
		ref, ok := k.ref(g.Field, at+".field")
		if !ok {
			continue
		}
		if ref.Field.Type == catalog.Picture {
			k.fault(at+".field", "%s holds pictures, which cannot be grouped by", ref.Label)
			continue
		}
		if g.Unit != "" && (!ref.Field.Type.Temporal() || !g.Unit.Valid()) {
			k.fault(at+".unit", "%s is %s and cannot be grouped by %q", ref.Label, ref.Field.Type.Word(), g.Unit)
			continue
		}
		level := Group{Ref: ref, Unit: g.Unit, Order: Order{By: view.ByLabel}}
		if g.Order != nil {
			level.Order, ok = k.order(*g.Order, at+".order")
			if !ok {
				continue
			}
		}
		k.plan.Groups = append(k.plan.Groups, level)
	}
}

func (k *checker) order(o view.Order, at string) (Order, bool) {
	out := Order{By: o.By, Desc: o.Desc}
	switch o.By {
	case view.ByLabel, view.ByCount:
		return out, true
	case view.ByTotal:
		ref, ok := k.ref(o.Field, at+".field")
		if !ok {
			return out, false
		}
		out.Measure, ok = k.measure(ref, view.Total{Fn: o.Fn}, ref.Label, at)
		return out, ok
	}
	k.fault(at+".by", "groups are ordered by label, count or total, not by %q", o.By)
	return out, false
}

func (k *checker) sorts() {
	for i, s := range k.doc.Sort {
		ref, ok := k.ref(s.Field, fmt.Sprintf("sort[%d].field", i))
		if ok && ref.Field.Type == catalog.Picture {
			k.fault(fmt.Sprintf("sort[%d].field", i), "%s holds pictures, which have no order", ref.Label)
			continue
		}
		if ok {
			k.plan.Sort = append(k.plan.Sort, Sort{Ref: ref, Desc: s.Desc})
		}
	}
}
