package engine

import (
	"math"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Amounts of several currencies are never put together: a group that has one currency
// keeps its figure, a group that has several has a figure for each, and none for all
// together.

// amount is a figure of one currency.
type amount struct {
	currency string
	number   int64
	float    float64 // of approximate figures
}

// several marks a node whose amounts are in several currencies, none one that has no
// amounts; other values are a currency's code in the dictionary, plus 1.
const (
	none    uint32 = 0
	several uint32 = math.MaxUint32
)

// apart takes a measure's figures of several currencies apart.
func (w *aggregator) apart(f *aggregates, i int) error {
	m := f.measure
	if len(m.Currencies) == 0 || w.oneEach {
		return nil
	}
	dict, codes, which, err := w.spoken(m)
	if err != nil || which == nil {
		return err
	}
	// A formula of amounts in two fields, or one whose figures are no amounts, has no
	// figure for each currency.
	named := dict != nil && (m.Fn != view.Formula || f.field.CurrencyBy == m.Currencies[0])
	f.currency = make([]string, len(which))
	mixed := false
	for n, c := range which {
		switch {
		case c == several:
			mixed = true
			f.blankNode(int32(n))
		case c != none && named && !f.isBlank(int32(n)):
			f.currency[n] = dict.Value(c - 1)
		}
	}
	if f.apart = mixed; !mixed || !named {
		return nil
	}
	f.mixed = map[int32][]amount{}
	for level := range w.tree.base {
		if err := w.parts(f, i, level, which, codes, dict); err != nil {
			return err
		}
	}
	return nil
}

// parts works the figures of each currency out for the groups of a level that have several.
func (w *aggregator) parts(f *aggregates, i, level int, which, codes []uint32, dict *table.Dict) error {
	t := w.tree
	n := levelSize(t, level)
	if !slices.Contains(which[t.base[level]:t.base[level]+n], several) {
		return nil
	}
	rs := w.side.rows
	currencies := partition{leaf: valuesAt(codes, rs, 0, rs.n, make([]uint32, rs.n)), groups: dict.Len()}
	p, err := w.pair(rs, levelPartition(t, w.side.leaf, level), currencies, true, func(at int) bool { return at == i })
	if err != nil {
		return err
	}
	of := p.figures[i]
	for g := range n {
		node := t.base[level] + g
		if which[node] != several {
			continue
		}
		var parts []amount
		for c := range dict.Len() {
			at := p.at(g, c)
			if at < 0 || of.isBlank(at) {
				continue
			}
			parts = append(parts, of.amount(at, dict.Value(uint32(c))))
		}
		f.setAmounts(int32(node), parts)
	}
	return nil
}

// setAmounts gives a node the figure of its one currency, or those of several.
func (f *aggregates) setAmounts(n int32, parts []amount) {
	f.blankNode(n)
	slices.SortFunc(parts, func(a, b amount) int { return strings.Compare(a.currency, b.currency) })
	switch {
	case len(parts) > 1:
		f.mixed[n] = parts
		return
	case len(parts) == 0:
		return
	case f.floats != nil:
		f.floats[n] = parts[0].float
	default:
		f.numbers[n] = parts[0].number
	}
	if f.currency != nil {
		f.currency[n] = parts[0].currency
	}
}

// amounts are the figures of a node by currency; none for a blank.
func (f *aggregates) amounts(n int32) []amount {
	if parts := f.mixed[n]; len(parts) > 0 {
		return parts
	}
	if f.isBlank(n) {
		return nil
	}
	return []amount{f.amount(n, f.currencyOf(n))}
}

// amount is a node's figure, which is there, in a currency.
func (f *aggregates) amount(n int32, currency string) amount {
	if f.floats != nil {
		return amount{currency: currency, float: f.floats[n]}
	}
	return amount{currency: currency, number: f.numbers[n]}
}

func (f *aggregates) currencyOf(n int32) string {
	if f.currency == nil {
		return ""
	}
	return f.currency[n]
}

// differ says whether two figures, neither of them blank, are of different currencies.
func differ(f *aggregates, i int32, o *aggregates, j int32) bool {
	return f.currencyOf(i) != o.currencyOf(j)
}

// spoken says in which currency the amounts of every node are that go into a measure, and
// how the records name theirs. Of a formula over amounts in several fields, it says only
// which nodes have several of one; the dictionary is nil then.
func (w *aggregator) spoken(m plan.Measure) (dict *table.Dict, codes, which []uint32, err error) {
	if m.Fn != view.Formula {
		col, err := w.column(m.Ref)
		if err != nil {
			return nil, nil, nil, err
		}
		return w.spokenBy(m.Currencies[0], m.Ref.Path, col)
	}
	for _, arg := range m.Args {
		part := w.plan.Measures[arg]
		if len(part.Currencies) == 0 {
			continue
		}
		d, c, of, err := w.spoken(part)
		if err != nil {
			return nil, nil, nil, err
		}
		if of == nil {
			continue
		}
		dict, codes = d, c
		if which == nil {
			which = slices.Clone(of)
			continue
		}
		for n, code := range of {
			which[n] = joined(which[n], code)
		}
	}
	if len(m.Currencies) > 1 {
		dict = nil
	}
	return dict, codes, which, nil
}

// joined is the currency of two nodes together.
func joined(a, b uint32) uint32 {
	switch {
	case a == none || a == b:
		return b
	case b == none:
		return a
	}
	return several
}

// spokenFor is what is known of one field's amounts.
type spokenFor struct {
	dict         *table.Dict
	codes, which []uint32
}

func (w *aggregator) spokenBy(by, path string, col table.Column) (*table.Dict, []uint32, []uint32, error) {
	key := by + " " + path
	if have, ok := w.currencies[key]; ok {
		return have.dict, have.codes, have.which, nil
	}
	texts, err := w.currencyColumn(by)
	if texts == nil || err != nil {
		return nil, nil, nil, err
	}
	which := make([]uint32, len(w.tree.nodes))
	blank, first, rs := blankTest(col), w.tree.first(), w.side.rows
	for lo := 0; lo < rs.n; lo += kernel.BlockRows {
		if err := w.stopped(); err != nil {
			return nil, nil, nil, err
		}
		for at := lo; at < min(lo+kernel.BlockRows, rs.n); at++ {
			if row := rs.at(at); !blank(row) {
				n := first + int(w.side.leaf[at])
				which[n] = joined(which[n], texts.Codes[row]+1)
			}
		}
	}
	w.rollUp(func(parent, child int) { which[parent] = joined(which[parent], which[child]) })
	w.currencies[key] = spokenFor{texts.Dict, texts.Codes, which}
	return texts.Dict, texts.Codes, which, nil
}

// currencyColumn is the column at a path that names currencies, or nil if it is no text.
func (r *run) currencyColumn(path string) (*table.Texts, error) {
	keys := strings.Split(path, ".")
	last := len(keys) - 1
	col, err := r.column(catalog.Ref{
		Path: path, Links: keys[:last], Field: catalog.Field{Key: keys[last], Type: catalog.Text},
	})
	texts, _ := col.(*table.Texts)
	return texts, err
}

// currencies notes which totals of the view are of several currencies.
func (b *builder) currencies() {
	for i := range b.plan.Measures {
		for _, figs := range [][]*aggregates{b.figures, b.others} {
			if figs == nil || figs[i] == nil || !figs[i].apart || !b.isShown(i) {
				continue
			}
			f := figs[i]
			b.res.Currencies = append(b.res.Currencies, result.Currencies{
				Label: f.measure.Label, By: f.measure.Currencies[0], Count: len(f.mixed[0]),
			})
			break
		}
	}
}

// isShown says whether a measure decides about anything that is shown, not only as a part
// of a formula.
func (b *builder) isShown(measure int) bool {
	for _, c := range b.plan.Columns {
		if c.Measure == measure || c.Measure >= 0 && b.plan.Measures[c.Measure].Show != "" &&
			b.plan.Measures[c.Measure].Of == measure {
			return true
		}
	}
	return slices.ContainsFunc(slices.Concat(b.plan.Groups, b.plan.Across), func(g plan.Group) bool {
		return g.Order.By == view.ByTotal && g.Order.Measure == measure
	})
}
