package engine

import (
	"slices"

	"gavrik/internal/core/format"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// arrange puts the nodes into the order they are shown, every group before its
// parts. It returns where each node came from.
func (r *run) arrange(t *tree, s *side, figs []*aggregates, groups []plan.Group) []int32 {
	from := r.shownOrder(t, s, figs, groups)
	went := make([]int32, len(from))
	for i, n := range from {
		went[n] = int32(i)
	}
	nodes := rearrange(t.nodes, from, node{})
	deepest := int32(len(groups))
	// The next node of the same or an outer level; scanned from the back.
	following := make([]int32, deepest+1)
	for l := range following {
		following[l] = int32(len(nodes))
	}
	for i := len(nodes) - 1; i >= 0; i-- {
		n := &nodes[i]
		if n.parent >= 0 {
			n.parent = went[n.parent]
		}
		n.next = following[n.level]
		for l := n.level; l <= deepest; l++ {
			following[l] = int32(i)
		}
	}
	t.nodes = nodes
	return from
}

// arrange moves the places of a side's records along with the nodes. It returns the
// place of each innermost group among its like.
func (s *side) arrange(t *tree, from []int32) (place []uint32) {
	size := make([]int32, len(from))
	for i, n := range from {
		size[i] = s.end[n] - s.start[n]
	}
	first, deepest := int32(t.first()), int32(len(t.levels))
	place = make([]uint32, int32(len(from))-first)
	at, leaves := int32(0), uint32(0)
	for i, n := range from {
		s.start[i], s.end[i] = at, at+size[i]
		if t.nodes[i].level == deepest {
			place[n-first] = leaves
			leaves++
			at = s.end[i]
		}
	}
	return place
}

// shownOrder lists the nodes depth first, each parent's children as its level
// asks. Ties keep label order.
func (r *run) shownOrder(t *tree, s *side, figs []*aggregates, groups []plan.Group) []int32 {
	// Children of one parent lie side by side: children[p] to children[p+1].
	n := len(t.nodes)
	first := make([]int32, n+1)
	for _, c := range t.nodes[1:] {
		first[c.parent+1]++
	}
	first[0] = 1
	for i := range n {
		first[i+1] += first[i]
	}
	siblings := make([]int32, n)
	for i := range siblings {
		siblings[i] = int32(i)
	}
	for p := range n {
		if lo, hi := first[p], first[p+1]; hi-lo > 1 {
			r.orderSiblings(t, s, figs, groups[t.nodes[p].level], siblings[lo:hi])
		}
	}
	out := make([]int32, 0, n)
	var visit func(node int32)
	visit = func(node int32) {
		out = append(out, node)
		for _, c := range siblings[first[node]:first[node+1]] {
			visit(c)
		}
	}
	visit(0)
	return out
}

// orderSiblings orders the groups of one parent, which come in label order. Blanks
// come last whichever way the others run, and the rest of a top level behind them.
func (r *run) orderSiblings(t *tree, s *side, figs []*aggregates, g plan.Group, nodes []int32) {
	o := g.Order
	if o.By == view.ByLabel && !o.Desc {
		return
	}
	k := t.levels[t.nodes[nodes[0]].level-1]
	var listed func(key uint32) uint64
	if o.By == view.ByList {
		listed = r.listOrder(k, g)
	}
	pairs := make([]kernel.Pair, 0, len(nodes))
	var blanks, rest []int32
	for _, n := range nodes {
		var key uint64
		node := t.nodes[n]
		blank := node.key == 0
		switch {
		case node.joined > 0:
			rest = append(rest, n)
			continue
		case o.By == view.ByCount:
			key, blank = uint64(s.size(n)), false
		case o.By == view.ByTotal:
			key, blank = figs[o.Measure].sortKey(n)
		case o.By == view.ByList:
			key = listed(node.key)
		default:
			key = uint64(node.key)
		}
		if blank {
			blanks = append(blanks, n)
			continue
		}
		if o.Desc {
			key = ^key
		}
		pairs = append(pairs, kernel.Pair{Key: key, Pos: n})
	}
	if len(pairs) < fewSiblings {
		slices.SortFunc(pairs, kernel.ComparePairs) // positions are node numbers, in label order
	} else {
		pairs, _ = kernel.SortPairs(pairs, make([]kernel.Pair, len(pairs)), 64, r.isStopped)
	}
	for i, p := range pairs {
		nodes[i] = p.Pos
	}
	copy(nodes[len(pairs):], append(blanks, rest...))
}

// fewSiblings is below how many groups comparing is faster than a radix sort.
const fewSiblings = 512

// listOrder gives the values of a list their place in it, and all others one
// behind. A value is named as people read it or as programs do, without regard to
// case and accents.
func (r *run) listOrder(k *levelKeys, g plan.Group) func(key uint32) uint64 {
	place := map[string]uint64{}
	for i, v := range g.Order.List {
		if _, twice := place[v]; !twice {
			place[v] = uint64(i)
		}
	}
	people, plain := format.NewWriter(format.People, r.plan.Calendar), format.NewWriter(format.Plain, r.plan.Calendar)
	return func(key uint32) uint64 {
		for _, w := range []*format.Writer{people, plain} {
			if at, ok := place[table.Fold(r.groupLabel(w, k, g, key))]; ok {
				return at
			}
		}
		return uint64(len(g.Order.List))
	}
}

// groupLabel writes a group's value; a blank is empty.
func (r *run) groupLabel(w *format.Writer, k *levelKeys, g plan.Group, key uint32) string {
	return result.GroupText(w, r.plan.Calendar, g, k.cell(key, g))
}
