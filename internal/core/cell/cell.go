// Package cell is one typed value of a result. Text is made of it by package format, and
// not before somebody is to read it.
package cell

import (
	"cmp"
	"math"

	"gavrik/internal/core/catalog"
)

// Kind says what a cell holds.
type Kind uint8

// The kinds.
const (
	Blank       Kind = iota
	Number           // exact: Int is scaled by ten to Scale
	Approximate      // Float
	Text             // Text
	Date             // Int days since 1970-01-01
	Moment           // Int microseconds since 1970-01-01, UTC
	Duration         // Int microseconds
	YesNo            // Int 1 for yes
	Picture          // Text, a data: address
	Several          // amounts in several currencies, in More
)

// Cell is a value. The zero value is a blank.
type Cell struct {
	Int  int64
	Text string
	// More is what few cells have; nil for none of it.
	More  *More
	Kind  Kind
	Scale int8
}

// More is what stands beside a value.
type More struct {
	// Currency is that of an amount, where the amounts of a column are not all in one.
	Currency string
	// Amounts are those of a Several, each in a currency of its own.
	Amounts []Amount
	// Times is how many records have the value, of a total that says so; else 0.
	Times int64
}

// Amount is a Number or an Approximate in one currency.
type Amount struct {
	Currency string
	Value    Cell
}

// Float is the value of an Approximate.
func (c Cell) Float() float64 { return math.Float64frombits(uint64(c.Int)) }

// Sign is -1, 0 or 1, as a number or a length of time is; 0 for everything else.
func (c Cell) Sign() int {
	switch c.Kind {
	case Number, Duration:
		return cmp.Compare(c.Int, 0)
	case Approximate:
		return cmp.Compare(c.Float(), 0)
	}
	return 0
}

// OfInt is a stored exact value of a field, which is not blank.
func OfInt(v int64, f catalog.Field) Cell {
	switch f.Type {
	case catalog.Date:
		return Cell{Kind: Date, Int: v}
	case catalog.DateTime:
		return Cell{Kind: Moment, Int: v}
	case catalog.Duration:
		return Cell{Kind: Duration, Int: v}
	case catalog.YesNo:
		return Cell{Kind: YesNo, Int: v}
	}
	return Cell{Kind: Number, Int: v, Scale: int8(f.Scale)}
}

// OfFloat is an approximate value; a NaN is a blank.
func OfFloat(v float64) Cell {
	if v != v {
		return Cell{}
	}
	return Cell{Kind: Approximate, Int: int64(math.Float64bits(v))}
}

// OfText is a text of a field; an empty one is a blank.
func OfText(s string, f catalog.Field) Cell {
	switch {
	case s == "":
		return Cell{}
	case f.Type == catalog.Picture:
		return Cell{Kind: Picture, Text: s}
	}
	return Cell{Kind: Text, Text: s}
}
