package engine

import (
	"slices"

	"gavrik/internal/core/view"
)

// rowOrder sorts the kept rows by the keys, the first in weight first. Rows equal
// in all of them stay in table order. As many keys as fit into 64 bits are
// sorted by at once.
func rowOrder(rows []int32, keys []sortKey, workers int) []int32 {
	if len(keys) == 0 || len(rows) == 0 {
		return rows
	}
	pairs, spare := make([]pair, len(rows)), make([]pair, len(rows))
	for i := range pairs {
		pairs[i].pos = int32(i)
	}
	used, whole := 0, true
	share := (len(rows) + workers - 1) / workers
	// The keys least in weight first: a stable sort by a later one keeps theirs.
	for i := len(keys) - 1; i >= 0; i-- {
		if used+keys[i].width() > 64 {
			pairs, spare = sortPairs(pairs, spare, used)
			for j := range pairs {
				pairs[j].key = 0
			}
			used, whole = 0, false
		}
		shares(len(pairs), share, func(lo, hi int) { keys[i].put(pairs[lo:hi], rows, used) })
		used += keys[i].width()
	}
	if whole {
		// Positions ascend still and break ties, so that parts can be sorted apart.
		pairs = sortParts(pairs, spare, used, workers)
	} else {
		pairs, _ = sortPairs(pairs, spare, used)
	}
	out := make([]int32, len(rows))
	shares(len(pairs), share, func(lo, hi int) {
		for i, p := range pairs[lo:hi] {
			out[lo+i] = rows[p.pos]
		}
	})
	return out
}

// arrange puts the nodes into the order they are shown, every group before its
// parts. It returns the place of each innermost group among its like.
func (r *run) arrange(t *tree, figs []*figures) ([]uint32, []*figures) {
	if len(t.nodes) == 1 {
		t.nodes[0].next = 1
		return nil, figs
	}
	order := r.shownOrder(t, figs)
	went := make([]int32, len(order)) // where each node went
	for i, from := range order {
		went[from] = int32(i)
	}
	nodes := permute(t.nodes, order)
	deepest := int32(len(r.plan.Groups))
	first := int32(t.base[deepest])
	place := make([]uint32, int32(len(order))-first)
	at, leaves := int32(0), uint32(0)
	for i := range nodes {
		n := &nodes[i]
		if n.parent >= 0 {
			n.parent = went[n.parent]
		}
		n.start, n.end = at, at+n.end-n.start
		if n.level == deepest {
			place[order[i]-first] = leaves
			leaves++
			at = n.end
		}
	}
	// The next node of the same or an outer level; scanned from the back.
	following := make([]int32, deepest+1)
	for l := range following {
		following[l] = int32(len(nodes))
	}
	for i := len(nodes) - 1; i >= 0; i-- {
		level := nodes[i].level
		nodes[i].next = following[level]
		for l := level; l <= deepest; l++ {
			following[l] = int32(i)
		}
	}
	t.nodes = nodes
	for i, f := range figs {
		figs[i] = f.permuted(order)
	}
	return place, figs
}

// shownOrder lists the nodes depth first, each parent's children as its level
// asks. Ties keep label order.
func (r *run) shownOrder(t *tree, figs []*figures) []int32 {
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
			r.orderSiblings(t, figs, siblings[lo:hi])
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
// come last whichever way the others run.
func (r *run) orderSiblings(t *tree, figs []*figures, nodes []int32) {
	level := int(t.nodes[nodes[0]].level)
	o := r.plan.Groups[level-1].Order
	if o.By == view.ByLabel && !o.Desc {
		return
	}
	pairs := make([]pair, len(nodes))
	for i, n := range nodes {
		var key uint64
		blank := false
		switch node := t.nodes[n]; o.By {
		case view.ByCount:
			key = uint64(node.end - node.start)
		case view.ByTotal:
			key, blank = figs[o.Measure].sortKey(n)
		default:
			key, blank = uint64(node.key), node.key == t.levels[level-1].blank()
		}
		if o.Desc {
			key = ^key
		}
		if blank {
			key = ^uint64(0)
		}
		pairs[i] = pair{key, n}
	}
	if len(pairs) < fewSiblings {
		slices.SortFunc(pairs, comparePairs) // positions are node numbers, in label order
	} else {
		pairs, _ = sortPairs(pairs, make([]pair, len(pairs)), 64)
	}
	for i, p := range pairs {
		nodes[i] = p.pos
	}
}

// fewSiblings is below how many groups comparing is faster than a radix sort.
const fewSiblings = 512
