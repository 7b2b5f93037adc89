// Totals as typed cells.

package aggregation

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
)

// Cell is a node's figure. field is what it is shown as.
func (f *Aggregates) Cell(i int32, field catalog.Field) cell.Cell {
	if parts := f.Mixed[i]; len(parts) > 0 {
		amounts := make([]cell.Amount, len(parts))
		for j, a := range parts {
			amounts[j] = cell.Amount{Currency: a.Currency, Value: a.cell(f.Floats != nil, field)}
		}
		return cell.Cell{Kind: cell.Several, More: &cell.More{Amounts: amounts}}
	}
	if f.IsBlank(i) {
		return cell.Cell{}
	}
	var out cell.Cell
	more := cell.More{Currency: f.CurrencyOf(i)}
	if f.Codes != nil {
		out = cell.OfText(f.Dict.Value(f.Codes[i]), field)
	} else {
		out = f.Amount(i, more.Currency).cell(f.Floats != nil, field)
	}
	if f.Times != nil {
		more.Times = f.Times[i]
	}
	if more.Currency != "" || more.Times > 0 {
		out.More = &more
	}
	return out
}

// cell is the amount as it is stored.
func (a Amount) cell(approx bool, f catalog.Field) cell.Cell {
	if approx {
		return cell.OfFloat(a.Float)
	}
	return cell.OfInt(a.Number, f)
}

// Float is a node's figure as it is stored, NaN for a blank.
func (f *Aggregates) Float(n int32) float64 {
	exact, approx, blank := f.Value(n)
	switch {
	case blank:
		return math.NaN()
	case f.Floats != nil:
		return approx
	}
	return float64(exact)
}
