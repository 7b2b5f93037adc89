package formula

import (
	"unicode/utf8"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// Expr is a checked expression: plain data, complete, and without anything left to decide.
// Every conversion between types stands in it as an operator of its own, so a reader of
// the tree carries out what is written and needs no rule of the language.
type Expr struct {
	// Op is one of the operators below, or the name of a function in capitals, which does
	// what its Function says.
	Op   Op
	Type Type    // of the values that it gives
	Args []*Expr `json:",omitempty"`

	// Int is the value of a Constant as it is stored: a number scaled by its type, yes as
	// 1. Text is that of a text.
	Int  int64  `json:",omitempty"`
	Text string `json:",omitempty"`
	// Input is the place of an Input among the fields, or among the totals, that are read.
	Input int `json:",omitempty"`
	// Least is how many characters the texts of an Input have at least.
	Least int `json:",omitempty"`
	// Body is what an Inlined works out.
	Body *Expr `json:",omitempty"`
}

// Op is an operator of checked expressions. Unless something else is said, a blank among the
// arguments gives a blank, all arguments are worked out, and a record for which one of
// them fails has failed.
type Op string

// What has no arguments.
const (
	Constant Op = "constant" // Int or Text
	Blank    Op = "blank"    // no value
	Input    Op = "input"    // the value of the field or total of that place
	Today    Op = "TODAY"    // the day of the run
	Now      Op = "NOW"      // the moment of the run
	// Switched is the value of the SWITCH around it, in its tests.
	Switched Op = "switched"
)

// Conversions of their one argument, exact unless it is said otherwise.
const (
	Retype      Op = "retype"      // the same stored value, read as the type
	Rescale     Op = "rescale"     // a number with more decimals; may be too large
	Approximate Op = "approximate" // a number in binary floating point; 12.5 % becomes 0.125
	DayOf       Op = "day of"      // the day of a moment, in the zone
	Written     Op = "written"     // a value as people read it; a blank is the empty text
	// OnCalendar lets dates and moments of the years 1 to 9999 pass; others fail.
	OnCalendar Op = "on calendar"
)

// Operators. Exact results that do not fit into 64 bits fail.
const (
	Negate   Op = "negate"
	Add      Op = "+" // two numbers of one type; a date and days; a moment and a duration
	Subtract Op = "-" // likewise; two dates give days, two moments a duration
	Multiply Op = "*" // two exact numbers, whose decimals add up, or two approximate ones
	Divide   Op = "/" // two approximate numbers; division by zero fails
	// Lengthen and Shorten multiply and divide a duration by an approximate number, to the
	// microsecond, halves away from zero.
	Lengthen Op = "lengthen"
	Shorten  Op = "shorten"
	// After and Before are the moment at which the clock of a date shows a duration after
	// midnight, or before.
	After  Op = "after midnight"
	Before Op = "before midnight"
	// Join puts texts one behind the other; a blank adds nothing.
	Join Op = "&"

	// Comparisons of two values of one type, texts without regard to case and accents.
	Equal     Op = "="
	Different Op = "<>"
	Below     Op = "<"
	AtMost    Op = "<="
	Above     Op = ">"
	AtLeast   Op = ">="
)

// What does not work all of its arguments out, or takes blanks.
const (
	// Choose is the value behind the first test that is yes: test, value, test, value, and
	// so on, then the value for the rest. What is not taken does not fail.
	Choose Op = "choose"
	// Switch is Choose over a value, its first argument, which is worked out once; the
	// tests compare it as Switched.
	Switch Op = "SWITCH"
	// Coalesce is the first value that is not blank; one that fails is passed over. If none
	// is left, the record fails if one of them had failed.
	Coalesce Op = "COALESCE"
	IsBlank  Op = "ISBLANK" // yes for a blank, and for what fails
	// Inlined works out Body, whose inputs are the arguments.
	Inlined Op = "inlined"
)

// Functions whose last argument says how: a constant.
const (
	Round     Op = "ROUND"     // halves away from zero; Int of the constant is the decimals,
	RoundUp   Op = "ROUNDUP"   // or below zero how many digits before the point become 0
	RoundDown Op = "ROUNDDOWN" // likewise
	Floored   Op = "INT"       // to the whole number that is not above, with decimals 0
	DateDif   Op = "DATEDIF"
	TextAfter Op = "TEXT" // the pattern; numbers come with as many decimals as it has
)

// Total is a total within a formula: its function over the values of a calculation, one
// for each record. A count of records has none.
type Total struct {
	Fn  view.Fn
	Arg *Calculation `json:",omitempty"`
	// Percent is that of a percentile, in millionths of one percent.
	Percent int64 `json:",omitempty"`
}

// Calculation is an expression with what it reads.
type Calculation struct {
	Expr *Expr
	// Inputs are the fields read, one value for each record. A calculation over totals
	// has none; its inputs are the totals, in their order.
	Inputs []catalog.Ref `json:",omitempty"`
	// UsesToday says that the values depend on the day, UsesNow on the moment.
	UsesToday, UsesNow bool
}

// Type is what the calculation gives.
func (c *Calculation) Type() Type { return c.Expr.Type }

// Plain returns the one field that a calculation reads as it is.
func (c *Calculation) Plain() (catalog.Ref, bool) {
	if c.Expr.Op == Input && len(c.Inputs) == 1 {
		return c.Inputs[c.Expr.Input], true
	}
	return catalog.Ref{}, false
}

// LeastText is how many characters the calculation's texts have at least.
func (c *Calculation) LeastText() int { return c.Expr.leastText() }

func (e *Expr) leastText() int {
	switch e.Op {
	case Constant:
		return utf8.RuneCountInString(e.Text)
	case Input:
		return e.Least
	case Join:
		sum := 0
		for _, a := range e.Args {
			sum += a.leastText()
		}
		return sum
	case Coalesce:
		return leastOf(e.Args)
	case Choose, Switch:
		return leastOf(e.Branches())
	}
	return 0
}

func leastOf(of []*Expr) int {
	least := of[0].leastText()
	for _, e := range of[1:] {
		least = min(least, e.leastText())
	}
	return least
}

// Tests are those of a Choose or Switch, and Branches the values they lead to, one more
// than tests.
func (e *Expr) Tests() (tests []*Expr) {
	for i := e.first(); i+1 < len(e.Args); i += 2 {
		tests = append(tests, e.Args[i])
	}
	return tests
}

// Branches are the values of a Choose or Switch; the last is for the rest.
func (e *Expr) Branches() (branches []*Expr) {
	for i := e.first(); i+1 < len(e.Args); i += 2 {
		branches = append(branches, e.Args[i+1])
	}
	return append(branches, e.Args[len(e.Args)-1])
}

func (e *Expr) first() int {
	if e.Op == Switch {
		return 1
	}
	return 0
}
