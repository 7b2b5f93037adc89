// Rounding, halves away from zero.

package program

import (
	"math"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// A rounding decides about a quotient towards zero, of which rest over unit is
// left: whether to go one further from zero. Neither is negative.
type rounding func(rest, unit uint64, negative bool) bool

func nearest(rest, unit uint64, _ bool) bool       { return rest >= unit-rest }
func towardsZero(_, _ uint64, _ bool) bool         { return false }
func awayFromZero(rest, _ uint64, _ bool) bool     { return rest > 0 }
func downwards(rest, _ uint64, negative bool) bool { return negative && rest > 0 }

// rounded brings numbers to the scale of the expression's type; its last argument says to how
// many decimals, or how many digits before the point become zeros.
func rounded(further rounding) func(*formula.Expr) kernel {
	return func(e *formula.Expr) kernel {
		decimals, from := int(e.Args[1].Int), e.Args[0].Type
		tens := table.Pow10(max(0, -decimals)) // what a last digit counts
		if from.Approx {
			return fromFloats(math.Pow10(e.Type.Scale), tens, further)
		}
		unit := uint64(math.MaxUint64) // so large that nothing comes near half of it
		if from.Scale-decimals <= 18 {
			unit = uint64(table.Pow10(from.Scale - decimals))
		}
		return fromInts(unit, tens, further)
	}
}

// fromInts keeps a digit for each unit of exact numbers.
func fromInts(unit uint64, tens int64, further rounding) kernel {
	return func(m *Machine, o vec, v []vec) {
		for i, x := range v[0].ints {
			if x == table.Blank {
				o.ints[i] = x
				continue
			}
			whole, rest := magnitude(x)/unit, magnitude(x)%unit
			if rest > 0 && further(rest, unit, x < 0) {
				whole++
			}
			if whole > math.MaxInt64/uint64(tens) {
				m.fail(formula.TooLarge, i)
				o.ints[i] = table.Blank
				continue
			}
			o.ints[i] = int64(whole) * tens
			if x < 0 {
				o.ints[i] = -o.ints[i]
			}
		}
	}
}

// fromFloats makes approximate numbers exact. What the nearest binary fraction of a
// decimal is off by is not taken for more: 0.285 times 100 counts as 28.5.
func fromFloats(unit float64, tens int64, further rounding) kernel {
	return func(m *Machine, o vec, v []vec) {
		for i, x := range v[0].floats {
			o.ints[i] = table.Blank
			if x != x {
				continue
			}
			scaled := math.Abs(x * unit / float64(tens))
			whole, rest := math.Modf(scaled)
			const parts = 1 << 30
			near := uint64(math.Round(rest * parts))
			if whole += math.Floor(float64(near) / parts); near < parts && near > 0 && further(near, parts, x < 0) {
				whole++
			}
			if whole >= float64(math.MaxInt64/tens) {
				m.fail(formula.TooLarge, i)
				continue
			}
			o.ints[i] = int64(whole) * tens
			if x < 0 {
				o.ints[i] = -o.ints[i]
			}
		}
	}
}
