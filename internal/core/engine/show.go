package engine

import (
	"math"
	"slices"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// shownFigures are a measure's figures for the nodes in the order shown: its own,
// or what is shown in place of another's.
func (b *builder) shownFigures(figs []*aggregates, measure int) *aggregates {
	m := b.plan.Measures[measure]
	if m.Show == "" {
		return figs[measure]
	}
	of := figs[m.Of]
	return shown(m, b.res.tree, of, of)
}

// shown derives what a measure shows from the figures it shows something of. line
// are the same figures of the whole lines: they differ in a crosstab only.
func shown(m plan.Measure, t *tree, of, line *aggregates) *aggregates {
	out := &aggregates{measure: m, field: m.Result(), counted: of.counted}
	if of.currency != nil && (m.Show == view.Running || m.Show == view.Difference) {
		out.currency, out.mixed = make([]string, len(of.currency)), map[int32][]amount{}
	}
	switch m.Show {
	case view.ShareAll:
		out.share(of, func(i int) (*aggregates, int32) { return line, 0 })
	case view.ShareColumn:
		out.share(of, func(i int) (*aggregates, int32) { return of, 0 })
	case view.ShareRow:
		out.share(of, func(i int) (*aggregates, int32) { return line, int32(i) })
	case view.ShareGroup:
		out.share(of, func(i int) (*aggregates, int32) { return of, max(0, t.nodes[i].parent) })
	default:
		out.along(m.Show, t, of)
	}
	return out
}

// value is a node's figure as it is stored, exact or approximate.
func (f *aggregates) value(n int32) (exact int64, approx float64, blank bool) {
	if f.floats != nil {
		return 0, f.floats[n], math.IsNaN(f.floats[n])
	}
	return f.numbers[n], 0, f.numbers[n] == table.Blank
}

// hundredths of a percent, as shares and changes are kept.
const hundredths = 100 * 100

// share puts every node's figure into proportion to another one, in percent.
func (f *aggregates) share(of *aggregates, whole func(i int) (*aggregates, int32)) {
	n := len(of.numbers) + len(of.floats)
	f.numbers = make([]int64, n)
	for i := range n {
		w, at := whole(i)
		f.numbers[i] = proportion(of, int32(i), w, at)
	}
}

// proportion is one figure in percent of another; blank if there is none.
func proportion(of *aggregates, i int32, whole *aggregates, at int32) int64 {
	a, x, blankA := of.value(i)
	b, y, blankB := whole.value(at)
	if blankA || blankB || differ(of, i, whole, at) {
		return table.Blank
	}
	if of.floats != nil {
		return percentOfFloat(x, y)
	}
	return percentOf(kernel.Wide(a), kernel.Wide(b))
}

// percentOfFloat is percentOf for approximate values.
func percentOfFloat(x, y float64) int64 {
	if r := math.Round(x / y * hundredths); y != 0 && math.Abs(r) < math.MaxInt64 {
		return int64(r)
	}
	return table.Blank
}

// percentOf is a in percent of b, rounded to hundredths.
func percentOf(a, b kernel.Int128) int64 {
	if b.Negative() {
		a, b = a.Negated(), b.Negated()
	}
	n, ok := b.Narrow()
	if !ok || n == 0 {
		return table.Blank
	}
	if p, ok := a.Ratio(n, hundredths); ok {
		return p
	}
	return table.Blank
}

// along follows the groups of each parent in the order shown.
func (f *aggregates) along(show view.Show, t *tree, of *aggregates) {
	n := len(t.nodes)
	if of.floats != nil && show != view.Rank && show != view.Change {
		f.floats = make([]float64, n)
	} else {
		f.numbers = make([]int64, n)
	}
	f.blankNode(0)
	if show == view.Running && n > 0 {
		f.running(of, 0, nil)
	}
	for parent := range int32(n) {
		end := t.nodes[parent].next
		if show == view.Rank {
			f.rank(t, of, parent, end)
			continue
		}
		if show == view.Running {
			f.runUp(t, of, parent, end)
			continue
		}
		before := int32(-1)
		for i := parent + 1; i < end; i = t.nodes[i].next {
			f.step(show, of, i, before)
			before = i
		}
	}
	if show == view.Rank {
		f.numbers[0] = table.Blank
	}
}

// step works out a node's figure from its own and the group's before it.
func (f *aggregates) step(show view.Show, of *aggregates, i, before int32) {
	f.blankNode(i)
	switch {
	case before < 0:
	case show == view.Change:
		f.numbers[i] = changeOf(of, i, of, before)
	default:
		f.subtract(of, i, of, before)
	}
}

// subtract puts the difference of two figures at the first one's place; a blank on
// either side gives a blank.
func (f *aggregates) subtract(of *aggregates, i int32, from *aggregates, j int32) {
	f.blankNode(i)
	a, x, blankA := of.value(i)
	b, y, blankB := from.value(j)
	switch {
	case blankA || blankB || differ(of, i, from, j):
		return
	case of.floats != nil:
		f.floats[i] = x - y
	default:
		f.numbers[i] = f.fitted(kernel.Wide(a).Plus(kernel.Wide(b).Negated()))
	}
	if f.currency != nil {
		f.currency[i] = of.currencyOf(i)
	}
}

// changeOf is the way to one figure from another, in percent of the other's size.
func changeOf(of *aggregates, i int32, from *aggregates, j int32) int64 {
	a, x, blankA := of.value(i)
	b, y, blankB := from.value(j)
	switch {
	case blankA || blankB || differ(of, i, from, j):
		return table.Blank
	case of.floats != nil:
		return percentOfFloat(x-y, math.Abs(y))
	}
	size := kernel.Wide(b)
	if b < 0 {
		size = size.Negated()
	}
	return percentOf(kernel.Wide(a).Plus(kernel.Wide(b).Negated()), size)
}

// fitted is a number in 64 bits, or a blank that is counted.
func (f *aggregates) fitted(a kernel.Int128) int64 {
	v, ok := a.Narrow()
	if !ok {
		f.tooLarge++
		return table.Blank
	}
	return v
}

// ran is what has run up of one currency.
type ran struct {
	currency string
	sum      kernel.Int128
	float    float64
}

// runUp adds every group's figure to those before it, each currency by itself; a blank adds
// nothing.
func (f *aggregates) runUp(t *tree, of *aggregates, parent, end int32) {
	var up []ran
	for i := parent + 1; i < end; i = t.nodes[i].next {
		up = f.running(of, i, up)
	}
}

func (f *aggregates) running(of *aggregates, i int32, up []ran) []ran {
	for _, more := range of.amounts(i) {
		at := slices.IndexFunc(up, func(r ran) bool { return r.currency == more.currency })
		if at < 0 {
			at, up = len(up), append(up, ran{currency: more.currency})
		}
		up[at].float += more.float
		up[at].sum = up[at].sum.Plus(kernel.Wide(more.number))
	}
	var parts []amount
	for _, r := range up {
		part := amount{currency: r.currency, number: f.fitted(r.sum), float: r.float}
		if part.number != table.Blank {
			parts = append(parts, part)
		}
	}
	f.setAmounts(i, parts)
	return up
}

// rank numbers the groups of a parent from the largest figure down; equal ones
// share a number, and the next one is counted from all before it. Amounts of several
// currencies have no rank among each other.
func (f *aggregates) rank(t *tree, of *aggregates, parent, end int32) {
	var pairs []kernel.Pair
	var seen []string
	for i := parent + 1; i < end; i = t.nodes[i].next {
		f.numbers[i] = table.Blank
		if of.currency != nil {
			for _, a := range of.amounts(i) {
				if !slices.Contains(seen, a.currency) {
					seen = append(seen, a.currency)
				}
			}
		}
		if key, blank := of.sortKey(i); !blank {
			pairs = append(pairs, kernel.Pair{Key: ^key, Pos: i})
		}
	}
	if len(seen) > 1 {
		return
	}
	if len(pairs) > 0 {
		pairs = kernel.SortParts(pairs, make([]kernel.Pair, len(pairs)), 64, 1, never)
	}
	for at, p := range pairs {
		f.numbers[p.Pos] = int64(at) + 1
		if at > 0 && pairs[at-1].Key == p.Key {
			f.numbers[p.Pos] = f.numbers[pairs[at-1].Pos]
		}
	}
}

// never is for work too small to be stopped.
func never() bool { return false }
