package engine

import (
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
)

// keepTop keeps the first groups of the innermost level, in the order its groups
// are shown, and joins the others of each parent into one.
func (g *grouping) keepTop(level plan.Group) error {
	t := g.tree
	at := len(t.levels) - 1
	s := g.side(0, g.others)
	var figs []*aggregates
	if m := level.Order.Measure; level.Order.By == view.ByTotal {
		var err error
		// Only what decides; the rest is worked out once the groups stand.
		if figs, err = g.onlyTotal(t, s, m); err != nil {
			return err
		}
	}
	first := t.base[at+1]
	nodes := make([]int32, len(t.nodes)-first)
	for i := range nodes {
		nodes[i] = int32(first + i)
	}
	number := make([]uint32, len(nodes)) // the new number of each old group
	kept := t.nodes[:first:first]
	for lo := 0; lo < len(nodes); {
		hi := lo
		for hi < len(nodes) && t.nodes[nodes[hi]].parent == t.nodes[nodes[lo]].parent {
			hi++
		}
		siblings := append([]int32(nil), nodes[lo:hi]...)
		g.orderSiblings(t, s, figs, level, siblings)
		top := map[int32]bool{}
		for _, n := range siblings[:min(level.Top, len(siblings))] {
			top[n] = true
		}
		for _, n := range nodes[lo:hi] { // in label order, as before
			if top[n] {
				number[int(n)-first] = uint32(len(kept) - first)
				kept = append(kept, t.nodes[n])
			}
		}
		if rest := siblings[min(level.Top, len(siblings)):]; len(rest) > 0 {
			for _, n := range rest {
				number[int(n)-first] = uint32(len(kept) - first)
			}
			joined := t.nodes[rest[0]]
			joined.key, joined.joined = t.levels[at].rest(), int32(len(rest))
			kept = append(kept, joined)
		}
		lo = hi
	}
	t.nodes = kept
	counts := make([]int32, len(kept)-first)
	for old, n := range g.counts {
		counts[number[old]] += n
	}
	g.counts = counts
	return kernel.EachBlock(g.ctx, len(g.leaf), g.e.opts.Workers, func(lo, hi int) {
		for i, l := range g.leaf[lo:hi] {
			g.leaf[lo+i] = number[l]
		}
	})
}
