package engine

import (
	"fmt"
	"math/big"
	"slices"

	"pgregory.net/rapid"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// band is a value of a bucket: bands sort by their place, not by their label.
type band struct {
	index int
	label string
}

func textOf(value any) string {
	if b, ok := value.(band); ok {
		return b.label
	}
	return value.(string)
}

// paths are the fields of the world and what the document at hand derives.
func (w *world) paths() []string {
	out := slices.Clone(worldPaths)
	for key := range w.derived {
		out = append(out, key)
	}
	slices.Sort(out)
	return out
}

// drawDerived adds calculated fields and buckets to a document, and their values,
// worked out record by record, to the world.
func drawDerived(t *rapid.T, w *world, d *view.Document) {
	w.derived, w.bands = nil, map[string][]string{}
	values := map[string]func(row map[string]any) any{}
	if rapid.Bool().Draw(t, "calculated") {
		x := drawExpression(t, 3)
		d.Calculated = []view.Calculated{{Key: "made", Label: "Made", Formula: x.text}}
		values["made"] = func(row map[string]any) any {
			if r := x.eval(row); r != nil {
				return scaledTo(r, x.scale)
			}
			return nil
		}
	}
	if rapid.Bool().Draw(t, "bucketed") {
		b, value := drawBucket(t, w)
		d.Buckets = []view.Bucket{b}
		values["size"] = value
		labels := []string{}
		for _, band := range b.Bands {
			labels = append(labels, band.Label)
		}
		w.bands["size"] = append(labels, "Everything else", "Blank")
	}
	p, err := plan.Check(&view.Document{Gavrik: 1, Records: "crossings", Calculated: d.Calculated, Buckets: d.Buckets}, w.catalog, w.cal)
	if err != nil {
		t.Fatalf("%s: %v", err, d.Calculated)
	}
	derived := p.Derived
	w.derived = map[string]catalog.Field{}
	for key, value := range values {
		w.derived[key] = derived[key].Ref.Field
		for _, row := range w.rows {
			row[key] = value(row)
		}
	}
}

// expression is a formula beside a reading of it in rationals. Its values keep
// scale decimals; one that does not fit into 64 bits then is blank.
type expression struct {
	text  string
	scale int
	eval  func(row map[string]any) *big.Rat
}

func scaledTo(r *big.Rat, scale int) any {
	x := new(big.Rat).Mul(r, new(big.Rat).SetInt64(table.Pow10(scale)))
	if !x.IsInt() || !x.Num().IsInt64() || x.Num().Int64() == table.Blank {
		return nil
	}
	return x.Num().Int64()
}

// fitted is a blank if a value, or one of its parts at the same scale, is too large.
func fitted(scale int, r *big.Rat, parts ...*big.Rat) *big.Rat {
	for _, x := range append(parts, r) {
		if scaledTo(x, scale) == nil {
			return nil
		}
	}
	return r
}

func drawExpression(t *rapid.T, depth int) expression {
	kind := rapid.IntRange(0, 8).Draw(t, "expression")
	if depth == 0 || kind < 2 {
		if rapid.IntRange(0, 3).Draw(t, "literal") == 0 {
			n := rapid.Int64Range(0, 40).Draw(t, "number")
			return expression{fmt.Sprint(n), 0, func(map[string]any) *big.Rat { return new(big.Rat).SetInt64(n) }}
		}
		path := rapid.SampledFrom([]string{"seats", "fare", "rebate"}).Draw(t, "operand field")
		f := map[string]int{"seats": 0, "fare": 2, "rebate": 3}
		return expression{path, f[path], func(row map[string]any) *big.Rat {
			if v, ok := row[path].(int64); ok {
				return new(big.Rat).SetFrac64(v, table.Pow10(f[path]))
			}
			return nil
		}}
	}
	a, b := drawExpression(t, depth-1), drawExpression(t, depth-1)
	scale := max(a.scale, b.scale)
	both := func(text string, scale int, do func(x, y *big.Rat) *big.Rat) expression {
		return expression{text, scale, func(row map[string]any) *big.Rat {
			x, y := a.eval(row), b.eval(row)
			if x == nil || y == nil {
				return nil
			}
			return do(x, y)
		}}
	}
	switch kind {
	case 2, 3:
		return both("("+a.text+" + "+b.text+")", scale, func(x, y *big.Rat) *big.Rat { return fitted(scale, new(big.Rat).Add(x, y), x, y) })
	case 4:
		return both("("+a.text+" - "+b.text+")", scale, func(x, y *big.Rat) *big.Rat { return fitted(scale, new(big.Rat).Sub(x, y), x, y) })
	case 5:
		if a.scale+b.scale <= 12 {
			return both(a.text+" * "+b.text, a.scale+b.scale, func(x, y *big.Rat) *big.Rat { return fitted(a.scale+b.scale, new(big.Rat).Mul(x, y)) })
		}
	case 6: // a branch not taken does not matter, nor does a blank in it
		return expression{fmt.Sprintf("IF(%s > 3; %s; %s)", "seats", a.text, b.text), scale, func(row map[string]any) *big.Rat {
			x := b.eval(row)
			if seats, ok := row["seats"].(int64); ok && seats > 3 {
				x = a.eval(row)
			}
			if x == nil {
				return nil
			}
			return fitted(scale, x)
		}}
	case 7:
		return expression{fmt.Sprintf("COALESCE(%s; %s)", a.text, b.text), scale, func(row map[string]any) *big.Rat {
			for _, e := range []expression{a, b} {
				if x := e.eval(row); x != nil && fitted(scale, x) != nil {
					return x
				}
			}
			return nil
		}}
	}
	n := rapid.IntRange(0, 2).Draw(t, "decimals")
	return expression{fmt.Sprintf("ROUND(%s; %d)", a.text, n), n, func(row map[string]any) *big.Rat {
		x := a.eval(row)
		if x == nil {
			return nil
		}
		unit := new(big.Rat).SetInt64(table.Pow10(n))
		return fitted(n, new(big.Rat).Quo(new(big.Rat).SetInt(roundRat(new(big.Rat).Mul(x, unit))), unit))
	}}
}

func drawBucket(t *rapid.T, w *world) (view.Bucket, func(row map[string]any) any) {
	path := rapid.SampledFrom([]string{"seats", "fare", "state", "day", "wind"}).Draw(t, "bucket of")
	b := view.Bucket{Key: "size", Label: "Size", Of: path}
	f := w.field(path)
	for i := range rapid.IntRange(1, 4).Draw(t, "bands") {
		made := view.Band{Label: fmt.Sprintf("%c band", 'z'-i)} // not in the order of the alphabet
		switch {
		case path == "state":
			made.Values = []string{drawOperand(t, f), "quay"}
		default:
			made.From = drawOperand(t, f)
			if i > 0 {
				made.From = ""
				made.Below = drawOperand(t, f)
			}
		}
		b.Bands = append(b.Bands, made)
	}
	return b, func(row map[string]any) any {
		value := row[path]
		if value == nil {
			return band{len(b.Bands) + 1, "Blank"}
		}
		for i, x := range b.Bands {
			in := x.Values == nil
			for _, v := range x.Values {
				in = in || w.meetsValue(view.Is, v, "", value, f)
			}
			in = in && (x.From == "" || w.meetsValue(view.AtLeast, x.From, "", value, f))
			if in && (x.Below == "" || w.meetsValue(view.Under, x.Below, "", value, f)) {
				return band{i, x.Label}
			}
		}
		return band{len(b.Bands), "Everything else"}
	}
}
