package formula

import (
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// Present makes a formula's result what its author wants: a percentage of a ratio, an
// amount in a currency, a number of so many decimals. Decimals round each result,
// halves away from zero, so that what is shown is what is added up.
func (f *Formula) Present(as view.Unit, currency string, decimals *int) error {
	e := f.Calculation.Expr
	if as == "" && decimals == nil {
		return nil
	}
	if !e.Type.plainNumber() {
		return fmt.Errorf("the result is %s; only a number has a unit and decimals", e.Type.Word())
	}
	if decimals != nil && (*decimals < 0 || *decimals > 9) {
		return fmt.Errorf("%w: %d decimals cannot be kept; choose from 0 to 9", ErrDecimals, *decimals)
	}
	root := unpercented(e)
	t := root.Type
	switch as {
	case view.AsPercent:
		// 0.125 is 12.5 %.
		c := &checker{}
		times := c.product(&tree{text: "*"}, root, whole(100))
		if times == nil {
			return c.errors[0]
		}
		root = retyped(times, Type{
			Type: catalog.Percent, Scale: times.Type.Scale, Approx: times.Type.Approx, CurrencyBy: t.CurrencyBy,
		})
	case view.AsMoney:
		money := Type{Type: catalog.Money, Scale: t.Scale, Approx: t.Approx, Currency: currency}
		if currency == "" { // the author who names one has converted to it
			money.CurrencyBy = t.CurrencyBy
		}
		root = retyped(root, money)
	case view.AsNumber:
		kind := catalog.Decimal
		if t.Type == catalog.Whole {
			kind = catalog.Whole
		}
		root = retyped(root, Type{Type: kind, Scale: t.Scale, Approx: t.Approx, CurrencyBy: t.CurrencyBy})
	case "":
		root = e
	default:
		return fmt.Errorf("%q is no unit; use number, money or percent", as)
	}
	if decimals != nil {
		root = rounded(Round, root, *decimals)
	}
	f.Calculation.Expr = root
	return nil
}
