package engine

import (
	"math/bits"

	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// sortKey turns a kept row into a small number that sorts as asked, blanks last.
type sortKey interface {
	// width is how many bits the numbers take.
	width() int
	// put ORs the number of every pair's row into its key, shifted.
	put(pairs []pair, rows []int32, shift int)
}

// sortKeys prepares the view's sort keys, the first in weight first.
func (r *run) sortKeys() ([]sortKey, error) {
	var keys []sortKey
	for _, s := range r.plan.Sort {
		col, err := r.e.column(r.plan.Records, s.Ref)
		if err != nil {
			return nil, err
		}
		keys = append(keys, keyOf(col, s))
	}
	return keys, nil
}

func keyOf(col table.Column, s plan.Sort) sortKey {
	switch c := col.(type) {
	case *table.Numbers:
		lo, hi, ok := c.Bounds()
		if !ok {
			lo, hi = 0, 0 // blanks only
		}
		step := uint64(c.Step())
		return &numbersKey{vals: c.Values, lo: lo, step: step, top: (uint64(hi) - uint64(lo)) / step, desc: s.Desc}
	case *table.Texts:
		return &textsKey{codes: c.Codes, top: uint64(c.Dict.Len()), desc: s.Desc}
	case *table.Floats:
		return &floatsKey{vals: c.Values, desc: s.Desc}
	}
	panic("engine: a column that cannot be sorted by passed the check")
}

type numbersKey struct {
	vals []int64
	lo   int64
	step uint64
	top  uint64 // the key of the largest value; a blank's is one more
	desc bool
}

func (k *numbersKey) width() int { return bits.Len64(k.top + 1) }

func (k *numbersKey) put(pairs []pair, rows []int32, shift int) {
	for i := range pairs {
		v := k.vals[rows[pairs[i].pos]]
		key := k.top + 1
		if v != table.Blank {
			key = uint64(v) - uint64(k.lo)
			if k.step > 1 {
				key /= k.step
			}
			if k.desc {
				key = k.top - key
			}
		}
		pairs[i].key |= key << shift
	}
}

type textsKey struct {
	codes []uint32
	top   uint64 // one more than the largest code: a blank's key
	desc  bool
}

func (k *textsKey) width() int { return bits.Len64(k.top) }

func (k *textsKey) put(pairs []pair, rows []int32, shift int) {
	for i := range pairs {
		key := uint64(k.codes[rows[pairs[i].pos]])
		if key == 0 {
			key = k.top
		} else if k.desc {
			key = k.top - key
		}
		pairs[i].key |= key << shift
	}
}

type floatsKey struct {
	vals []float64
	desc bool
}

func (k *floatsKey) width() int { return 64 }

func (k *floatsKey) put(pairs []pair, rows []int32, _ int) {
	for i := range pairs {
		// No finite value has all bits set, whichever way they run.
		pairs[i].key = ^uint64(0)
		if b := orderedBits(k.vals[rows[pairs[i].pos]]); b != table.Blank {
			key := uint64(b) ^ 1<<63
			if k.desc {
				key = ^key
			}
			pairs[i].key = key
		}
	}
}

// placeKey sorts rows by the place of their innermost group.
type placeKey struct {
	leaf  []uint32 // of each kept row
	place []uint32 // of each innermost group
}

func (k *placeKey) width() int { return bits.Len(uint(len(k.place))) }

func (k *placeKey) put(pairs []pair, _ []int32, shift int) {
	for i := range pairs {
		pairs[i].key |= uint64(k.place[k.leaf[pairs[i].pos]]) << shift
	}
}
