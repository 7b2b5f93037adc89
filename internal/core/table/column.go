package table

import "math"

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
	// Gather returns the column as seen through a link: row i of the result is
	// row rows[i] of this one, blank where rows[i] is negative.
	Gather(rows []int32) Column
	column()
}

// Numbers are exact 64-bit values: whole numbers, decimals scaled by ten to
// their field's scale, days since 1970-01-01, microseconds since the epoch,
// microseconds of a duration, or 0 and 1 for no and yes.
type Numbers struct {
	Values []int64
	blanks int
	// min and max bound the values that are not blank; min > max if all are.
	min, max int64
	step     int64
}

// NewNumbers takes over values, in which Blank marks a blank.
func NewNumbers(values []int64) *Numbers {
	c := &Numbers{Values: values, min: math.MaxInt64, max: math.MinInt64}
	for _, v := range values {
		if v == Blank {
			c.blanks++
			continue
		}
		c.min, c.max = min(c.min, v), max(c.max, v)
	}
	c.step = step(values, c.min)
	return c
}

// step is the largest number that divides every distance between two values:
// moments to the second are a million microseconds apart.
func step(values []int64, from int64) int64 {
	var gcd uint64
	for _, v := range values {
		if v == Blank {
			continue
		}
		// Euclid's algorithm; most often the first division leaves nothing.
		for rest := uint64(v) - uint64(from); rest != 0; {
			gcd, rest = rest, gcd%rest
		}
		if gcd == 1 {
			break
		}
	}
	if gcd == 0 || gcd > math.MaxInt64 {
		return 1
	}
	return int64(gcd)
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
	Values []float64
	blanks int
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
// that comparing two codes compares the texts. Code 0 is the blank.
type Texts struct {
	Codes  []uint32
	Dict   *Dict
	blanks int
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

// Bytes estimates the memory held.
func (c *Texts) Bytes() int64 { return int64(len(c.Codes))*4 + c.Dict.bytes() }

// Gather follows a link; see Column.
func (c *Texts) Gather(rows []int32) Column {
	return NewTexts(gather(c.Codes, rows, 0), c.Dict)
}
func (c *Texts) column() {}

// Links point from a row to a row of another table; -1 where there is none.
type Links struct {
	To   string
	Rows []int32
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
