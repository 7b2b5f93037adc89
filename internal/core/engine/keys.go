package engine

import (
	"fmt"
	"math"
	"slices"

	"gavrik/internal/core/calendar"
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

// numberValues numbers a column by value.
func numberValues(col table.Column, rows []int32) (*levelKeys, error) {
	k := &levelKeys{keys: make([]uint32, len(rows))}
	switch c := col.(type) {
	case *table.Texts:
		k.dict, k.card = c.Dict, c.Dict.Len()
		blank := k.blank()
		for i, row := range rows {
			// Code 0 wraps round and becomes the last number.
			k.keys[i] = min(c.Codes[row]-1, blank)
		}
	case *table.Numbers:
		vals := make([]int64, len(rows))
		for i, row := range rows {
			vals[i] = c.Values[row]
		}
		k.fromValues(vals)
	case *table.Floats:
		bits := make([]int64, len(rows))
		for i, row := range rows {
			bits[i] = orderedBits(c.Values[row])
		}
		k.fromValues(bits)
		k.floats = make([]float64, len(k.values))
		for i, b := range k.values {
			k.floats[i] = fromOrderedBits(b)
		}
		k.values = nil
	default:
		return nil, fmt.Errorf("engine: a column of kind %T cannot be grouped by", col)
	}
	return k, nil
}

// numberUnits numbers dates or moments by the unit of time they lie in.
func numberUnits(col table.Column, rows []int32, g plan.Group, cal calendar.Calendar) (*levelKeys, error) {
	c, ok := col.(*table.Numbers)
	if !ok {
		return nil, fmt.Errorf("engine: %s cannot be grouped by %s", g.Ref.Label, g.Unit)
	}
	starts := make([]int64, len(rows))
	moments := g.Ref.Field.Type != "date"
	clock := cal.Clock()
	known := map[calendar.Day]calendar.Day{}
	for i, row := range rows {
		v := c.Values[row]
		if v == table.Blank {
			starts[i] = v
			continue
		}
		if moments {
			v = calendar.FloorDay(clock.Local(v))
		}
		start, ok := known[v]
		if !ok {
			start = cal.Start(g.Unit, v)
			known[v] = start
		}
		starts[i] = start
	}
	k := &levelKeys{keys: make([]uint32, len(rows))}
	k.fromValues(starts)
	return k, nil
}

// fromValues numbers values in ascending order: by offset where they lie close
// together, else by their rank among the distinct ones.
func (k *levelKeys) fromValues(vals []int64) {
	lo, hi := int64(math.MaxInt64), int64(math.MinInt64)
	for _, v := range vals {
		if v != table.Blank {
			lo, hi = min(lo, v), max(hi, v)
		}
	}
	if lo > hi {
		k.card = 1 // blanks only
		return
	}
	if span := uint64(hi) - uint64(lo); span < uint64(2*len(vals)+1024) {
		k.fromOffsets(vals, lo, int(span)+1)
		return
	}
	distinct := slices.Clone(vals)
	slices.Sort(distinct)
	distinct = slices.Compact(distinct)
	if distinct[0] == table.Blank {
		distinct = distinct[1:]
	}
	rank := make(map[int64]uint32, len(distinct))
	for i, v := range distinct {
		rank[v] = uint32(i)
	}
	k.values, k.card = distinct, len(distinct)+1
	rank[table.Blank] = k.blank()
	for i, v := range vals {
		k.keys[i] = rank[v]
	}
}

// fromOffsets numbers the values that occur between lo and lo+span.
func (k *levelKeys) fromOffsets(vals []int64, lo int64, span int) {
	at := make([]uint32, span)
	for _, v := range vals {
		if v != table.Blank {
			at[v-lo] = 1
		}
	}
	for i, there := range at {
		if there != 0 {
			at[i] = uint32(len(k.values))
			k.values = append(k.values, lo+int64(i))
		}
	}
	k.card = len(k.values) + 1
	for i, v := range vals {
		if v == table.Blank {
			k.keys[i] = k.blank()
		} else {
			k.keys[i] = at[v-lo]
		}
	}
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
