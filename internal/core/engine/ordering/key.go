// Sort keys: numbers of few bits that order the values of a column.

package ordering

import (
	"math/bits"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// Key turns the record at a position into a small number that sorts as asked,
// blanks last.
type Key interface {
	// width is how many bits the numbers take.
	width() int
	at(pos int32) uint64
	// put ORs the numbers of the positions from lo on into keys, shifted.
	put(keys []uint64, lo, shift int)
}

// Keys prepares the keys of some sorts, the first in weight first.
func Keys(f *fields.Fields, sorts []plan.Sort, rs kernel.Rows) ([]Key, error) {
	var keys []Key
	for _, s := range sorts {
		col, err := f.Column(s.Ref)
		if err != nil {
			return nil, err
		}
		keys = append(keys, keyOf(col, rs, s.Desc))
	}
	return keys, nil
}

// Equal says whether the keys leave two positions equal.
func Equal(keys []Key, a, b int32) bool {
	for _, k := range keys {
		if k.at(a) != k.at(b) {
			return false
		}
	}
	return true
}

func keyOf(col table.Column, rs kernel.Rows, desc bool) Key {
	switch c := col.(type) {
	case *table.Numbers:
		lo, hi, ok := c.Bounds()
		if !ok {
			lo, hi = 0, 0 // blanks only
		}
		step := uint64(c.Step())
		return &numbersKey{
			rows: rs, vals: c.Values, lo: lo, step: step, top: (uint64(hi) - uint64(lo)) / step, desc: desc,
		}
	case *table.Texts:
		c = c.InOrder()
		return &textsKey{rows: rs, codes: c.Codes, top: uint64(c.Dict.Len()), desc: desc}
	case *table.Floats:
		return &floatsKey{rows: rs, vals: c.Values, desc: desc}
	}
	panic("ordering: a column that cannot be sorted by passed the check")
}

type numbersKey struct {
	rows kernel.Rows
	vals []int64
	lo   int64
	step uint64
	top  uint64 // the key of the largest value; a blank's is one more
	desc bool
}

func (k *numbersKey) width() int { return bits.Len64(k.top + 1) }

func (k *numbersKey) at(pos int32) uint64 { return k.of(k.vals[k.rows.At(int(pos))]) }

func (k *numbersKey) of(v int64) uint64 {
	if v == table.Blank {
		return k.top + 1
	}
	key := uint64(v) - uint64(k.lo)
	if k.step > 1 {
		key /= k.step
	}
	if k.desc {
		key = k.top - key
	}
	return key
}

func (k *numbersKey) put(keys []uint64, lo, shift int) {
	for i, v := range kernel.ValuesAt(k.vals, k.rows, lo, lo+len(keys), make([]int64, len(keys))) {
		keys[i] |= k.of(v) << shift
	}
}

type textsKey struct {
	rows  kernel.Rows
	codes []uint32
	top   uint64 // one more than the largest code: a blank's key
	desc  bool
}

func (k *textsKey) width() int { return bits.Len64(k.top) }

func (k *textsKey) at(pos int32) uint64 { return k.of(k.codes[k.rows.At(int(pos))]) }

func (k *textsKey) of(code uint32) uint64 {
	key := uint64(code)
	switch {
	case key == 0:
		return k.top
	case k.desc:
		return k.top - key
	}
	return key
}

func (k *textsKey) put(keys []uint64, lo, shift int) {
	for i, c := range kernel.ValuesAt(k.codes, k.rows, lo, lo+len(keys), make([]uint32, len(keys))) {
		keys[i] |= k.of(c) << shift
	}
}

type floatsKey struct {
	rows kernel.Rows
	vals []float64
	desc bool
}

func (k *floatsKey) width() int { return 64 }

func (k *floatsKey) at(pos int32) uint64 {
	// No finite value has all bits set, whichever way they run.
	b := kernel.OrderedBits(k.vals[k.rows.At(int(pos))])
	if b == table.Blank {
		return ^uint64(0)
	}
	key := uint64(b) ^ 1<<63
	if k.desc {
		key = ^key
	}
	return key
}

func (k *floatsKey) put(keys []uint64, lo, shift int) {
	for i := range keys {
		keys[i] |= k.at(int32(lo+i)) << shift
	}
}

// ByPlace sorts records by the place of their innermost group.
type ByPlace struct {
	Leaf  []uint32 // of each record
	Place []uint32 // of each innermost group
}

func (k *ByPlace) width() int { return bits.Len(uint(len(k.Place))) }

func (k *ByPlace) at(pos int32) uint64 { return uint64(k.Place[k.Leaf[pos]]) }

func (k *ByPlace) put(keys []uint64, lo, shift int) {
	for i, l := range k.Leaf[lo : lo+len(keys)] {
		keys[i] |= uint64(k.Place[l]) << shift
	}
}
