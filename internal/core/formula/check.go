package formula

import (
	"errors"
	"fmt"
	"math/big"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/table"
)

// checker turns a syntax tree into a checked expression, and collects what is wrong with
// it. An expression with a fault is nil; what is made of it is nil, too, and says nothing
// more.
type checker struct {
	lookup   Lookup
	perTotal bool
	totals   []Total
	// making is the calculation at hand; those of totals lie within the whole's.
	making  *Calculation
	inTotal bool
	errors  Errors
	// silent says that a name has a fault which is reported elsewhere.
	silent bool
}

// calculation checks a tree; outer is the formula itself, not the argument of one of its
// totals.
func (c *checker) calculation(t *tree, outer bool) *Calculation {
	saved := c.making
	defer func() { c.making, c.inTotal = saved, false }()
	c.making, c.inTotal = &Calculation{}, !outer
	out := c.making
	if out.Expr = c.expr(t); out.Expr == nil {
		return nil
	}
	return out
}

// fault reports values that do not go together, as most faults are. It returns nil, which
// stands for an expression with a fault.
func (c *checker) fault(t *tree, format string, args ...any) *Expr {
	return c.faultOf(code.FormulaType, t, format, args...)
}

func (c *checker) faultOf(of code.Code, t *tree, format string, args ...any) *Expr {
	c.errors = append(c.errors, &Error{t.from, t.to, of, fmt.Sprintf(format, args...)})
	return nil
}

func (c *checker) expr(t *tree) *Expr {
	switch t.kind {
	case numberToken:
		return c.number(t)
	case textToken:
		return &Expr{Op: Constant, Type: textType, Text: t.text}
	case fieldToken:
		return c.field(t)
	case nameToken:
		return c.call(t)
	}
	args, ok := c.exprs(t.args)
	if !ok {
		return nil
	}
	return c.operator(t, args)
}

// exprs checks several expressions; ok is false if one of them has a fault.
func (c *checker) exprs(trees []*tree) (out []*Expr, ok bool) {
	ok = true
	for _, t := range trees {
		e := c.expr(t)
		out, ok = append(out, e), ok && e != nil
	}
	return out, ok
}

func (c *checker) number(t *tree) *Expr {
	r, ok := new(big.Rat).SetString(t.text)
	if !ok || strings.Count(t.text, ".") > 1 {
		return c.faultOf(code.FormulaForm, t, "%q is not a number; write it as 1234.5", t.text)
	}
	_, decimals, _ := strings.Cut(t.text, ".")
	typ := wholeType
	if decimals = strings.TrimRight(decimals, "0"); decimals != "" {
		typ = Type{Type: catalog.Decimal, Scale: len(decimals)}
	}
	r.Mul(r, new(big.Rat).SetInt64(table.Pow10(min(typ.Scale, maxScale))))
	if typ.Scale > maxScale || !r.IsInt() || !r.Num().IsInt64() {
		return c.faultOf(code.FormulaSize, t,
			"the number %s has too many digits; at most %d are kept", t.text, maxScale)
	}
	return &Expr{Op: Constant, Type: typ, Int: r.Num().Int64()}
}

func whole(v int64) *Expr { return &Expr{Op: Constant, Type: wholeType, Int: v} }

func (c *checker) field(t *tree) *Expr {
	switch strings.ToUpper(t.text) {
	case "TRUE", "YES":
		return &Expr{Op: Constant, Type: truthType, Int: 1}
	case "FALSE", "NO":
		return &Expr{Op: Constant, Type: truthType}
	}
	found, err := c.lookup(t.text)
	ref := found.Ref
	switch {
	case errors.Is(err, ErrReported):
		c.silent = true
		return nil
	case errors.Is(err, ErrDoubt):
		return c.faultOf(code.FormulaDoubt, t, "%s", err)
	case err != nil:
		return c.faultOf(code.FormulaName, t, "%s", err)
	case found.Totals != nil && c.inTotal:
		return c.fault(t, "'%s' is calculated from totals and cannot stand inside one", t.text)
	case found.Totals != nil:
		return c.inlined(t, found.Totals)
	case c.perTotal && !c.inTotal:
		return c.fault(t, "in a formula of totals every field stands inside a total; "+
			"write SUM('%s') or another total of it", t.text)
	case ref.Field.Type == catalog.Picture:
		return c.fault(t, "'%s' holds pictures, which cannot be calculated with", t.text)
	}
	at := slices.IndexFunc(c.making.Inputs, func(have catalog.Ref) bool { return have.Path == ref.Path })
	if at < 0 {
		at = len(c.making.Inputs)
		c.making.Inputs = append(c.making.Inputs, ref)
	}
	return &Expr{Op: Input, Type: typeOfRef(ref), Input: at, Least: found.Least}
}

// inlined works a field that is calculated from totals out in its place.
func (c *checker) inlined(t *tree, of *Formula) *Expr {
	if len(c.totals)+len(of.Totals) > maxTotals {
		return c.faultOf(code.FormulaSize, t, "the formula needs more than %d totals", maxTotals)
	}
	at := len(c.totals)
	c.totals = append(c.totals, of.Totals...)
	args := make([]*Expr, len(of.Totals))
	for i, total := range of.Totals {
		args[i] = &Expr{Op: Input, Type: total.typ(), Input: at + i}
	}
	body := of.Calculation
	c.making.UsesToday = c.making.UsesToday || body.UsesToday
	c.making.UsesNow = c.making.UsesNow || body.UsesNow
	return &Expr{Op: Inlined, Type: body.Type(), Args: args, Body: body.Expr}
}

// hasTotal says whether a total stands anywhere in a tree, or a field that is
// calculated from totals.
func (c *checker) hasTotal(t *tree) bool {
	switch t.kind {
	case nameToken:
		if isTotal(t) {
			return true
		}
	case fieldToken:
		if found, err := c.lookup(t.text); err == nil && found.Totals != nil {
			return true
		}
	}
	return slices.ContainsFunc(t.args, c.hasTotal)
}
