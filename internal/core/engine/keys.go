package engine

import (
	"context"
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// levelKeys numbers the values of a column for the kept rows: dense numbers from
// 0 in label order, the last one for blanks.
type levelKeys struct {
	keys []uint32
	card int // how many numbers there may be, the blank's included
	// Exactly one of these says what a number stands for.
	dict   *table.Dict
	values []int64
	floats []float64
}

func (k *levelKeys) blank() uint32 { return uint32(k.card - 1) }

// code is the dictionary code of a text's number.
func (k *levelKeys) code(key uint32) uint32 {
	if key == k.blank() {
		return 0
	}
	return key + 1
}

// number is the stored value of a number, or table.Blank.
func (k *levelKeys) number(key uint32) int64 {
	if key == k.blank() {
		return table.Blank
	}
	return k.values[key]
}

// float is the approximate value of a number, or NaN.
func (k *levelKeys) float(key uint32) float64 {
	if key == k.blank() {
		return math.NaN()
	}
	return k.floats[key]
}

// text writes the value that a number stands for; a blank is empty.
func (k *levelKeys) text(w *format.Writer, key uint32, f catalog.Field) string {
	switch {
	case k.dict != nil:
		return k.dict.Value(k.code(key))
	case k.floats != nil:
		return w.Float(k.float(key), f)
	}
	return w.Number(k.number(key), f)
}

// numberValues numbers a column by value.
func numberValues(ctx context.Context, col table.Column, rows []int32, workers int) (*levelKeys, error) {
	k := &levelKeys{keys: make([]uint32, len(rows))}
	switch c := col.(type) {
	case *table.Texts:
		k.dict, k.card = c.Dict, c.Dict.Len()
		blank := k.blank()
		return k, eachBlock(ctx, len(rows), workers, func(lo, hi int) {
			keys := k.keys[lo:hi]
			for i, row := range rows[lo:hi] {
				// Code 0 wraps round and becomes the last number.
				keys[i] = min(c.Codes[row]-1, blank)
			}
		})
	case *table.Numbers:
		return k, k.fromValues(ctx, c, rows, workers)
	case *table.Floats:
		ordered := make([]int64, len(c.Values))
		for i, v := range c.Values {
			ordered[i] = orderedBits(v)
		}
		if err := k.fromValues(ctx, table.NewNumbers(ordered), rows, workers); err != nil {
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

// numberUnits numbers dates or moments by the unit of time they lie in.
func numberUnits(ctx context.Context, col table.Column, rows []int32, g plan.Group, cal calendar.Calendar, workers int) (*levelKeys, error) {
	c, ok := col.(*table.Numbers)
	if !ok {
		return nil, fmt.Errorf("engine: %s cannot be grouped by %s", g.Ref.Label, g.Unit)
	}
	k := &levelKeys{keys: make([]uint32, len(rows)), card: 1}
	first, last, ok := c.Bounds()
	if !ok {
		return k, nil // blanks only, all numbered 0
	}
	moments := g.Ref.Field.Type == catalog.DateTime
	if moments {
		clock := cal.Clock()
		first, last = calendar.FloorDay(clock.Local(first)), calendar.FloorDay(clock.Local(last))
	}
	if last-first > maxDays {
		return nil, &LimitError{Step: fmt.Sprintf("%s spans more than %d days", g.Ref.Label, maxDays), Mend: "filter out the dates that are far off, or group by another field"}
	}
	// The unit of every day between the bounds, some of which no row has.
	unit := make([]uint32, last-first+1)
	for day := first; day <= last; day++ {
		if start := cal.Start(g.Unit, day); len(k.values) == 0 || k.values[len(k.values)-1] != start {
			k.values = append(k.values, start)
		}
		unit[day-first] = uint32(len(k.values) - 1)
	}
	k.card = len(k.values) + 1
	blank := k.blank()
	return k, eachBlock(ctx, len(rows), workers, func(lo, hi int) {
		clock := cal.Clock()
		keys := k.keys[lo:hi]
		for i, row := range rows[lo:hi] {
			v := c.Values[row]
			switch {
			case v == table.Blank:
				keys[i] = blank
				continue
			case moments:
				v = calendar.FloorDay(clock.Local(v))
			}
			keys[i] = unit[v-first]
		}
	})
}

// maxDays bounds the table of days: eleven thousand years.
const maxDays = 4_000_000

// fromValues numbers values in ascending order: by offset where they lie close
// together, else by their rank among the distinct ones.
func (k *levelKeys) fromValues(ctx context.Context, c *table.Numbers, rows []int32, workers int) error {
	lo, hi, ok := c.Bounds()
	if !ok {
		k.card = 1 // blanks only
		return nil
	}
	step := uint64(c.Step())
	if span := (uint64(hi) - uint64(lo)) / step; span < uint64(2*len(rows)+1024) {
		return k.fromOffsets(ctx, c, rows, workers, lo, int64(step), int(span)+1)
	}
	distinct := make([]int64, 0, len(rows))
	for _, row := range rows {
		if v := c.Values[row]; v != table.Blank {
			distinct = append(distinct, v)
		}
	}
	slices.Sort(distinct)
	distinct = slices.Compact(distinct)
	rank := make(map[int64]uint32, len(distinct)+1)
	for i, v := range distinct {
		rank[v] = uint32(i)
	}
	k.values, k.card = distinct, len(distinct)+1
	rank[table.Blank] = k.blank()
	return eachBlock(ctx, len(rows), workers, func(from, to int) {
		for i := from; i < to; i++ {
			k.keys[i] = rank[c.Values[rows[i]]]
		}
	})
}

// fromOffsets numbers every step between lo and the largest value, of which there
// are span, whether a row has it or not.
func (k *levelKeys) fromOffsets(ctx context.Context, c *table.Numbers, rows []int32, workers int, lo, step int64, span int) error {
	k.values, k.card = make([]int64, span), span+1
	for i := range k.values {
		k.values[i] = lo + int64(i)*step
	}
	blank := k.blank()
	return eachBlock(ctx, len(rows), workers, func(from, to int) {
		keys := k.keys[from:to]
		for i, row := range rows[from:to] {
			v := c.Values[row]
			switch {
			case v == table.Blank:
				keys[i] = blank
			case step == 1:
				keys[i] = uint32(v - lo)
			default:
				keys[i] = uint32((v - lo) / step)
			}
		}
	})
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
