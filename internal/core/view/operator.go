package view

import (
	"cmp"

	"gavrik/internal/core/catalog"
)

// Op is how a condition tests a field.
type Op string

// The operators; Operators describes them.
const (
	Is          Op = "is"
	IsNot       Op = "is_not"
	OneOf       Op = "one_of"
	NoneOf      Op = "none_of"
	Contains    Op = "contains"
	NotContains Op = "not_contains"
	Starts      Op = "starts"
	Ends        Op = "ends"
	Like        Op = "like"
	NotLike     Op = "not_like"
	Over        Op = "over"
	AtLeast     Op = "at_least"
	Under       Op = "under"
	AtMost      Op = "at_most"
	Between     Op = "between"
	NotBetween  Op = "not_between"
	In          Op = "in"
	NotIn       Op = "not_in"
	Weekday     Op = "weekday"
	NotWeekday  Op = "not_weekday"
	Hour        Op = "hour"
	NotHour     Op = "not_hour"
	IsBlank     Op = "blank"
	Filled      Op = "filled"
	// Failed finds the records whose formula could not be worked out; it fits
	// calculated fields of any type.
	Failed Op = "failed"
)

// Operand is what an operator compares a field with.
type Operand string

// The operands.
const (
	OperandNone     Operand = "none"
	OperandOne      Operand = "one"
	OperandTwo      Operand = "two"
	OperandList     Operand = "list"
	OperandPattern  Operand = "pattern"  // a text with * for any characters and ? for one
	OperandPeriod   Operand = "period"   // a relative period
	OperandWeekdays Operand = "weekdays" // by their English names
	OperandHours    Operand = "hours"    // 0 to 23
)

// Operands lists the kinds of operands.
func Operands() []Operand {
	return []Operand{
		OperandNone, OperandOne, OperandTwo, OperandList, OperandPattern, OperandPeriod, OperandWeekdays,
		OperandHours,
	}
}

// OpInfo describes an operator.
type OpInfo struct {
	Op Op
	// Negates is the positive twin of a negative operator, which keeps exactly the records
	// that its twin leaves out, blanks among them.
	Negates Op
	Operand Operand
	// Fields says that the operand may be a second field.
	Fields bool
	// Figures says that a sum or an average of linked records can be tested so.
	Figures bool
	// Words say it between a field and its operand. Label names it where there is no operand;
	// if empty, Words do.
	Words wording
	Label string

	fits fits
}

var operators = []OpInfo{
	{Op: Is, Operand: OperandOne, Fields: true, Figures: true, Words: word("is"),
		fits: everyNumber(70).dates(30).texts(30).truths(10)},
	{Op: IsNot, Negates: Is, Operand: OperandOne, Fields: true, Words: word("is not"),
		fits: everyNumber(80).dates(40).texts(40).truths(20)},
	{Op: OneOf, Operand: OperandList, Words: word("is"), Label: "is one of",
		fits: everyNumber(90).dates(50).texts(10).truths(30)},
	{Op: NoneOf, Negates: OneOf, Operand: OperandList, Words: word("is not"), Label: "is none of",
		fits: everyNumber(100).dates(60).texts(20).truths(40)},
	{Op: Contains, Operand: OperandOne, Words: word("contains"), fits: fits{text: 50}},
	{
		Op: NotContains, Negates: Contains, Operand: OperandOne, Words: word("does not contain"),
		fits: fits{text: 60},
	},
	{Op: Starts, Operand: OperandOne, Words: word("starts with"), fits: fits{text: 70}},
	{Op: Ends, Operand: OperandOne, Words: word("ends with"), fits: fits{text: 80}},
	{Op: Like, Operand: OperandPattern, Words: word("is like"), fits: fits{text: 90}},
	{Op: NotLike, Negates: Like, Operand: OperandPattern, Words: word("is not like"), fits: fits{text: 100}},
	{Op: Over, Operand: OperandOne, Fields: true, Figures: true,
		Words: wording{other: "is over", date: "is after"}, fits: everyNumber(10).dates(70)},
	{Op: AtLeast, Operand: OperandOne, Fields: true, Figures: true,
		Words: wording{other: "is at least", date: "is on or after"}, fits: everyNumber(20).dates(80)},
	{Op: Under, Operand: OperandOne, Fields: true, Figures: true,
		Words: wording{other: "is under", date: "is before"}, fits: everyNumber(30).dates(90)},
	{Op: AtMost, Operand: OperandOne, Fields: true, Figures: true,
		Words: wording{other: "is at most", date: "is on or before"}, fits: everyNumber(40).dates(100)},
	{
		Op: Between, Operand: OperandTwo, Figures: true, Words: word("is from"), Label: "is between",
		fits: everyNumber(50).dates(110),
	},
	{Op: NotBetween, Negates: Between, Operand: OperandTwo, Words: word("is not from"), Label: "is not between",
		fits: everyNumber(60).dates(120)},
	{Op: In, Operand: OperandPeriod, Words: word("is in"), Label: "is in a period", fits: fits{}.dates(10)},
	{
		Op: NotIn, Negates: In, Operand: OperandPeriod, Words: word("is not in"), Label: "is not in a period",
		fits: fits{}.dates(20),
	},
	{
		Op: Weekday, Operand: OperandWeekdays, Words: word("is on a"), Label: "is on a weekday",
		fits: fits{}.dates(130),
	},
	{
		Op: NotWeekday, Negates: Weekday, Operand: OperandWeekdays, Words: word("is not on a"),
		Label: "is not on a weekday", fits: fits{}.dates(140),
	},
	{
		Op: Hour, Operand: OperandHours, Words: word("is in the hour from"), Label: "is in an hour",
		fits: fits{moment: 150},
	},
	{
		Op: NotHour, Negates: Hour, Operand: OperandHours, Words: word("is not in the hour from"),
		Label: "is not in an hour", fits: fits{moment: 160},
	},
	{Op: IsBlank, Operand: OperandNone, Words: word("is blank"), fits: always(170)},
	{Op: Filled, Operand: OperandNone, Words: word("is not blank"), fits: always(180)},
	{Op: Failed, Operand: OperandNone, Words: word("could not be worked out")},
}

// Operators describes all operators.
func Operators() []OpInfo { return operators }

// Info describes the operator.
func (op Op) Info() OpInfo {
	for _, info := range operators {
		if info.Op == op {
			return info
		}
	}
	return OpInfo{Op: op, Operand: OperandOne, Words: word(string(op))}
}

// OpsFor lists the operators that fit a type, the likeliest first.
func OpsFor(t catalog.Type) []Op {
	return fitting(operators, t, func(i OpInfo) (Op, fits) { return i.Op, i.fits })
}

// FigureOps lists the operators that test a sum or an average.
func FigureOps() (ops []Op) {
	for _, info := range operators {
		if info.Figures {
			ops = append(ops, info.Op)
		}
	}
	return ops
}

// Negative returns the positive twin of a negative operator, and true.
func (op Op) Negative() (Op, bool) {
	if twin := op.Info().Negates; twin != "" {
		return twin, true
	}
	return op, false
}

// LabelFor names the operator in a list of them.
func (i OpInfo) LabelFor(t catalog.Type) string { return cmp.Or(i.Label, i.Words.of(t)) }

// Words says the operator between a field and its operand.
func (op Op) Words(t catalog.Type) string { return op.Info().Words.of(t) }
