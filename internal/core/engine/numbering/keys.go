// Package numbering gives the values of a column small numbers in their order, by which records are
// divided among groups and different values are counted.
package numbering

import (
	"fmt"
	"math"
	"math/bits"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// Keys numbers the values of a column: 0 for the blank, then from 1 in order.
type Keys struct {
	Card int // how many numbers there may be, the blank's included
	// Blanks says that the number 0 may occur.
	Blanks bool
	// ByRow holds the numbers of all rows of the table, or keys those of the
	// positions of the rows at hand.
	ByRow, Numbers []uint32
	// Exactly one of these says what a number stands for.
	Dict   *table.Dict
	Values []int64
	Floats []float64
	// Listable are the numbers that a group without records may have; nil means
	// all.
	Listable func(key uint32) bool
}

// At are the numbers of positions lo to hi.
func (k *Keys) At(rs kernel.Rows, lo, hi int, buf []uint32) []uint32 {
	if k.ByRow == nil {
		return k.Numbers[lo:hi]
	}
	return kernel.ValuesAt(k.ByRow, rs, lo, hi, buf)
}

// Rest is the number of the groups joined behind the first ones.
func (k *Keys) Rest() uint32 { return uint32(k.Card) }

// Number is the stored value of a number, or table.Blank.
func (k *Keys) Number(key uint32) int64 {
	if key == 0 {
		return table.Blank
	}
	return k.Values[key-1]
}

// Float is the approximate value of a number, or NaN.
func (k *Keys) Float(key uint32) float64 {
	if key == 0 {
		return math.NaN()
	}
	return k.Floats[key-1]
}

// Value is the value of a field that a number stands for.
func (k *Keys) Value(key uint32, f catalog.Field) cell.Cell {
	switch {
	case key == 0:
		return cell.Cell{}
	case k.Dict != nil:
		return cell.OfText(k.Dict.Value(key), f)
	case k.Floats != nil:
		return cell.OfFloat(k.Float(key))
	}
	return cell.OfInt(k.Number(key), f)
}

// Cell is what a number of a level stands for: a value or, of a unit of time, the first day of
// one, a weekday or an hour.
func (k *Keys) Cell(key uint32, g plan.Group) cell.Cell {
	switch {
	case key == 0 || g.Unit == "":
		return k.Value(key, g.Ref.Field)
	case g.Unit.Cyclic():
		return cell.Cell{Kind: cell.Number, Int: k.Number(key)}
	}
	return cell.Cell{Kind: cell.Date, Int: k.Number(key)}
}

// Text writes the value that a number stands for; a blank is empty.
func (k *Keys) Text(w *format.Writer, key uint32, f catalog.Field) string {
	return w.Cell(k.Value(key, f), f)
}

// Lowest is the smallest number that occurs: columns without blanks have no 0.
func (k *Keys) Lowest() uint32 {
	if k.Blanks {
		return 0
	}
	return 1
}

// InOrder is a column whose numbers follow the order of its values.
func InOrder(col table.Column) table.Column {
	if c, ok := col.(*table.Texts); ok {
		return c.InOrder()
	}
	return col
}

// Values numbers a column by value, texts as their dictionary does.
func Values(job *work.Job, col table.Column, rs kernel.Rows) (*Keys, error) {
	k := &Keys{Blanks: col.Blanks() > 0}
	switch c := col.(type) {
	case *table.Texts:
		k.Dict, k.Card, k.ByRow = c.Dict, c.Dict.Len(), c.Codes
		return k, nil
	case *table.Numbers:
		return k, k.fromValues(job, c, rs)
	case *table.Floats:
		ordered := make([]int64, len(c.Values))
		for i, v := range c.Values {
			ordered[i] = kernel.OrderedBits(v)
		}
		if err := k.fromValues(job, table.NewNumbers(ordered), rs); err != nil {
			return nil, err
		}
		k.Floats = make([]float64, len(k.Values))
		for i, b := range k.Values {
			k.Floats[i] = kernel.FromOrderedBits(b)
		}
		k.Values = nil
		return k, nil
	}
	return nil, fmt.Errorf("numbering: a column of kind %T cannot be grouped by", col)
}

// YesNo numbers no and yes, whether or not both occur.
func YesNo(job *work.Job, c *table.Numbers, rs kernel.Rows) (*Keys, error) {
	k := &Keys{Blanks: c.Blanks() > 0, Card: 3, Values: []int64{0, 1}, Numbers: make([]uint32, rs.N)}
	return k, job.EachBlock(rs.N, func(lo, hi int) {
		for i, v := range kernel.ValuesAt(c.Values, rs, lo, hi, make([]int64, kernel.BlockRows)) {
			if v != table.Blank {
				k.Numbers[lo+i] = uint32(v) + 1
			}
		}
	})
}

// fromValues numbers values in ascending order: by offset where they lie close
// together, else by their rank among the distinct ones.
func (k *Keys) fromValues(job *work.Job, c *table.Numbers, rs kernel.Rows) error {
	k.Numbers = make([]uint32, rs.N)
	lo, hi, ok := c.Bounds()
	if !ok {
		k.Card = 1 // blanks only
		return nil
	}
	step := uint64(c.Step())
	span := (uint64(hi) - uint64(lo)) / step
	if span < uint64(2*rs.N+1024) {
		return k.fromOffsets(job, c, rs, lo, int64(step), int(span)+1)
	}
	pairs, err := job.Pairs(rs.N)
	if err != nil {
		return err
	}
	pairs = pairs[:0]
	err = work.Pass(job, c.Values, rs, func(at int, vals []int64) {
		for i, v := range vals {
			if v != table.Blank {
				pairs = append(pairs, kernel.Pair{Key: (uint64(v) - uint64(lo)) / step, Pos: int32(at + i)})
			}
		}
	})
	if err != nil {
		return err
	}
	spare, err := job.Pairs(len(pairs))
	if err != nil {
		return err
	}
	pairs = kernel.SortParts(pairs, spare, bits.Len64(span), job.Workers, job.IsStopped)
	for i, p := range pairs {
		if i%kernel.BlockRows == 0 && job.IsStopped() {
			break
		}
		if i == 0 || p.Key != pairs[i-1].Key {
			k.Values = append(k.Values, lo+int64(p.Key*step))
		}
		k.Numbers[p.Pos] = uint32(len(k.Values))
	}
	k.Card = len(k.Values) + 1
	return job.Stopped()
}

// fromOffsets numbers every step between lo and the largest value, of which there
// are span, whether a row has it or not.
func (k *Keys) fromOffsets(job *work.Job, c *table.Numbers, rs kernel.Rows, lo, step int64, span int) error {
	k.Values, k.Card = make([]int64, span), span+1
	for i := range k.Values {
		k.Values[i] = lo + int64(i)*step
	}
	return job.EachBlock(rs.N, func(from, to int) {
		keys := k.Numbers[from:to]
		for i, v := range kernel.ValuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows)) {
			switch {
			case v == table.Blank:
			case step == 1:
				keys[i] = uint32(v-lo) + 1
			default:
				keys[i] = uint32(uint64(v-lo)/uint64(step)) + 1
			}
		}
	})
}

// KeyOf finds the number of a stored value; ok is false if no row has it.
func (k *Keys) KeyOf(v int64) (uint32, bool) {
	i, ok := slices.BinarySearch(k.Values, v)
	return uint32(i) + 1, ok
}

// Folded is a value's text without case and accents; label writes it if no
// dictionary holds it.
func (k *Keys) Folded(key uint32, label func() string) string {
	if k.Dict != nil {
		return k.Dict.Folded(key)
	}
	return table.Fold(label())
}
