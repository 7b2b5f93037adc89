package table

import (
	"math"
	"math/bits"
)

// step is the largest number that divides every distance between two values:
// moments to the second are a million microseconds apart.
func step(values []int64, from int64) int64 {
	d := divisor{}
	for _, v := range values {
		if v == Blank {
			continue
		}
		if distance := uint64(v) - uint64(from); !d.divides(distance) {
			d = newDivisor(gcd(distance, d.n))
			if d.n == 1 {
				break
			}
		}
	}
	if d.n == 0 || d.n > math.MaxInt64 {
		return 1
	}
	return int64(d.n)
}

// gcd is Euclid's algorithm; gcd(a, 0) is a.
func gcd(a, b uint64) uint64 {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// divisor tells multiples of n from other numbers by a multiplication, which is
// many times faster than a division: an odd number d divides x just if the product
// of x with d's inverse modulo 2^64 is no more than the largest number over d (Granlund
// and Montgomery, "Division by Invariant Integers using Multiplication", section 9).
// The zero divisor divides 0 alone.
type divisor struct {
	n              uint64
	inverse, limit uint64 // of n's odd part
	zeros          int    // how often 2 divides n
}

func newDivisor(n uint64) divisor {
	zeros := bits.TrailingZeros64(n)
	odd := n >> zeros
	inverse := odd // right in its lowest three bits; each round doubles how many are
	for range 5 {
		inverse *= 2 - odd*inverse
	}
	return divisor{n: n, inverse: inverse, limit: math.MaxUint64 / odd, zeros: zeros}
}

func (d *divisor) divides(x uint64) bool {
	if d.n == 0 {
		return x == 0
	}
	return bits.RotateLeft64(x*d.inverse, -d.zeros) <= d.limit>>d.zeros
}
