package formula

import (
	"cmp"
	"math"
	"math/bits"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// times multiplies by one number, whose reach is known beforehand.
func (c *checker) times(n node, factor int64, typ Type) node {
	most := int64(math.MaxInt64)
	if factor != 0 {
		most = int64(math.MaxInt64 / magnitude(factor))
	}
	return &apply{t: typ, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, a []vec) {
		to := out.ints[:len(a[0].ints)]
		for i, v := range a[0].ints {
			if v <= most && v >= -most {
				to[i] = v * factor
				continue
			}
			if to[i] = table.Blank; v != table.Blank {
				m.fail(TooLarge, i)
			}
		}
	}}
}

func multiply(m *Machine, i int, x, y int64) int64 {
	if x == table.Blank || y == table.Blank {
		return table.Blank
	}
	hi, lo := bits.Mul64(magnitude(x), magnitude(y))
	if hi != 0 || lo > math.MaxInt64 {
		m.fail(TooLarge, i)
		return table.Blank
	}
	if (x < 0) != (y < 0) {
		return -int64(lo)
	}
	return int64(lo)
}

func magnitude(v int64) uint64 {
	if v < 0 {
		return -uint64(v)
	}
	return uint64(v)
}

func (c *checker) product(t *tree, a, b node) (node, error) {
	if b.typ().Type == catalog.Duration {
		a, b = b, a
	}
	a, b = c.unpercented(a), c.unpercented(b)
	x, y := a.typ(), b.typ()
	switch {
	case x.Type == catalog.Duration && y.plainNumber():
		return c.lengthened(a, c.floated(b), false), nil
	case !x.plainNumber() || !y.plainNumber():
		return nil, fault(t, "%s and %s cannot be multiplied", x.Word(), y.Word())
	}
	by, err := oneCurrency(t, x, y)
	if err != nil {
		return nil, err
	}
	typ := Type{Type: catalog.Decimal, Scale: x.Scale + y.Scale, Approx: x.Approx || y.Approx, CurrencyBy: by}
	switch {
	case x.Type == catalog.Money && y.Type != catalog.Money:
		typ.Type, typ.Currency = catalog.Money, x.Currency
	case y.Type == catalog.Money && x.Type != catalog.Money:
		typ.Type, typ.Currency = catalog.Money, y.Currency
	case x.Type == catalog.Whole && y.Type == catalog.Whole:
		typ.Type = catalog.Whole
	}
	if typ.Approx {
		typ.Scale = 0
		a, b = c.floated(a), c.floated(b)
	} else if typ.Scale > maxScale {
		return nil, fault(t, "the product would need %d decimals; at most %d are kept: use ROUND on one of the two", typ.Scale, maxScale)
	}
	if k, ok := b.(*constant); ok && !typ.Approx && k.int != table.Blank {
		return c.times(a, k.int, typ), nil
	}
	if k, ok := a.(*constant); ok && !typ.Approx && k.int != table.Blank {
		return c.times(b, k.int, typ), nil
	}
	return &apply{t: typ, id: c.id(), args: []node{a, b}, do: func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].floats {
			out.floats[i] = x * v[1].floats[i]
		}
		for i, x := range v[0].ints {
			out.ints[i] = multiply(m, i, x, v[1].ints[i])
		}
	}}, nil
}

// lengthened multiplies or divides a duration by a number, to the microsecond.
func (c *checker) lengthened(d, by node, divide bool) node {
	return &apply{t: d.typ(), id: c.id(), args: []node{d, by}, do: func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].ints {
			y := v[1].floats[i]
			out.ints[i] = table.Blank
			if x == table.Blank || y != y {
				continue
			}
			if divide && y == 0 {
				m.fail(DividedByZero, i)
				continue
			}
			if divide {
				y = 1 / y
			}
			if r := math.Round(float64(x) * y); math.Abs(r) < 1<<62 {
				out.ints[i] = int64(r)
			} else {
				m.fail(TooLarge, i)
			}
		}
	}}
}

func (c *checker) quotient(t *tree, a, b node) (node, error) {
	x, y := a.typ(), b.typ()
	typ := Type{Type: catalog.Decimal, Approx: true}
	if x.CurrencyBy != y.CurrencyBy { // of amounts in one currency, the ratio has none
		typ.CurrencyBy = cmp.Or(x.CurrencyBy, y.CurrencyBy)
	}
	switch {
	case x.Type == catalog.Duration && y.plainNumber():
		return c.lengthened(a, c.floated(b), true), nil
	case x.Type == catalog.Duration && y.Type == catalog.Duration:
	case !x.plainNumber() || !y.plainNumber():
		return nil, fault(t, "%s cannot be divided by %s", x.Word(), y.Word())
	case x.Type == catalog.Money && y.Type != catalog.Money:
		typ.Type, typ.Currency = catalog.Money, x.Currency
	}
	return &apply{t: typ, id: c.id(), args: []node{c.floated(a), c.floated(b)}, do: func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].floats {
			y := v[1].floats[i]
			if y == 0 && x == x {
				m.fail(DividedByZero, i)
				out.floats[i] = math.NaN()
				continue
			}
			out.floats[i] = x / y
		}
	}}, nil
}

func (c *checker) power(t *tree, a, b node) (node, error) {
	if !a.typ().plainNumber() || !b.typ().plainNumber() {
		return nil, fault(t, "^ wants two numbers, not %s and %s", a.typ().Word(), b.typ().Word())
	}
	return c.approximate([]node{a, b}, func(v []float64) float64 { return math.Pow(v[0], v[1]) }), nil
}

// approximate applies a function of floating-point numbers; a result that is none
// fails.
func (c *checker) approximate(args []node, do func([]float64) float64) node {
	floats, typ := make([]node, len(args)), Type{Type: catalog.Decimal, Approx: true}
	for i, a := range args {
		floats[i] = c.floated(a)
		typ.CurrencyBy = cmp.Or(typ.CurrencyBy, a.typ().CurrencyBy)
	}
	return &apply{t: typ, id: c.id(), args: floats, do: func(m *Machine, out vec, v []vec) {
		row := make([]float64, len(v))
		for i := range out.floats {
			blank := false
			for j := range v {
				row[j] = v[j].floats[i]
				blank = blank || row[j] != row[j]
			}
			out.floats[i] = math.NaN()
			if blank {
				continue
			}
			if r := do(row); !math.IsNaN(r) && !math.IsInf(r, 0) {
				out.floats[i] = r
			} else {
				m.fail(NoSuchNumber, i)
			}
		}
	}}
}
