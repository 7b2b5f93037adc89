package result

import (
	"gavrik/internal/core/cell"
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
	// Gone, if set, are groups beside this rest that were left out with all their records.
	Gone *Gone
	// Held is how many groups stand behind this one that are held back: none of them is told of by itself.
	Held int `json:",omitempty"`
	// Place tells the groups of a level apart by their values and puts these into order; that
	// joined of others comes behind them, that of the blank last.
	Place int
}

// Gone are the values of groups that were left out whole; no rest beside them is of any.
type Gone struct{ Values []cell.Cell }

// Line is one line of the ledger: a group's or a record's.
type Line struct {
	// Level is 1 for an outermost group; a record's is one more than its group's.
	Level int
	// Group is the path that Open.Toggled names; empty for a record. Of records that are not there to be
	// shown, it is that of their group, and Count the place of each among those of the group; their cells are
	// nil.
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

// GroupLine is a group of any level as flat data.
type GroupLine struct {
	Line
	// Keys are those of the groups that it lies in and its own, blank past its own level.
	Keys []Key
	// Counts are how many records each cell of a crosstab is taken of; nil elsewhere.
	Counts []int
}

// Groups says which groups are read, and which of their cells.
type Groups struct {
	// Within is the path of the group whose parts are read; all are within the empty one.
	Within string
	// Levels is how many levels are read, from the outermost in; zero reads all.
	Levels int
	// Heads are the columns whose cells are filled, also in lines that do not show them. Nil
	// fills the cells that are shown.
	Heads []int
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
