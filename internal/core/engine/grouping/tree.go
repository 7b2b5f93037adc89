// Package grouping divides records among groups: a tree of them, whose levels are made one from the
// other, and for every record the innermost group that it lies in.
package grouping

import (
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/result"
)

// Node is one group, or, as node 0, all kept records.
type Node struct {
	Parent int32
	Level  int32 // 0 for the root, 1 for the outermost groups
	Key    uint32
	// Joined is how many groups were put into this one, the rest of a top level.
	Joined int32
	// Next is the first node after this one and all within it, once the nodes
	// stand in the order they are shown.
	Next int32
}

// Tree is the groups of every level. Nodes of one level follow each other, sorted
// by parent and then by value, blanks last and the rest behind them; once arranged,
// each stands before its parts, in the order shown.
type Tree struct {
	Nodes  []Node
	Levels []*numbering.Keys // Levels[l] numbers the values of level l+1
	Base   []int             // Base[l] is the first node of level l, before arranging
	// Gone are the groups that were left out whole beside others joined into one, by the path of
	// their parent: what was joined is all but those that stand beside it, and these.
	Gone map[string]*result.Gone
}

// Bytes estimates the memory held; nil holds none.
func (t *Tree) Bytes() int64 {
	if t == nil {
		return 0
	}
	n := 20 * int64(len(t.Nodes))
	for _, k := range t.Levels {
		n += 8 * int64(len(k.Values)+len(k.Floats))
	}
	return n
}

// ForgetRecords lets the keys of the records go, four bytes each, which nothing reads
// once the groups are totalled.
func (t *Tree) ForgetRecords() {
	for _, k := range t.Levels {
		k.Numbers, k.ByRow = nil, nil
	}
}

// First is where the innermost groups begin, before arranging.
func (t *Tree) First() int { return t.Base[len(t.Base)-1] }

// Spread gives the nodes above the innermost the range of their parts, which lie
// side by side: going back, the last part met is the first.
func (t *Tree) Spread(start, end []int32) {
	for i := len(t.Nodes) - 1; i > 0; i-- {
		if start[i] == end[i] {
			continue // a group without records
		}
		p := t.Nodes[i].Parent
		start[p], end[p] = start[i], max(end[p], end[i])
	}
}

// Ancestors says for each innermost group which node of a level it lies in,
// counted from the first of that level.
func (t *Tree) Ancestors(level int) []uint32 {
	first := t.First()
	out := make([]uint32, len(t.Nodes)-first)
	for g := range out {
		n := int32(first + g)
		for int(t.Nodes[n].Level) > level {
			n = t.Nodes[n].Parent
		}
		out[g] = uint32(int(n) - t.Base[level])
	}
	return out
}

// LevelSize counts the groups of a level, before arranging.
func (t *Tree) LevelSize(level int) int {
	if level+1 < len(t.Base) {
		return t.Base[level+1] - t.Base[level]
	}
	return len(t.Nodes) - t.Base[level]
}
