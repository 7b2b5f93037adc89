// Floating-point numbers as integers that order the same way.

package kernel

import "math"

// OrderedBits maps an approximate value to an integer that orders the same way; a NaN to
// math.MinInt64, which no other value gives.
func OrderedBits(f float64) int64 {
	if f != f {
		return math.MinInt64
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

// FromOrderedBits is the value of OrderedBits.
func FromOrderedBits(b int64) float64 {
	if b < 0 {
		b ^= math.MaxInt64
	}
	return math.Float64frombits(uint64(b))
}
