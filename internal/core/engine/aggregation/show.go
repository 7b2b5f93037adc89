// What is shown in place of a total: shares, running totals, differences, ranks.

package aggregation

import (
	"math"
	"slices"

	"gavrik/internal/core/engine/grouping"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Shown derives what a measure shows from the figures it shows something of. line
// are the same figures of the whole lines: they differ in a crosstab only.
func Shown(m plan.Measure, t *grouping.Tree, of, line *Aggregates) *Aggregates {
	out := &Aggregates{Measure: m, Field: m.Result(), Counted: of.Counted}
	if of.Currency != nil && (m.Show == view.Running || m.Show == view.Difference) {
		out.Currency, out.Mixed = make([]string, len(of.Currency)), map[int32][]Amount{}
	}
	switch m.Show {
	case view.ShareAll:
		out.share(of, func(i int) (*Aggregates, int32) { return line, 0 })
	case view.ShareColumn:
		out.share(of, func(i int) (*Aggregates, int32) { return of, 0 })
	case view.ShareRow:
		out.share(of, func(i int) (*Aggregates, int32) { return line, int32(i) })
	case view.ShareGroup:
		out.share(of, func(i int) (*Aggregates, int32) { return of, max(0, t.Nodes[i].Parent) })
	default:
		out.along(m.Show, t, of)
	}
	return out
}

// Approx says whether the figures are approximate.
func (f *Aggregates) Approx() bool { return f.Floats != nil }

// Value is a node's figure as it is stored, exact or approximate.
func (f *Aggregates) Value(n int32) (exact int64, approx float64, blank bool) {
	if f.Floats != nil {
		return 0, f.Floats[n], math.IsNaN(f.Floats[n])
	}
	return f.Numbers[n], 0, f.Numbers[n] == table.Blank
}

// share puts every node's figure into proportion to another one, in percent.
func (f *Aggregates) share(of *Aggregates, whole func(i int) (*Aggregates, int32)) {
	n := len(of.Numbers) + len(of.Floats)
	f.Numbers = make([]int64, n)
	for i := range n {
		w, at := whole(i)
		f.Numbers[i] = proportion(of, int32(i), w, at)
	}
}

// proportion is one figure in percent of another; blank if there is none.
func proportion(of *Aggregates, i int32, whole *Aggregates, at int32) int64 {
	a, x, blankA := of.Value(i)
	b, y, blankB := whole.Value(at)
	if blankA || blankB || differ(of, i, whole, at) {
		return table.Blank
	}
	if of.Floats != nil {
		return kernel.PercentOfFloat(x, y)
	}
	return kernel.PercentOf(kernel.Wide(a), kernel.Wide(b))
}

// along follows the groups of each parent in the order shown.
func (f *Aggregates) along(show view.Show, t *grouping.Tree, of *Aggregates) {
	n := len(t.Nodes)
	if of.Floats != nil && show != view.Rank && show != view.Change {
		f.Floats = make([]float64, n)
	} else {
		f.Numbers = make([]int64, n)
	}
	f.blankNode(0)
	if show == view.Running && n > 0 {
		f.running(of, 0, nil)
	}
	for parent := range int32(n) {
		end := t.Nodes[parent].Next
		if show == view.Rank {
			f.rank(t, of, parent, end)
			continue
		}
		if show == view.Running {
			f.runUp(t, of, parent, end)
			continue
		}
		before := int32(-1)
		for i := parent + 1; i < end; i = t.Nodes[i].Next {
			f.step(show, of, i, before)
			before = i
		}
	}
	if show == view.Rank {
		f.Numbers[0] = table.Blank
	}
}

// step works out a node's figure from its own and the group's before it.
func (f *Aggregates) step(show view.Show, of *Aggregates, i, before int32) {
	f.blankNode(i)
	switch {
	case before < 0:
	case show == view.Change:
		f.Numbers[i] = changeOf(of, i, of, before)
	default:
		f.subtract(of, i, of, before)
	}
}

// subtract puts the difference of two figures at the first one's place; a blank on
// either side gives a blank.
func (f *Aggregates) subtract(of *Aggregates, i int32, from *Aggregates, j int32) {
	f.blankNode(i)
	a, x, blankA := of.Value(i)
	b, y, blankB := from.Value(j)
	switch {
	case blankA || blankB || differ(of, i, from, j):
		return
	case of.Floats != nil:
		f.Floats[i] = x - y
	default:
		f.Numbers[i] = f.fitted(kernel.Wide(a).Plus(kernel.Wide(b).Negated()))
	}
	if f.Currency != nil {
		f.Currency[i] = of.CurrencyOf(i)
	}
}

// changeOf is the way to one figure from another, in percent of the other's size.
func changeOf(of *Aggregates, i int32, from *Aggregates, j int32) int64 {
	a, x, blankA := of.Value(i)
	b, y, blankB := from.Value(j)
	switch {
	case blankA || blankB || differ(of, i, from, j):
		return table.Blank
	case of.Floats != nil:
		return kernel.PercentOfFloat(x-y, math.Abs(y))
	}
	size := kernel.Wide(b)
	if b < 0 {
		size = size.Negated()
	}
	return kernel.PercentOf(kernel.Wide(a).Plus(kernel.Wide(b).Negated()), size)
}

// fitted is a number in 64 bits, or a blank that is counted.
func (f *Aggregates) fitted(a kernel.Int128) int64 {
	v, ok := a.Narrow()
	if !ok {
		f.TooLarge++
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
func (f *Aggregates) runUp(t *grouping.Tree, of *Aggregates, parent, end int32) {
	var up []ran
	for i := parent + 1; i < end; i = t.Nodes[i].Next {
		up = f.running(of, i, up)
	}
}

func (f *Aggregates) running(of *Aggregates, i int32, up []ran) []ran {
	for _, more := range of.Amounts(i) {
		at := slices.IndexFunc(up, func(r ran) bool { return r.currency == more.Currency })
		if at < 0 {
			at, up = len(up), append(up, ran{currency: more.Currency})
		}
		up[at].float += more.Float
		up[at].sum = up[at].sum.Plus(kernel.Wide(more.Number))
	}
	var parts []Amount
	for _, r := range up {
		part := Amount{Currency: r.currency, Number: f.fitted(r.sum), Float: r.float}
		if part.Number != table.Blank {
			parts = append(parts, part)
		}
	}
	f.setAmounts(i, parts)
	return up
}

// rank numbers the groups of a parent from the largest figure down; equal ones
// share a number, and the next one is counted from all before it. Amounts of several
// currencies have no rank among each other.
func (f *Aggregates) rank(t *grouping.Tree, of *Aggregates, parent, end int32) {
	var pairs []kernel.Pair
	var seen []string
	for i := parent + 1; i < end; i = t.Nodes[i].Next {
		f.Numbers[i] = table.Blank
		if of.Currency != nil {
			for _, a := range of.Amounts(i) {
				if !slices.Contains(seen, a.Currency) {
					seen = append(seen, a.Currency)
				}
			}
		}
		if key, blank := of.SortKey(i); !blank {
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
		f.Numbers[p.Pos] = int64(at) + 1
		if at > 0 && pairs[at-1].Key == p.Key {
			f.Numbers[p.Pos] = f.Numbers[pairs[at-1].Pos]
		}
	}
}

// never is for work too small to be stopped.
func never() bool { return false }
