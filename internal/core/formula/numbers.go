package formula

import (
	"cmp"
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

var numberFunctions = []Function{
	{Name: "ABS", Arguments: "number", least: 1, most: 1, Result: oneOfItsValues, compile: compileAbs, Meaning: "The number without its sign; a duration, too.",
		Example: `ABS('Paid' - 'Claimed')`, Sample: `ABS(-3)`},
	{Name: "SIGN", Arguments: "number", least: 1, most: 1, Result: "a whole number", compile: compileSign, Meaning: "1 for a number above zero, −1 for one below, 0 for zero.",
		Example: `SIGN('Claimed' - 'Paid')`, Sample: `SIGN(-3.5)`},
	{Name: "INT", Arguments: "number", least: 1, most: 1, Result: "a whole number", compile: compileRound(downwards), Meaning: "The largest whole number that is not above the number.",
		Example: `INT('Claimed')`, Sample: `INT(-3.5)`},
	{Name: "ROUND", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact", compile: compileRound(nearest), Meaning: "The nearest number with so many decimals, halves away from zero; with −2, the nearest hundred.",
		Example: `ROUND('Claimed' / 3; 2)`, Sample: `ROUND(-2.5)`},
	{Name: "ROUNDUP", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact", compile: compileRound(awayFromZero), Meaning: "The number rounded away from zero, to so many decimals; with −2, to hundreds.",
		Example: `ROUNDUP('Claimed'; 0)`, Sample: `ROUNDUP(2.01; 1)`},
	{Name: "ROUNDDOWN", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact", compile: compileRound(towardsZero), Meaning: "The number cut off towards zero, behind so many decimals; with −2, to hundreds.",
		Example: `ROUNDDOWN('Claimed'; 0)`, Sample: `ROUNDDOWN(-2.59; 1)`},
	{Name: "CEILING", Arguments: "number; step", least: 1, most: 2, Result: "a number", compile: compileStep(1), Meaning: "The smallest multiple of the step that is not below the number; of 1, if no step is given.",
		Example: `CEILING('Claimed'; 50)`, Sample: `CEILING(-2.5; 2)`},
	{Name: "FLOOR", Arguments: "number; step", least: 1, most: 2, Result: "a number", compile: compileStep(0), Meaning: "The largest multiple of the step that is not above the number; of 1, if no step is given.",
		Example: `FLOOR('Claimed'; 50)`, Sample: `FLOOR(-2.5; 2)`},
	{Name: "MOD", Arguments: "number; divisor", least: 2, most: 2, Result: "a number", compile: compileMod, Meaning: "What is left after dividing; it has the sign of the divisor.",
		Example: `MOD('Claimed'; 50)`, Sample: `MOD(-3; 2)`},
	{Name: "POWER", Arguments: "number; exponent", least: 2, most: 2, Result: "a number, approximate", compile: approximate(func(v []float64) float64 { return math.Pow(v[0], v[1]) }),
		Meaning: "The number to a power; the same as the operator ^.", Example: `POWER('Claimed'; 0.5)`, Sample: `POWER(2; 10)`},
	{Name: "SQRT", Arguments: "number", least: 1, most: 1, Result: "a number, approximate", compile: approximate(func(v []float64) float64 { return math.Sqrt(v[0]) }),
		Meaning: "The square root.", Example: `SQRT('Claimed')`, Sample: `SQRT(16)`},
	{Name: "EXP", Arguments: "number", least: 1, most: 1, Result: "a number, approximate", compile: approximate(func(v []float64) float64 { return math.Exp(v[0]) }),
		Meaning: "The number e to a power.", Example: `EXP(LN('Claimed'))`, Sample: `EXP(0)`},
	{Name: "LN", Arguments: "number", least: 1, most: 1, Result: "a number, approximate", compile: approximate(func(v []float64) float64 { return math.Log(v[0]) }),
		Meaning: "The natural logarithm.", Example: `LN('Claimed')`, Sample: `LN(1)`},
	{Name: "LOG", Arguments: "number; base", least: 1, most: 2, Result: "a number, approximate", compile: approximate(logarithm),
		Meaning: "The logarithm to a base; to 10, if none is given.", Example: `LOG('Claimed'; 2)`, Sample: `LOG(8; 2)`},
	{Name: "LOG10", Arguments: "number", least: 1, most: 1, Result: "a number, approximate", compile: approximate(logarithm),
		Meaning: "The logarithm to base 10.", Example: `LOG10('Claimed')`, Sample: `LOG10(1000)`},
	{Name: "MIN", Arguments: "value; value; …", least: 2, Result: oneOfItsValues, compile: compileExtreme(-1), Meaning: "The smallest of several values of one record. With one argument it is a total.",
		Blanks: "Blanks are passed over.", Example: `MIN('Claimed'; 500)`, Sample: `MIN(3; 1; 2)`},
	{Name: "MAX", Arguments: "value; value; …", least: 2, Result: oneOfItsValues, compile: compileExtreme(1), Meaning: "The largest of several values of one record. With one argument it is a total.",
		Blanks: "Blanks are passed over.", Example: `MAX('Claimed' - 'Paid'; 0)`, Sample: `MAX(3; 1; 2)`},
}

// logarithm is exact for powers of 2 and of 10.
func logarithm(v []float64) float64 {
	switch {
	case len(v) == 1 || v[1] == 10:
		return math.Log10(v[0])
	case v[1] == 2:
		return math.Log2(v[0])
	}
	return math.Log(v[0]) / math.Log(v[1])
}

func approximate(do func(v []float64) float64) compiler {
	return func(c *checker, t *tree, args []node) (node, error) {
		args, err := c.wanted(t, args, aFloat)
		if err != nil {
			return nil, err
		}
		return c.approximate(args, do), nil
	}
}

func compileSign(c *checker, t *tree, args []node) (node, error) {
	if !args[0].typ().Type.Numeric() {
		return nil, fault(t.args[0], "SIGN wants a number; %s is %s", t.args[0].said(), args[0].typ().Word())
	}
	return c.rows(wholeType, args, func(_ *Machine, _ int, a []cell) (cell, bool) {
		// One of the two is zero.
		return cell{int: int64(cmp.Compare(a[0].int, 0) + cmp.Compare(a[0].float, 0))}, true
	}), nil
}

// compileStep finds multiples: the one not above a number, and so many further.
func compileStep(further int64) compiler {
	return func(c *checker, t *tree, args []node) (node, error) {
		if len(args) == 1 {
			one := &tree{kind: numberToken, text: "1", from: t.from, to: t.to}
			t = &tree{kind: t.kind, text: t.text, args: append(t.args[:1:1], one), from: t.from, to: t.to}
			args = append(args[:1:1], &constant{t: wholeType, id: c.id(), int: 1})
		}
		args, err := c.wanted(t, args, aNumber)
		if err != nil {
			return nil, err
		}
		a, b, typ, err := c.alike(t, args[0], args[1])
		if err != nil {
			return nil, err
		}
		return c.rows(typ, []node{a, b}, func(m *Machine, i int, v []cell) (cell, bool) {
			if typ.Approx {
				step := math.Abs(v[1].float)
				if step == 0 {
					m.fail(DividedByZero, i)
					return cell{}, false
				}
				n := v[0].float / step
				if further == 0 {
					return cell{float: math.Floor(n) * step}, true
				}
				return cell{float: math.Ceil(n) * step}, true
			}
			step := v[1].int
			if step < 0 {
				step = -step
			}
			if step == 0 {
				m.fail(DividedByZero, i)
				return cell{}, false
			}
			rest := v[0].int % step
			if rest < 0 {
				rest += step
			}
			if rest == 0 {
				return v[0], true
			}
			out := v[0].int - rest + further*step
			if (further == 0) == (out > v[0].int) || out == table.Blank { // it went round
				m.fail(TooLarge, i)
				return cell{}, false
			}
			return cell{int: out}, true
		}), nil
	}
}

func compileAbs(c *checker, t *tree, args []node) (node, error) {
	if !args[0].typ().Type.Numeric() {
		return nil, fault(t.args[0], "ABS wants a number; %s is %s", t.args[0].said(), args[0].typ().Word())
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
type rounding func(rest, unit uint64, negative bool) bool

func nearest(rest, unit uint64, _ bool) bool       { return rest >= unit-rest }
func towardsZero(_, _ uint64, _ bool) bool         { return false }
func awayFromZero(rest, _ uint64, _ bool) bool     { return rest > 0 }
func downwards(rest, _ uint64, negative bool) bool { return negative && rest > 0 }

func compileRound(further rounding) compiler {
	return func(c *checker, t *tree, args []node) (node, error) {
		n, err := c.wanted(&tree{text: t.text, args: t.args[:1]}, args[:1], aNumber)
		if err != nil {
			return nil, err
		}
		scale := int64(0)
		if len(args) == 2 {
			k, ok := args[1].(*constant)
			if !ok || k.t.Type != catalog.Whole || k.int < -maxTens || k.int > 12 {
				return nil, fault(t.args[1], "%s wants the number of decimals as a plain number from −%d to 12; −2 rounds to hundreds", t.text, maxTens)
			}
			scale = k.int
		}
		out := c.rounded(n[0], int(scale), further)
		if t.text == "INT" && out.typ().Type == catalog.Decimal {
			out = &retyped{out, wholeType}
		}
		return out, nil
	}
}

// maxTens bounds rounding to tens, hundreds and so on.
const maxTens = 15

// rounded brings a number to so many decimals; the result is exact. Below 0, that many
// digits before the point become zeros.
func (c *checker) rounded(n node, scale int, further rounding) node {
	typ := n.typ()
	out := typ
	out.Scale, out.Approx = max(0, scale), false
	tens := table.Pow10(max(0, -scale)) // what a last digit counts
	if typ.Type == catalog.Whole && scale > 0 {
		out.Type = catalog.Decimal
	}
	if typ.Approx {
		return c.fixed(n, out, tens, further)
	}
	if typ.Scale <= scale {
		same := typ
		same.Type = out.Type
		return c.rescaled(&retyped{n, same}, out.Scale)
	}
	unit := uint64(math.MaxUint64) // so large that nothing comes near half of it
	if typ.Scale-scale <= 18 {
		unit = uint64(table.Pow10(typ.Scale - scale))
	}
	return &apply{t: out, id: c.id(), args: []node{n}, do: func(m *Machine, o vec, v []vec) {
		for i, x := range v[0].ints {
			if x == table.Blank {
				o.ints[i] = x
				continue
			}
			whole, rest := magnitude(x)/unit, magnitude(x)%unit
			if rest > 0 && further(rest, unit, x < 0) {
				whole++
			}
			if whole > math.MaxInt64/uint64(tens) {
				m.fail(TooLarge, i)
				o.ints[i] = table.Blank
				continue
			}
			o.ints[i] = int64(whole) * tens
			if x < 0 {
				o.ints[i] = -o.ints[i]
			}
		}
	}}
}

// fixed makes an approximate number exact. What the nearest binary fraction of a
// decimal is off by is not taken for more: 0.285 times 100 counts as 28.5.
func (c *checker) fixed(n node, out Type, tens int64, further rounding) node {
	unit := math.Pow10(out.Scale)
	return &apply{t: out, id: c.id(), args: []node{n}, do: func(m *Machine, o vec, v []vec) {
		for i, x := range v[0].floats {
			o.ints[i] = table.Blank
			if x != x {
				continue
			}
			scaled := math.Abs(x * unit / float64(tens))
			whole, rest := math.Modf(scaled)
			const parts = 1 << 30
			near := uint64(math.Round(rest * parts))
			if whole += math.Floor(float64(near) / parts); near < parts && near > 0 && further(near, parts, x < 0) {
				whole++
			}
			if whole >= float64(math.MaxInt64/tens) {
				m.fail(TooLarge, i)
				continue
			}
			o.ints[i] = int64(whole) * tens
			if x < 0 {
				o.ints[i] = -o.ints[i]
			}
		}
	}}
}

func compileMod(c *checker, t *tree, args []node) (node, error) {
	args, err := c.wanted(t, args, aNumber)
	if err != nil {
		return nil, err
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
			return nil, fault(t.args[0], "%s wants numbers or dates; %s is %s", t.text, t.args[0].said(), args[0].typ().Word())
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
