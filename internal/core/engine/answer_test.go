package engine

import (
	"cmp"
	"fmt"
	"math"
	"math/big"
	"slices"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// refGroup is a group of the reference, with everything in it.
type refGroup struct {
	level  int
	value  any // the unit's first day where dates are grouped by unit
	label  string
	rows   []int
	groups []*refGroup
	parent *refGroup
	rest   bool // those of a level that are not kept
	others int  // how many of them
	// figure is what the groups are ordered by.
	figure      any
	figureField catalog.Field
	// cells are those of the group's line; see fill.
	cells  [][]any
	fields [][]catalog.Field // how they are written
	// along is what is shown of the groups within, by column; see shown.
	along map[string]map[*refGroup]any
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
	everyKept := kept
	root := &refGroup{rows: kept}
	w.split(root, d, 0)
	w.settle(root, d, 0)
	w.fill(root, d)
	w.write(root, d, &lines)
	steps = map[string]int{}
	kept = everyKept
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
		c = strings.Compare(s, textOf(b))
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
	part := func(v any) *refGroup {
		if parts[v] == nil {
			parts[v] = &refGroup{level: level + 1, value: v, label: w.label(v, f, by.Unit)}
			g.groups = append(g.groups, parts[v])
		}
		return parts[v]
	}
	for _, i := range g.rows {
		p := part(w.groupValue(by, i))
		p.rows = append(p.rows, i)
	}
	if by.Empty {
		for _, v := range w.possible(d, by) {
			part(v)
		}
	}
	w.inOrder(g, by)
	if by.Keep != nil {
		met := w.keeps(g, by)
		if by.Keep.Others == view.OthersRest {
			w.join(g, level, func(part *refGroup) bool { return met[part] })
		} else {
			g.groups = slices.DeleteFunc(g.groups, func(part *refGroup) bool { return !met[part] })
		}
	}
	if by.Top > 0 && len(g.groups) > by.Top {
		first := map[*refGroup]bool{}
		for _, part := range g.groups[:by.Top] {
			first[part] = !part.rest
		}
		w.join(g, level, func(part *refGroup) bool { return first[part] })
	}
	for _, part := range g.groups {
		part.parent = g
		w.split(part, d, level+1)
	}
}

// inOrder puts the groups within one into the order that their level asks, the rest last.
func (w *world) inOrder(g *refGroup, by view.Group) {
	f := w.field(by.Field)
	slices.SortStableFunc(g.groups, func(a, b *refGroup) int {
		return compareBlankLast(a.value, b.value, f, false)
	})
	if o := by.Order; o != nil {
		if o.By == view.ByTotal {
			for _, part := range g.groups {
				var x any
				x, part.figureField = w.total(o.Field, view.Total{Fn: o.Fn, Percent: o.Percent}, part.rows)
				part.figure = bare(x)
			}
		}
		slices.SortStableFunc(g.groups, func(a, b *refGroup) int { return w.compareGroups(o, f, a, b) })
	}
	slices.SortStableFunc(g.groups, func(a, b *refGroup) int {
		return map[bool]int{true: 1}[a.rest] - map[bool]int{true: 1}[b.rest]
	})
}

// join puts the groups that are not kept into one, the rest.
func (w *world) join(g *refGroup, level int, kept func(part *refGroup) bool) {
	var stay []*refGroup
	rest, joined := &refGroup{level: level + 1, rest: true}, map[int]bool{}
	for _, part := range g.groups {
		if kept(part) {
			stay = append(stay, part)
			continue
		}
		rest.others += max(1, part.others)
		for _, i := range part.rows {
			joined[i] = true
		}
	}
	if rest.others == 0 {
		return
	}
	for _, i := range g.rows {
		if joined[i] {
			rest.rows = append(rest.rows, i)
		}
	}
	rest.label = fmt.Sprintf("%d others", rest.others)
	g.groups = append(stay, rest)
}

// keeps says which groups within one are kept by their total.
func (w *world) keeps(g *refGroup, by view.Group) map[*refGroup]bool {
	k := by.Keep
	figure := func(part *refGroup) (any, catalog.Field) {
		if k.Field == "" {
			return int64(len(part.rows)), catalog.Field{Type: catalog.Whole}
		}
		v, f := w.total(k.Field, view.Total{Fn: k.Fn, Percent: k.Percent}, part.rows)
		return bare(v), f
	}
	met := map[*refGroup]bool{}
	if k.Share == "" {
		for _, part := range g.groups {
			v, f := figure(part)
			met[part] = v != nil && w.meetsValue(k.Op, k.Value, k.To, v, f)
		}
		return met
	}
	parts := slices.Clone(g.groups) // those as large as each other by label
	slices.SortStableFunc(parts, func(a, b *refGroup) int {
		return compareBlankLast(a.value, b.value, w.field(by.Field), false)
	})
	slices.SortStableFunc(parts, func(a, b *refGroup) int {
		x, f := figure(a)
		y, _ := figure(b)
		return compareBlankLast(x, y, f, true)
	})
	share, _ := new(big.Rat).SetString(k.Share)
	so, whole := new(big.Rat), new(big.Rat)
	for _, part := range parts {
		if v, f := figure(part); v != nil {
			whole.Add(whole, rational(v, f))
		}
	}
	want := new(big.Rat).Mul(whole, share.Quo(share, big.NewRat(100, 1)))
	for _, part := range parts {
		v, f := figure(part)
		met[part] = whole.Sign() <= 0 || v != nil && so.Cmp(want) < 0
		if v != nil {
			so.Add(so, rational(v, f))
		}
	}
	return met
}

// settle takes the records away from each group that groups within it have left out, and puts the
// groups into the order of what they hold then.
func (w *world) settle(g *refGroup, d *view.Document, level int) {
	if level == len(d.Groups) {
		return
	}
	held := map[int]bool{}
	g.groups = slices.DeleteFunc(g.groups, func(part *refGroup) bool {
		had := len(part.rows) > 0
		w.settle(part, d, level+1)
		for _, i := range part.rows {
			held[i] = true
		}
		return had && len(part.rows) == 0
	})
	g.rows = slices.DeleteFunc(slices.Clone(g.rows), func(i int) bool { return !held[i] })
	w.inOrder(g, d.Groups[level])
}

// narrow takes the records away that are not among some, and groups that hold none any more.
func (w *world) narrow(g *refGroup, d *view.Document, level int, rows []int) {
	g.rows = slices.DeleteFunc(slices.Clone(g.rows), func(i int) bool { return !slices.Contains(rows, i) })
	if level == len(d.Groups) {
		return
	}
	g.groups = slices.DeleteFunc(g.groups, func(part *refGroup) bool {
		had := len(part.rows) > 0
		w.narrow(part, d, level+1, rows)
		return had && len(part.rows) == 0
	})
	w.inOrder(g, d.Groups[level])
}

// groupValue is what a record is grouped by.
func (w *world) groupValue(by view.Group, i int) any {
	v := w.rows[i][by.Field]
	if v != nil && by.Unit != "" {
		return w.unitStart(by.Unit, v.(int64), w.field(by.Field))
	}
	return v
}

func (w *world) compareGroups(o *view.Order, f catalog.Field, a, b *refGroup) int {
	switch o.By {
	case view.ByCount:
		c := cmp.Compare(len(a.rows), len(b.rows))
		if o.Desc {
			c = -c
		}
		return c
	case view.ByTotal:
		return compareBlankLast(a.figure, b.figure, a.figureField, o.Desc)
	case view.ByList:
		place := func(g *refGroup) int {
			if g.value == nil {
				return len(o.Values) + 1
			}
			at := slices.IndexFunc(o.Values, func(v string) bool { return table.Fold(v) == table.Fold(g.label) })
			if at < 0 {
				return len(o.Values)
			}
			return at
		}
		return cmp.Compare(place(a), place(b))
	}
	return compareBlankLast(a.value, b.value, f, o.Desc)
}

// possible lists the values that may be shown without records.
func (w *world) possible(d *view.Document, by view.Group) []any {
	var out []any
	f := w.field(by.Field)
	if labels, ok := w.bands[by.Field]; ok {
		for i, label := range labels[:len(labels)-2] { // neither the rest nor the blanks
			out = append(out, band{i, label})
		}
		return out
	}
	rows := w.rows
	if by.Field == "pier.name.each" {
		rows = nil
		for i := range w.piers {
			rows = append(rows, map[string]any{by.Field: w.each(i)})
		}
	} else if at := strings.LastIndex(by.Field, "."); at > 0 {
		held := w.rows
		if strings.HasSuffix(by.Field[:at], "pier") {
			held = w.piers
		}
		rows = nil
		for _, r := range held {
			rows = append(rows, map[string]any{by.Field: r[by.Field[at+1:]]})
		}
	}
	for _, r := range rows {
		if v := r[by.Field]; v != nil && by.Unit == "" {
			out = append(out, v)
		}
	}
	if f.Type == catalog.YesNo {
		return []any{int64(0), int64(1)}
	}
	if by.Unit == "" || !slices.ContainsFunc(w.rows, func(r map[string]any) bool { return r[by.Field] != nil }) {
		return out
	}
	return w.possibleUnits(d, by)
}

func (w *world) possibleUnits(d *view.Document, by view.Group) []any {
	var out []any
	if by.Unit.Cyclic() {
		for i := range map[calendar.Unit]int64{calendar.ByWeekday: 7, calendar.ByHour: 24}[by.Unit] {
			out = append(out, i)
		}
		return out
	}
	lo, hi := int64(math.MaxInt64), int64(math.MinInt64)
	for i, row := range w.rows {
		if v, ok := w.groupValue(by, i).(int64); ok && (d.Filter == nil || w.meets(d.Filter, row)) {
			lo, hi = min(lo, v), max(hi, v)
		}
	}
	p, err := plan.Check(d, w.catalog, w.cal)
	if err != nil {
		return nil
	}
	ref, _ := w.catalog.Resolve("crossings", by.Field)
	if from, to, ok := p.Bounds(ref); ok {
		lo, hi = min(lo, w.cal.Start(by.Unit, from)), max(hi, w.cal.Start(by.Unit, to))
	}
	for at := lo; at <= hi; at = w.cal.Add(by.Unit, at, 1) {
		out = append(out, at)
	}
	return out
}

func (w *world) unitStart(u calendar.Unit, v int64, f catalog.Field) int64 {
	if u == calendar.ByHour {
		return int64(time.UnixMicro(v).In(w.cal.Zone).Hour())
	}
	if f.Type == catalog.DateTime {
		v = dayOf(v, w.cal.Zone)
	}
	if u == calendar.ByWeekday { // weeks start on Monday here
		return (int64(time.Unix(v*86400, 0).UTC().Weekday()) + 6) % 7
	}
	return w.cal.Start(u, v)
}

func (w *world) label(v any, f catalog.Field, u calendar.Unit) string {
	if v != nil && u == calendar.ByWeekday {
		return time.Weekday((v.(int64) + 1) % 7).String()
	}
	if v != nil && u == calendar.ByHour {
		return fmt.Sprint(v)
	}
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
				if _, ok := w.rates[c.Field]; ok {
					cells = append(cells, "")
				} else {
					cells = append(cells, w.cell(w.rows[i][c.Field], f))
				}
				for j := 1; j < len(w.totalsOf(c)); j++ {
					cells = append(cells, "")
				}
			}
			*lines = append(*lines, writeLine(g.level+1, "", 0, cells))
		}
	}
}

// fill works out the figures of a group and of all within it.
func (w *world) fill(g *refGroup, d *view.Document) {
	for _, c := range d.Columns {
		var figures []any
		var fields []catalog.Field
		for _, t := range w.totalsOf(c) {
			v, f := w.total(c.Field, t, g.rows)
			figures, fields = append(figures, v), append(fields, f)
		}
		g.cells, g.fields = append(g.cells, figures), append(g.fields, fields)
	}
	for _, part := range g.groups {
		w.fill(part, d)
	}
}

// totalsOf are the totals of a column; what is calculated from totals is one itself.
func (w *world) totalsOf(c view.Column) []view.Total {
	if _, ok := w.rates[c.Field]; ok && len(c.Totals) == 0 {
		return []view.Total{{}}
	}
	return c.Totals
}

// line writes a group with its totals.
func (w *world) line(d *view.Document, g *refGroup) string {
	var cells []string
	for c, col := range d.Columns {
		totals := w.totalsOf(col)
		if len(totals) == 0 {
			cells = append(cells, "")
		}
		for j, t := range totals {
			f, cell := g.fields[c][j], ""
			if t.Show == "" {
				cell = w.cell(g.cells[c][j], f)
			} else {
				cell = w.shown(fmt.Sprint(c, j), t.Show, g, func(of *refGroup) any { return of.cells[c][j] }, f)
			}
			cell = joinedAs(t.Fn, cell)
			if t.Levels != nil && !slices.Contains(t.Levels, g.level) {
				cell = ""
			}
			cells = append(cells, cell)
		}
	}
	label := g.label
	if g.level == 0 {
		label = "All crossings"
	}
	return writeLine(g.level, label, len(g.rows), cells)
}

// joinedAs is a cell with figures of several currencies: sums are put beside each other as
// such, others are not.
func joinedAs(fn view.Fn, cell string) string {
	if fn == view.Sum {
		return cell
	}
	return strings.ReplaceAll(cell, " + ", " and ")
}

func writeLine(level int, label string, count int, cells []string) string {
	return fmt.Sprintf("%d|%s|%d|%s", level, label, count, strings.Join(cells, "|"))
}
