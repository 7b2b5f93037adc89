// The order in which groups are shown.

package grouping

import (
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Ranking orders groups by a total.
type Ranking interface {
	// Value is a node's total as it is stored: exact, or approximate where Approx says so.
	Value(node int32) (exact int64, approx float64, blank bool)
	Approx() bool
	// SortKey is a number that orders a node's total among others, and whether it is blank.
	SortKey(node int32) (key uint64, blank bool)
}

// Rank is the ranking by a measure of the plan.
type Rank func(measure int) Ranking

// orderer orders the groups of one tree.
type orderer struct {
	job  *work.Job
	cal  calendar.Calendar
	tree *Tree
	side *Side
	rank Rank
}

// Arrange puts the nodes into the order they are shown, every group before its
// parts. It returns where each node came from.
func (t *Tree) Arrange(
	job *work.Job, cal calendar.Calendar, s *Side, groups []plan.Group, rank Rank,
) []int32 {
	o := &orderer{job: job, cal: cal, tree: t, side: s, rank: rank}
	from := o.shownOrder(groups)
	went := make([]int32, len(from))
	for i, n := range from {
		went[n] = int32(i)
	}
	nodes := make([]Node, len(from))
	for i, n := range from {
		nodes[i] = t.Nodes[n]
	}
	deepest := int32(len(groups))
	// The next node of the same or an outer level; scanned from the back.
	following := make([]int32, deepest+1)
	for l := range following {
		following[l] = int32(len(nodes))
	}
	for i := len(nodes) - 1; i >= 0; i-- {
		n := &nodes[i]
		if n.Parent >= 0 {
			n.Parent = went[n.Parent]
		}
		n.Next = following[n.Level]
		for l := n.Level; l <= deepest; l++ {
			following[l] = int32(i)
		}
	}
	t.Nodes = nodes
	return from
}

// shownOrder lists the nodes depth first, each parent's children as its level
// asks. Ties keep label order.
func (o *orderer) shownOrder(groups []plan.Group) []int32 {
	t := o.tree
	// Children of one parent lie side by side: children[p] to children[p+1].
	n := len(t.Nodes)
	first := make([]int32, n+1)
	for _, c := range t.Nodes[1:] {
		first[c.Parent+1]++
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
			o.siblings(groups[t.Nodes[p].Level], siblings[lo:hi])
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

// siblings orders the groups of one parent, which come in label order. Blanks
// come last whichever way the others run, and the rest of a top level behind them.
func (o *orderer) siblings(g plan.Group, nodes []int32) {
	order := g.Order
	if order.By == view.ByLabel && !order.Desc {
		return
	}
	k := o.tree.Levels[o.tree.Nodes[nodes[0]].Level-1]
	var listed func(key uint32) uint64
	if order.By == view.ByList {
		listed = o.listOrder(k, g)
	}
	var ranking Ranking
	if order.By == view.ByTotal {
		ranking = o.rank(order.Measure)
	}
	pairs := make([]kernel.Pair, 0, len(nodes))
	var blanks, rest []int32
	for _, n := range nodes {
		var key uint64
		node := o.tree.Nodes[n]
		blank := node.Key == 0
		switch {
		case node.Joined > 0:
			rest = append(rest, n)
			continue
		case order.By == view.ByCount:
			key, blank = uint64(o.side.Size(n)), false
		case order.By == view.ByTotal:
			key, blank = ranking.SortKey(n)
		case order.By == view.ByList:
			key = listed(node.Key)
		default:
			key = uint64(node.Key)
		}
		if blank {
			blanks = append(blanks, n)
			continue
		}
		if order.Desc {
			key = ^key
		}
		pairs = append(pairs, kernel.Pair{Key: key, Pos: n})
	}
	if len(pairs) < fewSiblings {
		slices.SortFunc(pairs, kernel.ComparePairs) // positions are node numbers, in label order
	} else {
		pairs, _ = kernel.SortPairs(pairs, make([]kernel.Pair, len(pairs)), 64, o.job.IsStopped)
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
func (o *orderer) listOrder(k *numbering.Keys, g plan.Group) func(key uint32) uint64 {
	place := map[string]uint64{}
	for i, v := range g.Order.List {
		if _, twice := place[v]; !twice {
			place[v] = uint64(i)
		}
	}
	people, plain := format.NewWriter(format.People, o.cal), format.NewWriter(format.Plain, o.cal)
	return func(key uint32) uint64 {
		for _, w := range []*format.Writer{people, plain} {
			if at, ok := place[table.Fold(result.GroupText(w, o.cal, g, k.Cell(key, g)))]; ok {
				return at
			}
		}
		return uint64(len(g.Order.List))
	}
}
