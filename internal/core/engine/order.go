package engine

import (
	"fmt"
	"slices"

	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// positions orders the positions of the kept rows by the view's sort keys, the
// first key first in weight. Rows equal in all keys stay in table order.
func (r *run) positions(rows []int32) ([]int32, error) {
	order := make([]int32, len(rows))
	for i := range order {
		order[i] = int32(i)
	}
	// A stable sort by the last key, then the one before it, and so on.
	for i := len(r.plan.Sort) - 1; i >= 0; i-- {
		s := r.plan.Sort[i]
		if err := r.ctx.Err(); err != nil {
			return nil, fmt.Errorf("engine: stopped at the sort by %s: %w", s.Ref.Label, err)
		}
		col, err := r.e.column(r.plan.Records, s.Ref)
		if err != nil {
			return nil, err
		}
		sortByKeys(sortKeys(col, rows, s.Desc), order)
	}
	return order, nil
}

// sortKeys gives every kept row a number that sorts as asked, blanks last.
func sortKeys(col table.Column, rows []int32, desc bool) []uint64 {
	keys := make([]uint64, len(rows))
	var top uint64
	fill := func(key func(row int32) (uint64, bool)) {
		const blank = ^uint64(0)
		for i, row := range rows {
			k, ok := key(row)
			if !ok {
				keys[i] = blank
				continue
			}
			keys[i] = k
			top = max(top, k)
		}
		for i, k := range keys {
			switch {
			case k == blank:
				keys[i] = top + 1
			case desc:
				keys[i] = top - k
			}
		}
	}
	switch c := col.(type) {
	case *table.Numbers:
		lo, _, _ := c.Bounds()
		fill(func(row int32) (uint64, bool) {
			v := c.Values[row]
			return uint64(v) - uint64(lo), v != table.Blank
		})
	case *table.Texts:
		fill(func(row int32) (uint64, bool) { return uint64(c.Codes[row]), c.Codes[row] != 0 })
	case *table.Floats:
		fill(func(row int32) (uint64, bool) {
			b := orderedBits(c.Values[row])
			return uint64(b) ^ 1<<63, b != table.Blank
		})
	}
	return keys
}

// arrange puts the nodes into the order they are shown, every group before its
// parts, and the rows into the order of the groups.
func (r *run) arrange(t *tree, figs []*figures, placed []int32) ([]int32, []*figures) {
	if len(t.nodes) == 1 {
		t.nodes[0].next = 1
		return placed, figs
	}
	order := r.shownOrder(t, figs)
	place := make([]int32, len(order)) // where each node went
	for i, from := range order {
		place[from] = int32(i)
	}
	nodes := permute(t.nodes, order)
	rows := make([]int32, 0, len(placed))
	deepest := int32(len(r.plan.Groups))
	for i := range nodes {
		n := &nodes[i]
		if n.parent >= 0 {
			n.parent = place[n.parent]
		}
		if n.level == deepest {
			from := n.start
			n.start = int32(len(rows))
			rows = append(rows, placed[from:n.end]...)
			n.end = int32(len(rows))
		} else {
			n.end -= n.start // for now its size
			n.start = int32(len(rows))
			n.end += n.start
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
	return rows, figs
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

func (r *run) orderSiblings(t *tree, figs []*figures, nodes []int32) {
	level := int(t.nodes[nodes[0]].level)
	o := r.plan.Groups[level-1].Order
	blank := func(n int32) bool { return t.nodes[n].key == t.levels[level-1].blank() }
	compare := func(a, b int32) int { return int(t.nodes[a].key) - int(t.nodes[b].key) }
	switch o.By {
	case view.ByCount:
		blank = func(int32) bool { return false }
		compare = func(a, b int32) int {
			return int(t.nodes[a].end-t.nodes[a].start) - int(t.nodes[b].end-t.nodes[b].start)
		}
	case view.ByTotal:
		blank, compare = figs[o.Measure].blank, figs[o.Measure].compare
	}
	slices.SortStableFunc(nodes, func(a, b int32) int {
		// Blanks come last whichever way the others run.
		if x, y := blank(a), blank(b); x || y {
			return int(bit(x)) - int(bit(y))
		}
		if o.Desc {
			return compare(b, a)
		}
		return compare(a, b)
	})
}
