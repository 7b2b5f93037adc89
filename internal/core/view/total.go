package view

import "gavrik/internal/core/catalog"

// Fn is how a total is worked out over the records of a group.
type Fn string

// The totals; Totals describes them.
const (
	Sum         Fn = "sum"
	Average     Fn = "average"
	Median      Fn = "median"
	Mode        Fn = "mode"
	Smallest    Fn = "smallest"
	Largest     Fn = "largest"
	Percentile  Fn = "percentile"
	Spread      Fn = "spread"
	Variance    Fn = "variance"
	First       Fn = "first"
	Last        Fn = "last"
	Distinct    Fn = "distinct"
	CountFilled Fn = "filled"
	Blanks      Fn = "blanks"
	// Records counts records, whatever they hold; only plans ask for it.
	Records Fn = "records"
	// Formula is worked out from other totals of the same group.
	Formula Fn = "formula"
)

// Gives is what kind of values a total has.
type Gives string

// The kinds of values.
const (
	GivesValue  Gives = "a value of their type"
	GivesMean   Gives = "a value of their type, with at least two decimals"
	GivesSpread Gives = "a value of their type, approximate"
	GivesSquare Gives = "a number, approximate"
	GivesCount  Gives = "a whole number"
)

// TotalInfo describes a total. What is not said of it is said by its type's zero value: it
// fits nothing, does not add up, and counts every record.
type TotalInfo struct {
	Fn      Fn
	Meaning string // in a sentence of the reference
	// Words say it before a field's name: "average claimed". Heading is the short note under
	// a column's heading that says what its totals are; if empty, Words are.
	Words, Heading wording
	Gives          Gives
	// KeepsBlanks says that blanks are not skipped.
	KeepsBlanks bool
	// AddsUp says that the figures of parts add up to that of the whole.
	AddsUp bool
	// DistinctPerLinked says that a linked record's value must count once however many
	// records repeat it.
	DistinctPerLinked bool
	// Combines says that values are added up or compared, so that amounts of several
	// currencies have no such total.
	Combines bool
	// Counts says that the figure comes with how many records have it.
	Counts bool
	// Function is its name in formulas, with what the reference says of it there beyond
	// Meaning; empty if formulas have none.
	Function, Arguments, Blanks, Example string

	fits fits
}

// wording is what something is called, by the kind of values: other is for all that have no
// word of their own.
type wording struct{ other, date, duration, text string }

func word(w string) wording { return wording{other: w} }

// of is the word for values of a type.
func (w wording) of(t catalog.Type) string {
	own := ""
	switch {
	case t.Temporal():
		own = w.date
	case t == catalog.Duration:
		own = w.duration
	case t == catalog.Text:
		own = w.text
	}
	if own != "" {
		return own
	}
	return w.other
}

const (
	blankIfNone = "Blanks are passed over. Blank if there is no value; the standard gives 0."
	skipsBlanks = "Blanks are passed over."
)

var totals = []TotalInfo{
	{Fn: Sum, Meaning: "The sum over the records of a group.",
		Words: word("total"), Gives: GivesValue, AddsUp: true, DistinctPerLinked: true, Combines: true,
		fits:     fits{number: 10, duration: 10},
		Function: "SUM", Blanks: "With IF, over some of them. " + blankIfNone,
		Example: `SUM(IF('Status' = "Open"; 'Claimed'))`},
	{Fn: Average, Meaning: "The arithmetic mean.",
		Words: word("average"), Gives: GivesMean, DistinctPerLinked: true, Combines: true,
		fits:     everyNumber(20),
		Function: "AVERAGE", Blanks: skipsBlanks, Example: `AVERAGE('Claimed')`},
	{Fn: Median, Meaning: "The value in the middle; of two, the mean.",
		Words: word("median"), Gives: GivesMean, DistinctPerLinked: true, Combines: true,
		fits:     everyNumber(30),
		Function: "MEDIAN", Blanks: skipsBlanks, Example: `MEDIAN('Claimed')`},
	{Fn: Mode,
		Meaning: "The commonest value, and how many records have it; of several as common, the first in order.",
		Words:   word("commonest"), Gives: GivesValue, Combines: true, Counts: true,
		fits:     everyNumber(35).dates(55).texts(15).truths(25),
		Function: "MODE",
		Blanks:   "Blanks are passed over. A value that stands alone is one, too; the standard gives an error.",
		Example:  `MODE('Category')`},
	{Fn: Smallest, Meaning: "The smallest value, or the earliest date.",
		Words: wording{"smallest", "earliest", "shortest", "alphabetically first"}, Gives: GivesValue,
		Combines: true,
		fits:     everyNumber(40).dates(40).texts(60),
		Function: "MIN", Blanks: blankIfNone, Example: `MIN('Opened at')`},
	{Fn: Largest, Meaning: "The largest value, or the latest date.",
		Words: wording{"largest", "latest", "longest", "alphabetically last"}, Gives: GivesValue, Combines: true,
		fits:     everyNumber(50).dates(50).texts(70),
		Function: "MAX", Blanks: blankIfNone, Example: `MAX('Opened at')`},
	{Fn: Percentile,
		Meaning: "The value that so great a part of the values does not pass, from 0 to 1; between two values, in proportion.",
		Words:   word("percentile"), Gives: GivesMean, DistinctPerLinked: true, Combines: true,
		fits:     everyNumber(60),
		Function: "PERCENTILE", Arguments: "value; part", Blanks: skipsBlanks,
		Example: `PERCENTILE('Claimed'; 0.9)`},
	{Fn: Spread, Meaning: "The standard deviation of a sample.",
		Words: word("standard deviation of"), Heading: word("standard deviation"), Gives: GivesSpread,
		DistinctPerLinked: true, Combines: true,
		fits:     everyNumber(70),
		Function: "STDEV", Blanks: skipsBlanks, Example: `STDEV('Claimed')`},
	{Fn: Variance, Meaning: "The variance of a sample.",
		Words: word("variance of"), Heading: word("variance"), Gives: GivesSquare,
		DistinctPerLinked: true, Combines: true,
		fits:     fits{number: 80, percent: 80},
		Function: "VAR", Blanks: skipsBlanks, Example: `VAR('Claimed')`},
	{Fn: First, Meaning: "The value of the first record that has one.",
		Words: word("first"), Gives: GivesValue, Combines: true,
		fits: everyNumber(90).dates(90).texts(40).truths(40)},
	{Fn: Last, Meaning: "The value of the last record that has one.",
		Words: word("last"), Gives: GivesValue, Combines: true,
		fits: everyNumber(100).dates(100).texts(50).truths(50)},
	{Fn: Distinct, Meaning: "How many different values there are.",
		Words: word("number of different"), Heading: word("different"), Gives: GivesCount,
		fits:     everyNumber(110).dates(110).texts(10).truths(30),
		Function: "COUNTDISTINCT", Blanks: skipsBlanks + " The standard has no such function.",
		Example: `COUNTDISTINCT('Customer')`},
	{Fn: CountFilled, Meaning: "How many records have a value.",
		Words: word("number with"), Heading: word("filled"), Gives: GivesCount, AddsUp: true,
		fits:     always(120).texts(20).truths(10),
		Function: "COUNT",
		Blanks: "Without an argument, how many records there are. Numbers of linked records count once, as in SUM. " +
			skipsBlanks,
		Example: `COUNT('Paid') / COUNT()`},
	{Fn: Blanks, Meaning: "How many records have no value.",
		Words: word("number without"), Heading: word("blank"), Gives: GivesCount, KeepsBlanks: true, AddsUp: true,
		fits:     always(130).texts(30).truths(20),
		Function: "COUNTBLANK", Blanks: "Blanks are what is counted.", Example: `COUNTBLANK('Paid')`},
	{Fn: Records, Words: word("number of"), Gives: GivesCount, KeepsBlanks: true, AddsUp: true},
	{
		Fn: Formula, Meaning: "Worked out by a formula from other totals of the same group.",
		Heading: word("calculated"),
	},
}

// Totals describes all totals, in the order of the reference.
func Totals() []TotalInfo { return totals }

// Info describes the total.
func (f Fn) Info() TotalInfo {
	for _, info := range totals {
		if info.Fn == f {
			return info
		}
	}
	return TotalInfo{Fn: f, Words: word(string(f))}
}

// FnsFor lists the totals that make sense for a type, the likeliest first.
// Percentages are never summed.
func FnsFor(t catalog.Type) []Fn {
	return fitting(totals, t, func(i TotalInfo) (Fn, fits) { return i.Fn, i.fits })
}

// Words says the total before a field's name: "average claimed".
func (f Fn) Words(t catalog.Type) string { return f.Info().Words.of(t) }

// Heading is the short note under a column's heading that says what its totals are.
func (f Fn) Heading(t catalog.Type) string {
	info := f.Info()
	if h := info.Heading.of(t); h != "" {
		return h
	}
	return info.Words.of(t)
}

// Result describes the total's values as a field.
func (f Fn) Result(of catalog.Field) catalog.Field {
	gives := f.Info().Gives
	switch gives {
	case GivesCount:
		return catalog.Field{Key: of.Key, Label: of.Label, Type: catalog.Whole}
	case GivesSpread, GivesSquare:
		if of.Type == catalog.Duration {
			return of
		}
		of.Approx, of.Scale = true, 0
		if of.Type == catalog.Whole || gives == GivesSquare {
			of.Type, of.Currency = catalog.Decimal, ""
		}
	case GivesMean:
		if of.Type == catalog.Whole {
			of.Type = catalog.Decimal
		}
		if of.Type != catalog.Duration && !of.Approx {
			of.Scale = max(of.Scale, 2)
		}
	}
	return of
}
