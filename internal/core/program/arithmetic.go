// Addition, subtraction, multiplication and division: exact ones of any scale, and approximate ones.

package program

import (
	"math"
	"math/bits"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

func negate(_ *Machine, out vec, a []vec) {
	for i, v := range a[0].ints {
		out.ints[i] = -v // the blank is its own negative
	}
	for i, v := range a[0].floats {
		out.floats[i] = -v
	}
}

func add(m *Machine, out vec, v []vec) {
	if out.floats == nil {
		addInts(m, out.ints, v[0].ints, v[1].ints)
		return
	}
	for i, x := range v[0].floats {
		out.floats[i] = x + v[1].floats[i]
	}
}

func subtract(m *Machine, out vec, v []vec) {
	if out.floats == nil {
		subtractInts(m, out.ints, v[0].ints, v[1].ints)
		return
	}
	for i, x := range v[0].floats {
		out.floats[i] = x - v[1].floats[i]
	}
}

// addInts adds exact values; out is of their length.
func addInts(m *Machine, out, xs, ys []int64) {
	out, ys = out[:len(xs)], ys[:len(xs)]
	for i, x := range xs {
		y := ys[i]
		s := x + y
		// Two of one sign that give the other have left 64 bits.
		if x != table.Blank && y != table.Blank && (x^s)&(y^s) >= 0 && s != table.Blank {
			out[i] = s
			continue
		}
		if out[i] = table.Blank; x != table.Blank && y != table.Blank {
			m.fail(formula.TooLarge, i)
		}
	}
}

func subtractInts(m *Machine, out, xs, ys []int64) {
	out, ys = out[:len(xs)], ys[:len(xs)]
	for i, x := range xs {
		y := ys[i]
		d := x - y
		if x != table.Blank && y != table.Blank && (x^y)&(x^d) >= 0 && d != table.Blank {
			out[i] = d
			continue
		}
		if out[i] = table.Blank; x != table.Blank && y != table.Blank {
			m.fail(formula.TooLarge, i)
		}
	}
}

// multiplied multiplies two numbers; one that is known beforehand is not fetched.
func multiplied(e *formula.Expr, args []node) kernel {
	if !e.Type.Approx {
		for i, a := range args {
			if k, ok := a.(*constant); ok && k.int != table.Blank {
				other := 1 - i
				by := times(k.int)
				return func(m *Machine, out vec, v []vec) { by(m, out, v[other:]) }
			}
		}
	}
	return func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].floats {
			out.floats[i] = x * v[1].floats[i]
		}
		for i, x := range v[0].ints {
			out.ints[i] = multiply(m, i, x, v[1].ints[i])
		}
	}
}

// times multiplies by one number, whose reach is known beforehand.
func times(factor int64) kernel {
	most := int64(math.MaxInt64)
	if factor != 0 {
		most = int64(math.MaxInt64 / magnitude(factor))
	}
	return func(m *Machine, out vec, a []vec) {
		to := out.ints[:len(a[0].ints)]
		for i, v := range a[0].ints {
			if v <= most && v >= -most {
				to[i] = v * factor
				continue
			}
			if to[i] = table.Blank; v != table.Blank {
				m.fail(formula.TooLarge, i)
			}
		}
	}
}

func multiply(m *Machine, i int, x, y int64) int64 {
	if x == table.Blank || y == table.Blank {
		return table.Blank
	}
	hi, lo := bits.Mul64(magnitude(x), magnitude(y))
	if hi != 0 || lo > math.MaxInt64 {
		m.fail(formula.TooLarge, i)
		return table.Blank
	}
	if (x < 0) != (y < 0) {
		return -int64(lo)
	}
	return int64(lo)
}

func magnitude(v int64) uint64 {
	if v < 0 {
		return -uint64(v)
	}
	return uint64(v)
}

func divide(m *Machine, out vec, v []vec) {
	for i, x := range v[0].floats {
		y := v[1].floats[i]
		if y == 0 && x == x {
			m.fail(formula.DividedByZero, i)
			out.floats[i] = math.NaN()
			continue
		}
		out.floats[i] = x / y
	}
}

// lengthen multiplies a duration by a number, to the microsecond.
func lengthen(m *Machine, out vec, v []vec) {
	for i, x := range v[0].ints {
		stretch(m, i, out, x, v[1].floats[i])
	}
}

// shorten divides a duration by a number.
func shorten(m *Machine, out vec, v []vec) {
	for i, x := range v[0].ints {
		y := v[1].floats[i]
		if y == 0 && x != table.Blank {
			out.ints[i] = table.Blank
			m.fail(formula.DividedByZero, i)
			continue
		}
		stretch(m, i, out, x, 1/y)
	}
}

func stretch(m *Machine, i int, out vec, x int64, by float64) {
	out.ints[i] = table.Blank
	if x == table.Blank || by != by {
		return
	}
	if r := math.Round(float64(x) * by); math.Abs(r) < 1<<62 {
		out.ints[i] = int64(r)
	} else {
		m.fail(formula.TooLarge, i)
	}
}

// approximated reads numbers of a type in binary floating point.
func approximated(t formula.Type) kernel {
	unit := 1.0
	if t.Type != catalog.Duration && !t.Approx {
		unit = math.Pow10(t.Scale)
	}
	if t.Type == catalog.Percent {
		unit *= 100
	}
	return func(_ *Machine, out vec, a []vec) {
		for i, v := range a[0].floats {
			out.floats[i] = v / unit
		}
		for i, v := range a[0].ints {
			out.floats[i] = math.NaN()
			if v != table.Blank {
				out.floats[i] = float64(v) / unit
			}
		}
	}
}
