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
	at := len(t.Levels) - 1
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
	first := t.Base[at+1]
	nodes := make([]int32, len(t.Nodes)-first)
	for i := range nodes {
		nodes[i] = int32(first + i)
	}
	number := make([]uint32, len(nodes)) // the new number of each old group
	kept := t.Nodes[:first:first]
	for lo := 0; lo < len(nodes); {
		hi := lo
		for hi < len(nodes) && t.Nodes[nodes[hi]].Parent == t.Nodes[nodes[lo]].Parent {
			hi++
		}
		siblings := append([]int32(nil), nodes[lo:hi]...)
		o.siblings(level, siblings)
		top := map[int32]bool{}
		for _, n := range siblings[:min(level.Top, len(siblings))] {
			top[n] = true
		}
		for _, n := range nodes[lo:hi] { // in label order, as before
			if top[n] {
				number[int(n)-first] = uint32(len(kept) - first)
				kept = append(kept, t.Nodes[n])
			}
		}
		if rest := siblings[min(level.Top, len(siblings)):]; len(rest) > 0 {
			for _, n := range rest {
				number[int(n)-first] = uint32(len(kept) - first)
			}
			joined := t.Nodes[rest[0]]
			joined.Key, joined.Joined = t.Levels[at].Rest(), int32(len(rest))
			kept = append(kept, joined)
		}
		lo = hi
	}
	t.Nodes = kept
	counts := make([]int32, len(kept)-first)
	for old, n := range g.counts {
		counts[number[old]] += n
	}
	g.counts = counts
	return g.Job.EachBlock(len(g.Leaf), func(lo, hi int) {
		for i, l := range g.Leaf[lo:hi] {
			g.Leaf[lo+i] = number[l]
		}
	})
}
