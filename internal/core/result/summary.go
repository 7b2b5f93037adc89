package result

import (
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/plan"
)

// Summary is what a result says as a whole.
type Summary struct {
	Plan *plan.Plan
	// AsOf is the moment of the records.
	AsOf time.Time
	// All and Kept count the records before and after the filter; Others those of
	// the other side of a comparison.
	All, Kept, Others int
	Steps             []Step
	// LeftOut is what levels left out that keep groups by their total; Kept does not count it.
	LeftOut []LeftOut
	Check   Check
	// Held says in words what is held back where totals alone are told.
	Held []string `json:",omitempty"`
	// NoRecords says that totals alone are told: there is no line of a record, however far groups are opened.
	NoRecords bool `json:",omitempty"`
	// Problems are what went wrong for single values.
	Problems []Problem
	// Ties are the values that the records' own order decided.
	Ties []Tie
	// Currencies are the amounts that no total can put together.
	Currencies []Currencies
	// Heads are the columns of the ledger from left to right.
	Heads []Head
	// Levels are how many groups each level has, the outermost first.
	Levels []int
	// GrandTotal is the line of all records that the filter includes.
	GrandTotal Line
}

// Groups counts the groups of all levels.
func (s *Summary) Groups() (n int) {
	for _, groups := range s.Levels {
		n += groups
	}
	return n
}

// Step tells what one condition did.
type Step struct {
	// Path is the condition's place in the document.
	Path string
	// Left is how many records are left after it, in reading order: after each
	// of "all" and "none" those still kept, after each of "any" those let in.
	Left int
	// Alone is how many of all records it would take away by itself.
	Alone int
	// Dates are the days a relative period stands for, or empty.
	Dates string
	// BlanksKept is how many records a negative test meets because the field is
	// blank.
	BlanksKept int
	// Unmatched are the first of the listed values that no record has;
	// UnmatchedCount is how many there are.
	Unmatched      []string
	UnmatchedCount int
	// Mixed is how many records have no sum of linked amounts to test, because these are
	// in several currencies, TooLarge because it does not fit in 64 bits.
	Mixed, TooLarge int
}

// Check tells how the subtotals were verified: every sum was worked out once
// more over all kept records, apart from the groups, and compared.
type Check struct {
	Groups   bool     // there are groups at all
	Measures int      // how many sums were compared
	Wrong    []string // the labels of those that differ; none, unless the reader is broken
}

// Problem is values that could not be worked out, and are blank.
type Problem struct {
	// Label is the field's or total's; Path the field's, whose failed records can be
	// asked for by it, unless Groups is set.
	Label, Path string
	Reason      formula.Reason
	// Count is how many records, or groups if Groups is set, it befell.
	Count  int
	Groups bool
}

// LeftOut is the groups of a level that were not kept, with their records.
type LeftOut struct {
	// Label is the level's.
	Label           string
	Groups, Records int
}

// Tie says of how many records a value was chosen among several that the order which is to
// decide leaves equal, so that the order of the records decided.
type Tie struct {
	// Label names the value, By what is equal: "inspected on".
	Label, By string
	Count     int
}

// Currencies says that a total is taken of amounts in several currencies, of which
// each is totalled by itself.
type Currencies struct {
	Label string
	// By is the path of the field that names each amount's currency.
	By string
	// Count is how many there are among all kept records.
	Count int
}

// Head is a column of the ledger.
type Head struct {
	// Column is its index among the plan's columns.
	Column int
	// Field says how its figures are kept; for a column without figures, its values.
	Field catalog.Field
	// Part says which side of a comparison it shows.
	Part Part
	// Across are the groups across that it belongs to, from the outermost in; in a crosstab,
	// the column of all records has none.
	Across []Key
	// AcrossPath names the last of them as Line.Group does.
	AcrossPath string
	// Mixed is in how many lines its average stands for several prices.
	Mixed int
}

// Part is what a column of a comparison shows.
type Part string

// The parts. Own is also the part of every column where nothing is compared.
const (
	Own     Part = ""
	Other   Part = "other"
	Change  Part = "change"
	Percent Part = "percent" // the change in percent of the other side
)
