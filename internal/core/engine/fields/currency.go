// The currency of a group while it is looked for.

package fields

import "math"

// Amounts of several currencies are never put together. While the currency of a group is looked
// for, it is a code of the dictionary that names currencies, plus 1, or one of these.
const (
	NoCurrency        uint32 = 0 // there are no amounts
	SeveralCurrencies uint32 = math.MaxUint32
)

// JoinedCurrency is the currency of two groups together.
func JoinedCurrency(a, b uint32) uint32 {
	switch {
	case a == NoCurrency || a == b:
		return b
	case b == NoCurrency:
		return a
	}
	return SeveralCurrencies
}
