// Package result is what a reader of plans gives back, and the door through which it is
// asked: typed values and plain data, whoever worked them out. Text is made of it by a Pen,
// at the edge where somebody is to read it.
package result

import (
	"context"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/program"
	"gavrik/internal/core/view"
)

// LimitError says which step of a view asks for more than a run may use, and
// how to mend it.
type LimitError struct {
	Step string
	Mend string
}

func (e *LimitError) Error() string { return e.Step + "; " + e.Mend }

// Reader answers plans over one state of the records. Any goroutine may call its methods;
// each ends early, with an error, when its context is done.
type Reader interface {
	// Run carries a plan out.
	Run(ctx context.Context, p *plan.Plan) (Result, error)
	// Values lists a field's values with their counts under the plan's filter: those that
	// hold the search text, without regard to case and accents, and at most limit of them.
	Values(ctx context.Context, p *plan.Plan, of catalog.Ref, search string, limit int) (*Values, error)
	// Distribution counts a field's values under the plan's filter, against all, in at most
	// so many bins.
	Distribution(ctx context.Context, p *plan.Plan, of catalog.Ref, bins int) (*Distribution, error)
	// Facts tells a field's fullness and a few of its values: of a stored one in its own
	// record set, of one that the plan makes over the plan's records.
	Facts(ctx context.Context, p *plan.Plan, of catalog.Ref) (Facts, error)
	// Holding says which of some stored fields have values that hold a text, without regard
	// to case and accents, in the order given.
	Holding(ctx context.Context, fields []catalog.Ref, text string) ([]Held, error)
	// Count is how many records a set has; false if there is no such set.
	Count(set string) (int, bool)
	// AsOf is the moment of the records.
	AsOf() time.Time
}

// Result is an answered plan. What it says never changes; any goroutine may read it.
type Result interface {
	// Summarize says what the result is as a whole. It is not to be changed.
	Summarize() *Summary
	// Window returns limit lines from offset on.
	Window(ctx context.Context, open Open, offset, limit int) (Window, error)
	// GrandTotal is the line of all records that the filter includes.
	GrandTotal() Line
	// EachGroup calls do for every group in the order shown, the grand total last.
	EachGroup(ctx context.Context, do func(GroupLine) error) error
	// EachRecord calls do for every record in the order shown, with the groups that it lies
	// in, from the outermost in, and its cells; both slices are used again for the next.
	EachRecord(ctx context.Context, do func(groups []Key, cells []cell.Cell) error) error
	// DrillThrough says which records a figure is taken of: of a group, by its path, in a
	// column or, if head is negative, in any.
	DrillThrough(group string, head int) (*DrillThrough, error)
	// Explain tells how the figure of a group in a column came about.
	Explain(ctx context.Context, group string, head int) (*Explanation, error)
	// Chart draws what the plan asks for, or nil if it asks for nothing.
	Chart(ctx context.Context) (*Chart, error)
	// Bytes estimates the memory that the result holds.
	Bytes() int64
}

// Summary is what a result says as a whole.
type Summary struct {
	Plan *plan.Plan
	AsOf time.Time
	// All and Kept count the records before and after the filter; Others those of
	// the other side of a comparison.
	All, Kept, Others int
	Steps             []Step
	Check             Check
	// Problems are what went wrong for single values.
	Problems []Problem
	// Currencies are the amounts that no total can put together.
	Currencies []Currencies
	// Heads are the columns of the ledger from left to right.
	Heads []Head
	// Levels are how many groups each level has, the outermost first.
	Levels []int
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
	// in several currencies.
	Mixed int
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
	Reason      program.Reason
	// Count is how many records, or groups if Groups is set, it befell.
	Count  int
	Groups bool
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
	// AcrossPath names that group as Line.Group does; AcrossLevel is its level.
	AcrossPath  string
	AcrossLevel int
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

// Open says which groups show what is in them.
type Open struct {
	// Depth is how many levels of groups are open: 0 shows the outermost groups
	// closed, the number of levels shows the records, -1 shows nothing but the
	// grand total.
	Depth int
	// Toggled are the paths of groups that are the other way round.
	Toggled []string
}

// Key is what a group is of: a value or, of a level by a unit of time, the first day of one,
// a weekday or an hour.
type Key struct {
	Value cell.Cell
	// Joined is how many groups were put into this one, the rest of a top level.
	Joined int
}

// Line is one line of the ledger: a group's or a record's.
type Line struct {
	// Level is 1 for an outermost group; a record's is one more than its group's.
	Level int
	// Group is the path that Open.Toggled names; empty for a record.
	Group string
	Key   Key
	Open  bool
	// Count is how many records the group holds; Others how many of the other side
	// of a comparison.
	Count, Others int
	// Record is what a record is opened by: its value of the plan's Address. IsRecord tells it
	// from a group's line.
	Record   cell.Cell
	IsRecord bool
	Cells    []cell.Cell
	Mixes    []Mix
	Bars     []Bar
}

// GroupLine is a group of any level as flat data: its keys from the outermost on, blank past
// its own level.
type GroupLine struct {
	Line
	Keys []Key
}

// Window is a part of the ledger.
type Window struct {
	// Total is how many lines there are with these groups open.
	Total, Offset int
	Lines         []Line
	// Above are the lines of the groups that the first line lies in.
	Above []Line
}

// Mix says that an average stands for several prices: the records of its group do
// not share one.
type Mix struct {
	// Cell is the place of the average among the line's cells.
	Cell int
	// Low and High are the smallest and the largest price.
	Low, High cell.Cell
}

// Bar is drawn behind a cell.
type Bar struct {
	// Cell is its place among the line's cells.
	Cell int
	// Part is its length against the largest of the lines of its kind, from -1 to 1.
	Part float64
}

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

// DrillThrough leads from a figure to the records that it is taken of.
type DrillThrough struct {
	// Conditions are what those records meet beside the view's own filter.
	Conditions []view.Condition
	// Down and Across are the groups that the figure belongs to, from the outermost in.
	Down, Across []Key
}

// Explanation tells how one figure came about.
type Explanation struct {
	// Label is the total's; Value the figure, of the column Head.
	Label string
	Value cell.Cell
	Head  int
	Part  Part
	// Down and Across are the groups it belongs to, from the outermost in.
	Down, Across []Key
	// Records is how many records the group holds. Counted is how many values went
	// in and Blanks how many were passed over; -1 where neither is known.
	Records, Counted, Blanks int
	// PerLinked names the linked record that counts once, however many records lead to
	// it; Counted and Blanks are of linked records then.
	PerLinked string
	// Each names the record of which every one counts, although several share the amounts
	// of linked records that go in.
	Each string
	// Mix is set for an average of prices that differ.
	Mix *Mix
	Fn  view.Fn
	// Formula is the source of a total that is calculated from others, and From how
	// these came about.
	Formula string
	From    []Explanation
	// Steps are what the conditions did, and Problems what went wrong on the way.
	Steps    []Step
	Problems []Problem
}
