package view

import "gavrik/internal/core/catalog"

// Fn is how a total is worked out over the records of a group. All but Filled
// and Blanks skip blanks.
type Fn string

// The totals.
const (
	Sum      Fn = "sum"
	Average  Fn = "average"
	Median   Fn = "median"
	Smallest Fn = "smallest"
	Largest  Fn = "largest"
	Distinct Fn = "distinct" // how many different values
	FilledN  Fn = "filled"   // how many are not blank
	Blanks   Fn = "blanks"   // how many are blank

	// Percentile lies so far into the sorted values as its percent says; between
	// two of them, in proportion (OpenFormula's PERCENTILE).
	Percentile Fn = "percentile"
	// Spread is the standard deviation of a sample (n − 1), Variance its square
	// (OpenFormula's STDEV and VAR).
	Spread   Fn = "spread"
	Variance Fn = "variance"
	// First and Last are the values of the first and the last record that has one.
	First Fn = "first"
	Last  Fn = "last"
	// Records counts records, whatever they hold; only the engine asks for it.
	Records Fn = "records"
	// Formula is worked out from other totals of the same group.
	Formula Fn = "formula"
)

// FnsFor lists the totals that make sense for a type, the likeliest first.
// Percentages are never summed.
func FnsFor(t catalog.Type) []Fn {
	switch {
	case t == catalog.Percent:
		return []Fn{Average, Median, Smallest, Largest, Percentile, Spread, Variance, First, Last, Distinct, FilledN, Blanks}
	case t == catalog.Duration:
		return []Fn{Sum, Average, Median, Smallest, Largest, Percentile, Spread, First, Last, Distinct, FilledN, Blanks}
	case t.Numeric():
		return []Fn{Sum, Average, Median, Smallest, Largest, Percentile, Spread, Variance, First, Last, Distinct, FilledN, Blanks}
	case t == catalog.Picture:
		return []Fn{FilledN, Blanks}
	case t == catalog.YesNo:
		return []Fn{FilledN, Blanks, Distinct, First, Last}
	}
	if t == catalog.Text {
		return []Fn{Distinct, FilledN, Blanks, First, Last, Smallest, Largest}
	}
	return []Fn{Smallest, Largest, First, Last, Distinct, FilledN, Blanks}
}

// Result describes the total's values as a field: a sum is of its field's type,
// an average has at least two decimals, a count is a whole number, a spread is
// approximate.
func (f Fn) Result(of catalog.Field) catalog.Field {
	switch f {
	case Distinct, FilledN, Blanks, Records:
		return catalog.Field{Key: of.Key, Label: of.Label, Type: catalog.Whole}
	case Spread, Variance:
		if of.Type == catalog.Duration {
			return of
		}
		of.Approx, of.Scale = true, 0
		if of.Type == catalog.Whole || f == Variance {
			of.Type, of.Currency = catalog.Decimal, ""
		}
	case Average, Median, Percentile:
		if of.Type == catalog.Whole {
			of.Type = catalog.Decimal
		}
		if of.Type != catalog.Duration && !of.Approx {
			of.Scale = max(of.Scale, 2)
		}
	}
	return of
}

// OncePerLinked says whether a linked record's value must count once however
// many rows repeat it.
func (f Fn) OncePerLinked() bool {
	switch f {
	case Sum, Average, Median, Percentile, Spread, Variance:
		return true
	}
	return false
}

// Combines says whether values are added up or compared, so that amounts of several
// currencies have no such total.
func (f Fn) Combines() bool {
	switch f {
	case Sum, Average, Median, Percentile, Smallest, Largest, Spread, Variance, First, Last:
		return true
	}
	return false
}

// Words says the total before a field's name: "average claimed".
func (f Fn) Words(t catalog.Type) string {
	switch f {
	case Sum:
		return "total"
	case Smallest:
		return extreme(t, "earliest", "shortest", "alphabetically first", "smallest")
	case Largest:
		return extreme(t, "latest", "longest", "alphabetically last", "largest")
	case Distinct:
		return "number of different"
	case FilledN:
		return "number with"
	case Blanks:
		return "number without"
	case Spread:
		return "standard deviation of"
	case Variance:
		return "variance of"
	case Formula:
		return ""
	}
	return string(f)
}

// extreme chooses the word for an end of the order that fits a type.
func extreme(t catalog.Type, date, duration, text, number string) string {
	switch {
	case t.Temporal():
		return date
	case t == catalog.Duration:
		return duration
	case t == catalog.Text:
		return text
	}
	return number
}

// Heading is the short note under a column's heading that says what its totals
// are.
func (f Fn) Heading(t catalog.Type) string {
	switch f {
	case Distinct:
		return "different"
	case FilledN:
		return "filled"
	case Blanks:
		return "blank"
	case Spread:
		return "standard deviation"
	case Variance:
		return "variance"
	case Formula:
		return "calculated"
	}
	return f.Words(t)
}
