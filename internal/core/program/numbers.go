// The functions of numbers.

package program

import (
	"cmp"
	"math"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

var numberFunctions = map[formula.Op]func(e *formula.Expr) kernel{
	"ABS": fixed(absolute),
	"SIGN": rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) {
		// One of the two is zero.
		return cell{int: int64(cmp.Compare(a[0].int, 0) + cmp.Compare(a[0].float, 0))}, true
	}),
	formula.Floored:   rounded(downwards),
	formula.Round:     rounded(nearest),
	formula.RoundUp:   rounded(awayFromZero),
	formula.RoundDown: rounded(towardsZero),
	"CEILING":         step(1),
	"FLOOR":           step(0),
	"MOD":             fixed(modulo),
	"POWER":           floating(func(v []float64) float64 { return math.Pow(v[0], v[1]) }),
	"SQRT":            floating(func(v []float64) float64 { return math.Sqrt(v[0]) }),
	"EXP":             floating(func(v []float64) float64 { return math.Exp(v[0]) }),
	"LN":              floating(func(v []float64) float64 { return math.Log(v[0]) }),
	"LOG":             floating(logarithm),
	"LOG10":           floating(logarithm),
	"MIN":             extreme(-1),
	"MAX":             extreme(1),
	formula.Lengthen:  fixed(lengthen),
	formula.Shorten:   fixed(shorten),
}

// logarithm is exact for powers of 2 and of 10.
func logarithm(v []float64) float64 {
	switch {
	case len(v) == 1 || v[1] == 10:
		return math.Log10(v[0])
	case v[1] == 2:
		return math.Log2(v[0])
	}
	return math.Log(v[0]) / math.Log(v[1])
}

// floating applies a function of floating-point numbers; a result that is none fails.
func floating(do func([]float64) float64) func(*formula.Expr) kernel {
	return fixed(func(m *Machine, out vec, v []vec) {
		row := make([]float64, len(v))
		for i := range out.floats {
			blank := false
			for j := range v {
				row[j] = v[j].floats[i]
				blank = blank || row[j] != row[j]
			}
			out.floats[i] = math.NaN()
			if blank {
				continue
			}
			if r := do(row); !math.IsNaN(r) && !math.IsInf(r, 0) {
				out.floats[i] = r
			} else {
				m.fail(formula.NoSuchNumber, i)
			}
		}
	})
}

// step finds multiples: the one not above a number, and so many further.
func step(further int64) func(*formula.Expr) kernel {
	return func(e *formula.Expr) kernel {
		if e.Type.Approx {
			return rows(func(m *Machine, i int, v []cell) (cell, bool) {
				step := math.Abs(v[1].float)
				if step == 0 {
					m.fail(formula.DividedByZero, i)
					return cell{}, false
				}
				n := v[0].float / step
				if further == 0 {
					return cell{float: math.Floor(n) * step}, true
				}
				return cell{float: math.Ceil(n) * step}, true
			})
		}
		return rows(func(m *Machine, i int, v []cell) (cell, bool) {
			step := v[1].int
			if step < 0 {
				step = -step
			}
			if step == 0 {
				m.fail(formula.DividedByZero, i)
				return cell{}, false
			}
			rest := v[0].int % step
			if rest < 0 {
				rest += step
			}
			if rest == 0 {
				return v[0], true
			}
			out := v[0].int - rest + further*step
			if (further == 0) == (out > v[0].int) || out == table.Blank { // it went round
				m.fail(formula.TooLarge, i)
				return cell{}, false
			}
			return cell{int: out}, true
		})
	}
}

func absolute(_ *Machine, out vec, v []vec) {
	for i, x := range v[0].floats {
		out.floats[i] = math.Abs(x)
	}
	for i, x := range v[0].ints {
		out.ints[i] = x
		if x < 0 && x != table.Blank {
			out.ints[i] = -x
		}
	}
}

func modulo(m *Machine, out vec, v []vec) {
	for i, x := range v[0].floats {
		y := v[1].floats[i]
		out.floats[i] = x - y*math.Floor(x/y)
		if y == 0 && x == x {
			m.fail(formula.DividedByZero, i)
			out.floats[i] = math.NaN()
		}
	}
	for i, x := range v[0].ints {
		y := v[1].ints[i]
		out.ints[i] = table.Blank
		switch {
		case x == table.Blank || y == table.Blank:
		case y == 0:
			m.fail(formula.DividedByZero, i)
		default:
			r := x % y
			if r != 0 && (r < 0) != (y < 0) {
				r += y
			}
			out.ints[i] = r
		}
	}
}

// extreme takes the smallest (-1) or largest (1) of the values that are not blank.
func extreme(end int) func(*formula.Expr) kernel {
	return fixed(func(m *Machine, out vec, v []vec) {
		for i := range m.n {
			out.set(i, v[0])
			for _, o := range v[1:] {
				if !o.blank(i) && (out.blank(i) || o.order(i, out) == end) {
					out.set(i, o)
				}
			}
		}
	})
}
