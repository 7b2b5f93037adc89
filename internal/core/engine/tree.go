package engine

import "gavrik/internal/core/kernel"

// node is one group, or, as node 0, all kept records.
type node struct {
	parent int32
	level  int32 // 0 for the root, 1 for the outermost groups
	key    uint32
	// joined is how many groups were put into this one, the rest of a top level.
	joined int32
	// next is the first node after this one and all within it, once the nodes
	// stand in the order they are shown.
	next int32
}

// tree is the groups of every level. Nodes of one level follow each other, sorted
// by parent and then by value, blanks last and the rest behind them; once arranged,
// each stands before its parts, in the order shown.
type tree struct {
	nodes  []node
	levels []*levelKeys // levels[l] numbers the values of level l+1
	base   []int        // base[l] is the first node of level l, before arranging
}

// bytes estimates the memory held; nil holds none.
func (t *tree) bytes() int64 {
	if t == nil {
		return 0
	}
	n := 20 * int64(len(t.nodes))
	for _, k := range t.levels {
		n += 8 * int64(len(k.values)+len(k.floats))
	}
	return n
}

// bytes estimates the memory held; nil holds none.
func (s *side) bytes() int64 {
	if s == nil {
		return 0
	}
	return 4 * int64(len(s.rows.list)+len(s.leaf)+len(s.counts)+len(s.start)+len(s.end))
}

// forgetRecords lets the keys of the records go, four bytes each, which nothing reads
// once the groups are totalled.
func (t *tree) forgetRecords() {
	for _, k := range t.levels {
		k.keys, k.byRow = nil, nil
	}
}

// first is where the innermost groups begin, before arranging.
func (t *tree) first() int { return t.base[len(t.base)-1] }

// side is a list of records divided among the groups of a tree. A comparison divides two
// lists to one tree.
type side struct {
	rows rows
	leaf []uint32 // for each record its innermost group, counted from first()
	// counts are the records of each innermost group; start and end, for every
	// node, the places of its records once they stand in the order of the nodes.
	counts     []int32
	start, end []int32
}

// size is how many records a node holds.
func (s *side) size(n int32) int { return int(s.end[n] - s.start[n]) }

// place gives every node its range, as if the records stood in the order of the
// nodes.
func (s *side) place(t *tree) {
	s.start, s.end = make([]int32, len(t.nodes)), make([]int32, len(t.nodes))
	first := t.first()
	at := int32(0)
	for g, count := range s.counts {
		s.start[first+g], s.end[first+g] = at, at+count
		at += count
	}
	t.spread(s.start, s.end)
}

// spread gives the nodes above the innermost the range of their parts, which lie
// side by side: going back, the last part met is the first.
func (t *tree) spread(start, end []int32) {
	for i := len(t.nodes) - 1; i > 0; i-- {
		if start[i] == end[i] {
			continue // a group without records
		}
		p := t.nodes[i].parent
		start[p], end[p] = start[i], max(end[p], end[i])
	}
}

// placed returns the rows in the order of the innermost groups, in their own order
// within each.
func (s *side) placed(t *tree, stopped func() bool) rows {
	if len(s.counts) == 1 {
		return s.rows
	}
	next := make([]int32, len(s.counts))
	copy(next, s.start[t.first():])
	out := make([]int32, s.rows.n)
	for lo := 0; lo < len(s.leaf) && !stopped(); lo += kernel.BlockRows {
		for i, g := range s.leaf[lo:min(lo+kernel.BlockRows, len(s.leaf))] {
			out[next[g]] = s.rows.at(lo + i)
			next[g]++
		}
	}
	return listed(out)
}

// ancestors says for each innermost group which node of a level it lies in,
// counted from the first of that level.
func (t *tree) ancestors(level int) []uint32 {
	first := t.first()
	out := make([]uint32, len(t.nodes)-first)
	for g := range out {
		n := int32(first + g)
		for int(t.nodes[n].level) > level {
			n = t.nodes[n].parent
		}
		out[g] = uint32(int(n) - t.base[level])
	}
	return out
}
