package formula

import (
	"cmp"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// operator compiles an operator over its arguments.
func (c *checker) operator(t *tree, args []node) (node, error) {
	switch t.text {
	case "neg":
		return c.negative(t, args[0])
	case "%":
		if !args[0].typ().plainNumber() {
			return nil, fault(t, "%% follows a number, not %s", args[0].typ().Word())
		}
		return c.percent(t, args[0])
	case "+", "-":
		return c.sum(t, args[0], args[1])
	case "*":
		return c.product(t, args[0], args[1])
	case "/":
		return c.quotient(t, args[0], args[1])
	case "^":
		return c.power(t, args[0], args[1])
	case "&":
		return c.join(t, args)
	}
	return c.compare(t, args[0], args[1])
}

func (c *checker) negative(t *tree, n node) (node, error) {
	if !n.typ().Type.Numeric() {
		return nil, fault(t, "a minus stands before a number, not before %s", n.typ().Word())
	}
	return &apply{t: n.typ(), id: c.id(), args: []node{n}, do: func(_ *Machine, out vec, a []vec) {
		for i, v := range a[0].ints {
			out.ints[i] = -v // the blank is its own negative
		}
		for i, v := range a[0].floats {
			out.floats[i] = -v
		}
	}}, nil
}

func (c *checker) percent(t *tree, n node) (node, error) {
	n = c.unpercented(n)
	typ := n.typ()
	if typ.Approx {
		return c.quotient(t, n, &constant{t: Type{Type: catalog.Whole}, id: c.id(), int: 100})
	}
	if typ.Scale+2 > maxScale {
		return nil, fault(t, "the result would need %d decimals; at most %d are kept: use ROUND", typ.Scale+2, maxScale)
	}
	return &retyped{n, Type{Type: catalog.Decimal, Scale: typ.Scale + 2, CurrencyBy: typ.CurrencyBy}}, nil
}

// sum adds or subtracts.
func (c *checker) sum(t *tree, a, b node) (node, error) {
	minus := t.text == "-"
	x, y := a.typ().Type, b.typ().Type
	whole := func(t Type) bool { return t.Type == catalog.Whole && !t.Approx }
	switch {
	case a.typ().plainNumber() && b.typ().plainNumber():
		a, b, typ, err := c.alike(t, a, b)
		if err != nil {
			return nil, err
		}
		return c.adding(a, b, typ, minus), nil
	case x == catalog.Duration && y == catalog.Duration,
		x == catalog.DateTime && y == catalog.Duration,
		x == catalog.Date && whole(b.typ()):
		return c.dated(c.adding(a, b, a.typ(), minus)), nil
	case x == catalog.Date && y == catalog.Duration:
		return c.atTime(a, b, minus), nil
	case !minus && x == catalog.Duration && y == catalog.Date:
		return c.atTime(b, a, false), nil
	case !minus && (x == catalog.Duration && y == catalog.DateTime || whole(a.typ()) && y == catalog.Date):
		return c.dated(c.adding(a, b, b.typ(), false)), nil
	case minus && x == catalog.Date && y == catalog.Date:
		return c.adding(a, b, Type{Type: catalog.Whole}, true), nil
	case minus && x == catalog.DateTime && y == catalog.DateTime:
		// To the second if need be: a column of it says how fine its values are.
		return c.adding(a, b, Type{Type: catalog.Duration, Scale: 1}, true), nil
	case minus && x.Temporal() && y.Temporal():
		a, b = c.days(a), c.days(b)
		return c.adding(a, b, Type{Type: catalog.Whole}, true), nil
	case x == catalog.Text || y == catalog.Text:
		return nil, fault(t, "%s wants numbers; %s is text: use & to join text", t.text, pickWord(x == catalog.Text, "what stands before it", "what stands after it"))
	}
	return nil, fault(t, "%s and %s cannot be put together with %s", a.typ().Word(), b.typ().Word(), t.text)
}

func pickWord(b bool, yes, no string) string {
	if b {
		return yes
	}
	return no
}

// days turns moments into the days they lie on.
func (c *checker) days(n node) node {
	if n.typ().Type == catalog.Date {
		return n
	}
	return &apply{t: Type{Type: catalog.Date}, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, a []vec) {
		for i, v := range a[0].ints {
			out.ints[i] = v
			if v != table.Blank {
				out.ints[i] = calendar.FloorDay(m.clock.Local(v))
			}
		}
	}}
}

// alike brings two numbers to one type: the finer scale, approximate if either
// is, money if either is.
func (c *checker) alike(t *tree, a, b node) (node, node, Type, error) {
	x, y := a.typ(), b.typ()
	if x.Type != y.Type {
		a, b = c.unpercented(a), c.unpercented(b)
		x, y = a.typ(), b.typ()
	}
	if x.Currency != y.Currency && x.Type == catalog.Money && y.Type == catalog.Money && x.Currency != "" && y.Currency != "" {
		return nil, nil, Type{}, fault(t, "%s and %s are different currencies; convert one of them first", x.Currency, y.Currency)
	}
	by, err := oneCurrency(t, x, y)
	if err != nil {
		return nil, nil, Type{}, err
	}
	typ := x
	typ.CurrencyBy = by
	switch {
	case y.Type == catalog.Money, x.Type == catalog.Whole:
		typ.Type = y.Type
	}
	typ.Currency = x.Currency + pickWord(x.Currency == "", y.Currency, "")
	if typ.Type != catalog.Money {
		typ.Currency = ""
	}
	typ.Approx = x.Approx || y.Approx
	if typ.Approx {
		return c.keptFloat(a), c.keptFloat(b), Type{Type: typ.Type, Approx: true, Currency: typ.Currency, CurrencyBy: typ.CurrencyBy}, nil
	}
	typ.Scale = max(x.Scale, y.Scale)
	if typ.Scale > 0 && typ.Type == catalog.Whole {
		typ.Type = catalog.Decimal
	}
	return c.rescaled(a, typ.Scale), c.rescaled(b, typ.Scale), typ, nil
}

// oneCurrency is the path of the field that names the currency of what two numbers make;
// amounts whose currencies may differ are not put together.
func oneCurrency(t *tree, x, y Type) (string, error) {
	amounts := x.Type == catalog.Money && y.Type == catalog.Money
	if x.CurrencyBy != y.CurrencyBy && (amounts || x.CurrencyBy != "" && y.CurrencyBy != "") {
		return "", fault(t, "the two amounts may be in different currencies; convert one of them first")
	}
	return cmp.Or(x.CurrencyBy, y.CurrencyBy), nil
}

// keptFloat is floated, but leaves an approximate percentage as it is.
func (c *checker) keptFloat(n node) node {
	if n.typ().Approx {
		return n
	}
	if n.typ().Type == catalog.Percent {
		return c.floated(&retyped{n, Type{Type: catalog.Decimal, Scale: n.typ().Scale, CurrencyBy: n.typ().CurrencyBy}})
	}
	return c.floated(n)
}

// addInts adds exact values; out is of their length.
func addInts(m *Machine, out, xs, ys []int64) {
	out, ys = out[:len(xs)], ys[:len(xs)]
	for i, x := range xs {
		y := ys[i]
		s := x + y
		// Two of one sign that give the other have left 64 bits.
		if x != table.Blank && y != table.Blank && (x^s)&(y^s) >= 0 && s != table.Blank {
			out[i] = s
			continue
		}
		if out[i] = table.Blank; x != table.Blank && y != table.Blank {
			m.fail(TooLarge, i)
		}
	}
}

func subtractInts(m *Machine, out, xs, ys []int64) {
	out, ys = out[:len(xs)], ys[:len(xs)]
	for i, x := range xs {
		y := ys[i]
		d := x - y
		if x != table.Blank && y != table.Blank && (x^y)&(x^d) >= 0 && d != table.Blank {
			out[i] = d
			continue
		}
		if out[i] = table.Blank; x != table.Blank && y != table.Blank {
			m.fail(TooLarge, i)
		}
	}
}

func (c *checker) adding(a, b node, typ Type, minus bool) node {
	return &apply{t: typ, id: c.id(), args: []node{a, b}, do: func(m *Machine, out vec, v []vec) {
		if out.floats != nil {
			for i, x := range v[0].floats {
				if minus {
					out.floats[i] = x - v[1].floats[i]
				} else {
					out.floats[i] = x + v[1].floats[i]
				}
			}
			return
		}
		if minus {
			subtractInts(m, out.ints, v[0].ints, v[1].ints)
		} else {
			addInts(m, out.ints, v[0].ints, v[1].ints)
		}
	}}
}
