package view

import "gavrik/internal/core/catalog"

// Op is how a condition tests a field.
type Op string

// The operators. A negative one (is_not, none_of, not_…) keeps exactly the
// records its positive twin leaves out, blanks among them.
const (
	Is          Op = "is"
	IsNot       Op = "is_not"
	OneOf       Op = "one_of"
	NoneOf      Op = "none_of"
	Contains    Op = "contains"
	NotContains Op = "not_contains"
	Starts      Op = "starts"
	Ends        Op = "ends"
	Over        Op = "over"     // numbers: >   dates: after
	AtLeast     Op = "at_least" // numbers: >=  dates: on or after
	Under       Op = "under"    // numbers: <   dates: before
	AtMost      Op = "at_most"  // numbers: <=  dates: on or before
	Between     Op = "between"
	NotBetween  Op = "not_between"
	In          Op = "in" // a relative period
	NotIn       Op = "not_in"
	Weekday     Op = "weekday" // one of several days of the week, by their English names
	NotWeekday  Op = "not_weekday"
	Hour        Op = "hour" // one of several hours of the day, 0 to 23
	NotHour     Op = "not_hour"
	IsBlank     Op = "blank"
	Filled      Op = "filled"
	// Failed finds the records whose formula could not be worked out; it fits
	// calculated fields of any type.
	Failed Op = "failed"
)

var (
	textOps    = []Op{OneOf, NoneOf, Is, IsNot, Contains, NotContains, Starts, Ends, IsBlank, Filled}
	numberOps  = []Op{Over, AtLeast, Under, AtMost, Between, NotBetween, Is, IsNot, OneOf, NoneOf, IsBlank, Filled}
	dateOps    = []Op{In, NotIn, Is, IsNot, OneOf, NoneOf, Over, AtLeast, Under, AtMost, Between, NotBetween, Weekday, NotWeekday, IsBlank, Filled}
	momentOps  = []Op{In, NotIn, Is, IsNot, OneOf, NoneOf, Over, AtLeast, Under, AtMost, Between, NotBetween, Weekday, NotWeekday, Hour, NotHour, IsBlank, Filled}
	yesNoOps   = []Op{Is, IsNot, OneOf, NoneOf, IsBlank, Filled}
	pictureOps = []Op{IsBlank, Filled}
)

// OpsFor lists the operators that fit a type, the likeliest first.
func OpsFor(t catalog.Type) []Op {
	switch {
	case t.Numeric():
		return numberOps
	case t == catalog.Date:
		return dateOps
	case t == catalog.DateTime:
		return momentOps
	case t == catalog.YesNo:
		return yesNoOps
	case t == catalog.Picture:
		return pictureOps
	}
	return textOps
}

// Negative returns the positive twin of a negative operator, and true.
func (op Op) Negative() (Op, bool) {
	switch op {
	case IsNot:
		return Is, true
	case NoneOf:
		return OneOf, true
	case NotContains:
		return Contains, true
	case NotBetween:
		return Between, true
	case NotIn:
		return In, true
	case NotWeekday:
		return Weekday, true
	case NotHour:
		return Hour, true
	}
	return op, false
}

// ComparesFields says whether the operand may be a second field.
func (op Op) ComparesFields() bool {
	switch op {
	case Is, IsNot, Over, AtLeast, Under, AtMost:
		return true
	}
	return false
}

// Words says the operator between a field and its operand.
func (op Op) Words(t catalog.Type) string {
	if t.Temporal() {
		switch op {
		case Over:
			return "is after"
		case AtLeast:
			return "is on or after"
		case Under:
			return "is before"
		case AtMost:
			return "is on or before"
		}
	}
	switch op {
	case Is, OneOf:
		return "is"
	case IsNot, NoneOf:
		return "is not"
	case Contains:
		return "contains"
	case NotContains:
		return "does not contain"
	case Starts:
		return "starts with"
	case Ends:
		return "ends with"
	case Over:
		return "is over"
	case AtLeast:
		return "is at least"
	case Under:
		return "is under"
	case AtMost:
		return "is at most"
	case Between:
		return "is from"
	case NotBetween:
		return "is not from"
	case Weekday:
		return "is on a"
	case NotWeekday:
		return "is not on a"
	case Hour:
		return "is in the hour from"
	case NotHour:
		return "is not in the hour from"
	case IsBlank:
		return "is blank"
	case Filled:
		return "is not blank"
	case Failed:
		return "could not be worked out"
	}
	return string(op)
}
