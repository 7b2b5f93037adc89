package engine

import (
	"cmp"
	"fmt"
	"math/big"
	"slices"

	"pgregory.net/rapid"

	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// totalExpression is a formula of totals beside a reading of it in rationals.
type totalExpression struct {
	text  string
	scale int
	by    string   // the path of its result's currencies, if it is an amount
	mixes []string // arguments whose values are put together, and name their currency
	names string   // the path that they name it by
	eval  func(w *world, rows []int) *big.Rat
}

// totalNames are the totals of formulas whose results are exact.
var totalNames = map[string]view.Fn{
	"SUM": view.Sum, "AVERAGE": view.Average, "MEDIAN": view.Median, "PERCENTILE": view.Percentile,
	"MIN": view.Smallest, "MAX": view.Largest,
	"COUNT": view.CountFilled, "COUNTA": view.CountFilled, "COUNTBLANK": view.Blanks,
	"COUNTDISTINCT": view.Distinct, "MODE": view.Mode,
}

// drawTotals draws a formula of totals over a family of fields. What its totals are taken of
// is added to arguments.
func drawTotals(t *rapid.T, family []string, arguments map[string]expression, depth int) totalExpression {
	kind := rapid.IntRange(0, 6).Draw(t, "total expression")
	if depth == 0 || kind < 2 {
		return drawOneTotal(t, family, arguments)
	}
	a, b := drawTotals(t, family, arguments, depth-1), drawTotals(t, family, arguments, depth-1)
	out := totalExpression{
		scale: max(a.scale, b.scale), by: cmp.Or(a.by, b.by), names: cmp.Or(a.names, b.names),
		mixes: slices.Concat(a.mixes, b.mixes),
	}
	both := func(do func(x, y *big.Rat) *big.Rat) func(w *world, rows []int) *big.Rat {
		return func(w *world, rows []int) *big.Rat {
			x, y := a.eval(w, rows), b.eval(w, rows)
			if x == nil || y == nil {
				return nil
			}
			return fitted(out.scale, do(x, y), x, y)
		}
	}
	switch kind {
	case 2, 3:
		out.text = "(" + a.text + " + " + b.text + ")"
		out.eval = both(func(x, y *big.Rat) *big.Rat { return new(big.Rat).Add(x, y) })
	case 4:
		out.text = "(" + a.text + " - " + b.text + ")"
		out.eval = both(func(x, y *big.Rat) *big.Rat { return new(big.Rat).Sub(x, y) })
	case 5:
		out.text = "IF(COUNT() > 2; " + a.text + "; " + b.text + ")"
		out.eval = func(w *world, rows []int) *big.Rat {
			x := b.eval(w, rows)
			if len(rows) > 2 {
				x = a.eval(w, rows)
			}
			if x == nil {
				return nil
			}
			return fitted(out.scale, x)
		}
	default:
		out.text = "COALESCE(" + a.text + "; " + b.text + ")"
		out.eval = func(w *world, rows []int) *big.Rat {
			for _, e := range []totalExpression{a, b} {
				if x := e.eval(w, rows); x != nil && fitted(out.scale, x) != nil {
					return x
				}
			}
			return nil
		}
	}
	return out
}

func drawOneTotal(t *rapid.T, family []string, arguments map[string]expression) totalExpression {
	if rapid.IntRange(0, 5).Draw(t, "all records") == 0 {
		return totalExpression{
			text: "COUNT()", eval: func(_ *world, rows []int) *big.Rat { return big.NewRat(int64(len(rows)), 1) },
		}
	}
	name := rapid.SampledFrom([]string{
		"SUM", "PERCENTILE", "AVERAGE", "MEDIAN", "MIN", "MAX", "COUNT", "COUNTA", "COUNTBLANK", "COUNTDISTINCT",
	}).Draw(t, "total")
	x := drawExpression(t, family, rapid.IntRange(0, 2).Draw(t, "of"))
	key := fmt.Sprintf("argument%d", len(arguments))
	arguments[key] = x
	f, fn := x.field(), totalNames[name]
	text, percent := x.text, ""
	if name == "PERCENTILE" {
		text, percent = text+"; 0.3", "30"
	}
	out := totalExpression{text: name + "(" + text + ")", scale: fn.Result(f).Scale}
	if fn.Info().Combines && f.CurrencyBy != "" {
		out.by, out.names, out.mixes = f.CurrencyBy, f.CurrencyBy, []string{key}
	}
	out.eval = func(w *world, rows []int) *big.Rat {
		v, of := w.alone(key, view.Total{Fn: fn, Percent: percent}, rows)
		if fn == view.CountFilled { // with its sum: once for each linked record
			n := int64(0)
			for _, v := range w.once(key, rows) {
				if v != nil {
					n++
				}
			}
			v = n
		}
		if v == nil {
			return nil
		}
		return new(big.Rat).SetFrac64(v.(int64), table.Pow10(of.Scale))
	}
	return out
}

// figure is a formula's result for some records: one, or one for each currency.
func (x totalExpression) figure(w *world, rows []int) any {
	value := func(rows []int) any {
		if r := x.eval(w, rows); r != nil {
			return scaledTo(r, x.scale)
		}
		return nil
	}
	if len(x.mixes) == 0 {
		return value(rows)
	}
	coins := w.coins(x.names, rows, x.mixes...)
	switch {
	case len(coins) == 0:
		return value(rows)
	case len(coins) == 1 && x.by != "":
		return oneOf([]coined{{coins[0], value(rows)}})
	case len(coins) == 1:
		return value(rows)
	case x.by == "":
		return nil
	}
	var figures []coined
	for _, coin := range w.coins(x.names, rows) {
		figures = append(figures, coined{coin, value(w.inCoin(x.names, coin, rows))})
	}
	return oneOf(figures)
}
