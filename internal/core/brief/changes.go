package brief

import (
	"fmt"
	"reflect"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// Version is one state of a view: its document, and the plan it was checked to.
type Version struct {
	Doc  *view.Document
	Plan *plan.Plan
	Set  *catalog.RecordSet
}

// Changes says what leads from one version to another, a phrase for each change:
// "claimed is over 25.00 became is over 50.00", "column Paid added". Versions that say
// the same have none.
func Changes(before, after Version) []string {
	if before.Doc.Records != after.Doc.Records {
		return []string{"rows are " + after.Set.Many + " now, not " + before.Set.Many}
	}
	c := &changes{
		before: &writer{plan: before.Plan, doc: before.Doc}, after: &writer{plan: after.Plan, doc: after.Doc},
	}
	c.filters()
	c.made()
	c.groups()
	c.columns()
	c.sorts()
	c.compares()
	c.charts()
	c.paper()
	return c.list
}

type changes struct {
	before, after *writer
	list          []string
}

func (c *changes) say(format string, args ...any) {
	c.list = append(c.list, fmt.Sprintf(format, args...))
}

// part is one thing of a version: what tells it from others, and what it says.
type part struct{ key, text string }

// compare pairs two lists of parts, and tells what came, what went and what became
// something else. Parts of one key are paired; parts that say the same are not told.
func compare(before, after []part, came, went func(p part), became func(from, to part)) {
	left := slices.DeleteFunc(slices.Clone(before), func(p part) bool { return slices.Contains(after, p) })
	for _, p := range after {
		if slices.Contains(before, p) {
			continue
		}
		if i := slices.IndexFunc(left, func(old part) bool { return old.key == p.key }); i >= 0 {
			became(left[i], p)
			left = slices.Delete(left, i, i+1)
			continue
		}
		came(p)
	}
	for _, p := range left {
		went(p)
	}
}

func (c *changes) filters() {
	compare(c.before.conditions(), c.after.conditions(),
		func(p part) { c.say("only where %s", p.text) },
		func(p part) { c.say("no longer only where %s", p.text) },
		func(from, to part) { c.say("%s became %s", from.text, to.text) })
}

// conditions are the parts of the filter that must all hold.
func (w *writer) conditions() []part {
	n, c := w.plan.Filter, w.doc.Filter
	if n == nil {
		return nil
	}
	one := func(n *plan.Node, c *view.Condition) part {
		sub := &writer{plan: w.plan, doc: w.doc}
		sub.node(n, c, true)
		return part{c.Field, Text(sub.phrases)}
	}
	if n.Kind != plan.All {
		return []part{one(n, c)}
	}
	out := make([]part, len(n.Children))
	for i, child := range n.Children {
		out[i] = one(child, &c.All[child.At])
		if child.Parameter != nil {
			out[i].text += fmt.Sprintf(
				" (asked: “%s”%s)", child.Parameter.Label, pick(child.Parameter.Required, ", required", ""),
			)
		}
	}
	return out
}

func (c *changes) made() {
	list := func(w *writer) (out []part) {
		for _, one := range w.doc.Makes() {
			if text, _ := w.comesAbout(w.plan.Derived[one.Key()], one.Made); text != "" {
				out = append(out, part{one.Key(), text})
			}
		}
		return out
	}
	compare(list(c.before), list(c.after),
		func(p part) { c.say("%s", p.text) },
		func(p part) { c.say("no longer: %s", p.text) },
		func(from, to part) { c.say("%s, which was: %s", to.text, from.text) })
}

func (c *changes) groups() {
	for _, way := range []struct {
		by    string
		of    func(w *writer) []plan.Group
		given func(w *writer) []view.Group
	}{
		{
			"grouped by", func(w *writer) []plan.Group { return w.plan.Groups },
			func(w *writer) []view.Group { return w.doc.Groups },
		},
		{
			"across by", func(w *writer) []plan.Group { return w.plan.Across },
			func(w *writer) []view.Group { return w.doc.Across },
		},
	} {
		list := func(w *writer) (out []part) {
			sub := &writer{plan: w.plan, doc: w.doc}
			sub.groups(way.of(w), "", "", "")
			for i, p := range slices.DeleteFunc(sub.phrases, func(p Phrase) bool { return p.Kind == Plain }) {
				g := way.given(w)[i]
				text := p.Text
				if order := w.ordered(way.of(w)[i]); order != "" {
					text += ", " + order
				}
				out = append(out, part{g.Field, text})
			}
			return out
		}
		before, after := list(c.before), list(c.after)
		told := len(c.list)
		compare(before, after,
			func(p part) { c.say("%s %s", way.by, p.text) },
			func(p part) { c.say("no longer %s %s", way.by, p.text) },
			func(from, to part) { c.say("%s %s, not %s", way.by, to.text, from.text) })
		if told == len(c.list) && !slices.Equal(before, after) {
			c.say("%s %s", way.by, joined(after, " then "))
		}
	}
}

// ordered says how the groups of a level follow each other, if not by label.
func (w *writer) ordered(g plan.Group) string {
	switch {
	case g.Order.By == view.ByCount:
		return pick(g.Order.Desc, "most ", "fewest ") + w.plan.Many + " first"
	case g.Order.By == view.ByTotal:
		return pick(g.Order.Desc, "largest ", "smallest ") + w.plan.Measures[g.Order.Measure].Label + " first"
	case g.Order.By == view.ByList:
		return "in a given order"
	case g.Order.Desc:
		return pick(g.Ref.Field.Type.Temporal(), "latest", "last") + " first"
	}
	return ""
}

func joined(parts []part, with string) string {
	texts := make([]string, len(parts))
	for i, p := range parts {
		texts[i] = p.text
	}
	return strings.Join(texts, with)
}

// columns tells columns apart by their field, and the second of one field from the
// first.
func (c *changes) columns() {
	before, after := c.before.columnParts(), c.after.columnParts()
	var names [2][]part
	for i, list := range [][]columnPart{before, after} {
		for _, col := range list {
			names[i] = append(names[i], part{col.key, col.key})
		}
	}
	told := len(c.list)
	compare(names[0], names[1],
		func(p part) {
			col := columnOf(after, p.key)
			c.say("column %s added%s", col.label, prefixed(" with ", col.totals))
		},
		func(p part) { c.say("column %s taken out", columnOf(before, p.key).label) },
		func(part, part) {})
	if told == len(c.list) && !slices.Equal(names[0], names[1]) {
		c.say("columns in another order: %s", strings.Join(labels(after), ", "))
	}
	for _, to := range after {
		if from := columnOf(before, to.key); from != nil {
			c.column(from, &to)
		}
	}
}

func (c *changes) column(from, to *columnPart) {
	if from.heading != to.heading {
		c.say("column %s headed “%s”", from.label, to.label)
	}
	if from.totals != to.totals {
		switch {
		case to.totals == "":
			c.say("%s no longer totalled", to.label)
		default:
			c.say("%s of %s%s", to.totals, running(to.label), prefixed(", not ", from.totals))
		}
	}
	for _, x := range []struct {
		changed  bool
		on       bool
		yes, not string
	}{
		{from.col.Hidden != to.col.Hidden, to.col.Hidden, "column %s hidden", "column %s shown again"},
		{
			from.col.Frozen != to.col.Frozen, to.col.Frozen, "column %s stays in sight",
			"column %s scrolls with the others",
		},
		{from.col.Bars != to.col.Bars, to.col.Bars, "bars behind %s", "no bars behind %s"},
		{!reflect.DeepEqual(from.col.Format, to.col.Format), true, "%s written in another format", ""},
		{from.col.Width != to.col.Width, true, "width of %s", ""},
	} {
		if x.changed {
			c.say(pick(x.on, x.yes, x.not), to.label)
		}
	}
}

// columnPart is a column as changes tell it.
type columnPart struct {
	key, label, heading, totals string
	col                         view.Column
}

func (w *writer) columnParts() []columnPart {
	var out []columnPart
	seen := map[string]int{}
	for i, col := range w.doc.Columns {
		p := columnPart{
			key: fmt.Sprintf("%s %d", col.Field, seen[col.Field]), label: col.Field, heading: col.Heading, col: col,
		}
		seen[col.Field]++
		if col.Heading != "" {
			p.label = col.Heading
		}
		var totals []string
		for _, pc := range slices.Concat(w.plan.Columns, w.plan.Hidden) {
			if pc.Doc != i {
				continue
			}
			p.label = pc.Heading
			if pc.Measure >= 0 {
				totals = append(totals, w.plan.Measures[pc.Measure].Heading())
			}
		}
		p.totals = view.Listed(totals, " and ")
		out = append(out, p)
	}
	return out
}

func columnOf(list []columnPart, key string) *columnPart {
	if i := slices.IndexFunc(list, func(c columnPart) bool { return c.key == key }); i >= 0 {
		return &list[i]
	}
	return nil
}

func labels(list []columnPart) []string {
	out := make([]string, len(list))
	for i, c := range list {
		out[i] = c.label
	}
	return out
}

// prefixed is a text with words before it, or nothing for an empty one.
func prefixed(words, text string) string {
	if text == "" {
		return ""
	}
	return words + text
}

func (c *changes) sorts() {
	words := func(w *writer) string {
		var out []string
		for _, s := range w.plan.Sort {
			out = append(out, sortWords(s))
		}
		return strings.Join(out, " then ")
	}
	switch from, to := words(c.before), words(c.after); {
	case from == to:
	case to == "":
		c.say("no longer %s", from)
	default:
		c.say("%s", to)
	}
}

func (c *changes) compares() {
	words := func(w *writer) string {
		if w.plan.Compare == nil {
			return ""
		}
		return w.plan.Compare.Label
	}
	switch from, to := words(c.before), words(c.after); {
	case from == to && reflect.DeepEqual(c.before.doc.Compare, c.after.doc.Compare):
	case to == "":
		c.say("no longer compared with %s", from)
	default:
		c.say("compared with %s", to)
	}
}

func (c *changes) charts() {
	from, to := c.before.doc.Chart, c.after.doc.Chart
	switch {
	case reflect.DeepEqual(from, to):
	case to == nil:
		c.say("chart taken away")
	case from == nil:
		c.say("chart added")
	default:
		c.say("chart drawn in another way")
	}
}

func (c *changes) paper() {
	if !reflect.DeepEqual(c.before.doc.Paper, c.after.doc.Paper) {
		c.say("set up for paper otherwise")
	}
}
