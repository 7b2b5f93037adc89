package engine

import (
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// amount is a figure of one currency.
type amount struct {
	currency string
	number   int64
}

// currencies takes figures of amounts in several currencies apart: a group that
// has one keeps its figure, a group that has several has one for each, and none
// for all together.
func (b *builder) currencies() error {
	for _, s := range []struct {
		side *side
		figs []*figures
	}{{b.res.side, b.figures}, {b.res.others, b.others}} {
		for i, f := range s.figs {
			if f == nil || f.numbers == nil || !mixes(f.measure) {
				continue
			}
			if err := b.takeApart(s.side, f, i); err != nil {
				return err
			}
		}
	}
	return nil
}

// mixes says whether a measure could put amounts of several currencies together.
func mixes(m plan.Measure) bool {
	switch m.Fn {
	case view.Distinct, view.FilledN, view.Blanks, view.Records, view.Formula:
		return false
	}
	return m.Ref.Field.CurrencyBy != "" && m.Show == ""
}

func (b *builder) takeApart(s *side, f *figures, measure int) error {
	t := b.g.tree
	by := f.measure.Ref
	by.Path = strings.TrimSuffix(by.Path, by.Field.Key) + by.Field.CurrencyBy
	by.Field = catalog.Field{Key: by.Field.CurrencyBy, Type: catalog.Text}
	col, err := b.column(by)
	if err != nil {
		return err
	}
	texts, ok := col.(*table.Texts)
	if !ok {
		return nil
	}
	codes := dealing{leaf: valuesAt(texts.Codes, s.rows, 0, s.rows.n, make([]uint32, s.rows.n)), groups: texts.Dict.Len()}
	f.currency, f.mixed = make([]string, len(t.nodes)), map[int32][]amount{}
	for level := 0; level <= len(t.levels); level++ {
		n := levelSize(t, level)
		p, err := b.pair(s.rows, levelDealing(t, s.leaf, level), codes, func(m plan.Measure) bool { return m.Same(f.measure) })
		if err != nil {
			return err
		}
		for g := range n {
			f.setAmounts(int32(t.base[level]+g), p, g, texts.Dict, measure)
		}
	}
	if several := len(f.mixed[0]); several > 0 && s == b.res.side {
		b.res.Currencies = append(b.res.Currencies, Currencies{Label: f.measure.Label, By: by.Path, Count: several})
	}
	return nil
}

// setAmounts gives a node the figure of its one currency, or those of several.
func (f *figures) setAmounts(n int32, p *pairing, g int, d *table.Dict, measure int) {
	var parts []amount
	for c := range d.Len() {
		at := p.at(g, c)
		if at < 0 {
			continue
		}
		if v := p.figures[measure].numbers[at]; v != table.Blank {
			parts = append(parts, amount{d.Value(uint32(c)), v})
		}
	}
	f.numbers[n] = table.Blank
	switch len(parts) {
	case 0:
	case 1:
		f.numbers[n], f.currency[n] = parts[0].number, parts[0].currency
	default:
		f.mixed[n] = parts
	}
}
