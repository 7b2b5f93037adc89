package explain

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
)

// Records leads from a figure to the records that it is taken of.
type Records struct {
	// Conditions are what those records meet beside the view's own filter.
	Conditions []view.Condition
	// Down and Across are the groups that the figure belongs to, from the outermost in.
	Down, Across []result.Key
}

// DrillThrough says which records a group's figure (a path as Line.Group gives it; empty for
// the grand total) is taken of, in a column of the ledger or, if head is negative, in any. It
// fails with a NotThereError if there is no such figure.
//
// Texts that differ in case or accents alone, and moments of one minute, are not told apart,
// as conditions do not either.
//
// Where records are set beside each other, the conditions are tested after that: they would
// otherwise change beside which records each stands.
func DrillThrough(ctx context.Context, r result.Result, group string, head int) (*Records, error) {
	out, err := drillThrough(ctx, r, group, head)
	if err != nil || !r.Summarize().Plan.ComparesKept() {
		return out, err
	}
	for i := range out.Conditions {
		out.Conditions[i].After = true
	}
	return out, nil
}

func drillThrough(ctx context.Context, r result.Result, group string, head int) (*Records, error) {
	sum := r.Summarize()
	line, err := r.Group(group, []int{})
	if err != nil {
		return nil, err
	}
	out := &Records{Down: line.Keys[:line.Level]}
	parent := ""
	for level, key := range out.Down {
		var beside []result.Key
		if key.Joined > 0 {
			if beside, err = partsOf(ctx, r, parent, level+1); err != nil {
				return nil, err
			}
		}
		out.add(sum.Plan, sum.Plan.Groups[level], key, beside)
		parent = result.AncestorOf(group, level+1)
	}
	if head < 0 || len(sum.Plan.Across) == 0 {
		return out, out.addStayed(ctx, r, group, nil)
	}
	if head >= len(sum.Heads) {
		return nil, &result.NotThereError{What: fmt.Sprintf("column %d", head)}
	}
	out.Across = sum.Heads[head].Across
	for level, key := range out.Across {
		out.add(sum.Plan, sum.Plan.Across[level], key, acrossOf(sum, out.Across[:level]))
	}
	return out, out.addStayed(ctx, r, group, out.Across)
}

// partsOf are the groups of a level that lie in one of the level above.
func partsOf(ctx context.Context, r result.Result, parent string, level int) (out []result.Key, err error) {
	of := result.Groups{Within: parent, Levels: level, Heads: []int{}}
	err = r.EachGroup(ctx, of, func(line result.GroupLine) error {
		if line.Level == level {
			out = append(out, line.Keys[level-1])
		}
		return nil
	})
	return out, err
}

// acrossOf are the groups across that lie in one of the level above.
func acrossOf(sum *result.Summary, parent []result.Key) (out []result.Key) {
	level := len(parent)
	for _, h := range sum.Heads {
		if len(h.Across) == level+1 && slices.EqualFunc(h.Across[:level], parent, samePlace) {
			if key := h.Across[level]; !slices.ContainsFunc(out, func(k result.Key) bool {
				return samePlace(k, key)
			}) {
				out = append(out, key)
			}
		}
	}
	return out
}

func samePlace(a, b result.Key) bool { return a.Place == b.Place }

// add asks for the records of one group among those beside it.
func (d *Records) add(p *plan.Plan, g plan.Group, key result.Key, beside []result.Key) {
	d.Conditions = append(d.Conditions, ofKey(p, g, key, beside))
}

// ofKey is what the records of one group among those beside it meet.
func ofKey(p *plan.Plan, g plan.Group, key result.Key, beside []result.Key) view.Condition {
	if key.Joined == 0 {
		return ofValue(p.Calendar, g, key.Value)
	}
	// The rest of a level: none of the groups beside it.
	none := []view.Condition{} // where nothing is kept, all are the rest
	for _, k := range beside {
		if k.Joined == 0 {
			none = append(none, ofValue(p.Calendar, g, k.Value))
		}
	}
	if key.Gone != nil {
		for _, v := range key.Gone.Values {
			none = append(none, ofValue(p.Calendar, g, v))
		}
	}
	return view.Condition{None: none}
}

// ofValue is what the records of a group meet.
func ofValue(cal calendar.Calendar, g plan.Group, v cell.Cell) view.Condition {
	c := view.Condition{Field: g.Ref.Path}
	if v.Kind == cell.Blank {
		c.Op = view.IsBlank
		return c
	}
	f := g.Ref.Field
	switch {
	case g.Unit == calendar.ByWeekday:
		day := time.Weekday((int(v.Int) + int(cal.WeekStart)) % 7)
		c.Op, c.Values = view.Weekday, view.Values{day.String()}
	case g.Unit == calendar.ByHour:
		c.Op, c.Values = view.Hour, view.Values{strconv.FormatInt(v.Int, 10)}
	case g.Unit != "":
		day := func(d calendar.Day) string {
			return result.Operand(cal, cell.Cell{Kind: cell.Date, Int: d}, catalog.Field{Type: catalog.Date})
		}
		c.Op, c.Value, c.To = view.Between, day(v.Int), day(cal.Add(g.Unit, v.Int, 1)-1)
	case f.Type.Temporal() || f.Type == catalog.YesNo:
		c.Op, c.Value = view.Is, result.Operand(cal, v, f)
	default:
		c.Op, c.Values = view.OneOf, view.Values{result.Operand(cal, v, f)}
	}
	return c
}
