// Signed 128-bit integers, for sums that cannot wrap.

package kernel

import (
	"cmp"
	"math"
	"math/big"
	"math/bits"
)

// Int128 is a signed number of 128 bits in two's complement: sums of 64-bit
// values cannot overflow it for any number of records that fits in memory.
type Int128 struct {
	hi int64
	lo uint64
}

// Wide is a 64-bit value.
func Wide(v int64) Int128 { return Int128{v >> 63, uint64(v)} }

// WideUnsigned is an unsigned 64-bit value.
func WideUnsigned(v uint64) Int128 { return Int128{0, v} }

// WideProduct is the product of two unsigned values of which one has 63 bits at the most.
func WideProduct(a, b uint64) Int128 {
	hi, lo := bits.Mul64(a, b)
	return Int128{int64(hi), lo}
}

// Negative says whether the number is below zero.
func (a Int128) Negative() bool { return a.hi < 0 }

// Plus adds.
func (a Int128) Plus(b Int128) Int128 {
	lo, carry := bits.Add64(a.lo, b.lo, 0)
	hi, _ := bits.Add64(uint64(a.hi), uint64(b.hi), carry)
	return Int128{int64(hi), lo}
}

// Negated is the number with the other sign.
func (a Int128) Negated() Int128 {
	lo, borrow := bits.Sub64(0, a.lo, 0)
	hi, _ := bits.Sub64(0, uint64(a.hi), borrow)
	return Int128{int64(hi), lo}
}

// Compare is negative if a is below b, and positive if it is above.
func (a Int128) Compare(b Int128) int {
	if c := cmp.Compare(a.hi, b.hi); c != 0 {
		return c
	}
	return cmp.Compare(a.lo, b.lo)
}

// Times multiplies by a number that keeps the product within 128 bits: a is a
// widened 64-bit value.
func (a Int128) Times(k int64) Int128 {
	negative := (a.hi < 0) != (k < 0)
	if a.hi < 0 {
		a = a.Negated()
	}
	if k < 0 {
		k = -k
	}
	hi, lo := bits.Mul64(a.lo, uint64(k))
	out := Int128{int64(hi) + a.hi*k, lo}
	if negative {
		return out.Negated()
	}
	return out
}

// Narrow returns the value in 64 bits, if it fits. The one value that marks a
// blank does not.
func (a Int128) Narrow() (int64, bool) {
	v := int64(a.lo)
	return v, a.hi == v>>63 && v != math.MinInt64
}

// Ratio returns a × k / n rounded to the nearest, halves away from zero. n and k
// are positive. ok is false if it does not fit in 64 bits.
func (a Int128) Ratio(n, k int64) (int64, bool) {
	negative := a.hi < 0
	if negative {
		a = a.Negated()
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

// Big is the number without a bound.
func (a Int128) Big() *big.Int {
	out := new(big.Int).Lsh(big.NewInt(a.hi), 64)
	return out.Add(out, new(big.Int).SetUint64(a.lo))
}
