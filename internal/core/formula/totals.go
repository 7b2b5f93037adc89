package formula

import (
	"cmp"
	"math/big"
	"slices"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

// totalFunctions are the totals that have a name in formulas.
var totalFunctions = func() (out []Function) {
	for _, t := range view.Totals() {
		if t.Function == "" {
			continue
		}
		arguments := cmp.Or(t.Arguments, "value")
		count := strings.Count(arguments, ";") + 1
		f := Function{
			Name: t.Function, Arguments: arguments, least: count, most: count, Total: t.Fn,
			Meaning: t.Meaning, Result: givenIn(t.Gives), Blanks: t.Blanks, Example: t.Example,
		}
		if t.Fn == view.CountFilled {
			f.least = 0
		}
		out = append(out, f)
	}
	return append(out, Function{
		Name: "COUNTA", Arguments: "value", least: 1, most: 1, Total: view.CountFilled, Result: "a whole number",
		Meaning: "How many records have a value of any kind; here the same as COUNT.",
		Blanks:  "Blanks are passed over.", Example: `COUNTA('Status')`,
	})
}()

// givenIn says in the reference what a total gives.
func givenIn(g view.Gives) string {
	switch g {
	case view.GivesValue:
		return oneOfItsValues
	case view.GivesMean:
		return "a number"
	case view.GivesCount:
		return "a whole number"
	}
	return "a number, approximate"
}

// total checks a total's argument as a calculation of its own and reads its figure
// as an input.
func (c *checker) total(t *tree, fn view.Fn) *Expr {
	if c.inTotal {
		return c.fault(t, "%s stands inside another total; make a calculated field of one of them", t.text)
	}
	if len(t.args) == 0 {
		return c.figure(t, Total{Fn: view.Records})
	}
	arg := c.calculation(t.args[0], false)
	made := Total{Fn: fn, Arg: arg}
	if fn == view.Percentile {
		var ok bool
		if made.Percent, ok = c.percentOf(t.args[1]); !ok {
			return nil
		}
	}
	if arg == nil {
		return nil
	}
	of := arg.Type().Type
	// A percentage may be summed within a formula: the formula says what it means.
	if !slices.Contains(view.FnsFor(of), fn) && !(fn == view.Sum && of == catalog.Percent) {
		return c.fault(t, "%s does not fit %s", t.text, of.Word())
	}
	return c.figure(t, made)
}

// figure reads a total as an input.
func (c *checker) figure(t *tree, made Total) *Expr {
	if len(c.totals) == maxTotals {
		return c.faultOf(code.FormulaSize, t, "the formula needs more than %d totals", maxTotals)
	}
	c.totals = append(c.totals, made)
	return &Expr{Op: Input, Type: made.typ(), Input: len(c.totals) - 1}
}

// percentOf reads the part of a percentile, a plain number from 0 to 1, as millionths
// of one percent.
func (c *checker) percentOf(t *tree) (percent int64, ok bool) {
	number, unit := t, big.NewRat(100_000_000, 1)
	if t.kind == signToken && t.text == "%" {
		number, unit = t.args[0], big.NewRat(1_000_000, 1)
	}
	part, ok := new(big.Rat).SetString(number.text)
	if number.kind != numberToken || !ok {
		c.fault(t, "PERCENTILE wants the part as a plain number from 0 to 1, such as 0.9")
		return 0, false
	}
	part.Mul(part, unit)
	if !part.IsInt() || part.Sign() < 0 || part.Cmp(big.NewRat(100_000_000, 1)) > 0 {
		c.fault(t, "PERCENTILE wants a part from 0 to 1, such as 0.9")
		return 0, false
	}
	return part.Num().Int64(), true
}
