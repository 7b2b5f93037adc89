// Totals of every pair of a group down and one across.

package aggregation

import (
	"fmt"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/result"
)

// Pairing is the figures of every pair of a group of one kind and one of another,
// worked out from the records of both.
type Pairing struct {
	// node is the pair's place among the figures, by the number of its first group
	// times columns plus that of its second, or -1.
	node    []int32
	columns int
	Figures []*Aggregates
}

// At finds a pair.
func (p *Pairing) At(first, second int) int32 { return p.node[first*p.columns+second] }

// maxPairs bounds the table of a pairing.
const maxPairs = 1 << 23

// Partition says which group each record lies in, counted from 0: group[leaf] or, if
// group is nil, leaf itself.
type Partition struct {
	Leaf, Group []uint32
	Groups      int // how many there are
}

// LevelPartition is the groups of one level of a tree.
func LevelPartition(t *grouping.Tree, leaf []uint32, level int) Partition {
	d := Partition{Leaf: leaf, Groups: t.LevelSize(level)}
	if level < len(t.Base)-1 {
		d.Group = t.Ancestors(level)
	}
	return d
}

// add multiplies what is there by a factor and adds the groups of the positions from
// lo on.
func (d Partition) add(out []uint32, lo int, factor uint32) {
	leaf := d.Leaf[lo : lo+len(out)]
	if d.Group == nil {
		for i, l := range leaf {
			out[i] = out[i]*factor + l
		}
		return
	}
	for i, l := range leaf {
		out[i] = out[i]*factor + d.Group[l]
	}
}

// Pair works the totals out for the pairs of two partitions of the same records.
func Pair(job *work.Job, of *fields.Fields, rs kernel.Rows, first, second Partition) (*Pairing, error) {
	p, w, err := pair(job, of, rs, first, second)
	if err != nil {
		return nil, err
	}
	err = w.all()
	p.Figures = w.done
	return p, err
}

// pair finds the pairs that have records, and returns what works their totals out.
func pair(
	job *work.Job, of *fields.Fields, rs kernel.Rows, first, second Partition,
) (*Pairing, *Aggregator, error) {
	if uint64(first.Groups)*uint64(second.Groups) > maxPairs {
		return nil, nil, &result.LimitError{
			Step: fmt.Sprintf(
				"%d groups down and %d across make more than %d cells", first.Groups, second.Groups, maxPairs,
			),
			Mend: "group by something coarser, keep only the top groups, or filter first",
		}
	}
	space := first.Groups * second.Groups
	if err := job.Need(4*int64(rs.N)+4*int64(space), "crossing the groups"); err != nil {
		return nil, nil, err
	}
	p := &Pairing{node: make([]int32, space), columns: second.Groups}
	leaf := make([]uint32, rs.N)
	err := job.CountCodes(leaf, p.node, func(lo, hi int) {
		first.add(leaf[lo:hi], lo, 1)
		second.add(leaf[lo:hi], lo, uint32(second.Groups))
	})
	if err != nil {
		return nil, nil, err
	}
	t := &grouping.Tree{Nodes: []grouping.Node{{Parent: -1}}, Base: []int{0, 1}}
	s := &grouping.Side{Rows: rs, Leaf: leaf, Weights: of.Weights}
	number := make([]uint32, len(p.node))
	for l, n := range p.node {
		p.node[l] = -1
		if n > 0 {
			number[l], p.node[l] = uint32(len(s.Counts)), int32(len(t.Nodes))
			t.Nodes = append(t.Nodes, grouping.Node{Level: 1, Key: uint32(l)})
			s.Counts = append(s.Counts, n)
		}
	}
	err = job.EachBlock(rs.N, func(lo, hi int) {
		for i, l := range leaf[lo:hi] {
			leaf[lo+i] = number[l]
		}
	})
	if err != nil {
		return nil, nil, err
	}
	s.Place(t)
	return p, New(job, of, t, s), nil
}
