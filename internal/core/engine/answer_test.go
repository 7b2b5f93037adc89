package engine

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// refGroup is a group of the reference, with everything in it.
type refGroup struct {
	level  int
	value  any // the unit's first day where dates are grouped by unit
	label  string
	rows   []int
	groups []*refGroup
}

// answer works a document out and writes it down, one string a line, in the
// order shown with all groups open; and the counts after each step.
func (w *world) answer(d *view.Document) (lines []string, steps map[string]int) {
	var kept []int
	for i, row := range w.rows {
		if d.Filter == nil || w.meets(d.Filter, row) {
			kept = append(kept, i)
		}
	}
	slices.SortStableFunc(kept, func(a, b int) int { return w.compareRows(d.Sort, a, b) })
	root := &refGroup{rows: kept}
	w.split(root, d, 0)
	w.write(root, d, &lines)
	steps = map[string]int{}
	if d.Filter != nil {
		everything := make([]int, len(w.rows))
		for i := range everything {
			everything[i] = i
		}
		w.count(d.Filter, "filter", everything, steps)
		steps["filter"] = len(kept)
	}
	return append(lines, w.line(d, root)), steps
}

// count notes how many of the records that reach each part of a combination are
// left after it.
func (w *world) count(c *view.Condition, path string, in []int, steps map[string]int) {
	met := func(p *view.Condition, rows []int) (yes, no []int) {
		for _, i := range rows {
			if w.meets(p, w.rows[i]) {
				yes = append(yes, i)
			} else {
				no = append(no, i)
			}
		}
		return yes, no
	}
	for kind, parts := range map[string][]view.Condition{"all": c.All, "any": c.Any, "none": c.None} {
		left, let := in, 0
		for i := range parts {
			at := fmt.Sprintf("%s.%s[%d]", path, kind, i)
			yes, no := met(&parts[i], left)
			switch kind {
			case "all":
				w.count(&parts[i], at, left, steps)
				left = yes
				steps[at] = len(left)
			case "none":
				w.count(&parts[i], at, left, steps)
				left = no
				steps[at] = len(left)
			case "any":
				// Each part is reached by all; those let in so far are counted.
				w.count(&parts[i], at, in, steps)
				left, let = no, let+len(yes)
				steps[at] = let
			}
		}
	}
}

func (w *world) compareRows(sort []view.Sort, a, b int) int {
	for _, s := range sort {
		f := w.field(s.Field)
		if c := compareBlankLast(w.rows[a][s.Field], w.rows[b][s.Field], f, s.Desc); c != 0 {
			return c
		}
	}
	return cmp.Compare(a, b)
}

func compareBlankLast(a, b any, f catalog.Field, desc bool) int {
	switch {
	case a == nil && b == nil:
		return 0
	case a == nil:
		return 1
	case b == nil:
		return -1
	}
	c := compareValues(a, f, b, f)
	if s, ok := a.(string); ok && c == 0 {
		c = strings.Compare(s, b.(string))
	}
	if desc {
		return -c
	}
	return c
}

// split cuts a group by the next level and orders the parts.
func (w *world) split(g *refGroup, d *view.Document, level int) {
	if level == len(d.Groups) {
		return
	}
	by := d.Groups[level]
	f := w.field(by.Field)
	parts := map[any]*refGroup{}
	for _, i := range g.rows {
		v := w.rows[i][by.Field]
		if v != nil && by.Unit != "" {
			v = w.unitStart(by.Unit, v.(int64), f)
		}
		if parts[v] == nil {
			parts[v] = &refGroup{level: level + 1, value: v, label: w.label(v, f, by.Unit)}
			g.groups = append(g.groups, parts[v])
		}
		parts[v].rows = append(parts[v].rows, i)
	}
	byLabel := func(a, b *refGroup, desc bool) int { return compareBlankLast(a.value, b.value, f, desc) }
	slices.SortStableFunc(g.groups, func(a, b *refGroup) int { return byLabel(a, b, false) })
	if o := by.Order; o != nil {
		slices.SortStableFunc(g.groups, func(a, b *refGroup) int {
			switch o.By {
			case view.ByCount:
				c := cmp.Compare(len(a.rows), len(b.rows))
				if o.Desc {
					c = -c
				}
				return c
			case view.ByTotal:
				return w.compareTotals(o, a, b)
			}
			return byLabel(a, b, o.Desc)
		})
	}
	for _, part := range g.groups {
		w.split(part, d, level+1)
	}
}

func (w *world) compareTotals(o *view.Order, a, b *refGroup) int {
	x, f := w.total(o.Field, o.Fn, a.rows)
	y, _ := w.total(o.Field, o.Fn, b.rows)
	return compareBlankLast(x, y, f, o.Desc)
}

func (w *world) unitStart(u calendar.Unit, v int64, f catalog.Field) int64 {
	if f.Type == catalog.DateTime {
		v = dayOf(v, w.cal.Zone)
	}
	return w.cal.Start(u, v)
}

func (w *world) label(v any, f catalog.Field, u calendar.Unit) string {
	if v != nil && u != "" {
		return w.cell(v, catalog.Field{Type: catalog.Date})
	}
	return w.cell(v, f)
}

func (w *world) write(g *refGroup, d *view.Document, lines *[]string) {
	for _, part := range g.groups {
		*lines = append(*lines, w.line(d, part))
		w.write(part, d, lines)
	}
	if g.level == len(d.Groups) {
		for _, i := range g.rows {
			var cells []string
			for _, c := range d.Columns {
				f := w.field(c.Field)
				cells = append(cells, w.cell(w.rows[i][c.Field], f))
				for j := 1; j < len(c.Totals); j++ {
					cells = append(cells, "")
				}
			}
			*lines = append(*lines, writeLine(g.level+1, "", 0, cells))
		}
	}
}

// line writes a group with its totals.
func (w *world) line(d *view.Document, g *refGroup) string {
	var cells []string
	for _, c := range d.Columns {
		if len(c.Totals) == 0 {
			cells = append(cells, "")
		}
		for _, t := range c.Totals {
			cells = append(cells, w.cell(w.total(c.Field, t.Fn, g.rows)))
		}
	}
	label := g.label
	if g.level == 0 {
		label = "All crossings"
	}
	return writeLine(g.level, label, len(g.rows), cells)
}

func writeLine(level int, label string, count int, cells []string) string {
	return fmt.Sprintf("%d|%s|%d|%s", level, label, count, strings.Join(cells, "|"))
}
