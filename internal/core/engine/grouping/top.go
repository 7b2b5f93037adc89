// Levels that keep their first groups and join the others.

package grouping

import (
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// keepTop keeps the first groups of the innermost level, in the order its groups
// are shown, and joins the others of each parent into one.
func (g *Grouping) keepTop(level plan.Group) error {
	t := g.Tree
	s := g.Side(0, g.others)
	o := &orderer{job: g.Job, cal: g.Fields.Plan.Calendar, tree: t, side: s}
	if level.Order.By == view.ByTotal {
		// Only what decides; the rest is worked out once the groups stand.
		ranking, err := g.Rank(t, s, level.Order.Measure)
		if err != nil {
			return err
		}
		o.rank = func(int) Ranking { return ranking }
	}
	first := t.First()
	kept := make([]bool, len(t.Nodes)-first)
	g.eachParent(func(siblings []int32) {
		o.siblings(level, siblings)
		for _, n := range siblings[:min(level.Top, len(siblings))] {
			kept[int(n)-first] = t.Nodes[n].Joined == 0
		}
	})
	return g.joinOthers(kept)
}
