package formula

import (
	"cmp"

	"gavrik/internal/core/catalog"
)

// operator checks an operator over its arguments.
func (c *checker) operator(t *tree, args []*Expr) *Expr {
	switch t.text {
	case "neg":
		if e := args[0]; e.Type.Type.Numeric() {
			return to(Negate, e.Type, e)
		}
		return c.fault(t, "a minus stands before a number, not before %s", args[0].Type.Word())
	case "%":
		return c.percent(t, args[0])
	case "+", "-":
		return c.sum(t, args[0], args[1])
	case "*":
		return c.product(t, args[0], args[1])
	case "/":
		return c.quotient(t, args[0], args[1])
	case "^":
		if a, b := args[0].Type, args[1].Type; !a.plainNumber() || !b.plainNumber() {
			return c.fault(t, "^ wants two numbers, not %s and %s", a.Word(), b.Word())
		}
		return approximate("POWER", args)
	case "&":
		return c.join(t, args)
	}
	return c.compare(t, Op(t.text), args[0], args[1])
}

func (c *checker) percent(t *tree, e *Expr) *Expr {
	if !e.Type.plainNumber() {
		return c.fault(t, "%% follows a number, not %s", e.Type.Word())
	}
	e = unpercented(e)
	if e.Type.Approx {
		return c.quotient(t, e, whole(100))
	}
	if e.Type.Scale+2 > maxScale {
		return c.fault(t,
			"the result would need %d decimals; at most %d are kept: use ROUND", e.Type.Scale+2, maxScale)
	}
	return retyped(e, Type{Type: catalog.Decimal, Scale: e.Type.Scale + 2, CurrencyBy: e.Type.CurrencyBy})
}

// sum adds or subtracts.
func (c *checker) sum(t *tree, a, b *Expr) *Expr {
	op, minus := Op(t.text), t.text == "-"
	x, y := a.Type.Type, b.Type.Type
	isWhole := func(t Type) bool { return t.Type == catalog.Whole && !t.Approx }
	both := func(a, b *Expr, gives Type) *Expr { return &Expr{Op: op, Type: gives, Args: []*Expr{a, b}} }
	switch {
	case a.Type.plainNumber() && b.Type.plainNumber():
		a, b, typ, ok := c.alike(t, a, b)
		if !ok {
			return nil
		}
		return both(a, b, typ)
	case x == catalog.Duration && y == catalog.Duration,
		x == catalog.DateTime && y == catalog.Duration,
		x == catalog.Date && isWhole(b.Type):
		return dated(both(a, b, a.Type))
	case x == catalog.Date && y == catalog.Duration && minus:
		return &Expr{Op: Before, Type: momentType, Args: []*Expr{a, b}}
	case x == catalog.Date && y == catalog.Duration:
		return &Expr{Op: After, Type: momentType, Args: []*Expr{a, b}}
	case !minus && x == catalog.Duration && y == catalog.Date:
		return &Expr{Op: After, Type: momentType, Args: []*Expr{b, a}}
	case !minus && (x == catalog.Duration && y == catalog.DateTime || isWhole(a.Type) && y == catalog.Date):
		return dated(both(a, b, b.Type))
	case minus && x == catalog.DateTime && y == catalog.DateTime:
		// To the second if need be: a column of it says how fine its values are.
		return both(a, b, lengthType)
	case minus && x.Temporal() && y.Temporal():
		return both(days(a), days(b), wholeType)
	case x == catalog.Text || y == catalog.Text:
		where := "what stands after it"
		if x == catalog.Text {
			where = "what stands before it"
		}
		return c.fault(t, "%s wants numbers; %s is text: use & to join text", t.text, where)
	}
	return c.fault(t, "%s and %s cannot be put together with %s", a.Type.Word(), b.Type.Word(), t.text)
}

func (c *checker) product(t *tree, a, b *Expr) *Expr {
	if b.Type.Type == catalog.Duration {
		a, b = b, a
	}
	a, b = unpercented(a), unpercented(b)
	x, y := a.Type, b.Type
	switch {
	case x.Type == catalog.Duration && y.plainNumber():
		return &Expr{Op: Lengthen, Type: x, Args: []*Expr{a, floated(b)}}
	case !x.plainNumber() || !y.plainNumber():
		return c.fault(t, "%s and %s cannot be multiplied", x.Word(), y.Word())
	}
	by, ok := c.oneCurrency(t, x, y)
	if !ok {
		return nil
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
		a, b = floated(a), floated(b)
	} else if typ.Scale > maxScale {
		return c.fault(t, "the product would need %d decimals; at most %d are kept: "+
			"use ROUND on one of the two", typ.Scale, maxScale)
	}
	return &Expr{Op: Multiply, Type: typ, Args: []*Expr{a, b}}
}

func (c *checker) quotient(t *tree, a, b *Expr) *Expr {
	x, y := a.Type, b.Type
	typ := floatType
	if x.CurrencyBy != y.CurrencyBy { // of amounts in one currency, the ratio has none
		typ.CurrencyBy = cmp.Or(x.CurrencyBy, y.CurrencyBy)
	}
	switch {
	case x.Type == catalog.Duration && y.plainNumber():
		return &Expr{Op: Shorten, Type: x, Args: []*Expr{a, floated(b)}}
	case x.Type == catalog.Duration && y.Type == catalog.Duration:
	case !x.plainNumber() || !y.plainNumber():
		return c.fault(t, "%s cannot be divided by %s", x.Word(), y.Word())
	case x.Type == catalog.Money && y.Type != catalog.Money:
		typ.Type, typ.Currency = catalog.Money, x.Currency
	}
	return &Expr{Op: Divide, Type: typ, Args: []*Expr{floated(a), floated(b)}}
}

// approximate applies a function of numbers in binary floating point.
func approximate(op Op, args []*Expr) *Expr {
	out := &Expr{Op: op, Type: floatType}
	for _, a := range args {
		out.Args = append(out.Args, floated(a))
		out.Type.CurrencyBy = cmp.Or(out.Type.CurrencyBy, a.Type.CurrencyBy)
	}
	return out
}

// join puts texts together.
func (c *checker) join(t *tree, args []*Expr) *Expr {
	out := &Expr{Op: Join, Type: textType}
	for _, a := range args {
		out.Args = append(out.Args, written(a))
	}
	if least := out.leastText(); least > MaxText {
		return c.fault(t,
			"this text would have at least %d characters; a text has %d at most", least, MaxText)
	}
	return out
}

// compare checks =, <>, <, <=, > and >=. A blank on either side gives a blank.
func (c *checker) compare(t *tree, op Op, a, b *Expr) *Expr {
	x, y := a.Type, b.Type
	switch {
	case x.plainNumber() && y.plainNumber():
		var ok bool
		if a, b, _, ok = c.alike(t, a, b); !ok {
			return nil
		}
	case x.Type != y.Type && x.Type.Temporal() && y.Type.Temporal():
		a, b = days(a), days(b)
	case x.Type != y.Type:
		return c.fault(t, "%s cannot be compared with %s", x.Word(), y.Word())
	}
	return &Expr{Op: op, Type: truthType, Args: []*Expr{a, b}}
}
