package engine

import (
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// pairing is the figures of every pair of a group of one kind and one of another,
// worked out from the records of both.
type pairing struct {
	// node is the pair's place among the figures, by the number of its first group
	// times columns plus that of its second, or -1.
	node    []int32
	columns int
	figures []*aggregates
}

// at finds a pair.
func (p *pairing) at(first, second int) int32 { return p.node[first*p.columns+second] }

// maxPairs bounds the table of a pairing.
const maxPairs = 1 << 23

// partition says which group each record lies in, counted from 0: group[leaf] or, if
// group is nil, leaf itself.
type partition struct {
	leaf, group []uint32
	groups      int // how many there are
}

// levelPartition is the groups of one level of a tree.
func levelPartition(t *tree, leaf []uint32, level int) partition {
	d := partition{leaf: leaf, groups: levelSize(t, level)}
	if level < len(t.base)-1 {
		d.group = t.ancestors(level)
	}
	return d
}

// add multiplies what is there by a factor and adds the groups of the positions from
// lo on.
func (d partition) add(out []uint32, lo int, factor uint32) {
	leaf := d.leaf[lo : lo+len(out)]
	if d.group == nil {
		for i, l := range leaf {
			out[i] = out[i]*factor + l
		}
		return
	}
	for i, l := range leaf {
		out[i] = out[i]*factor + d.group[l]
	}
}

// pair works figures out for the pairs of two partitions of the same records. Only the
// measures wanted are worked out. oneEach says that every pair has one currency.
func (r *run) pair(
	rs rows, first, second partition, oneEach bool, wanted func(measure int) bool,
) (*pairing, error) {
	if uint64(first.groups)*uint64(second.groups) > maxPairs {
		return nil, &result.LimitError{
			Step: fmt.Sprintf("%d groups down and %d across make more than %d cells", first.groups, second.groups, maxPairs),
			Mend: "group by something coarser, keep only the top groups, or filter first",
		}
	}
	space := first.groups * second.groups
	if err := r.need(4*int64(rs.n)+4*int64(space), "crossing the groups"); err != nil {
		return nil, err
	}
	p := &pairing{node: make([]int32, space), columns: second.groups}
	leaf := make([]uint32, rs.n)
	err := r.countParts(leaf, p.node, func(lo, hi int) {
		first.add(leaf[lo:hi], lo, 1)
		second.add(leaf[lo:hi], lo, uint32(second.groups))
	})
	if err != nil {
		return nil, err
	}
	t, s := &tree{nodes: []node{{parent: -1}}, base: []int{0, 1}}, &side{rows: rs, leaf: leaf}
	number := make([]uint32, len(p.node))
	for l, n := range p.node {
		p.node[l] = -1
		if n > 0 {
			number[l], p.node[l] = uint32(len(s.counts)), int32(len(t.nodes))
			t.nodes = append(t.nodes, node{level: 1, key: uint32(l)})
			s.counts = append(s.counts, n)
		}
	}
	err = kernel.EachBlock(r.ctx, rs.n, r.e.opts.Workers, func(lo, hi int) {
		for i, l := range leaf[lo:hi] {
			leaf[lo+i] = number[l]
		}
	})
	if err != nil {
		return nil, err
	}
	s.place(t)
	w := r.totaller(t, s)
	w.oneEach = oneEach
	for i, m := range r.plan.Measures {
		if m.Show == "" && wanted(i) {
			if _, err := w.figures(i); err != nil {
				return nil, err
			}
		}
	}
	p.figures = w.done
	return p, nil
}

// crosstab is the groups across and the figures of every cell.
type crosstab struct {
	*builder
	across  *tree
	figures []*aggregates // of the columns: all records of each group across
	pairs   [][]*pairing
	// cameDown and cameAcross say where the groups down and across, in the order
	// shown, came from.
	cameDown, cameAcross []int32
	baseDown, baseAcross []int
}

func (b *builder) crosstab(kept rows) (*crosstab, error) {
	g, err := b.group(b.plan.Across, kept, kept.n)
	if err != nil {
		return nil, err
	}
	x := &crosstab{builder: b, across: g.tree, baseDown: b.g.tree.base, baseAcross: g.tree.base}
	columns := 0
	for _, c := range b.plan.Columns {
		if c.Measure >= 0 {
			columns++
		}
	}
	if n := len(g.tree.nodes) * columns; n > b.e.opts.MaxColumns {
		return nil, &result.LimitError{
			Step: fmt.Sprintf("%s across makes %d columns; at most %d can be shown", b.plan.Across[0].Label(), n, b.e.opts.MaxColumns),
			Mend: "choose something coarser across, keep only the top groups, or put it down the side",
		}
	}
	s := g.side(0, kept.n)
	if x.figures, err = b.totaller(g.tree, s).totals(); err != nil {
		return nil, err
	}
	for down := 1; down <= len(b.plan.Groups); down++ {
		var line []*pairing
		first := levelPartition(b.g.tree, b.g.leaf, down)
		for across := 1; across <= len(b.plan.Across); across++ {
			p, err := b.pair(kept, first, levelPartition(g.tree, g.leaf, across), false, func(int) bool { return true })
			if err != nil {
				return nil, err
			}
			line = append(line, p)
		}
		x.pairs = append(x.pairs, line)
	}
	x.cameAcross = b.arrange(g.tree, s, x.figures, b.plan.Across)
	b.res.across = g.tree
	g.tree.forgetRecords()
	return x, nil
}

// levelSize counts the groups of a level, before arranging.
func levelSize(t *tree, level int) int {
	if level+1 < len(t.base) {
		return t.base[level+1] - t.base[level]
	}
	return len(t.nodes) - t.base[level]
}

// column reads the figures of a measure for one group across and every group down.
func (x *crosstab) column(measure int, across int32) *aggregates {
	if across == 0 {
		return x.builder.figures[measure]
	}
	came := int(x.cameAcross[across])
	level := int(x.across.nodes[across].level)
	whole := x.figures[measure] // not rearranged: by the places they came from
	return gathered(whole, len(x.res.tree.nodes), func(i int) (*aggregates, int32) {
		down := int(x.res.tree.nodes[i].level)
		if down == 0 {
			return whole, int32(came)
		}
		p := x.pairs[down-1][level-1]
		return p.figures[measure], p.at(int(x.cameDown[i])-x.baseDown[down], came-x.baseAcross[level])
	})
}

// gathered makes figures of single ones from several; a negative place is a blank.
func gathered(like *aggregates, n int, from func(i int) (*aggregates, int32)) *aggregates {
	out := &aggregates{measure: like.measure, field: like.field, dict: like.dict}
	if like.currency != nil {
		out.gatherAmounts(n, from)
	}
	if like.measure.Fn == view.Formula && like.dict != nil {
		out.gatherTexts(n, from)
		return out
	}
	for i := range n {
		f, at := from(i)
		switch {
		case like.numbers != nil:
			out.numbers = append(out.numbers, valueOr(f.numbers, at, table.Blank))
		case like.floats != nil:
			out.floats = append(out.floats, valueOr(f.floats, at, math.NaN()))
		default:
			out.codes = append(out.codes, valueOr(f.codes, at, 0))
		}
		if like.counted != nil {
			out.counted = append(out.counted, valueOr(f.counted, at, 0))
		}
		if like.times != nil {
			out.times = append(out.times, valueOr(f.times, at, 0))
		}
	}
	return out
}

// gatherAmounts gathers which currencies the figures are of.
func (f *aggregates) gatherAmounts(n int, from func(i int) (*aggregates, int32)) {
	f.currency, f.mixed = make([]string, n), map[int32][]amount{}
	for i := range n {
		of, at := from(i)
		if at < 0 || of.currency == nil {
			continue
		}
		f.currency[i] = of.currency[at]
		if parts := of.mixed[at]; len(parts) > 0 {
			f.mixed[int32(i)] = parts
		}
	}
}

// gatherTexts gathers calculated texts, each of whose figures have a dictionary of
// their own.
func (f *aggregates) gatherTexts(n int, from func(i int) (*aggregates, int32)) {
	dict := table.NewDictBuilder()
	f.codes = make([]uint32, n)
	for i := range n {
		if of, at := from(i); at >= 0 {
			f.codes[i] = dict.CodeOf(of.dict.Value(of.codes[at]))
		}
	}
	built := dict.Build(f.codes)
	f.codes, f.dict = built.Codes, built.Dict
}

func valueOr[T any](values []T, at int32, blank T) T {
	if at < 0 {
		return blank
	}
	return values[at]
}

// heads makes the columns: for every group across, behind its parts, one of each
// total; then those of all records.
func (x *crosstab) heads() error {
	var add func(n int32, keys []result.Key)
	add = func(n int32, keys []result.Key) {
		for c := n + 1; c < x.across.nodes[n].next; c = x.across.nodes[c].next {
			add(c, append(slices.Clone(keys), groupKey(x.across, x.plan.Across, c)))
		}
		counts := x.column(x.recordsMeasure(), n)
		for i, c := range x.plan.Columns {
			if c.Measure < 0 {
				continue
			}
			m := x.plan.Measures[c.Measure]
			var f *aggregates
			if m.Show == "" {
				f = x.column(c.Measure, n)
			} else {
				f = shown(m, x.res.tree, x.column(m.Of, n), x.builder.figures[m.Of])
			}
			x.head(result.Head{Column: i, Field: f.field, Across: keys, AcrossPath: x.across.pathOf(n)}, f)
			x.res.counts = append(x.res.counts, counts)
		}
	}
	// Every column has a figure for each group down, and so have its records.
	cells := len(x.across.nodes) * (len(x.plan.Columns) + 1) * len(x.res.tree.nodes)
	if err := x.need(12*int64(cells), "crossing the groups"); err != nil {
		return err
	}
	if len(x.across.nodes) == 1 {
		x.across.nodes[0].next = 1
	}
	add(0, nil)
	return nil
}

// recordsMeasure is the measure that counts the records of every cell: the plan of a crosstab
// always has it.
func (x *crosstab) recordsMeasure() int {
	return slices.IndexFunc(x.plan.Measures, func(m plan.Measure) bool { return m.Fn == view.Records && m.Show == "" })
}
