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
)

// FnsFor lists the totals that make sense for a type, the likeliest first.
// Percentages are never summed.
func FnsFor(t catalog.Type) []Fn {
	switch {
	case t == catalog.Percent:
		return []Fn{Average, Median, Smallest, Largest, Distinct, FilledN, Blanks}
	case t.Numeric():
		return []Fn{Sum, Average, Median, Smallest, Largest, Distinct, FilledN, Blanks}
	case t == catalog.Picture:
		return []Fn{FilledN, Blanks}
	case t == catalog.YesNo:
		return []Fn{FilledN, Blanks, Distinct}
	}
	return []Fn{Smallest, Largest, Distinct, FilledN, Blanks}
}

// OncePerLinked says whether a linked record's value must count once however
// many rows repeat it.
func (f Fn) OncePerLinked() bool { return f == Sum || f == Average || f == Median }

// Words says the total before a field's name: "average claimed".
func (f Fn) Words(t catalog.Type) string {
	switch f {
	case Sum:
		return "total"
	case Smallest:
		return extreme(t, "earliest", "shortest", "first", "smallest")
	case Largest:
		return extreme(t, "latest", "longest", "last", "largest")
	case Distinct:
		return "number of different"
	case FilledN:
		return "number with"
	case Blanks:
		return "number without"
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
	}
	return f.Words(t)
}
