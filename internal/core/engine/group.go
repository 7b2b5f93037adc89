package engine

import (
	"fmt"
	"slices"

	"gavrik/internal/core/plan"
)

// node is one group, or, as node 0, all kept records.
type node struct {
	parent int32
	level  int32 // 0 for the root, 1 for the outermost groups
	key    uint32
	// The node's records are the rows from start to end of the result's order.
	start, end int32
	// next is the first node after this one and all within it, once the nodes
	// stand in the order they are shown.
	next int32
}

// tree is the groups of every level over the kept rows.
type tree struct {
	nodes  []node
	levels []*levelKeys // levels[l] numbers the values of level l+1
	base   []int        // base[l] is the first node of level l
	leaf   []uint32     // for each kept row its innermost group, counted from base[last]
}

// group builds the tree in label order: nodes of one level follow each other,
// sorted by parent and then by value.
func (r *run) group(rows []int32) (*tree, error) {
	t := &tree{nodes: []node{{parent: -1}}, base: []int{0}, leaf: make([]uint32, len(rows))}
	for i, g := range r.plan.Groups {
		if err := r.ctx.Err(); err != nil {
			return nil, fmt.Errorf("engine: stopped at group %d: %w", i+1, err)
		}
		keys, err := r.levelKeys(g, rows)
		if err != nil {
			return nil, err
		}
		last := t.base[i]
		pairs := combine(t.leaf, len(t.nodes)-last, keys, r.e.denseSpace)
		t.levels = append(t.levels, keys)
		t.base = append(t.base, len(t.nodes))
		if len(t.nodes)+len(pairs) > r.e.opts.MaxGroups {
			return nil, &LimitError{
				Step: fmt.Sprintf("grouping by %s makes more than %d groups", g.Label(), r.e.opts.MaxGroups),
				Mend: "group by something coarser, or filter first",
			}
		}
		for _, p := range pairs {
			t.nodes = append(t.nodes, node{parent: int32(last) + int32(p>>32), level: int32(i + 1), key: uint32(p)})
		}
	}
	return t, nil
}

func (r *run) levelKeys(g plan.Group, rows []int32) (*levelKeys, error) {
	col, err := r.e.column(r.plan.Records, g.Ref)
	if err != nil {
		return nil, err
	}
	if g.Unit != "" {
		return numberUnits(r.ctx, col, rows, g, r.plan.Calendar, r.e.opts.Workers)
	}
	return numberValues(r.ctx, col, rows, r.e.opts.Workers)
}

// combine splits every parent group by a level's keys. It rewrites group, the
// number of each row's parent, to the number of its part, and returns the parts
// in order, each as parent<<32 | key. Up to denseSpace possible pairs, or a few
// for each row, a table is faster than sorting the pairs that occur.
func combine(group []uint32, parents int, k *levelKeys, denseSpace uint64) []uint64 {
	if space := uint64(parents) * uint64(k.card); space <= denseSpace || denseSpace > 0 && space <= 4*uint64(len(group)) {
		return combineDense(group, int(space), k)
	}
	pairs := make([]uint64, len(group))
	for i, g := range group {
		pairs[i] = uint64(g)<<32 | uint64(k.keys[i])
	}
	distinct := slices.Clone(pairs)
	slices.Sort(distinct)
	distinct = slices.Compact(distinct)
	number := make(map[uint64]uint32, len(distinct))
	for i, p := range distinct {
		number[p] = uint32(i)
	}
	for i, p := range pairs {
		group[i] = number[p]
	}
	return distinct
}

// combineDense is combine by a table of every possible pair, without a hash.
func combineDense(group []uint32, space int, k *levelKeys) []uint64 {
	number := make([]uint32, space)
	card := uint32(k.card)
	for i, g := range group {
		p := g*card + k.keys[i]
		group[i] = p
		number[p] = 1
	}
	var pairs []uint64
	for p, there := range number {
		if there != 0 {
			number[p] = uint32(len(pairs))
			pairs = append(pairs, uint64(p/k.card)<<32|uint64(p%k.card))
		}
	}
	for i, p := range group {
		group[i] = number[p]
	}
	return pairs
}

// measure gives every node its range, as if the rows stood in the order of the
// nodes.
func (t *tree) measure() {
	first := t.base[len(t.base)-1]
	for _, g := range t.leaf {
		t.nodes[first+int(g)].end++
	}
	at := int32(0)
	for i := first; i < len(t.nodes); i++ {
		n := &t.nodes[i]
		n.start, n.end = at, at+n.end
		at = n.end
	}
	if first == 0 {
		return
	}
	for i := range t.nodes[:first] {
		t.nodes[i].start, t.nodes[i].end = 0, 0
	}
	// Children of a parent lie side by side, so theirs are its bounds. Going back,
	// the last child met is the first.
	for i := len(t.nodes) - 1; i > 0; i-- {
		n, p := t.nodes[i], &t.nodes[t.nodes[i].parent]
		p.start = n.start
		p.end = max(p.end, n.end)
	}
}

// placed returns the kept rows in the order of the innermost groups, table order
// within each.
func (t *tree) placed(rows []int32) []int32 {
	leaves := len(t.nodes) - t.base[len(t.base)-1]
	if leaves == 1 {
		return rows
	}
	start := make([]int32, leaves)
	for g := range start {
		start[g] = t.nodes[t.base[len(t.base)-1]+g].start
	}
	out := make([]int32, len(rows))
	for i, g := range t.leaf {
		out[start[g]] = rows[i]
		start[g]++
	}
	return out
}
