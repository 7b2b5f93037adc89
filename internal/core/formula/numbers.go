package formula

import "gavrik/internal/core/catalog"

var numberFunctions = []Function{
	{Name: "ABS", Arguments: "number", least: 1, most: 1, Result: oneOfItsValues, check: checkAbs,
		Meaning: "The number without its sign; a duration, too.",
		Example: `ABS('Paid' - 'Claimed')`, Sample: `ABS(-3)`},
	{Name: "SIGN", Arguments: "number", least: 1, most: 1, Result: "a whole number", check: checkSign,
		Meaning: "1 for a number above zero, −1 for one below, 0 for zero.",
		Example: `SIGN('Claimed' - 'Paid')`, Sample: `SIGN(-3.5)`},
	{Name: "INT", Arguments: "number", least: 1, most: 1, Result: "a whole number", check: checkRound,
		Meaning: "The largest whole number that is not above the number.",
		Example: `INT('Claimed')`, Sample: `INT(-3.5)`},
	{Name: "ROUND", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact",
		check:   checkRound,
		Meaning: "The nearest number with so many decimals, halves away from zero; with −2, the nearest hundred.",
		Example: `ROUND('Claimed' / 3; 2)`, Sample: `ROUND(-2.5)`},
	{Name: "ROUNDUP", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact",
		check: checkRound, Meaning: "The number rounded away from zero, to so many decimals; with −2, to hundreds.",
		Example: `ROUNDUP('Claimed'; 0)`, Sample: `ROUNDUP(2.01; 1)`},
	{Name: "ROUNDDOWN", Arguments: "number; decimals", least: 1, most: 2, Result: "a number, exact",
		check:   checkRound,
		Meaning: "The number cut off towards zero, behind so many decimals; with −2, to hundreds.",
		Example: `ROUNDDOWN('Claimed'; 0)`, Sample: `ROUNDDOWN(-2.59; 1)`},
	{Name: "CEILING", Arguments: "number; step", least: 1, most: 2, Result: "a number", check: checkStep,
		Meaning: "The smallest multiple of the step that is not below the number; of 1, if no step is given.",
		Example: `CEILING('Claimed'; 50)`, Sample: `CEILING(-2.5; 2)`},
	{Name: "FLOOR", Arguments: "number; step", least: 1, most: 2, Result: "a number", check: checkStep,
		Meaning: "The largest multiple of the step that is not above the number; of 1, if no step is given.",
		Example: `FLOOR('Claimed'; 50)`, Sample: `FLOOR(-2.5; 2)`},
	{Name: "MOD", Arguments: "number; divisor", least: 2, most: 2, Result: "a number", check: checkMod,
		Meaning: "What is left after dividing; it has the sign of the divisor.",
		Example: `MOD('Claimed'; 50)`, Sample: `MOD(-3; 2)`},
	{Name: "POWER", Arguments: "number; exponent", least: 2, most: 2, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The number to a power; the same as the operator ^.", Example: `POWER('Claimed'; 0.5)`,
		Sample: `POWER(2; 10)`},
	{Name: "SQRT", Arguments: "number", least: 1, most: 1, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The square root.", Example: `SQRT('Claimed')`, Sample: `SQRT(16)`},
	{Name: "EXP", Arguments: "number", least: 1, most: 1, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The number e to a power.", Example: `EXP(LN('Claimed'))`, Sample: `EXP(0)`},
	{Name: "LN", Arguments: "number", least: 1, most: 1, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The natural logarithm.", Example: `LN('Claimed')`, Sample: `LN(1)`},
	{Name: "LOG", Arguments: "number; base", least: 1, most: 2, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The logarithm to a base; to 10, if none is given.", Example: `LOG('Claimed'; 2)`,
		Sample: `LOG(8; 2)`},
	{Name: "LOG10", Arguments: "number", least: 1, most: 1, Result: "a number, approximate",
		check:   checkApproximate,
		Meaning: "The logarithm to base 10.", Example: `LOG10('Claimed')`, Sample: `LOG10(1000)`},
	{Name: "MIN", Arguments: "value; value; …", least: 2, Result: oneOfItsValues, check: checkExtreme,
		Meaning: "The smallest of several values of one record. With one argument it is a total.",
		Blanks:  "Blanks are passed over.", Example: `MIN('Claimed'; 500)`, Sample: `MIN(3; 1; 2)`},
	{Name: "MAX", Arguments: "value; value; …", least: 2, Result: oneOfItsValues, check: checkExtreme,
		Meaning: "The largest of several values of one record. With one argument it is a total.",
		Blanks:  "Blanks are passed over.", Example: `MAX('Claimed' - 'Paid'; 0)`, Sample: `MAX(3; 1; 2)`},
}

func checkApproximate(c *checker, t *tree, args []*Expr) *Expr {
	if _, ok := c.wanted(t, args, aFloat); !ok {
		return nil
	}
	return approximate(Op(t.text), args)
}

func checkSign(c *checker, t *tree, args []*Expr) *Expr {
	if !c.isNumeric(t, args[0]) {
		return nil
	}
	return to("SIGN", wholeType, args[0])
}

func checkAbs(c *checker, t *tree, args []*Expr) *Expr {
	if !c.isNumeric(t, args[0]) {
		return nil
	}
	return to("ABS", args[0].Type, args[0])
}

// isNumeric says whether the one argument is a number or a duration, or reports that it is
// none.
func (c *checker) isNumeric(t *tree, e *Expr) bool {
	if !e.Type.Type.Numeric() {
		c.fault(t.args[0], "%s wants a number; %s is %s", t.text, t.args[0].said(), e.Type.Word())
	}
	return e.Type.Type.Numeric()
}

// checkStep checks what finds multiples, of 1 if no step is given.
func checkStep(c *checker, t *tree, args []*Expr) *Expr {
	if len(args) == 1 {
		args = append(args[:1:1], whole(1))
		t = &tree{kind: t.kind, text: t.text, args: append(t.args[:1:1], t), from: t.from, to: t.to}
	}
	return checkMod(c, t, args)
}

// checkMod checks a function of two numbers of one type.
func checkMod(c *checker, t *tree, args []*Expr) *Expr {
	args, ok := c.wanted(t, args, aNumber)
	if !ok {
		return nil
	}
	a, b, typ, ok := c.alike(t, args[0], args[1])
	if !ok {
		return nil
	}
	return &Expr{Op: Op(t.text), Type: typ, Args: []*Expr{a, b}}
}

// maxTens bounds rounding to tens, hundreds and so on.
const maxTens = 15

func checkRound(c *checker, t *tree, args []*Expr) *Expr {
	number, ok := c.wanted(&tree{text: t.text, args: t.args[:1]}, args[:1], aNumber)
	decimals := int64(0)
	if len(args) == 2 {
		known := false
		if decimals, known = wholeConstant(args[1]); !known || decimals < -maxTens || decimals > 12 {
			c.fault(t.args[1], "%s wants the number of decimals as a plain number from −%d to 12; "+
				"−2 rounds to hundreds", t.text, maxTens)
			return nil
		}
	}
	if !ok {
		return nil
	}
	out := rounded(Op(t.text), number[0], int(decimals))
	if t.text == "INT" && out.Type.Type == catalog.Decimal {
		out = retyped(out, wholeType)
	}
	return out
}

// wholeConstant works a whole number out that is written without fields.
func wholeConstant(e *Expr) (v int64, ok bool) {
	if e.Type.Type != catalog.Whole || e.Type.Approx {
		return 0, false
	}
	args := make([]int64, len(e.Args))
	for i, a := range e.Args {
		const far = 1 << 30 // products of nearer numbers fit
		if args[i], ok = wholeConstant(a); !ok || args[i] > far || args[i] < -far {
			return 0, false
		}
	}
	switch e.Op {
	case Constant:
		return e.Int, true
	case Negate:
		return -args[0], true
	case Add:
		return args[0] + args[1], true
	case Subtract:
		return args[0] - args[1], true
	case Multiply:
		return args[0] * args[1], true
	}
	return 0, false
}

// checkExtreme checks what takes the smallest or largest of the values that are not blank.
func checkExtreme(c *checker, t *tree, args []*Expr) *Expr {
	if typ := args[0].Type.Type; !typ.Numeric() && !typ.Temporal() {
		return c.fault(
			t.args[0], "%s wants numbers or dates; %s is %s", t.text, t.args[0].said(), args[0].Type.Word(),
		)
	}
	args, typ, ok := c.unified(t, args)
	if !ok {
		return nil
	}
	return &Expr{Op: Op(t.text), Type: typ, Args: args}
}
