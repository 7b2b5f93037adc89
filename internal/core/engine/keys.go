package engine

import (
	"fmt"
	"math"
	"math/bits"
	"slices"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// levelKeys numbers the values of a column: 0 for the blank, then from 1 in order.
type levelKeys struct {
	card int // how many numbers there may be, the blank's included
	// blanks says that the number 0 may occur.
	blanks bool
	// byRow holds the numbers of all rows of the table, or keys those of the
	// positions of the rows at hand.
	byRow, keys []uint32
	// Exactly one of these says what a number stands for.
	dict   *table.Dict
	values []int64
	floats []float64
	// listable are the numbers that a group without records may have; nil means
	// all.
	listable func(key uint32) bool
}

// at are the numbers of positions lo to hi.
func (k *levelKeys) at(rs rows, lo, hi int, buf []uint32) []uint32 {
	if k.byRow == nil {
		return k.keys[lo:hi]
	}
	return valuesAt(k.byRow, rs, lo, hi, buf)
}

// rest is the number of the groups joined behind the first ones.
func (k *levelKeys) rest() uint32 { return uint32(k.card) }

// number is the stored value of a number, or table.Blank.
func (k *levelKeys) number(key uint32) int64 {
	if key == 0 {
		return table.Blank
	}
	return k.values[key-1]
}

// float is the approximate value of a number, or NaN.
func (k *levelKeys) float(key uint32) float64 {
	if key == 0 {
		return math.NaN()
	}
	return k.floats[key-1]
}

// value is the value of a field that a number stands for.
func (k *levelKeys) value(key uint32, f catalog.Field) cell.Cell {
	switch {
	case key == 0:
		return cell.Cell{}
	case k.dict != nil:
		return cell.OfText(k.dict.Value(key), f)
	case k.floats != nil:
		return cell.OfFloat(k.float(key))
	}
	return cell.OfInt(k.number(key), f)
}

// cell is what a number of a level stands for: a value or, of a unit of time, the first day of
// one, a weekday or an hour.
func (k *levelKeys) cell(key uint32, g plan.Group) cell.Cell {
	switch {
	case key == 0 || g.Unit == "":
		return k.value(key, g.Ref.Field)
	case g.Unit.Cyclic():
		return cell.Cell{Kind: cell.Number, Int: k.number(key)}
	}
	return cell.Cell{Kind: cell.Date, Int: k.number(key)}
}

// text writes the value that a number stands for; a blank is empty.
func (k *levelKeys) text(w *format.Writer, key uint32, f catalog.Field) string {
	return w.Cell(k.value(key, f), f)
}

// inOrder is a column whose numbers follow the order of its values.
func inOrder(col table.Column) table.Column {
	if c, ok := col.(*table.Texts); ok {
		return c.InOrder()
	}
	return col
}

// numberValues numbers a column by value, texts as their dictionary does.
func (r *run) numberValues(col table.Column, rs rows) (*levelKeys, error) {
	k := &levelKeys{blanks: col.Blanks() > 0}
	switch c := col.(type) {
	case *table.Texts:
		k.dict, k.card, k.byRow = c.Dict, c.Dict.Len(), c.Codes
		return k, nil
	case *table.Numbers:
		return k, r.fromValues(k, c, rs)
	case *table.Floats:
		ordered := make([]int64, len(c.Values))
		for i, v := range c.Values {
			ordered[i] = orderedBits(v)
		}
		if err := r.fromValues(k, table.NewNumbers(ordered), rs); err != nil {
			return nil, err
		}
		k.floats = make([]float64, len(k.values))
		for i, b := range k.values {
			k.floats[i] = fromOrderedBits(b)
		}
		k.values = nil
		return k, nil
	}
	return nil, fmt.Errorf("engine: a column of kind %T cannot be grouped by", col)
}

// numberYesNo numbers no and yes, whether or not both occur.
func (r *run) numberYesNo(c *table.Numbers, rs rows) (*levelKeys, error) {
	k := &levelKeys{blanks: c.Blanks() > 0, card: 3, values: []int64{0, 1}, keys: make([]uint32, rs.n)}
	return k, kernel.EachBlock(r.ctx, rs.n, r.e.opts.Workers, func(lo, hi int) {
		for i, v := range valuesAt(c.Values, rs, lo, hi, make([]int64, kernel.BlockRows)) {
			if v != table.Blank {
				k.keys[lo+i] = uint32(v) + 1
			}
		}
	})
}

// fromValues numbers values in ascending order: by offset where they lie close
// together, else by their rank among the distinct ones.
func (r *run) fromValues(k *levelKeys, c *table.Numbers, rs rows) error {
	k.keys = make([]uint32, rs.n)
	lo, hi, ok := c.Bounds()
	if !ok {
		k.card = 1 // blanks only
		return nil
	}
	step := uint64(c.Step())
	span := (uint64(hi) - uint64(lo)) / step
	if span < uint64(2*rs.n+1024) {
		return r.fromOffsets(k, c, rs, lo, int64(step), int(span)+1)
	}
	pairs, err := r.room(rs.n)
	if err != nil {
		return err
	}
	pairs = pairs[:0]
	err = pass(r, c.Values, rs, func(at int, vals []int64) {
		for i, v := range vals {
			if v != table.Blank {
				pairs = append(pairs, kernel.Pair{Key: (uint64(v) - uint64(lo)) / step, Pos: int32(at + i)})
			}
		}
	})
	if err != nil {
		return err
	}
	spare, err := r.room(len(pairs))
	if err != nil {
		return err
	}
	pairs = kernel.SortParts(pairs, spare, bits.Len64(span), r.e.opts.Workers, r.isStopped)
	for i, p := range pairs {
		if i%kernel.BlockRows == 0 && r.isStopped() {
			break
		}
		if i == 0 || p.Key != pairs[i-1].Key {
			k.values = append(k.values, lo+int64(p.Key*step))
		}
		k.keys[p.Pos] = uint32(len(k.values))
	}
	k.card = len(k.values) + 1
	return r.stopped()
}

// fromOffsets numbers every step between lo and the largest value, of which there
// are span, whether a row has it or not.
func (r *run) fromOffsets(k *levelKeys, c *table.Numbers, rs rows, lo, step int64, span int) error {
	k.values, k.card = make([]int64, span), span+1
	for i := range k.values {
		k.values[i] = lo + int64(i)*step
	}
	return kernel.EachBlock(r.ctx, rs.n, r.e.opts.Workers, func(from, to int) {
		keys := k.keys[from:to]
		for i, v := range valuesAt(c.Values, rs, from, to, make([]int64, kernel.BlockRows)) {
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

// keyOfValue finds the number of a stored value; ok is false if no row has it.
func (k *levelKeys) keyOfValue(v int64) (uint32, bool) {
	i, ok := slices.BinarySearch(k.values, v)
	return uint32(i) + 1, ok
}

// orderedBits maps an approximate value to an integer that orders the same way,
// and NaN to table.Blank.
func orderedBits(f float64) int64 {
	if f != f {
		return table.Blank
	}
	if f == 0 {
		f = 0 // one zero, not two
	}
	b := int64(math.Float64bits(f))
	if b < 0 {
		b ^= math.MaxInt64
	}
	return b
}

func fromOrderedBits(b int64) float64 {
	if b < 0 {
		b ^= math.MaxInt64
	}
	return math.Float64frombits(uint64(b))
}
