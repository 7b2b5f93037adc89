package plan

import (
	"cmp"
	"fmt"
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// lost says whether there is no field at a path.
func (k *checker) lost(path string) bool {
	if path == "" || k.derived(path) != nil {
		return false
	}
	_, err := k.catalog.Resolve(k.set, path)
	return err != nil
}

func (k *checker) columns() {
	if len(k.doc.Columns) > MaxColumns {
		k.fault(code.Many, "columns", "%d columns; at most %d can be shown", len(k.doc.Columns), MaxColumns)
		return
	}
	for i, c := range k.doc.Columns {
		at := fmt.Sprintf("columns[%d]", i)
		if label, held := k.restricted(c.Field); held != nil {
			k.plan.Restricted = append(k.plan.Restricted, label)
			continue
		}
		if k.leavesLost && k.lost(c.Field) {
			k.plan.Lost = append(k.plan.Lost, cmp.Or(c.Heading, c.Field))
			continue
		}
		ref, ok := k.ref(c.Field, at+".field")
		if !ok {
			continue
		}
		heading := ref.Label
		if c.Heading != "" {
			heading = c.Heading
		}
		col := Column{
			Doc: i, Ref: ref, Heading: heading, Width: c.Width, Values: true, Measure: -1, Frozen: c.Frozen,
			Bars: c.Bars, Format: c.Format,
		}
		if c.Format != nil {
			if fault := c.Format.Fault(ref.Field.Type); fault != "" {
				k.fault(code.Format, at+".format", "%s: %s", heading, fault)
			}
			col.Ref.Field.Format = c.Format
		}
		if c.Hidden {
			k.plan.Hidden = append(k.plan.Hidden, col)
			continue
		}
		if d := k.derived(c.Field); d != nil && d.PerTotal() {
			k.totalColumn(col, d, c, at)
			continue
		}
		if len(c.Totals) == 0 {
			k.plan.Columns = append(k.plan.Columns, col)
		}
		for j, t := range c.Totals {
			at := fmt.Sprintf("%s.totals[%d]", at, j)
			m, ok := k.measure(ref, t, heading, at)
			if !ok {
				continue
			}
			col.Measure, col.Values, col.Levels = m, j == 0, k.levels(t.Levels, at)
			k.plan.Columns = append(k.plan.Columns, col)
		}
	}
}

// totalColumn adds the column of a field that is calculated from totals: it has no
// values for records. Totals, if any, say how its figure is shown.
func (k *checker) totalColumn(col Column, d *making, c view.Column, at string) {
	col.Values = false
	totals := c.Totals
	if len(totals) == 0 {
		totals = []view.Total{{}}
	}
	for j, t := range totals {
		at := fmt.Sprintf("%s.totals[%d]", at, j)
		if t.Fn != "" && t.Fn != view.Formula {
			k.fault(code.Total, at+".fn", "%s is calculated from totals, and has no %q of its own", d.Ref.Label, t.Fn)
			continue
		}
		m, ok := k.calculatedMeasure(d, t, col.Heading, at)
		if !ok {
			continue
		}
		col.Measure, col.Levels = m, k.levels(t.Levels, at)
		k.plan.Columns = append(k.plan.Columns, col)
	}
}

func (k *checker) levels(levels []int, at string) []int {
	for _, l := range levels {
		if l < 0 || l > len(k.doc.Groups) {
			k.fault(code.Level, at+".levels",
				"there is no level %d; levels run from 0, the grand total, to %d", l, len(k.doc.Groups))
		}
	}
	return levels
}

func (k *checker) groups(groups []view.Group, where string) []Group {
	var out []Group
	if len(groups) > MaxLevels {
		k.fault(code.Many, where, "%d levels; at most %d can be grouped by", len(groups), MaxLevels)
		return nil
	}
	for i, g := range groups {
		at := fmt.Sprintf("%s[%d]", where, i)
		ref, ok := k.ref(g.Field, at+".field")
		if !ok {
			continue
		}
		if ref.Field.Type == catalog.Picture {
			k.fault(code.FieldType, at+".field", "%s holds pictures, which cannot be grouped by", ref.Label)
			continue
		}
		if d := k.derived(g.Field); d != nil && d.PerTotal() {
			k.fault(code.OfTotals, at+".field",
				"%s is calculated from totals of groups; it cannot make groups", ref.Label)
			continue
		}
		if g.Unit != "" && !unitFits(g.Unit, ref.Field.Type) {
			k.fault(code.Unit, at+".unit",
				"%s is %s and cannot be grouped by %q", ref.Label, ref.Field.Type.Word(), g.Unit)
			continue
		}
		level := Group{
			Ref: ref, Unit: g.Unit, Order: Order{By: view.ByLabel}, Top: g.Top, Rest: g.Rest, Empty: g.Empty,
		}
		if g.Top < 0 {
			k.fault(code.Bounds, at+".top", "the number of groups to keep must be at least 1, not %d", g.Top)
		}
		if g.Empty && g.Unit == "" && !listable(ref.Field) {
			k.fault(code.FieldType, at+".empty",
				"%s is %s; groups without records can be shown for text, yes or no, buckets, and dates by a unit "+
					"of time", ref.Label, ref.Field.Type.Word())
		}
		if g.Keep != nil {
			level.Keep = k.keptGroups(g, at+".keep")
		}
		if g.Top > 0 && level.LeavesOut() {
			k.fault(code.Keep, at+".keep.others",
				"a level cannot leave groups out and join others into the rest; put them all into the rest, with "+
					"others: rest, or keep no first ones")
		}
		if g.Order != nil {
			level.Order, ok = k.order(*g.Order, at+".order")
			if !ok {
				continue
			}
		}
		out = append(out, level)
	}
	return out
}

func unitFits(u calendar.Unit, t catalog.Type) bool {
	if u == calendar.ByHour {
		return t == catalog.DateTime
	}
	return t.Temporal() && slices.Contains(calendar.GroupUnits(), u)
}

// listable says whether all values that a field could have are known.
func listable(f catalog.Field) bool { return f.Type == catalog.Text || f.Type == catalog.YesNo }

func (k *checker) order(o view.Order, at string) (Order, bool) {
	out := Order{By: o.By, Desc: o.Desc}
	switch o.By {
	case view.ByLabel, view.ByCount:
		return out, true
	case view.ByList:
		if len(o.Values) == 0 {
			k.fault(code.NoOperand, at+".values", "no value is listed; name at least the first")
			return out, false
		}
		for _, v := range o.Values {
			out.List = append(out.List, table.Fold(v))
		}
		return out, true
	case view.ByTotal:
		ref, ok := k.ref(o.Field, at+".field")
		if !ok {
			return out, false
		}
		if d := k.derived(o.Field); d != nil && d.PerTotal() {
			if o.Fn != "" && o.Fn != view.Formula {
				k.fault(code.Total, at+".fn",
					"%s is calculated from totals, and has no %q of its own; leave fn out", ref.Label, o.Fn)
				return out, false
			}
			out.Measure, ok = k.calculatedMeasure(d, view.Total{}, ref.Label, at)
			return out, ok
		}
		out.Measure, ok = k.measure(ref, view.Total{Fn: o.Fn, Percent: o.Percent}, ref.Label, at)
		return out, ok
	}
	k.fault(code.Choice, at+".by", "groups are ordered by label, count, total or list, not by %q", o.By)
	return out, false
}

func (k *checker) sorts() {
	for i, s := range k.doc.Sort {
		ref, ok := k.ref(s.Field, fmt.Sprintf("sort[%d].field", i))
		if ok && ref.Field.Type == catalog.Picture {
			k.fault(code.FieldType, fmt.Sprintf("sort[%d].field", i),
				"%s holds pictures, which have no order", ref.Label)
			continue
		}
		if d := k.derived(s.Field); ok && d != nil && d.PerTotal() {
			k.fault(code.OfTotals, fmt.Sprintf("sort[%d].field", i),
				"%s is calculated from totals; order the groups by it, not the records", ref.Label)
			continue
		}
		if ok {
			k.plan.Sort = append(k.plan.Sort, Sort{Ref: ref, Desc: s.Desc})
		}
	}
}

// crosstab makes sure that the cells have something to show.
func (k *checker) crosstab() {
	totals := false
	for _, c := range k.plan.Columns {
		totals = totals || c.Measure >= 0
	}
	label := "number of " + k.plan.Many
	m := k.add(Measure{Fn: view.Records, Label: label}) // every cell knows its records
	if !totals {
		k.plan.Columns = append(k.plan.Columns, Column{Doc: -1, Heading: label, Measure: m})
	}
}
