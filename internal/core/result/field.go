package result

import (
	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
)

// Values are the distinct values of a field, the commonest first.
type Values struct {
	// Distinct counts the values before the search; Found after it. Neither
	// counts the blank.
	Distinct, Found int
	List            []ValueCount
	// RestKept and RestAll count the records of the values found and not listed.
	RestKept, RestAll int
	BlankKept         int
	BlankAll          int
}

// ValueCount is one distinct value of a field.
type ValueCount struct {
	Value cell.Cell
	// Kept counts the records that have it under the filter, All without one.
	Kept, All int
}

// Distribution is how a field's values are spread, in the order of the values;
// texts by their number, the commonest first, with the others at the end.
type Distribution struct {
	Bins []Bin
	// BlankKept and BlankAll count the records without a value.
	BlankKept, BlankAll int
	// Smallest and Largest are the bounds under the filter.
	Smallest, Largest cell.Cell
}

// Bin is one stretch of a distribution.
type Bin struct {
	// From and Below are its bounds, Below left out of it, and To is the last value before
	// Below; Value is that of a bin of one. All are blank in the bin of all other values.
	From, Below, To, Value cell.Cell
	// Unit says that a bin of dates is so many whole units of time.
	Unit  calendar.Unit
	Units int
	// Kept counts the records under the filter, All without one.
	Kept, All int
}

// Facts are what a field holds over its whole record set.
type Facts struct {
	Rows, Blanks int
	// First says that they are of the first records of the set alone, which Rows counts; of none, if it is 0.
	First bool
	// Samples are a few different values, in table order; people may read some of them as one.
	Samples []cell.Cell
}

// Held is a text field that holds what was searched for.
type Held struct {
	Ref catalog.Ref
	// Found is how many of its different values hold the text; Values are the first of
	// them.
	Found  int
	Values []string
}

// Profile is what a field holds under a filter.
type Profile struct {
	// Records are those that the filter keeps, Blank those of them without a value.
	Records, Blank int
	// Distinct counts the different values, Once those that stand on one record alone.
	Distinct, Once int
	// Alike counts texts that another one differs from in capitals, accents or spaces alone, and
	// Likes are two of them.
	Alike int
	Likes [2]string
	// Placeholders are texts that seem to stand for nothing, as “n/a”.
	Placeholders []ValueCount
	// Early and Late count dates and moments long before and long after today, Negative the
	// numbers under nothing.
	Early, Late, Negative int
	// ReadAs is a type that all texts could be read as, or empty.
	ReadAs catalog.Type
	// Commonest are the values that most records have.
	Commonest []ValueCount
	Spread    *Distribution
}
