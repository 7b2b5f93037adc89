package formula

import (
	"math/big"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/code"
	"gavrik/internal/core/view"
)

const skipsBlanks = "Blanks are passed over."

var totalFunctions = []Function{
	{Name: "SUM", Arguments: "value", least: 1, most: 1, Total: view.Sum, Result: oneOfItsValues,
		Meaning: "The sum over the records of a group; with IF, over some of them.", Blanks: skipsBlanks + " Blank if there is no value; the standard gives 0.",
		Example: `SUM(IF('Status' = "Open"; 'Claimed'))`},
	{Name: "AVERAGE", Arguments: "value", least: 1, most: 1, Total: view.Average, Result: "a number",
		Meaning: "The arithmetic mean.", Blanks: skipsBlanks, Example: `AVERAGE('Claimed')`},
	{Name: "COUNT", Arguments: "value", least: 0, most: 1, Total: view.FilledN, Result: "a whole number",
		Meaning: "How many records have a value; without an argument, how many records there are. Numbers of linked records count once, as in SUM.", Blanks: skipsBlanks,
		Example: `COUNT('Paid') / COUNT()`},
	{Name: "COUNTA", Arguments: "value", least: 1, most: 1, Total: view.FilledN, Result: "a whole number",
		Meaning: "How many records have a value of any kind; here the same as COUNT.", Blanks: skipsBlanks, Example: `COUNTA('Status')`},
	{Name: "COUNTBLANK", Arguments: "value", least: 1, most: 1, Total: view.Blanks, Result: "a whole number",
		Meaning: "How many records have no value.", Blanks: "Blanks are what is counted.", Example: `COUNTBLANK('Paid')`},
	{Name: "COUNTDISTINCT", Arguments: "value", least: 1, most: 1, Total: view.Distinct, Result: "a whole number",
		Meaning: "How many different values there are. The standard has no such function.", Blanks: skipsBlanks, Example: `COUNTDISTINCT('Customer')`},
	{Name: "MEDIAN", Arguments: "value", least: 1, most: 1, Total: view.Median, Result: "a number",
		Meaning: "The value in the middle; of two, the mean.", Blanks: skipsBlanks, Example: `MEDIAN('Claimed')`},
	{Name: "PERCENTILE", Arguments: "value; part", least: 2, most: 2, Total: view.Percentile, Result: "a number",
		Meaning: "The value that so great a part of the values does not pass, from 0 to 1; between two values, in proportion.", Blanks: skipsBlanks,
		Example: `PERCENTILE('Claimed'; 0.9)`},
	{Name: "MIN", Arguments: "value", least: 1, most: 1, Total: view.Smallest, Result: oneOfItsValues,
		Meaning: "The smallest value, or the earliest date.", Blanks: skipsBlanks + " Blank if there is no value; the standard gives 0.", Example: `MIN('Opened at')`},
	{Name: "MAX", Arguments: "value", least: 1, most: 1, Total: view.Largest, Result: oneOfItsValues,
		Meaning: "The largest value, or the latest date.", Blanks: skipsBlanks + " Blank if there is no value; the standard gives 0.", Example: `MAX('Opened at')`},
	{Name: "STDEV", Arguments: "value", least: 1, most: 1, Total: view.Spread, Result: "a number, approximate",
		Meaning: "The standard deviation of a sample.", Blanks: skipsBlanks, Example: `STDEV('Claimed')`},
	{Name: "VAR", Arguments: "value", least: 1, most: 1, Total: view.Variance, Result: "a number, approximate",
		Meaning: "The variance of a sample.", Blanks: skipsBlanks, Example: `VAR('Claimed')`},
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
