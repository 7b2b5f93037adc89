package reading

import (
	"math"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// numberWays read what is kept as a number, a moment or a duration.
var numberWays = []Way{
	asItIs([]catalog.Type{catalog.Whole}, []catalog.Type{catalog.Decimal, catalog.Money}, "", "as it is"),
	asItIs([]catalog.Type{catalog.Decimal}, []catalog.Type{catalog.Money}, "", "as it is"),
	asItIs([]catalog.Type{catalog.Money, catalog.Percent}, []catalog.Type{catalog.Decimal}, "", "as it is"),
	asItIs([]catalog.Type{catalog.Whole, catalog.Decimal}, []catalog.Type{catalog.Percent}, "percent", "12.5 means 12.5 %"),
	shifted([]catalog.Type{catalog.Decimal}, []catalog.Type{catalog.Percent}, -2, "share", "0.125 means 12.5 %"),
	shifted([]catalog.Type{catalog.Whole}, []catalog.Type{catalog.Money}, 2, "cents", "1250 means 12.50"),
	{
		Key: "whole", Words: "what has no decimals", from: numbers, to: []catalog.Type{catalog.Whole},
		number: func(v Exact, _ Setting) (Exact, bool) { return v.At(0) },
	},
	counts("minutes", calendar.Minute), counts("seconds", calendar.Second), counts("hours", calendar.Hour),
	counts("days", calendar.DayLen), counts("milliseconds", calendar.Second/1000),
	since1970("seconds", calendar.Second), since1970("milliseconds", calendar.Second/1000),
	{
		Key: "yearmonthday", Words: "20261123 means 23 Nov 2026", from: []catalog.Type{catalog.Whole},
		to: []catalog.Type{catalog.Date}, number: func(v Exact, _ Setting) (Exact, bool) { return dayOfDigits(v.Value) },
	},
	{
		Key: "01", Words: "1 means yes, 0 no", from: []catalog.Type{catalog.Whole}, to: []catalog.Type{catalog.YesNo},
		number: func(v Exact, _ Setting) (Exact, bool) { return v, v.Value == 0 || v.Value == 1 },
	},
	{
		Key: "digits", Words: "a number that is only a name, as 4711", from: []catalog.Type{catalog.Whole},
		to: []catalog.Type{catalog.Text}, spelled: true,
	},
	{
		Key: "day", Words: "its day", from: []catalog.Type{catalog.DateTime}, to: []catalog.Type{catalog.Date},
		number: func(v Exact, in Setting) (Exact, bool) {
			return Exact{Value: calendar.FloorDay(in.clock.Local(v.Value))}, true
		},
	},
}

func asItIs(from, to []catalog.Type, key, words string) Way { return shifted(from, to, 0, key, words) }

// shifted moves the point of a number to the left by some digits.
func shifted(from, to []catalog.Type, left int, key, words string) Way {
	factor := math.Pow(10, float64(-left))
	return Way{
		Key: key, Words: words, from: from, to: to,
		number: func(v Exact, _ Setting) (Exact, bool) {
			v.Scale += left
			if v.Scale < 0 {
				return v.At(0)
			}
			return v, true
		},
		approx: func(x float64) float64 { return x * factor },
	}
}

// counts reads numbers that count a unit of time.
func counts(unit string, length calendar.Micros) Way {
	return Way{
		Key: unit, Words: "in " + unit, from: []catalog.Type{catalog.Whole, catalog.Decimal},
		to: []catalog.Type{catalog.Duration},
		number: func(v Exact, _ Setting) (Exact, bool) {
			// What a microsecond cannot hold is rounded half away from zero.
			product, fits := times(v.Value, length)
			if !fits {
				return v, false
			}
			part := table.Pow10(v.Scale)
			quotient, rest := product/part, product%part
			switch {
			case 2*rest >= part && part > 1:
				quotient++
			case 2*rest <= -part && part > 1:
				quotient--
			}
			return Exact{Value: quotient}, true
		},
	}
}

// since1970 reads numbers that count from the first moment of 1970 in UTC on.
func since1970(unit string, length calendar.Micros) Way {
	return Way{
		Key: unit, Words: unit + " since 1970", from: []catalog.Type{catalog.Whole},
		to: []catalog.Type{catalog.DateTime},
		number: func(v Exact, _ Setting) (Exact, bool) {
			product, fits := times(v.Value, length)
			return Exact{Value: product}, fits && product >= earliest && product <= latest
		},
	}
}

// Moments that a calendar of four digits can write.
var (
	earliest = calendar.FromDate(1, 1, 1) * calendar.DayLen
	latest   = calendar.FromDate(9999, 12, 31) * calendar.DayLen
)

func dayOfDigits(v int64) (Exact, bool) {
	y, m, d := int(v/10000), int(v/100%100), int(v%100)
	return day(y, m, d)
}

// At is the number at another scale; ok is false if digits would be lost or it does not fit.
func (e Exact) At(scale int) (out Exact, ok bool) {
	out = Exact{e.Value, scale}
	if scale < e.Scale {
		part := table.Pow10(e.Scale - scale)
		out.Value = e.Value / part
		return out, e.Value%part == 0
	}
	out.Value, ok = times(e.Value, table.Pow10(scale-e.Scale))
	return out, ok
}

// times multiplies; ok is false if the product does not fit. The least of all numbers means a
// blank and is no product.
func times(a, b int64) (product int64, ok bool) {
	product = a * b
	if a == 0 || b == 0 {
		return 0, true
	}
	return product, product/b == a && product != math.MinInt64 && !(a == -1 && b == math.MinInt64)
}
