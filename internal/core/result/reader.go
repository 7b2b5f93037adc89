// Package result is what a reader of plans gives back, and the door through which it is
// asked: typed values and plain data, whoever worked them out. Text is made of it by a Pen,
// at the edge where somebody is to read it.
package result

import (
	"context"
	"time"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/plan"
)

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
	// Profile says what a field holds under the plan's filter, with so many of the commonest
	// values, spread in at most so many bins.
	Profile(ctx context.Context, p *plan.Plan, of catalog.Ref, common, bins int) (*Profile, error)
	// Facts tells a field's fullness and a few of its values: of a stored one in its own
	// record set, of one that the plan makes over the plan's records.
	Facts(ctx context.Context, p *plan.Plan, of catalog.Ref) (Facts, error)
	// Holding says which of some stored fields have values that hold a text, without regard
	// to case and accents, in the order given.
	Holding(ctx context.Context, fields []catalog.Ref, text string) ([]Held, error)
	// Lookup reads records by their keys, which are values of the plan's Address: for each the
	// values of the plan's columns, or nil where no record has it. The filter plays no part.
	Lookup(ctx context.Context, p *plan.Plan, keys []cell.Cell) ([][]cell.Cell, error)
	// Extent says how many records a set has, and as of when; false if there is no such set.
	Extent(set string) (Extent, bool)
}

// Result is an answered plan. What it says never changes; any goroutine may read it.
type Result interface {
	// Summarize says what the result is as a whole. It is not to be changed.
	Summarize() *Summary
	// Window returns limit lines from offset on.
	Window(ctx context.Context, open Open, offset, limit int) (Window, error)
	// Group is the line of one group, by its path; that of the empty path is the grand total.
	// heads are as in Groups.
	Group(path string, heads []int) (GroupLine, error)
	// EachGroup calls do for the groups asked for in the order shown, and last for the one that
	// they lie in, which is the grand total unless a group is named. The
	// slices of a line are used again for the next.
	EachGroup(ctx context.Context, of Groups, do func(GroupLine) error) error
	// EachRecord calls do for every record in the order shown, with the groups that it lies
	// in, from the outermost in, and its cells; both slices are used again for the next.
	EachRecord(ctx context.Context, do func(groups []Key, cells []cell.Cell) error) error
	// EachLine calls do for every line with these groups open, in the order shown. The slices of
	// a line are used again for the next.
	EachLine(ctx context.Context, open Open, do func(Line) error) error
	// Counted is how many values went into a measure of the plan, for a group in the group
	// across and on the side of the comparison that a column belongs to; -1 if nobody knows.
	Counted(ctx context.Context, group string, head, measure int) (int, error)
	// Bytes estimates the memory that the result holds.
	Bytes() int64
}

// Extent is how many records a set has, and their moment.
type Extent struct {
	// Records is Unknown, if nobody has counted them; About says that it was estimated.
	Records int
	About   bool
	AsOf    time.Time
}

// Unknown is a number of records that nobody knows.
const Unknown = -1
