package engine

import (
	"fmt"
	"strconv"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// DrillThrough says which records a group's figure (a path as Line.Group gives it; empty for
// the grand total) is taken of, in a column of the ledger or, if head is negative, in any.
// Texts that differ in case or accents alone, and moments of one minute, are not told apart,
// as conditions do not either.
func (r *Result) DrillThrough(group string, head int) (*result.DrillThrough, error) {
	node, err := r.nodeOf(group)
	if err != nil {
		return nil, err
	}
	out := &result.DrillThrough{
		Conditions: r.conditions(r.tree, r.Plan.Groups, node), Down: keysTo(r.tree, r.Plan.Groups, node),
	}
	if head < 0 || r.across == nil {
		return out, nil
	}
	if head >= len(r.Heads) {
		return nil, fmt.Errorf("engine: there is no column %d", head)
	}
	h := r.Heads[head]
	out.Across = h.Across
	if h.AcrossPath != "" {
		across := r.conditions(r.across, r.Plan.Across, r.across.nodeOf(h.AcrossPath))
		out.Conditions = append(out.Conditions, across...)
	}
	return out, nil
}

// nodeOf finds a group by its path; the empty one is the grand total's.
func (r *Result) nodeOf(group string) (int32, error) {
	n := r.tree.nodeOf(group)
	if n < 0 {
		return 0, fmt.Errorf("engine: there is no group %q any longer", group)
	}
	return n, nil
}

// conditions are those of a node and of the groups that it lies in, the outermost
// first.
func (r *Result) conditions(t *tree, groups []plan.Group, n int32) []view.Condition {
	var out []view.Condition
	for ; n > 0; n = t.nodes[n].parent {
		out = append([]view.Condition{r.condition(t, groups, n)}, out...)
	}
	return out
}

// condition is what the records of one group, of those in its parent, meet.
func (r *Result) condition(t *tree, groups []plan.Group, n int32) view.Condition {
	node := t.nodes[n]
	g, k := groups[node.level-1], t.levels[node.level-1]
	if node.joined == 0 {
		return r.valueCondition(g, k, node.key)
	}
	// The rest of a top level: none of the groups beside it.
	var beside []view.Condition
	parent := t.nodes[node.parent]
	for i := node.parent + 1; i < parent.next; i = t.nodes[i].next {
		if i != n {
			beside = append(beside, r.valueCondition(g, k, t.nodes[i].key))
		}
	}
	return view.Condition{None: beside}
}

func (r *Result) valueCondition(g plan.Group, k *levelKeys, key uint32) view.Condition {
	c := view.Condition{Field: g.Ref.Path}
	if key == 0 {
		c.Op = view.IsBlank
		return c
	}
	f, cal := g.Ref.Field, r.Plan.Calendar
	w := format.NewWriter(format.Plain, cal)
	switch {
	case g.Unit == calendar.ByWeekday:
		c.Op, c.Values = view.Weekday, view.Values{time.Weekday((int(k.number(key)) + int(cal.WeekStart)) % 7).String()}
	case g.Unit == calendar.ByHour:
		c.Op, c.Values = view.Hour, view.Values{strconv.FormatInt(k.number(key), 10)}
	case g.Unit != "":
		day := func(d calendar.Day) string { return w.Number(d, catalog.Field{Type: catalog.Date}) }
		first := k.number(key)
		c.Op, c.Value, c.To = view.Between, day(first), day(cal.Add(g.Unit, first, 1)-1)
	case f.Type.Temporal():
		c.Op, c.Value = view.Is, k.text(w, key, f)
	case f.Type == catalog.YesNo:
		c.Op, c.Value = view.Is, [2]string{"no", "yes"}[k.number(key)]
	default:
		c.Op, c.Values = view.OneOf, view.Values{k.text(w, key, f)}
	}
	return c
}
