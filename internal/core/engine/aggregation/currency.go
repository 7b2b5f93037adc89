// Totals of amounts in several currencies, each currency by itself.

package aggregation

import (
	"slices"
	"strings"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// Amounts of several currencies are never put together: a group that has one currency
// keeps its figure, a group that has several has a figure for each, and none for all
// together.

// Amount is a figure of one currency.
type Amount struct {
	Currency string
	Number   int64
	Float    float64 // of approximate figures
}

// apart takes a measure's figures of several currencies apart.
func (w *Aggregator) apart(f *Aggregates, i int) error {
	m := f.Measure
	if len(m.Currencies) == 0 || w.oneEach {
		return nil
	}
	dict, codes, which, err := w.spoken(m)
	if err != nil || which == nil {
		return err
	}
	// A formula of amounts in two fields, or one whose figures are no amounts, has no
	// figure for each currency.
	named := dict != nil && (m.Fn != view.Formula || f.Field.CurrencyBy == m.Currencies[0])
	f.Currency = make([]string, len(which))
	mixed := false
	for n, c := range which {
		switch {
		case c == fields.SeveralCurrencies:
			mixed = true
			f.blankNode(int32(n))
		case c != fields.NoCurrency && named && !f.IsBlank(int32(n)):
			f.Currency[n] = dict.Value(c - 1)
		}
	}
	if f.Apart = mixed; !mixed || !named {
		return nil
	}
	f.Mixed = map[int32][]Amount{}
	for level := range w.tree.Base {
		if err := w.parts(f, i, level, which, codes, dict); err != nil {
			return err
		}
	}
	return nil
}

// parts works the figures of each currency out for the groups of a level that have several.
func (w *Aggregator) parts(f *Aggregates, i, level int, which, codes []uint32, dict *table.Dict) error {
	t := w.tree
	n := t.LevelSize(level)
	if !slices.Contains(which[t.Base[level]:t.Base[level]+n], fields.SeveralCurrencies) {
		return nil
	}
	rs := w.side.Rows
	currencies := Partition{Leaf: kernel.ValuesAt(codes, rs, 0, rs.N, make([]uint32, rs.N)), Groups: dict.Len()}
	p, each, err := pair(w.job, w.fields, rs, LevelPartition(t, w.side.Leaf, level), currencies)
	if err != nil {
		return err
	}
	each.oneEach = true
	of, err := each.Total(i)
	if err != nil {
		return err
	}
	for g := range n {
		node := t.Base[level] + g
		if which[node] != fields.SeveralCurrencies {
			continue
		}
		var parts []Amount
		for c := range dict.Len() {
			at := p.At(g, c)
			if at < 0 || of.IsBlank(at) {
				continue
			}
			parts = append(parts, of.Amount(at, dict.Value(uint32(c))))
		}
		f.setAmounts(int32(node), parts)
	}
	return nil
}

// setAmounts gives a node the figure of its one currency, or those of several.
func (f *Aggregates) setAmounts(n int32, parts []Amount) {
	f.blankNode(n)
	slices.SortFunc(parts, func(a, b Amount) int { return strings.Compare(a.Currency, b.Currency) })
	switch {
	case len(parts) > 1:
		f.Mixed[n] = parts
		return
	case len(parts) == 0:
		return
	case f.Floats != nil:
		f.Floats[n] = parts[0].Float
	default:
		f.Numbers[n] = parts[0].Number
	}
	if f.Currency != nil {
		f.Currency[n] = parts[0].Currency
	}
}

// Amounts are the figures of a node by currency; none for a blank.
func (f *Aggregates) Amounts(n int32) []Amount {
	if parts := f.Mixed[n]; len(parts) > 0 {
		return parts
	}
	if f.IsBlank(n) {
		return nil
	}
	return []Amount{f.Amount(n, f.CurrencyOf(n))}
}

// Amount is a node's figure, which is there, in a currency.
func (f *Aggregates) Amount(n int32, currency string) Amount {
	if f.Floats != nil {
		return Amount{Currency: currency, Float: f.Floats[n]}
	}
	return Amount{Currency: currency, Number: f.Numbers[n]}
}

func (f *Aggregates) CurrencyOf(n int32) string {
	if f.Currency == nil {
		return ""
	}
	return f.Currency[n]
}

// differ says whether two figures, neither of them blank, are of different currencies.
func differ(f *Aggregates, i int32, o *Aggregates, j int32) bool {
	return f.CurrencyOf(i) != o.CurrencyOf(j)
}

// spoken says in which currency the amounts of every node are that go into a measure, and
// how the records name theirs. Of a formula over amounts in several fields, it says only
// which nodes have several of one; the dictionary is nil then.
func (w *Aggregator) spoken(m plan.Measure) (dict *table.Dict, codes, which []uint32, err error) {
	if m.Fn != view.Formula {
		col, err := w.fields.Column(m.Ref)
		if err != nil {
			return nil, nil, nil, err
		}
		return w.spokenBy(m.Currencies[0], m.Ref.Path, col)
	}
	for _, arg := range m.Args {
		part := w.fields.Plan.Measures[arg]
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
			which[n] = fields.JoinedCurrency(which[n], code)
		}
	}
	if len(m.Currencies) > 1 {
		dict = nil
	}
	return dict, codes, which, nil
}

// spokenFor is what is known of one field's amounts.
type spokenFor struct {
	dict         *table.Dict
	codes, which []uint32
}

func (w *Aggregator) spokenBy(by, path string, col table.Column) (*table.Dict, []uint32, []uint32, error) {
	key := by + " " + path
	if have, ok := w.currencies[key]; ok {
		return have.dict, have.codes, have.which, nil
	}
	texts, err := w.fields.Currencies(by)
	if texts == nil || err != nil {
		return nil, nil, nil, err
	}
	which := make([]uint32, len(w.tree.Nodes))
	blank, first, rs := table.BlankTest(col), w.tree.First(), w.side.Rows
	for lo := 0; lo < rs.N; lo += kernel.BlockRows {
		if err := w.job.Stopped(); err != nil {
			return nil, nil, nil, err
		}
		for at := lo; at < min(lo+kernel.BlockRows, rs.N); at++ {
			if row := rs.At(at); !blank(row) {
				n := first + int(w.side.Leaf[at])
				which[n] = fields.JoinedCurrency(which[n], texts.Codes[row]+1)
			}
		}
	}
	w.rollUp(func(parent, child int) { which[parent] = fields.JoinedCurrency(which[parent], which[child]) })
	w.currencies[key] = spokenFor{texts.Dict, texts.Codes, which}
	return texts.Dict, texts.Codes, which, nil
}
