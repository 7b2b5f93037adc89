package table

import (
	"math"
	"sync"
)

// Blank is the value of a blank in Numbers. A stored value can never be it: the
// loader refuses the one number that would collide.
const Blank = math.MinInt64

// Column is one field of every record. It never changes after load; any
// goroutine may call its methods. The set of kinds is closed.
type Column interface {
	Len() int
	// Blanks is how many rows hold no value.
	Blanks() int
	// Bytes estimates the memory held.
	Bytes() int64
	// ID tells the column from all others of this process.
	ID() uint64
	// Digest is the same for the same values in the same order, in whatever process they are read.
	Digest() uint64
	// Gather returns the column as seen through a link: row i of the result is
	// row rows[i] of this one, blank where rows[i] is negative.
	Gather(rows []int32) Column
	column()
}

// Numbers are exact 64-bit values: whole numbers, decimals scaled by ten to
// their field's scale, days since 1970-01-01, microseconds since the epoch,
// microseconds of a duration, or 0 and 1 for no and yes.
type Numbers struct {
	identity
	digest
	Values []int64
	blanks int
	// min and max bound the values that are not blank; min > max if all are.
	min, max int64
	step     int64
	room     *room
}

// Pow10 is ten to a scale: how many stored units a decimal of that scale has in one.
// The scale is from 0 to 18.
func Pow10(scale int) int64 {
	p := int64(1)
	for range scale {
		p *= 10
	}
	return p
}

// NewNumbers takes over values, in which Blank marks a blank.
func NewNumbers(values []int64) *Numbers {
	c := &Numbers{Values: values}
	blanks, least, most := 0, int64(math.MaxInt64), int64(math.MinInt64)
	for _, v := range values {
		if v == Blank {
			blanks++
			continue
		}
		least, most = min(least, v), max(most, v)
	}
	c.blanks, c.min, c.max = blanks, least, most
	c.step = step(values, c.min)
	return c
}

// Step is the largest number that divides every distance between two values, at
// least 1.
func (c *Numbers) Step() int64 { return c.step }

// Bounds returns the smallest and largest value; ok is false if all are blank.
func (c *Numbers) Bounds() (lo, hi int64, ok bool) { return c.min, c.max, c.min <= c.max }

// Len is the number of rows.
func (c *Numbers) Len() int { return len(c.Values) }

// Blanks is how many rows hold no value.
func (c *Numbers) Blanks() int { return c.blanks }

// Bytes estimates the memory held.
func (c *Numbers) Bytes() int64 { return int64(len(c.Values)) * 8 }

// Gather follows a link; see Column.
func (c *Numbers) Gather(rows []int32) Column {
	return NewNumbers(gather(c.Values, rows, Blank))
}
func (c *Numbers) column() {}

// Floats are approximate values; NaN is a blank.
type Floats struct {
	identity
	digest
	Values []float64
	blanks int
	room   *room
}

// NewFloats takes over values, in which NaN marks a blank.
func NewFloats(values []float64) *Floats {
	c := &Floats{Values: values}
	for _, v := range values {
		if math.IsNaN(v) {
			c.blanks++
		}
	}
	return c
}

// Len is the number of rows.
func (c *Floats) Len() int { return len(c.Values) }

// Blanks is how many rows hold no value.
func (c *Floats) Blanks() int { return c.blanks }

// Bytes estimates the memory held.
func (c *Floats) Bytes() int64 { return int64(len(c.Values)) * 8 }

// Gather follows a link; see Column.
func (c *Floats) Gather(rows []int32) Column {
	return NewFloats(gather(c.Values, rows, math.NaN()))
}
func (c *Floats) column() {}

// Texts are codes into a dictionary whose order is the order of the labels, so
// that comparing two codes compares the texts; see InOrder. Code 0 is the blank.
type Texts struct {
	identity
	digest
	Codes  []uint32
	Dict   *Dict
	blanks int
	room   *room

	// unique says that no two rows share a text and none is blank; rowOf then tells
	// the row of each code, nil if code i is in row i-1.
	unique bool
	rowOf  []int32

	ordering sync.Once // protects ordered
	ordered  *Texts
}

// NewTexts takes over codes, which must all lie within the dictionary.
func NewTexts(codes []uint32, dict *Dict) *Texts {
	c := &Texts{Codes: codes, Dict: dict}
	for _, v := range codes {
		if v == 0 {
			c.blanks++
		}
	}
	return c
}

// Len is the number of rows.
func (c *Texts) Len() int { return len(c.Codes) }

// Blanks is how many rows hold no value.
func (c *Texts) Blanks() int { return c.blanks }

// findRows makes a column without repeats its own index.
func (c *Texts) findRows() {
	if c.unique = c.blanks == 0 && len(c.Codes) == c.Dict.Len()-1; !c.unique {
		return
	}
	for row, code := range c.Codes {
		if int(code) != row+1 {
			c.rowOf = make([]int32, c.Dict.Len())
			break
		}
	}
	for row, code := range c.Codes {
		if c.rowOf != nil {
			c.rowOf[code] = int32(row)
		}
	}
}

// RowOf returns the one row of a code; ok is false for a column whose texts may
// repeat.
func (c *Texts) RowOf(code uint32) (row int32, ok bool) {
	if c.rowOf == nil {
		return int32(code) - 1, c.unique
	}
	return c.rowOf[code], true
}

// InOrder returns the column with codes in label order: most often it is so
// already; long texts are put into order when this is first called.
func (c *Texts) InOrder() *Texts {
	if !c.Dict.unordered {
		return c
	}
	c.ordering.Do(func() {
		dict, rank := c.Dict.inOrder()
		codes := make([]uint32, len(c.Codes))
		for i, code := range c.Codes {
			codes[i] = rank[code]
		}
		c.ordered = NewTexts(codes, dict)
	})
	return c.ordered
}

// Bytes estimates the memory held.
func (c *Texts) Bytes() int64 { return 4*int64(len(c.Codes)+len(c.rowOf)) + c.Dict.Bytes() }

// Gather follows a link; see Column.
func (c *Texts) Gather(rows []int32) Column {
	return NewTexts(gather(c.Codes, rows, 0), c.Dict)
}
func (c *Texts) column() {}

// Links point from a row to a row of another table; -1 where there is none.
type Links struct {
	identity
	digest
	To   string
	Rows []int32
	room *room
}

func gather[T any](values []T, rows []int32, blank T) []T {
	out := make([]T, len(rows))
	for i, r := range rows {
		if r < 0 {
			out[i] = blank
		} else {
			out[i] = values[r]
		}
	}
	return out
}
