package formula

import (
	"cmp"

	"gavrik/internal/core/catalog"
)

// to wraps an expression in a conversion; what it gives is of type t.
func to(op Op, t Type, e *Expr) *Expr { return &Expr{Op: op, Type: t, Args: []*Expr{e}} }

// retyped reads the same stored values as another type.
func retyped(e *Expr, t Type) *Expr {
	if e.Type == t {
		return e
	}
	return to(Retype, t, e)
}

// rescaled brings an exact number to more decimals.
func rescaled(e *Expr, scale int) *Expr {
	t := e.Type
	if t.Approx || t.Scale == scale {
		return e
	}
	t.Scale = scale
	return to(Rescale, t, e)
}

// floated makes a number approximate. A percentage becomes the number it stands
// for.
func floated(e *Expr) *Expr {
	t := e.Type
	if t.Approx && t.Type != catalog.Percent {
		return e
	}
	return to(Approximate, Type{Type: catalog.Decimal, Approx: true, CurrencyBy: t.CurrencyBy}, e)
}

// keptFloat is floated, but leaves an approximate percentage as it is.
func keptFloat(e *Expr) *Expr {
	if e.Type.Approx {
		return e
	}
	if e.Type.Type == catalog.Percent {
		plain := Type{Type: catalog.Decimal, Scale: e.Type.Scale, CurrencyBy: e.Type.CurrencyBy}
		return floated(retyped(e, plain))
	}
	return floated(e)
}

// unpercented reads a percentage as the number it stands for: 12.5 % is 0.125.
func unpercented(e *Expr) *Expr {
	t := e.Type
	if t.Type != catalog.Percent {
		return e
	}
	if t.Approx {
		return floated(e)
	}
	return retyped(e, Type{Type: catalog.Decimal, Scale: t.Scale + 2, CurrencyBy: t.CurrencyBy})
}

// days turns moments into the days they lie on.
func days(e *Expr) *Expr {
	if e.Type.Type == catalog.Date {
		return e
	}
	return to(DayOf, dateType, e)
}

// dated keeps dates and moments within the calendar.
func dated(e *Expr) *Expr {
	if !e.Type.Type.Temporal() {
		return e
	}
	return to(OnCalendar, e.Type, e)
}

// written turns any value into text, as people read it.
func written(e *Expr) *Expr {
	if e.Type.Type == catalog.Text {
		return e
	}
	return to(Written, textType, e)
}

// rounded brings a number to so many decimals; the result is exact. Below 0, that many
// digits before the point become zeros.
func rounded(op Op, e *Expr, decimals int) *Expr {
	out := e.Type
	out.Scale, out.Approx = max(0, decimals), false
	if e.Type.Type == catalog.Whole && decimals > 0 {
		out.Type = catalog.Decimal
	}
	if !e.Type.Approx && e.Type.Scale <= decimals {
		same := e.Type
		same.Type = out.Type
		return rescaled(retyped(e, same), out.Scale)
	}
	return &Expr{Op: op, Type: out, Args: []*Expr{e, whole(int64(decimals))}}
}

// alike brings two numbers to one type: the finer scale, approximate if either
// is, money if either is.
func (c *checker) alike(t *tree, a, b *Expr) (x, y *Expr, typ Type, ok bool) {
	typ, ok = c.alikeType(t, a.Type, b.Type)
	if !ok {
		return nil, nil, typ, false
	}
	if a.Type.Type != b.Type.Type {
		a, b = unpercented(a), unpercented(b)
	}
	if typ.Approx {
		return keptFloat(a), keptFloat(b), typ, true
	}
	return rescaled(a, typ.Scale), rescaled(b, typ.Scale), typ, true
}

// alikeType is the type that two numbers have in common.
func (c *checker) alikeType(t *tree, x, y Type) (typ Type, ok bool) {
	if x.Type != y.Type {
		x, y = unpercented(&Expr{Type: x}).Type, unpercented(&Expr{Type: y}).Type
	}
	if x.Type == catalog.Money && y.Type == catalog.Money &&
		x.Currency != y.Currency && x.Currency != "" && y.Currency != "" {
		c.fault(t, "%s and %s are different currencies; convert one of them first", x.Currency, y.Currency)
		return Type{}, false
	}
	typ = x
	if typ.CurrencyBy, ok = c.oneCurrency(t, x, y); !ok {
		return Type{}, false
	}
	if y.Type == catalog.Money || x.Type == catalog.Whole {
		typ.Type = y.Type
	}
	typ.Currency = ""
	if typ.Type == catalog.Money {
		typ.Currency = cmp.Or(x.Currency, y.Currency)
	}
	if typ.Approx = x.Approx || y.Approx; typ.Approx {
		typ.Scale = 0
		return typ, true
	}
	typ.Scale = max(x.Scale, y.Scale)
	if typ.Scale > 0 && typ.Type == catalog.Whole {
		typ.Type = catalog.Decimal
	}
	return typ, true
}

// oneCurrency is the path of the field that names the currency of what two numbers make;
// amounts whose currencies may differ are not put together.
func (c *checker) oneCurrency(t *tree, x, y Type) (by string, ok bool) {
	amounts := x.Type == catalog.Money && y.Type == catalog.Money
	if x.CurrencyBy != y.CurrencyBy && (amounts || x.CurrencyBy != "" && y.CurrencyBy != "") {
		c.fault(t, "the two amounts may be in different currencies; convert one of them first")
		return "", false
	}
	return cmp.Or(x.CurrencyBy, y.CurrencyBy), true
}
