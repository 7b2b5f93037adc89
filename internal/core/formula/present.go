package formula

import (
	"errors"
	"fmt"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/view"
)

// ErrDecimals says that a result cannot have so many decimals.
var ErrDecimals = errors.New("the number of decimals")

// Present makes a formula's result what its author wants: a percentage of a ratio, an
// amount in a currency, a number of so many decimals. Decimals round each result,
// halves away from zero, so that what is shown is what is added up.
func (f *Formula) Present(as view.Unit, currency string, decimals *int) error {
	p := f.Program
	if as == "" && decimals == nil {
		return nil
	}
	if !p.Type.plainNumber() {
		return fmt.Errorf("the result is %s; only a number has a unit and decimals", p.Type.Word())
	}
	if decimals != nil && (*decimals < 0 || *decimals > 9) {
		return fmt.Errorf("%w: %d decimals cannot be kept; choose from 0 to 9", ErrDecimals, *decimals)
	}
	c := &checker{building: p}
	root := c.unpercented(p.root)
	t := root.typ()
	switch as {
	case view.AsPercent:
		// 0.125 is 12.5 %.
		hundred := &constant{t: wholeType, id: c.id(), int: 100}
		times, err := c.product(&tree{text: "*"}, root, hundred)
		if err != nil {
			return err
		}
		t = times.typ()
		root = &retyped{times, Type{Type: catalog.Percent, Scale: t.Scale, Approx: t.Approx, CurrencyBy: t.CurrencyBy}}
	case view.AsMoney:
		money := Type{Type: catalog.Money, Scale: t.Scale, Approx: t.Approx, Currency: currency}
		if currency == "" { // the author who names one has converted to it
			money.CurrencyBy = t.CurrencyBy
		}
		root = &retyped{root, money}
	case view.AsNumber:
		kind := catalog.Decimal
		if t.Type == catalog.Whole {
			kind = catalog.Whole
		}
		root = &retyped{root, Type{Type: kind, Scale: t.Scale, Approx: t.Approx, CurrencyBy: t.CurrencyBy}}
	case "":
		root = p.root
	default:
		return fmt.Errorf("%q is no unit; use number, money or percent", as)
	}
	if decimals != nil {
		root = c.rounded(root, *decimals, nearest)
	}
	p.root, p.Type = root, root.typ()
	return nil
}
