package engine

import (
	"math/big"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// shown is what a column shows of a group in place of a figure; of reads the figures.
func (w *world) shown(show view.Show, g *refGroup, of func(*refGroup) any, f catalog.Field) string {
	percent := catalog.Field{Type: catalog.Percent, Scale: 2}
	root, around, siblings := g, g, []*refGroup{g}
	for root.parent != nil {
		root = root.parent
	}
	if g.parent != nil {
		around, siblings = g.parent, g.parent.groups
	}
	at := slices.Index(siblings, g)
	switch show {
	case view.ShareAll:
		return w.cell(proportionOf(of(g), of(root)), percent)
	case view.ShareGroup:
		return w.cell(proportionOf(of(g), of(around)), percent)
	case view.Running:
		up := map[string]*big.Int{}
		for _, s := range siblings[:at+1] {
			for _, c := range coinsOf(of(s)) {
				if up[c.coin] == nil {
					up[c.coin] = new(big.Int)
				}
				up[c.coin].Add(up[c.coin], big.NewInt(c.v.(int64)))
			}
		}
		var figures []coined
		for coin, n := range up {
			figures = append(figures, coined{coin, kept(n)})
		}
		slices.SortFunc(figures, func(a, b coined) int { return slices.Compare([]byte(a.coin), []byte(b.coin)) })
		return w.cell(oneOf(figures), f)
	case view.Rank:
		return w.cell(placeAmong(siblings, g, of), catalog.Field{Type: catalog.Whole})
	}
	if g.parent == nil || at == 0 {
		return ""
	}
	now, before := coinsOf(of(g)), coinsOf(of(siblings[at-1]))
	if len(now) != 1 || len(before) != 1 || now[0].coin != before[0].coin {
		return ""
	}
	a, b := big.NewInt(now[0].v.(int64)), big.NewInt(before[0].v.(int64))
	difference := new(big.Int).Sub(a, b)
	if show == view.Difference {
		return w.cell(oneOf([]coined{{now[0].coin, kept(difference)}}), f)
	}
	return w.cell(hundredthsOf(difference, b.Abs(b)), percent)
}

// coinsOf are the figures of a cell by currency.
func coinsOf(v any) []coined {
	switch v := v.(type) {
	case nil:
		return nil
	case coined:
		return []coined{v}
	case []coined:
		return v
	}
	return []coined{{"", v}}
}

// kept is a number in 64 bits, or a blank.
func kept(n *big.Int) any {
	if !n.IsInt64() || n.Int64() == table.Blank {
		return nil
	}
	return n.Int64()
}

func proportionOf(part, whole any) any {
	a, b := coinsOf(part), coinsOf(whole)
	if len(a) != 1 || len(b) != 1 || a[0].coin != b[0].coin {
		return nil
	}
	return hundredthsOf(big.NewInt(a[0].v.(int64)), big.NewInt(b[0].v.(int64)))
}

func hundredthsOf(a, b *big.Int) any {
	if b.Sign() == 0 {
		return nil
	}
	return kept(roundRat(new(big.Rat).Mul(new(big.Rat).SetFrac(a, b), big.NewRat(10_000, 1))))
}

// placeAmong is a group's place among its siblings from the largest figure down; amounts of
// several currencies have none.
func placeAmong(siblings []*refGroup, g *refGroup, of func(*refGroup) any) any {
	if g.parent == nil {
		return nil
	}
	seen, larger := map[string]bool{}, int64(0)
	mine := bare(of(g))
	for _, s := range siblings {
		for _, c := range coinsOf(of(s)) {
			seen[c.coin] = true
		}
		if v := bare(of(s)); v != nil && mine != nil && v.(int64) > mine.(int64) {
			larger++
		}
	}
	if mine == nil || len(seen) > 1 {
		return nil
	}
	return larger + 1
}
