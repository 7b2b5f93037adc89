// Values in percent of others, in hundredths.

package kernel

import "math"

// hundredths of a percent, as shares and changes are kept.
const hundredths = 100 * 100

// PercentOf is a in percent of b, rounded to hundredths, halves away from zero; math.MinInt64 if
// there is none, as of nothing.
func PercentOf(a, b Int128) int64 {
	if b.Negative() {
		a, b = a.Negated(), b.Negated()
	}
	n, ok := b.Narrow()
	if !ok || n == 0 {
		return math.MinInt64
	}
	if p, ok := a.Ratio(n, hundredths); ok {
		return p
	}
	return math.MinInt64
}

// PercentOfFloat is PercentOf for approximate values.
func PercentOfFloat(x, y float64) int64 {
	if r := math.Round(x / y * hundredths); y != 0 && math.Abs(r) < math.MaxInt64 {
		return int64(r)
	}
	return math.MinInt64
}
