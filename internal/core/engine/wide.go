package engine

import (
	"cmp"
	"math"
	"math/bits"
)

// int128 is a signed number of 128 bits in two's complement: sums of 64-bit
// values cannot overflow it for any number of records that fits in memory.
type int128 struct {
	hi int64
	lo uint64
}

func wide(v int64) int128 { return int128{v >> 63, uint64(v)} }

func (a int128) plus(b int128) int128 {
	lo, carry := bits.Add64(a.lo, b.lo, 0)
	hi, _ := bits.Add64(uint64(a.hi), uint64(b.hi), carry)
	return int128{int64(hi), lo}
}

func (a int128) negated() int128 {
	lo, borrow := bits.Sub64(0, a.lo, 0)
	hi, _ := bits.Sub64(0, uint64(a.hi), borrow)
	return int128{int64(hi), lo}
}

func (a int128) compare(b int128) int {
	if c := cmp.Compare(a.hi, b.hi); c != 0 {
		return c
	}
	return cmp.Compare(a.lo, b.lo)
}

// times multiplies by a number that keeps the product within 128 bits: a is a
// widened 64-bit value.
func (a int128) times(k int64) int128 {
	negative := (a.hi < 0) != (k < 0)
	if a.hi < 0 {
		a = a.negated()
	}
	if k < 0 {
		k = -k
	}
	hi, lo := bits.Mul64(a.lo, uint64(k))
	out := int128{int64(hi) + a.hi*k, lo}
	if negative {
		return out.negated()
	}
	return out
}

// narrow returns the value in 64 bits, if it fits. The one value that marks a
// blank does not.
func (a int128) narrow() (int64, bool) {
	v := int64(a.lo)
	return v, a.hi == v>>63 && v != math.MinInt64
}

// ratio returns a × k / n rounded to the nearest, halves away from zero. n and k
// are positive. ok is false if it does not fit in 64 bits.
func (a int128) ratio(n, k int64) (int64, bool) {
	negative := a.hi < 0
	if negative {
		a = a.negated()
	}
	if uint64(a.hi) >= uint64(n) {
		return 0, false // the quotient alone passes 64 bits
	}
	quo, rem := bits.Div64(uint64(a.hi), a.lo, uint64(n))
	// The whole part and the rest are brought to k apart, so that nothing is lost.
	hi, whole := bits.Mul64(quo, uint64(k))
	restHi, restLo := bits.Mul64(rem, uint64(k))
	part, left := bits.Div64(restHi, restLo, uint64(n))
	if left >= uint64(n)-left {
		part++
	}
	sum, carry := bits.Add64(whole, part, 0)
	if hi != 0 || carry != 0 || sum > math.MaxInt64 {
		return 0, false
	}
	if negative {
		return -int64(sum), true
	}
	return int64(sum), true
}
