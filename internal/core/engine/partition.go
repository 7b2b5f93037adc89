package engine

import (
	"cmp"
	"fmt"
	"math/bits"
	"sync"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// partitionDense divides the records among levels of few values by a table of every possible
// combination, without a hash.
func (g *grouping) partitionDense(run []*levelKeys, groups []plan.Group, space int) error {
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
			if i%kernel.BlockRows == 0 && g.isStopped() {
				return g.stopped()
			}
		}
	}
	slot := make([]uint32, g.parents()) // of each group of the level before
	for i := range slot {
		slot[i] = uint32(i)
	}
	for l, k := range run {
		parent := g.tree.first()
		g.tree.levels, g.tree.base = append(g.tree.levels, k), append(g.tree.base, len(g.tree.nodes))
		var next []uint32
		add := func(p int, key uint32) {
			s := slot[p]*uint32(slots(k)) + key - k.lowest()
			if sums[l+1][s] > 0 || groups[l].Empty && key > 0 && (k.listable == nil || k.listable(key)) {
				g.tree.nodes = append(g.tree.nodes, node{parent: int32(parent + p), level: int32(len(g.tree.levels)), key: key})
				next = append(next, s)
			}
		}
		for p := range slot {
			for key := uint32(1); key < uint32(k.card); key++ {
				if add(p, key); key%countRows == 0 && g.isStopped() {
					return g.stopped()
				}
			}
			if k.blanks {
				add(p, 0)
			}
			if err := g.tooMany(len(g.tree.nodes)-1, groups[l]); err != nil || p%countRows == 0 && g.isStopped() {
				return cmp.Or(err, g.stopped())
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
func (g *grouping) renumber(slot []uint32, space int) error {
	number := make([]uint32, space)
	same := true
	for i, s := range slot {
		number[s] = uint32(i)
		same = same && uint32(i) == s
	}
	if same {
		return nil
	}
	return kernel.EachBlock(g.ctx, len(g.leaf), g.e.opts.Workers, func(lo, hi int) {
		leaf := g.leaf[lo:hi]
		for i, p := range leaf {
			leaf[i] = number[p]
		}
	})
}

// lowest is the smallest number that occurs: columns without blanks have no 0.
func (k *levelKeys) lowest() uint32 {
	if k.blanks {
		return 0
	}
	return 1
}

func slots(k *levelKeys) int { return max(1, k.card-int(k.lowest())) }

// countSlots writes each record's slot, its combination of values, and counts the
// records of each.
func (g *grouping) countSlots(run []*levelKeys) ([]int32, error) {
	space := g.parents()
	for _, k := range run {
		space *= slots(k)
	}
	counts := make([]int32, space)
	first := g.parents() == 1
	return counts, g.countParts(g.leaf, counts, func(lo, hi int) {
		leaf, buf := g.leaf[lo:hi], make([]uint32, countRows)
		for l, k := range run {
			keys := k.at(g.rows, lo, hi, buf)
			if l == 0 && first {
				copySlots(leaf, keys, k.lowest())
			} else {
				addSlots(leaf, keys, uint32(slots(k)), k.lowest())
			}
		}
	})
}

// countParts fills leaf block by block and counts how often each value occurs in it.
func (r *run) countParts(leaf []uint32, counts []int32, fill func(lo, hi int)) error {
	workers := r.e.opts.Workers
	if len(counts) > maxPartials {
		workers = 1
	}
	var mu sync.Mutex // protects counts
	share := max(1, (len(leaf)+workers-1)/workers)
	return kernel.EachShare(r.ctx, len(leaf), share, func(lo, hi int, stopped func() bool) {
		part := counts
		if workers > 1 {
			part = make([]int32, len(counts))
		}
		for ; lo < hi && !stopped(); lo += countRows {
			end := min(lo+countRows, hi)
			fill(lo, end)
			for _, p := range leaf[lo:end] {
				part[p]++
			}
		}
		if workers > 1 {
			mu.Lock()
			defer mu.Unlock()
			for p, n := range part {
				counts[p] += n
			}
		}
	})
}

// countRows is how many records are divided at a time, so that what was written is
// still near when it is counted.
const countRows = 4096

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
func (g *grouping) partitionSparse(k *levelKeys, level plan.Group) error {
	if err := g.need(32*int64(g.rows.n), "grouping by "+catalog.LowerFirst(level.Label())); err != nil {
		return err
	}
	if level.Empty {
		return &result.LimitError{
			Step: fmt.Sprintf("showing %s without records makes more groups than can be shown", catalog.LowerFirst(level.Label())),
			Mend: "filter first, or show only the groups that have records",
		}
	}
	pairs, err := g.room(len(g.leaf))
	if err != nil {
		return err
	}
	// A key is the group's number and behind it the value's, in as few bits as they
	// need, so that the first digit divides them to all cores.
	low := bits.Len32(k.rest())
	err = kernel.EachBlock(g.ctx, len(pairs), g.e.opts.Workers, func(lo, hi int) {
		for i, key := range k.at(g.rows, lo, hi, make([]uint32, kernel.BlockRows)) {
			if key == 0 {
				key = k.rest() // blanks come last
			}
			pairs[lo+i] = kernel.Pair{Key: uint64(g.leaf[lo+i])<<low | uint64(key), Pos: int32(lo + i)}
		}
	})
	if err != nil {
		return err
	}
	scratch, err := g.room(len(pairs))
	if err != nil {
		return err
	}
	pairs = kernel.SortParts(pairs, scratch, low+bits.Len(uint(g.parents())), g.e.opts.Workers, g.isStopped)
	if err := g.stopped(); err != nil {
		return err
	}
	parent := g.tree.first()
	g.tree.levels, g.tree.base = append(g.tree.levels, k), append(g.tree.base, len(g.tree.nodes))
	last := ^uint64(0)
	g.counts = nil
	for i, p := range pairs {
		if p.Key != last {
			last = p.Key
			key := uint32(p.Key & (1<<low - 1))
			if key == k.rest() {
				key = 0
			}
			g.tree.nodes = append(g.tree.nodes, node{parent: int32(parent) + int32(p.Key>>low), level: int32(len(g.tree.levels)), key: key})
			g.counts = append(g.counts, 0)
		}
		g.counts[len(g.counts)-1]++
		g.leaf[p.Pos] = uint32(len(g.tree.nodes) - 1 - g.tree.first())
		if i%kernel.BlockRows == 0 {
			if err := cmp.Or(g.tooMany(len(g.tree.nodes)-1, level), g.stopped()); err != nil {
				return err
			}
		}
	}
	return g.tooMany(len(g.tree.nodes)-1, level)
}
