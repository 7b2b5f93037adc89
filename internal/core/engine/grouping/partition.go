// The two ways to divide: a table of every combination, and a radix sort of those that occur.

package grouping

import (
	"cmp"
	"fmt"
	"math/bits"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/numbering"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// partitionDense divides the records among levels of few values by a table of every possible
// combination, without a hash.
func (g *Grouping) partitionDense(run []*numbering.Keys, groups []plan.Group, space int) error {
	counts, err := g.countSlots(run)
	if err != nil {
		return err
	}
	// sums[l] counts the records by the first l levels of the run.
	sums := make([][]int32, len(run)+1)
	sums[len(run)] = counts
	for l := len(run) - 1; l > 0; l-- {
		card := slots(run[l])
		sums[l] = make([]int32, len(sums[l+1])/card)
		for i := range sums[l] {
			for _, n := range sums[l+1][i*card : (i+1)*card] {
				sums[l][i] += n
			}
			if i%kernel.BlockRows == 0 && g.Job.IsStopped() {
				return g.Job.Stopped()
			}
		}
	}
	slot := make([]uint32, g.parents()) // of each group of the level before
	for i := range slot {
		slot[i] = uint32(i)
	}
	for l, k := range run {
		parent := g.Tree.First()
		g.Tree.Levels, g.Tree.Base = append(g.Tree.Levels, k), append(g.Tree.Base, len(g.Tree.Nodes))
		var next []uint32
		add := func(p int, key uint32) {
			s := slot[p]*uint32(slots(k)) + key - k.Lowest()
			if sums[l+1][s] > 0 || groups[l].Empty && key > 0 && (k.Listable == nil || k.Listable(key)) {
				g.Tree.Nodes = append(g.Tree.Nodes, Node{
					Parent: int32(parent + p), Level: int32(len(g.Tree.Levels)), Key: key,
				})
				next = append(next, s)
			}
		}
		for p := range slot {
			for key := uint32(1); key < uint32(k.Card); key++ {
				if add(p, key); key%kernel.CountRows == 0 && g.Job.IsStopped() {
					return g.Job.Stopped()
				}
			}
			if k.Blanks {
				add(p, 0)
			}
			if err := g.tooMany(
				len(g.Tree.Nodes)-1, groups[l],
			); err != nil || p%kernel.CountRows == 0 && g.Job.IsStopped() {
				return cmp.Or(err, g.Job.Stopped())
			}
		}
		slot = next
	}
	g.counts = make([]int32, len(slot))
	for i, s := range slot {
		g.counts[i] = counts[s]
	}
	return g.renumber(slot, space)
}

// renumber turns slots into the numbers of the groups that have them.
func (g *Grouping) renumber(slot []uint32, space int) error {
	number := make([]uint32, space)
	same := true
	for i, s := range slot {
		number[s] = uint32(i)
		same = same && uint32(i) == s
	}
	if same {
		return nil
	}
	return g.Job.EachBlock(len(g.Leaf), func(lo, hi int) {
		leaf := g.Leaf[lo:hi]
		for i, p := range leaf {
			leaf[i] = number[p]
		}
	})
}

// slots is how many numbers occur.
func slots(k *numbering.Keys) int { return max(1, k.Card-int(k.Lowest())) }

// countSlots writes each record's slot, its combination of values, and counts the
// records of each.
func (g *Grouping) countSlots(run []*numbering.Keys) ([]int32, error) {
	space := g.parents()
	for _, k := range run {
		space *= slots(k)
	}
	counts := make([]int32, space)
	first := g.parents() == 1
	return counts, g.Job.CountCodes(g.Leaf, counts, func(lo, hi int) {
		leaf, buf := g.Leaf[lo:hi], make([]uint32, kernel.CountRows)
		for l, k := range run {
			keys := k.At(g.rows, lo, hi, buf)
			if l == 0 && first {
				copySlots(leaf, keys, k.Lowest())
			} else {
				addSlots(leaf, keys, uint32(slots(k)), k.Lowest())
			}
		}
	})
}

func copySlots(leaf, keys []uint32, lowest uint32) {
	keys = keys[:len(leaf)]
	for i := range leaf {
		leaf[i] = keys[i] - lowest
	}
}

func addSlots(leaf, keys []uint32, card, lowest uint32) {
	keys = keys[:len(leaf)]
	for i, p := range leaf {
		leaf[i] = p*card + keys[i] - lowest
	}
}

// partitionSparse divides the records among a level of many values by sorting the pairs of a
// group and a value that occur.
func (g *Grouping) partitionSparse(k *numbering.Keys, level plan.Group) error {
	if err := g.Job.Need(32*int64(g.rows.N), "grouping by "+catalog.LowerFirst(level.Label())); err != nil {
		return err
	}
	if level.Empty {
		return &result.LimitError{
			Step: fmt.Sprintf(
				"showing %s without records makes more groups than can be shown", catalog.LowerFirst(level.Label()),
			),
			Mend: "filter first, or show only the groups that have records",
		}
	}
	pairs, err := g.Job.Pairs(len(g.Leaf))
	if err != nil {
		return err
	}
	// A key is the group's number and behind it the value's, in as few bits as they
	// need, so that the first digit divides them to all cores.
	low := bits.Len32(k.Rest())
	err = g.Job.EachBlock(len(pairs), func(lo, hi int) {
		for i, key := range k.At(g.rows, lo, hi, make([]uint32, kernel.BlockRows)) {
			if key == 0 {
				key = k.Rest() // blanks come last
			}
			pairs[lo+i] = kernel.Pair{Key: uint64(g.Leaf[lo+i])<<low | uint64(key), Pos: int32(lo + i)}
		}
	})
	if err != nil {
		return err
	}
	scratch, err := g.Job.Pairs(len(pairs))
	if err != nil {
		return err
	}
	pairs = kernel.SortParts(pairs, scratch, low+bits.Len(uint(g.parents())), g.Job.Workers, g.Job.IsStopped)
	if err := g.Job.Stopped(); err != nil {
		return err
	}
	parent := g.Tree.First()
	g.Tree.Levels, g.Tree.Base = append(g.Tree.Levels, k), append(g.Tree.Base, len(g.Tree.Nodes))
	last := ^uint64(0)
	g.counts = nil
	for i, p := range pairs {
		if p.Key != last {
			last = p.Key
			key := uint32(p.Key & (1<<low - 1))
			if key == k.Rest() {
				key = 0
			}
			g.Tree.Nodes = append(g.Tree.Nodes, Node{
				Parent: int32(parent) + int32(p.Key>>low), Level: int32(len(g.Tree.Levels)), Key: key,
			})
			g.counts = append(g.counts, 0)
		}
		g.counts[len(g.counts)-1]++
		g.Leaf[p.Pos] = uint32(len(g.Tree.Nodes) - 1 - g.Tree.First())
		if i%kernel.BlockRows == 0 {
			if err := cmp.Or(g.tooMany(len(g.Tree.Nodes)-1, level), g.Job.Stopped()); err != nil {
				return err
			}
		}
	}
	return g.tooMany(len(g.Tree.Nodes)-1, level)
}
