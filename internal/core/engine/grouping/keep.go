// Levels that keep groups by their total, and what becomes of the others.

package grouping

import (
	"cmp"
	"math"
	"slices"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
)

// LeftOut is what a level left out: how many groups, and how many records of the view's own side.
type LeftOut struct {
	Level           plan.Group
	Groups, Records int
}

// keepByTotal keeps the groups of the innermost level whose total is as asked. The others'
// records leave, or join into one group of each parent.
func (g *Grouping) keepByTotal(level plan.Group) error {
	first := g.Tree.First()
	k := &keeping{Grouping: g, keep: level.Keep, first: first, kept: make([]bool, len(g.Tree.Nodes)-first)}
	k.side = g.Side(0, g.others)
	if level.Keep.Measure >= 0 {
		var err error
		if k.figures, err = g.Rank(g.Tree, k.side, level.Keep.Measure); err != nil {
			return err
		}
	}
	if level.Keep.Test != nil {
		for i := range k.kept {
			k.kept[i] = k.meets(int32(first + i))
		}
	} else {
		g.eachParent(k.share)
	}
	if level.Keep.Out {
		return g.leaveOut(level, k.kept)
	}
	return g.joinOthers(k.kept)
}

// keeping decides which groups of one level are kept.
type keeping struct {
	*Grouping
	keep    *plan.Keep
	first   int
	side    *Side
	figures Ranking // nil where records are counted
	kept    []bool  // of each group of the level
}

// value is a group's total; what has none counts for nothing.
func (k *keeping) value(node int32) (exact int64, approx float64, blank bool) {
	if k.figures == nil {
		return int64(k.side.Size(node)), 0, false
	}
	return k.figures.Value(node)
}

func (k *keeping) approx() bool { return k.figures != nil && k.figures.Approx() }

func (k *keeping) meets(node int32) bool {
	exact, approx, blank := k.value(node)
	switch {
	case blank:
		return false
	case k.approx():
		return k.keep.Test.MeetsFloat(approx)
	}
	return k.keep.Test.Meets(exact)
}

// eachParent calls do with the groups of the innermost level that lie in one parent.
func (g *Grouping) eachParent(do func(siblings []int32)) {
	t := g.Tree
	for lo := t.First(); lo < len(t.Nodes); {
		hi := lo
		var siblings []int32
		for ; hi < len(t.Nodes) && t.Nodes[hi].Parent == t.Nodes[lo].Parent; hi++ {
			siblings = append(siblings, int32(hi))
		}
		do(siblings)
		lo = hi
	}
}

// share keeps the largest of some groups that together make up the share asked for. Of groups as
// large as each other, the first in label order go first. Where the whole is not more than
// nothing, no part of it can be told, and all are kept.
func (k *keeping) share(siblings []int32) {
	const whole = 100 * plan.PercentUnit
	slices.SortStableFunc(siblings, func(a, b int32) int {
		x, p, blankX := k.value(a)
		y, q, blankY := k.value(b)
		switch {
		case blankX || blankY:
			return cmp.Compare(kernel.Bit(blankX), kernel.Bit(blankY))
		case k.approx():
			return cmp.Compare(q, p)
		}
		return cmp.Compare(y, x)
	})
	var sum, so kernel.Int128
	total, far := 0.0, 0.0
	for _, n := range siblings {
		if exact, approx, blank := k.value(n); !blank {
			sum, total = sum.Plus(kernel.Wide(exact)), total+approx
		}
	}
	none := sum.Compare(kernel.Wide(0)) <= 0
	if k.approx() {
		none = !(total > 0)
	}
	for _, n := range siblings {
		reached := so.Times(whole).Compare(sum.Times(k.keep.Share)) >= 0
		if k.approx() {
			reached = far*whole >= total*float64(k.keep.Share) || math.IsNaN(far)
		}
		exact, approx, blank := k.value(n)
		k.kept[int(n)-k.first] = none || !reached && !blank
		if !blank {
			so, far = so.Plus(kernel.Wide(exact)), far+approx
		}
	}
}

// joinOthers joins the groups of the innermost level that are not kept into one of each parent.
// Those kept stay in label order.
func (g *Grouping) joinOthers(kept []bool) error {
	t := g.Tree
	at, first := len(t.Levels)-1, t.First()
	number := make([]uint32, len(kept)) // the new number of each old group
	nodes := t.Nodes[:first:first]
	g.eachParent(func(siblings []int32) {
		joined, rest := int32(0), Node{}
		for _, n := range siblings {
			if kept[int(n)-first] {
				number[int(n)-first] = uint32(len(nodes) - first)
				nodes = append(nodes, t.Nodes[n])
			} else {
				joined, rest = joined+max(1, t.Nodes[n].Joined), t.Nodes[n]
			}
		}
		if joined == 0 {
			return
		}
		for _, n := range siblings {
			if !kept[int(n)-first] {
				number[int(n)-first] = uint32(len(nodes) - first)
			}
		}
		rest.Key, rest.Joined = t.Levels[at].Rest(), joined
		nodes = append(nodes, rest)
	})
	t.Nodes = nodes
	counts := make([]int32, len(nodes)-first)
	for old, n := range g.counts {
		counts[number[old]] += n
	}
	g.counts = counts
	return g.Job.EachBlock(len(g.Leaf), func(lo, hi int) {
		for i, l := range g.Leaf[lo:hi] {
			g.Leaf[lo+i] = number[l]
		}
	})
}

// leaveOut takes the groups of the innermost level out that are not kept, their records, and the
// groups around them that hold nothing else.
func (g *Grouping) leaveOut(level plan.Group, kept []bool) error {
	first := g.Tree.First()
	out := LeftOut{Level: level}
	for i, stays := range kept {
		if !stays {
			out.Groups++
			out.Groups += max(0, int(g.Tree.Nodes[first+i].Joined)-1)
		}
	}
	if out.Groups == 0 {
		return nil
	}
	before := g.Fields.Weights.CountRows(g.Records())
	if err := g.narrow(func(at int) bool { return kept[g.Leaf[at]] }); err != nil {
		return err
	}
	out.Records = before - g.Fields.Weights.CountRows(g.Records())
	g.LeftOut = append(g.LeftOut, out)
	return nil
}

// narrow keeps the records at some positions, and takes out the groups that held some and hold none
// any more.
func (g *Grouping) narrow(stays func(at int) bool) error {
	number, err := g.prune(stays)
	if err != nil {
		return err
	}
	t := g.Tree
	rows := make([]int32, 0, g.rows.N)
	leaf, others := make([]uint32, 0, g.rows.N), 0
	counts := make([]int32, len(t.Nodes)-t.First())
	for at := range g.rows.N {
		if at%kernel.BlockRows == 0 && g.Job.IsStopped() {
			return g.Job.Stopped()
		}
		if at == g.others {
			others = len(rows)
		}
		if stays(at) {
			n := number[g.Leaf[at]]
			rows, leaf = append(rows, g.rows.At(at)), append(leaf, n)
			counts[n]++
		}
	}
	if g.others == g.rows.N {
		others = len(rows)
	}
	g.rows, g.Leaf, g.counts, g.others = kernel.Listed(rows), leaf, counts, others
	return nil
}

// prune takes the groups out that lose all their records, together with those within them that
// never had any. It returns the new number of each innermost group.
func (g *Grouping) prune(stays func(at int) bool) ([]uint32, error) {
	alive, err := g.alive(stays)
	if err != nil {
		return nil, err
	}
	g.noteGone(alive)
	t, first := g.Tree, g.Tree.First()
	went := make([]int32, len(t.Nodes))
	nodes, base := t.Nodes[:0:0], make([]int, len(t.Base))
	for l := range base {
		base[l] = -1
	}
	for i, n := range t.Nodes {
		if base[n.Level] < 0 {
			base[n.Level] = len(nodes)
		}
		if !alive[i] {
			continue
		}
		if went[i] = int32(len(nodes)); n.Parent >= 0 {
			n.Parent = went[n.Parent]
		}
		nodes = append(nodes, n)
	}
	for l := range base {
		if base[l] < 0 {
			base[l] = len(nodes)
		}
	}
	number := make([]uint32, len(t.Nodes)-first)
	for i := range number {
		number[i] = uint32(max(0, int(went[first+i])-base[len(base)-1]))
	}
	t.Nodes, t.Base = nodes, base
	return number, nil
}

// alive says for each group whether it stays when only some of the records do.
func (g *Grouping) alive(stays func(at int) bool) ([]bool, error) {
	t, first := g.Tree, g.Tree.First()
	if err := g.Job.Need(8*int64(g.rows.N)+16*int64(len(t.Nodes)), "leaving groups out"); err != nil {
		return nil, err
	}
	had, has := make([]int32, len(t.Nodes)), make([]int32, len(t.Nodes))
	for at, l := range g.Leaf {
		if at%kernel.BlockRows == 0 && g.Job.IsStopped() {
			return nil, g.Job.Stopped()
		}
		n := first + int(l)
		had[n]++
		if stays(at) {
			has[n]++
		}
	}
	for i := len(t.Nodes) - 1; i > 0; i-- {
		p := t.Nodes[i].Parent
		had[p], has[p] = had[p]+had[i], has[p]+has[i]
	}
	alive := make([]bool, len(t.Nodes))
	alive[0] = true
	for i := 1; i < len(t.Nodes); i++ {
		alive[i] = alive[t.Nodes[i].Parent] && (has[i] > 0 || had[i] == 0)
	}
	return alive, nil
}

// noteGone remembers the groups that are taken out beside others joined into one.
func (g *Grouping) noteGone(alive []bool) {
	t := g.Tree
	joins := map[int32]bool{}
	for _, n := range t.Nodes {
		if n.Joined > 0 {
			joins[n.Parent] = true
		}
	}
	for i, n := range t.Nodes {
		if alive[i] || n.Joined > 0 || !joins[n.Parent] {
			continue
		}
		at := t.PathOf(n.Parent)
		if t.Gone == nil {
			t.Gone = map[string]*result.Gone{}
		}
		if t.Gone[at] == nil {
			t.Gone[at] = &result.Gone{}
		}
		value := t.Levels[n.Level-1].Cell(n.Key, g.levels[n.Level-1])
		t.Gone[at].Values = append(t.Gone[at].Values, value)
	}
}

// Keep narrows the grouping to some of its records, marked by row on each side of a comparison;
// groups that held some and hold none any more are taken out.
func (g *Grouping) Keep(own, other kernel.Bitmap) error {
	stays := func(at int) bool {
		if at < g.others {
			return own.Has(int(g.rows.At(at)))
		}
		return other.Has(int(g.rows.At(at)))
	}
	return g.narrow(stays)
}
