package engine

import (
	"cmp"
	"math/big"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// shown is what a column shows of a group in place of a figure; of reads the figures, which
// are those of a column that is named.
func (w *world) shown(
	named string, show view.Show, g *refGroup, of func(*refGroup) any, f catalog.Field,
) string {
	percent := catalog.Field{Type: catalog.Percent, Scale: 2}
	root, around := g, g
	for root.parent != nil {
		root = root.parent
	}
	if g.parent != nil {
		around = g.parent
	}
	switch show {
	case view.ShareAll:
		return w.cell(proportionOf(of(g), of(root)), percent)
	case view.ShareGroup:
		return w.cell(proportionOf(of(g), of(around)), percent)
	case view.Rank:
		f = catalog.Field{Type: catalog.Whole}
	case view.Change:
		f = percent
	}
	if g.parent == nil {
		if show != view.Running {
			return ""
		}
		return w.cell(along(show, []*refGroup{g}, of)[0], f)
	}
	if around.along == nil {
		around.along = map[string]map[*refGroup]any{}
	}
	if around.along[named] == nil {
		around.along[named] = map[*refGroup]any{}
		for i, v := range along(show, around.groups, of) {
			around.along[named][around.groups[i]] = v
		}
	}
	return w.cell(around.along[named][g], f)
}

// along is what is shown of every group of a parent, in their order.
func along(show view.Show, siblings []*refGroup, of func(*refGroup) any) []any {
	out := make([]any, len(siblings))
	if show == view.Rank {
		return placesOfFigures(siblings, of)
	}
	up := map[string]*big.Int{}
	for i, s := range siblings {
		if show == view.Running {
			for _, c := range coinsOf(of(s)) {
				if up[c.coin] == nil {
					up[c.coin] = new(big.Int)
				}
				up[c.coin].Add(up[c.coin], big.NewInt(c.v.(int64)))
			}
			var figures []coined
			for coin, n := range up {
				figures = append(figures, coined{coin, kept(n)})
			}
			slices.SortFunc(figures, func(a, b coined) int { return strings.Compare(a.coin, b.coin) })
			out[i] = oneOf(figures)
			continue
		}
		if i == 0 {
			continue
		}
		now, before := coinsOf(of(s)), coinsOf(of(siblings[i-1]))
		if len(now) != 1 || len(before) != 1 || now[0].coin != before[0].coin {
			continue
		}
		a, b := big.NewInt(now[0].v.(int64)), big.NewInt(before[0].v.(int64))
		difference := new(big.Int).Sub(a, b)
		if show == view.Difference {
			out[i] = oneOf([]coined{{now[0].coin, kept(difference)}})
		} else {
			out[i] = hundredthsOf(difference, b.Abs(b))
		}
	}
	return out
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

// placesOfFigures are the groups' places from the largest figure down; amounts of several
// currencies have none.
func placesOfFigures(siblings []*refGroup, of func(*refGroup) any) []any {
	seen, figures := map[string]bool{}, []int64{}
	for _, s := range siblings {
		for _, c := range coinsOf(of(s)) {
			seen[c.coin] = true
		}
		if v := bare(of(s)); v != nil {
			figures = append(figures, v.(int64))
		}
	}
	slices.SortFunc(figures, func(a, b int64) int { return cmp.Compare(b, a) })
	out := make([]any, len(siblings))
	for i, s := range siblings {
		if v := bare(of(s)); v != nil && len(seen) == 1 {
			at, _ := slices.BinarySearchFunc(figures, v.(int64), func(a, b int64) int { return cmp.Compare(b, a) })
			out[i] = int64(at) + 1
		}
	}
	return out
}
