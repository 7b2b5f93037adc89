// The records of one side of a comparison, divided among the groups of a tree.

package grouping

import "gavrik/internal/core/kernel"

// Side is a list of records divided among the groups of a tree. A comparison divides two
// lists to one tree.
type Side struct {
	Rows kernel.Rows
	Leaf []uint32 // for each record its innermost group, counted from first()
	// Counts are the records of each innermost group; start and end, for every
	// node, the places of its records once they stand in the order of the nodes.
	Counts     []int32
	Start, End []int32
	// Weights are those of the table's rows, and sizes, if they have some, how many records every node holds.
	Weights kernel.Weights
	sizes   []int
}

// Size is how many records a node holds.
func (s *Side) Size(n int32) int {
	if s.sizes != nil {
		return s.sizes[n]
	}
	return int(s.End[n] - s.Start[n])
}

// weigh finds how many records the nodes hold whose rows stand for several each.
func (s *Side) weigh(t *Tree) {
	if s.Weights == nil {
		return
	}
	s.sizes = make([]int, len(t.Nodes))
	for at, g := range s.Leaf {
		s.sizes[t.First()+int(g)] += int(s.Weights.At(s.Rows.At(at)))
	}
	for i := len(t.Nodes) - 1; i > 0; i-- {
		s.sizes[t.Nodes[i].Parent] += s.sizes[i]
	}
}

// Place gives every node its range, as if the records stood in the order of the
// nodes.
func (s *Side) Place(t *Tree) {
	s.Start, s.End = make([]int32, len(t.Nodes)), make([]int32, len(t.Nodes))
	first := t.First()
	at := int32(0)
	for g, count := range s.Counts {
		s.Start[first+g], s.End[first+g] = at, at+count
		at += count
	}
	t.Spread(s.Start, s.End)
	s.weigh(t)
}

// Placed returns the rows in the order of the innermost groups, in their own order
// within each.
func (s *Side) Placed(t *Tree, stopped func() bool) kernel.Rows {
	if len(s.Counts) == 1 {
		return s.Rows
	}
	next := make([]int32, len(s.Counts))
	copy(next, s.Start[t.First():])
	out := make([]int32, s.Rows.N)
	for lo := 0; lo < len(s.Leaf) && !stopped(); lo += kernel.BlockRows {
		for i, g := range s.Leaf[lo:min(lo+kernel.BlockRows, len(s.Leaf))] {
			out[next[g]] = s.Rows.At(lo + i)
			next[g]++
		}
	}
	return kernel.Listed(out)
}

// Arrange moves the places of a side's records along with the nodes. It returns the
// place of each innermost group among its like.
func (s *Side) Arrange(t *Tree, from []int32) (place []uint32) {
	size := make([]int32, len(from))
	for i, n := range from {
		size[i] = s.End[n] - s.Start[n]
	}
	if s.sizes != nil {
		sizes := make([]int, len(from))
		for i, n := range from {
			sizes[i] = s.sizes[n]
		}
		s.sizes = sizes
	}
	first, deepest := int32(t.First()), int32(len(t.Levels))
	place = make([]uint32, int32(len(from))-first)
	at, leaves := int32(0), uint32(0)
	for i, n := range from {
		s.Start[i], s.End[i] = at, at+size[i]
		if t.Nodes[i].Level == deepest {
			place[n-first] = leaves
			leaves++
			at = s.End[i]
		}
	}
	return place
}

// Bytes estimates the memory held; nil holds none.
func (s *Side) Bytes() int64 {
	if s == nil {
		return 0
	}
	return 4 * int64(len(s.Rows.List)+len(s.Leaf)+len(s.Counts)+len(s.Start)+len(s.End)+2*len(s.sizes))
}
