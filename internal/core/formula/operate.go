package formula

import (
	"math"
	"math/bits"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
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
		return c.join(args), nil
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
	return &retyped{n, Type{Type: catalog.Decimal, Scale: typ.Scale + 2}}, nil
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
		return c.adding(a, b, a.typ(), minus), nil
	case !minus && (x == catalog.Duration && y == catalog.DateTime || whole(a.typ()) && y == catalog.Date):
		return c.adding(a, b, b.typ(), false), nil
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
	if x.Type == catalog.Money && y.Type == catalog.Money && x.CurrencyBy != y.CurrencyBy {
		return nil, nil, Type{}, fault(t, "the two amounts may be in different currencies; convert one of them first")
	}
	typ := x
	typ.CurrencyBy = x.CurrencyBy + pickWord(x.CurrencyBy == "", y.CurrencyBy, "")
	switch {
	case y.Type == catalog.Money, x.Type == catalog.Whole:
		typ.Type = y.Type
	}
	typ.Currency = x.Currency + pickWord(x.Currency == "", y.Currency, "")
	if typ.Type != catalog.Money {
		typ.Currency, typ.CurrencyBy = "", ""
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

// keptFloat is floated, but leaves an approximate percentage as it is.
func (c *checker) keptFloat(n node) node {
	if n.typ().Approx {
		return n
	}
	if n.typ().Type == catalog.Percent {
		return c.floated(&retyped{n, Type{Type: catalog.Decimal, Scale: n.typ().Scale}})
	}
	return c.floated(n)
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
		ys := v[1].ints[:len(v[0].ints)]
		for i, x := range v[0].ints {
			y := ys[i]
			if x == table.Blank || y == table.Blank {
				out.ints[i] = table.Blank
				continue
			}
			if minus {
				y = -y
			}
			s := x + y
			// Two of one sign that give the other have left 64 bits.
			if (x^s)&(y^s) < 0 || s == table.Blank {
				m.fail(TooLarge, i)
				s = table.Blank
			}
			out.ints[i] = s
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
	typ := Type{Type: catalog.Decimal, Scale: x.Scale + y.Scale, Approx: x.Approx || y.Approx}
	switch {
	case x.Type == catalog.Money && y.Type != catalog.Money:
		typ.Type, typ.Currency, typ.CurrencyBy = catalog.Money, x.Currency, x.CurrencyBy
	case y.Type == catalog.Money && x.Type != catalog.Money:
		typ.Type, typ.Currency, typ.CurrencyBy = catalog.Money, y.Currency, y.CurrencyBy
	case x.Type == catalog.Whole && y.Type == catalog.Whole:
		typ.Type = catalog.Whole
	}
	if typ.Approx {
		typ.Scale = 0
		a, b = c.floated(a), c.floated(b)
	} else if typ.Scale > maxScale {
		return nil, fault(t, "the product would need %d decimals; at most %d are kept: use ROUND on one of the two", typ.Scale, maxScale)
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
	switch {
	case x.Type == catalog.Duration && y.plainNumber():
		return c.lengthened(a, c.floated(b), true), nil
	case x.Type == catalog.Duration && y.Type == catalog.Duration:
	case !x.plainNumber() || !y.plainNumber():
		return nil, fault(t, "%s cannot be divided by %s", x.Word(), y.Word())
	case x.Type == catalog.Money && y.Type != catalog.Money:
		typ.Type, typ.Currency, typ.CurrencyBy = catalog.Money, x.Currency, x.CurrencyBy
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
	floats := make([]node, len(args))
	for i, a := range args {
		floats[i] = c.floated(a)
	}
	return &apply{t: Type{Type: catalog.Decimal, Approx: true}, id: c.id(), args: floats, do: func(m *Machine, out vec, v []vec) {
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

// written turns any value into text, as people read it.
func (c *checker) written(n node) node {
	t := n.typ()
	if t.Type == catalog.Text {
		return n
	}
	f := t.Field("", "")
	return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, a []vec) {
		w := format.NewWriter(format.People, m.setting.Calendar)
		for i, v := range a[0].ints {
			out.texts[i] = w.Number(v, f)
		}
		for i, v := range a[0].floats {
			out.texts[i] = w.Float(v, f)
		}
	}}
}

// join puts texts together; a blank adds nothing.
func (c *checker) join(args []node) node {
	texts := make([]node, len(args))
	for i, a := range args {
		texts[i] = c.written(a)
	}
	return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: texts, do: func(_ *Machine, out vec, a []vec) {
		for i := range out.texts {
			out.texts[i] = ""
			for _, v := range a {
				out.texts[i] += v.texts[i]
			}
		}
	}}
}

// compare decides =, <>, <, <=, > and >=. A blank on either side gives a blank.
// Texts compare without regard to case and accents, as filters do.
func (c *checker) compare(t *tree, a, b node) (node, error) {
	x, y := a.typ(), b.typ()
	switch {
	case x.plainNumber() && y.plainNumber():
		var err error
		if a, b, _, err = c.alike(t, a, b); err != nil {
			return nil, err
		}
	case x.Type != y.Type && x.Type.Temporal() && y.Type.Temporal():
		a, b = c.days(a), c.days(b)
	case x.Type != y.Type:
		return nil, fault(t, "%s cannot be compared with %s", x.Word(), y.Word())
	}
	holds := map[string]func(c int) bool{
		"=": func(c int) bool { return c == 0 }, "<>": func(c int) bool { return c != 0 },
		"<": func(c int) bool { return c < 0 }, "<=": func(c int) bool { return c <= 0 },
		">": func(c int) bool { return c > 0 }, ">=": func(c int) bool { return c >= 0 },
	}[t.text]
	return &apply{t: Type{Type: catalog.YesNo}, id: c.id(), args: []node{a, b}, do: func(_ *Machine, out vec, v []vec) {
		for i := range out.ints {
			out.ints[i] = table.Blank
			if !v[0].blank(i) && !v[1].blank(i) && holds(v[0].order(i, v[1])) {
				out.ints[i] = 1
			} else if !v[0].blank(i) && !v[1].blank(i) {
				out.ints[i] = 0
			}
		}
	}}, nil
}

// order compares a value with another vector's, neither being blank.
func (v vec) order(i int, o vec) int {
	switch {
	case v.texts != nil:
		if v.texts[i] == o.texts[i] {
			return 0
		}
		return table.CompareNatural(table.Fold(v.texts[i]), table.Fold(o.texts[i]))
	case v.floats != nil:
		return compareOrdered(v.floats[i], o.floats[i])
	}
	return compareOrdered(v.ints[i], o.ints[i])
}

func compareOrdered[T int64 | float64](a, b T) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// trimmed is a text without spaces at its ends and with single ones within.
func trimmed(s string) string { return strings.Join(strings.Fields(s), " ") }
