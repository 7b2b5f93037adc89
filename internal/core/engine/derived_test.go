package engine

import (
	"cmp"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"github.com/stretchr/testify/require"
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
		if key == "made" || key == "size" || key == "drawn" {
			out = append(out, key, key, key) // more often than those that are stored
		}
	}
	slices.Sort(out)
	return out
}

// families are fields whose values go together in a formula: amounts of several currencies
// with numbers, but not with amounts that name none.
var families = [][]string{
	{"seats", "fare", "rebate"}, {"seats", "paid"}, {"exact", "seats"}, {"seats", "part"},
	{"pier.toll"}, {"pier.rent"}, {"pier.toll", "seats"}, {"back.seats", "back.paid"},
	{"back.pier.toll", "back.seats"},
}

// drawDerived adds calculated fields and buckets to a document, and their values,
// worked out record by record, to the world.
func drawDerived(t *rapid.T, w *world, d *view.Document) {
	w.derived, w.bands, w.madeOf, w.rates = map[string]catalog.Field{}, map[string][]string{}, map[string][]string{}, map[string]totalExpression{}
	values := map[string]func(row map[string]any) any{}
	families := families
	if rapid.Bool().Draw(t, "drawn") {
		v := drawLinkedValue(t, w, "back", view.Takes()...)
		d.Linked = []view.LinkedValue{v}
		p, err := plan.Check(d.Selection(), w.catalog, w.cal)
		if err != nil {
			require.ErrorContains(t, err, "the range ends before it begins")
			t.Skip("a range the wrong way round")
		}
		f := p.Derived["drawn"].Ref.Field
		w.addDrawn(v, f)
		if f.Type.Numeric() && f.Type != catalog.Percent && f.Type != catalog.Duration && !f.Approx &&
			f.CurrencyBy == "" {
			fieldScales["drawn"] = f.Scale
			families = append(slices.Clip(families), []string{"seats", "drawn"}, []string{"drawn"})
		}
	}
	made := func(key string, x expression) {
		w.madeOf[key] = x.fields
		values[key] = func(row map[string]any) any {
			if r := x.eval(row); r != nil {
				return scaledTo(r, x.scale)
			}
			return nil
		}
	}
	if rapid.Bool().Draw(t, "calculated") {
		x := drawExpression(t, rapid.SampledFrom(families).Draw(t, "family"), 3)
		d.Calculated = []view.Calculated{{Key: "made", Label: "Made", Formula: x.text}}
		made("made", x)
	}
	if rapid.Bool().Draw(t, "rated") {
		family := rapid.SampledFrom(families).Draw(t, "family")
		arguments := map[string]expression{}
		rate := drawTotals(t, family, arguments, 2)
		d.Calculated = append(d.Calculated, view.Calculated{Key: "rate", Label: "Rate", Formula: rate.text})
		w.rates["rate"] = rate
		for key, x := range arguments {
			made(key, x)
		}
		for key, x := range arguments {
			defer func() { w.derived[key] = x.field() }()
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
	p, err := plan.Check(&view.Document{
		Gavrik: 1, Records: "crossings", Calculated: d.Calculated, Buckets: d.Buckets, Linked: d.Linked,
	}, w.catalog, w.cal)
	if err != nil {
		t.Fatalf("%s: %v", err, d.Calculated)
	}
	derived := p.Derived
	if of := derived["rate"]; of != nil {
		w.derived["rate"] = of.Ref.Field
	}
	for key, value := range values {
		if of := derived[key]; of != nil {
			w.derived[key] = of.Ref.Field
		}
		for _, row := range w.rows {
			row[key] = value(row)
		}
	}
}

// expression is a formula beside a reading of it in rationals. Its values keep
// scale decimals; one that does not fit into 64 bits then is blank.
type expression struct {
	text   string
	scale  int
	fields []string // that it is made of
	by     string   // the path of its currencies: of what it is worth, not of what decides it
	eval   func(row map[string]any) *big.Rat
}

// field is what an expression's values are, as far as totals of it go.
func (x expression) field() catalog.Field {
	return catalog.Field{Type: catalog.Decimal, Scale: x.scale, CurrencyBy: x.by}
}

// currenciesOf is the path of the currencies of an amount, or empty for other numbers.
func currenciesOf(path string) string {
	if last := path[strings.LastIndex(path, ".")+1:]; last == "paid" || last == "rent" {
		return path[:len(path)-len(last)] + "coin"
	}
	return ""
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

// fieldScales are the decimals of the fields that expressions are drawn from; a percentage
// counts as the number it stands for.
var fieldScales = map[string]int{
	"seats": 0, "fare": 2, "rebate": 3, "exact": 9, "paid": 2, "part": 3,
	"pier.toll": 2, "pier.rent": 2, "back.seats": 0, "back.paid": 2, "back.pier.toll": 2,
}

// fraction is a field's value as a fraction, or nil.
func fraction(row map[string]any, path string) *big.Rat {
	if v, ok := row[path].(int64); ok {
		return new(big.Rat).SetFrac64(v, table.Pow10(fieldScales[path]))
	}
	return nil
}

func drawExpression(t *rapid.T, family []string, depth int) expression {
	kind := rapid.IntRange(0, 8).Draw(t, "expression")
	if depth == 0 || kind < 2 {
		if rapid.IntRange(0, 3).Draw(t, "literal") == 0 {
			n := rapid.Int64Range(0, 40).Draw(t, "number")
			return expression{fmt.Sprint(n), 0, nil, "", func(map[string]any) *big.Rat { return new(big.Rat).SetInt64(n) }}
		}
		path := rapid.SampledFrom(family).Draw(t, "operand field")
		text := path
		if path == "part" { // a bare percentage stays one
			text = "(part + 0)"
		}
		return expression{
			text, fieldScales[path], []string{path}, currenciesOf(path),
			func(row map[string]any) *big.Rat { return fraction(row, path) },
		}
	}
	a, b := drawExpression(t, family, depth-1), drawExpression(t, family, depth-1)
	scale, fields := max(a.scale, b.scale), slices.Concat(a.fields, b.fields)
	by := cmp.Or(a.by, b.by)
	both := func(text string, scale int, do func(x, y *big.Rat) *big.Rat) expression {
		return expression{text, scale, fields, by, func(row map[string]any) *big.Rat {
			x, y := a.eval(row), b.eval(row)
			if x == nil || y == nil {
				return nil
			}
			return do(x, y)
		}}
	}
	switch kind {
	case 2, 3:
		return both("("+a.text+" + "+b.text+")", scale, func(x, y *big.Rat) *big.Rat {
			return fitted(scale, new(big.Rat).Add(x, y), x, y)
		})
	case 4:
		return both("("+a.text+" - "+b.text+")", scale, func(x, y *big.Rat) *big.Rat {
			return fitted(scale, new(big.Rat).Sub(x, y), x, y)
		})
	case 5:
		if a.scale+b.scale <= 12 {
			return both(a.text+" * "+b.text, a.scale+b.scale, func(x, y *big.Rat) *big.Rat {
				return fitted(a.scale+b.scale, new(big.Rat).Mul(x, y))
			})
		}
	case 6: // a branch not taken does not matter, nor does a blank in it
		decides := family[0]
		return expression{fmt.Sprintf(
			"IF(%s > 3; %s; %s)", decides, a.text, b.text,
		), scale, append(fields, decides), by, func(row map[string]any) *big.Rat {
			x := b.eval(row)
			if n := fraction(row, decides); n != nil && n.Cmp(big.NewRat(3, 1)) > 0 {
				x = a.eval(row)
			}
			if x == nil {
				return nil
			}
			return fitted(scale, x)
		}}
	case 7:
		return expression{fmt.Sprintf(
			"COALESCE(%s; %s)", a.text, b.text,
		), scale, fields, by, func(row map[string]any) *big.Rat {
			for _, e := range []expression{a, b} {
				if x := e.eval(row); x != nil && fitted(scale, x) != nil {
					return x
				}
			}
			return nil
		}}
	}
	n := rapid.IntRange(0, 2).Draw(t, "decimals")
	return expression{fmt.Sprintf("ROUND(%s; %d)", a.text, n), n, a.fields, a.by, func(row map[string]any) *big.Rat {
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
			made.Values = []string{drawOperand(t, w, f), "quay"}
		default:
			made.From = drawOperand(t, w, f)
			if i > 0 {
				made.From = ""
				made.Below = drawOperand(t, w, f)
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
