// A bucket over a column: every row's band, by bounds or by text.

package fields

import (
	"math"
	"slices"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
)

// bucket puts every row into its band. The bands' texts keep the author's order,
// the rest and the blanks behind them.
func (f *Fields) bucket(b *plan.Bucket) (table.Column, error) {
	col, err := f.Column(b.Of)
	if err != nil {
		return nil, err
	}
	labels := make([]string, 0, len(b.Bands)+2)
	for _, band := range b.Bands {
		labels = append(labels, band.Label)
	}
	rest, blank := uint32(len(labels)+1), uint32(len(labels)+2)
	codes := make([]uint32, col.Len())
	each := func(do func(codes []uint32, lo, hi int)) error {
		return f.job.EachBlock(len(codes), func(lo, hi int) { do(codes[lo:hi], lo, hi) })
	}
	switch c := col.(type) {
	case *table.Texts:
		byCode := bandsOfTexts(b, c.Dict, rest)
		byCode[0] = blank
		err = each(func(codes []uint32, lo, hi int) {
			for i, code := range c.Codes[lo:hi] {
				codes[i] = byCode[code]
			}
		})
	case *table.Numbers:
		s := segmentsOf(
			len(b.Bands), func(i int) (int64, int64) { return b.Bands[i].Range.Lo, b.Bands[i].Range.Hi },
			func(v int64) int64 { return v + 1 }, math.MaxInt64,
		)
		err = each(func(codes []uint32, lo, hi int) {
			for i, v := range c.Values[lo:hi] {
				if codes[i] = s.band(v); v == table.Blank {
					codes[i] = blank
				}
			}
		})
	case *table.Floats:
		next := func(v float64) float64 { return math.Nextafter(v, math.Inf(1)) }
		s := segmentsOf(
			len(b.Bands), func(i int) (float64, float64) { return b.Bands[i].Float.Lo, b.Bands[i].Float.Hi }, next,
			math.Inf(1),
		)
		err = each(func(codes []uint32, lo, hi int) {
			for i, v := range c.Values[lo:hi] {
				if codes[i] = s.band(v); v != v {
					codes[i] = blank
				}
			}
		})
	}
	return table.NewTexts(codes, table.OrderedDict(append(labels, b.Rest, b.Blank))), err
}

// bandsOfTexts gives every text of a dictionary its band; the first that lists it
// wins.
func bandsOfTexts(b *plan.Bucket, d *table.Dict, rest uint32) []uint32 {
	out := make([]uint32, d.Len())
	for i := range out {
		out[i] = rest
	}
	for i := len(b.Bands) - 1; i >= 0; i-- {
		for _, t := range b.Bands[i].Texts {
			for _, code := range d.FindFolded(nil, t) {
				out[code] = uint32(i + 1)
			}
		}
	}
	return out
}

// segments are bands with their overlaps resolved: values from bounds[i-1] on and
// below bounds[i] belong to codes[i].
type segments[T int64 | float64] struct {
	bounds []T
	codes  []uint32
}

// segmentsOf cuts the values at every end of a band, each of which holds lo to hi,
// both included; next is the value after one. The first band that holds a segment
// has it; none is the code behind the last.
func segmentsOf[T int64 | float64](bands int, of func(i int) (lo, hi T), next func(T) T, most T) segments[T] {
	var s segments[T]
	for i := range bands {
		lo, hi := of(i)
		s.bounds = append(s.bounds, lo)
		if hi < most {
			s.bounds = append(s.bounds, next(hi))
		}
	}
	slices.Sort(s.bounds)
	s.bounds = slices.Compact(s.bounds)
	s.codes = []uint32{uint32(bands + 1)} // below every band
	for _, from := range s.bounds {
		code := uint32(bands + 1)
		for i := bands - 1; i >= 0; i-- {
			if lo, hi := of(i); from >= lo && from <= hi {
				code = uint32(i + 1)
			}
		}
		s.codes = append(s.codes, code)
	}
	return s
}

// band is the code of a value's band.
func (s *segments[T]) band(v T) uint32 {
	n := uint64(0)
	for _, b := range s.bounds { // counting has no branch that a core could mistake
		n += kernel.Bit(v >= b)
	}
	return s.codes[n]
}
