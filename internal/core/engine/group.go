package engine

import (
	"fmt"
	"slices"
	"sync"

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
	counts []int32      // how many kept rows each innermost group holds
}

// group builds the tree in label order: nodes of one level follow each other,
// sorted by parent and then by value.
func (r *run) group(rows []int32) (*tree, error) {
	t := &tree{nodes: []node{{parent: -1}}, base: []int{0}, leaf: make([]uint32, len(rows)), counts: []int32{int32(len(rows))}}
	for i, g := range r.plan.Groups {
		if err := r.ctx.Err(); err != nil {
			return nil, fmt.Errorf("engine: stopped at group %d: %w", i+1, err)
		}
		keys, err := r.levelKeys(g, rows)
		if err != nil {
			return nil, err
		}
		last := t.base[i]
		pairs, err := r.combine(t, len(t.nodes)-last, keys)
		if err != nil {
			return nil, err
		}
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

// combine splits every innermost group by a level's keys. It rewrites the tree's
// leaf and counts and returns the new groups in order, each as parent<<32 | key.
// Up to denseSpace possible pairs, or a few for each row, a table is faster than
// sorting the pairs that occur.
func (r *run) combine(t *tree, parents int, k *levelKeys) ([]uint64, error) {
	dense := r.e.denseSpace
	if space := uint64(parents) * uint64(k.card); space <= dense || dense > 0 && space <= 4*uint64(len(t.leaf)) {
		return r.combineDense(t, int(space), k)
	}
	pairs := make([]uint64, len(t.leaf))
	for i, g := range t.leaf {
		pairs[i] = uint64(g)<<32 | uint64(k.keys[i])
	}
	distinct := slices.Clone(pairs)
	slices.Sort(distinct)
	distinct = slices.Compact(distinct)
	number := make(map[uint64]uint32, len(distinct))
	for i, p := range distinct {
		number[p] = uint32(i)
	}
	t.counts = make([]int32, len(distinct))
	for i, p := range pairs {
		g := number[p]
		t.leaf[i] = g
		t.counts[g]++
	}
	return distinct, nil
}

// combineDense is combine by a table of every possible pair, without a hash.
func (r *run) combineDense(t *tree, space int, k *levelKeys) ([]uint64, error) {
	workers := r.e.opts.Workers
	if space > maxPartials {
		workers = 1
	}
	card := uint32(k.card)
	counts := make([]int32, space)
	var mu sync.Mutex // protects counts
	share := max(1, (len(t.leaf)+workers-1)/workers)
	err := eachShare(r.ctx, len(t.leaf), share, func(lo, hi int, stopped func() bool) {
		part := counts
		if workers > 1 {
			part = make([]int32, space)
		}
		for ; lo < hi && !stopped(); lo += blockRows {
			end := min(lo+blockRows, hi)
			pairBlock(t.leaf[lo:end], k.keys[lo:end], card, part)
		}
		if workers > 1 {
			mu.Lock()
			defer mu.Unlock()
			for p, n := range part {
				counts[p] += n
			}
		}
	})
	if err != nil {
		return nil, err
	}
	number := make([]uint32, space)
	var pairs []uint64
	t.counts = t.counts[:0:0]
	for p, n := range counts {
		if n != 0 {
			number[p] = uint32(len(pairs))
			pairs = append(pairs, uint64(p/k.card)<<32|uint64(p%k.card))
			t.counts = append(t.counts, n)
		}
	}
	if len(pairs) == space {
		return pairs, nil // every pair occurs: their numbers are right as they are
	}
	return pairs, eachBlock(r.ctx, len(t.leaf), r.e.opts.Workers, func(lo, hi int) {
		leaf := t.leaf[lo:hi]
		for i, p := range leaf {
			leaf[i] = number[p]
		}
	})
}

// pairBlock numbers the pairs of some rows and counts them.
func pairBlock(leaf, keys []uint32, card uint32, counts []int32) {
	keys = keys[:len(leaf)]
	for i, g := range leaf {
		p := g*card + keys[i]
		leaf[i] = p
		counts[p]++
	}
}

// measure gives every node its range, as if the rows stood in the order of the
// nodes.
func (t *tree) measure() {
	first := t.base[len(t.base)-1]
	at := int32(0)
	for g, count := range t.counts {
		n := &t.nodes[first+g]
		n.start, n.end = at, at+count
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
