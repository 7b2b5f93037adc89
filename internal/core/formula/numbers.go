package formula

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

var numberFunctions = []function{
	{"ABS", "number", "The number without its sign.", 1, 1, compileAbs},
	{"ROUND", "number; decimals", "The nearest number with so many decimals, halves away from zero. The result is exact.", 1, 2, compileRound(nearest)},
	{"ROUNDDOWN", "number; decimals", "The number cut off towards zero.", 1, 2, compileRound(towardsZero)},
	{"ROUNDUP", "number; decimals", "The number rounded away from zero.", 1, 2, compileRound(awayFromZero)},
	{"MOD", "number; divisor", "What is left after dividing; it has the sign of the divisor.", 2, 2, compileMod},
	{"MIN", "number; number; …", "The smallest of several values. With one value it is a total.", 2, 0, compileExtreme(-1)},
	{"MAX", "number; number; …", "The largest of several values. With one value it is a total.", 2, 0, compileExtreme(1)},
	{"SQRT", "number", "The square root; approximate.", 1, 1, func(c *checker, t *tree, args []node) (node, error) {
		if !args[0].typ().plainNumber() {
			return nil, fault(t.args[0], "SQRT wants a number; this is %s", args[0].typ().Word())
		}
		return c.approximate(args, func(v []float64) float64 { return math.Sqrt(v[0]) }), nil
	}},
}

func compileAbs(c *checker, t *tree, args []node) (node, error) {
	if !args[0].typ().Type.Numeric() {
		return nil, fault(t.args[0], "ABS wants a number; this is %s", args[0].typ().Word())
	}
	return &apply{t: args[0].typ(), id: c.id(), args: args, do: func(_ *Machine, out vec, v []vec) {
		for i, x := range v[0].floats {
			out.floats[i] = math.Abs(x)
		}
		for i, x := range v[0].ints {
			out.ints[i] = x
			if x < 0 && x != table.Blank {
				out.ints[i] = -x
			}
		}
	}}, nil
}

// A rounding decides about a quotient towards zero, of which rest over unit is
// left: whether to go one further from zero. Neither is negative.
type rounding func(rest, unit uint64) bool

func nearest(rest, unit uint64) bool      { return rest >= unit-rest }
func towardsZero(uint64, uint64) bool     { return false }
func awayFromZero(rest, unit uint64) bool { return rest > 0 }

func compileRound(further rounding) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		typ := args[0].typ()
		if !typ.plainNumber() {
			return nil, fault(t.args[0], "%s wants a number; this is %s", t.text, typ.Word())
		}
		scale := int64(0)
		if len(args) == 2 {
			k, ok := args[1].(*constant)
			if !ok || k.t.Type != catalog.Whole || k.int > 12 {
				return nil, fault(t.args[1], "%s wants the number of decimals as a plain number from 0 to 12", t.text)
			}
			scale = k.int
		}
		out := typ
		out.Scale, out.Approx = int(scale), false
		if typ.Type == catalog.Whole && scale > 0 {
			out.Type = catalog.Decimal
		}
		if typ.Approx {
			return c.fixed(args[0], out, further), nil
		}
		if typ.Scale <= out.Scale {
			return c.rescaled(&retyped{args[0], Type{Type: out.Type, Scale: typ.Scale, Currency: out.Currency, CurrencyBy: out.CurrencyBy}}, out.Scale), nil
		}
		unit := uint64(table.Pow10(typ.Scale - out.Scale))
		return &apply{t: out, id: c.id(), args: args[:1], do: func(_ *Machine, o vec, v []vec) {
			for i, x := range v[0].ints {
				if x == table.Blank {
					o.ints[i] = x
					continue
				}
				whole, rest := magnitude(x)/unit, magnitude(x)%unit
				if rest > 0 && further(rest, unit) {
					whole++
				}
				o.ints[i] = int64(whole)
				if x < 0 {
					o.ints[i] = -int64(whole)
				}
			}
		}}, nil
	}
}

// fixed makes an approximate number exact. What the nearest binary fraction of a
// decimal is off by is not taken for more: 0.285 times 100 counts as 28.5.
func (c *checker) fixed(n node, out Type, further rounding) node {
	unit := math.Pow10(out.Scale)
	return &apply{t: out, id: c.id(), args: []node{n}, do: func(m *Machine, o vec, v []vec) {
		for i, x := range v[0].floats {
			o.ints[i] = table.Blank
			if x != x {
				continue
			}
			scaled := math.Abs(x * unit)
			whole, rest := math.Modf(scaled)
			const parts = 1 << 30
			near := uint64(math.Round(rest * parts))
			if whole += math.Floor(float64(near) / parts); near < parts && near > 0 && further(near, parts) {
				whole++
			}
			if whole >= math.MaxInt64 {
				m.fail(TooLarge, i)
				continue
			}
			o.ints[i] = int64(whole)
			if x < 0 {
				o.ints[i] = -int64(whole)
			}
		}
	}}
}

func compileMod(c *checker, t *tree, args []node) (node, error) {
	for i, a := range args {
		if !a.typ().plainNumber() {
			return nil, fault(t.args[i], "MOD wants numbers; this is %s", a.typ().Word())
		}
	}
	a, b, typ, err := c.alike(t, args[0], args[1])
	if err != nil {
		return nil, err
	}
	return &apply{t: typ, id: c.id(), args: []node{a, b}, do: func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].floats {
			y := v[1].floats[i]
			out.floats[i] = x - y*math.Floor(x/y)
			if y == 0 && x == x {
				m.fail(DividedByZero, i)
				out.floats[i] = math.NaN()
			}
		}
		for i, x := range v[0].ints {
			y := v[1].ints[i]
			out.ints[i] = table.Blank
			switch {
			case x == table.Blank || y == table.Blank:
			case y == 0:
				m.fail(DividedByZero, i)
			default:
				r := x % y
				if r != 0 && (r < 0) != (y < 0) {
					r += y
				}
				out.ints[i] = r
			}
		}
	}}, nil
}

// compileExtreme takes the smallest (-1) or largest (1) of the values that are not
// blank.
func compileExtreme(end int) func(*checker, *tree, []node) (node, error) {
	return func(c *checker, t *tree, args []node) (node, error) {
		if typ := args[0].typ().Type; !typ.Numeric() && !typ.Temporal() {
			return nil, fault(t.args[0], "%s wants numbers or dates; this is %s", t.text, args[0].typ().Word())
		}
		args, typ, err := c.unified(t, args)
		if err != nil {
			return nil, err
		}
		return &apply{t: typ, id: c.id(), args: args, do: func(m *Machine, out vec, v []vec) {
			for i := range m.n {
				out.set(i, v[0])
				for _, o := range v[1:] {
					if !o.blank(i) && (out.blank(i) || o.order(i, out) == end) {
						out.set(i, o)
					}
				}
			}
		}}, nil
	}
}
