// COALESCE and ISBLANK, which take a failure as a blank.

package program

import (
	"math"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// What fails on the way makes the whole result fail, unless COALESCE or ISBLANK asks
// whether there is a value: they take a failure as the blank that it is.

// caught works a part of a program out with failures of its own for the block: nil, if no
// row failed.
func (m *Machine) caught(n node) (v vec, failed *Failures) {
	outer, base := m.failed, m.base
	m.failed, m.base = NewFailures(m.n), -m.lo
	defer func() { m.failed, m.base = outer, base }()
	v = n.eval(m)
	if !m.failed.any() {
		return v, nil
	}
	return v, m.failed
}

// any says whether any row failed.
func (f *Failures) any() bool {
	for _, rows := range f.Rows {
		for _, word := range rows {
			if word != 0 {
				return true
			}
		}
	}
	return false
}

// reason is why a row failed; ok is false if it did not, as where there are no failures.
func (f *Failures) reason(row int) (r formula.Reason, ok bool) {
	if f == nil {
		return 0, false
	}
	for r, rows := range f.Rows {
		if rows[row/64]>>(row%64)&1 == 1 {
			return formula.Reason(r), true
		}
	}
	return 0, false
}

// coalesce takes each row's first value that is there. A row that has none fails if one of
// them could have been worked out but failed.
type coalesce struct {
	t    formula.Type
	id   int
	args []node
}

func (n *coalesce) eval(m *Machine) vec {
	outer := m.active
	defer func() { m.active = outer }()
	left := m.undecided()
	out := m.buffer(n.id, n.t)
	for i := range m.n {
		out.clear(i)
	}
	why := make([]formula.Reason, m.n)
	for i := range why {
		why[i] = formula.Reason(formula.Reasons)
	}
	for _, arg := range n.args {
		m.active = left
		v, failed := m.caught(arg)
		for i := range left {
			if !left[i] {
				continue
			}
			if r, ok := failed.reason(i); ok {
				why[i] = r
			} else if !v.blank(i) {
				out.set(i, v)
				left[i] = false
			}
		}
	}
	m.active = outer
	for i, r := range why {
		if left[i] && r < formula.Reason(formula.Reasons) {
			m.fail(r, i)
		}
	}
	return out
}

// yesNo is the type of an answer.
var yesNo = formula.Type{Type: catalog.YesNo}

// isBlank asks whether a value is missing.
type isBlank struct {
	id  int
	arg node
}

func (n *isBlank) eval(m *Machine) vec {
	v, failed := m.caught(n.arg)
	out := m.buffer(n.id, yesNo)
	for i := range out.ints {
		out.ints[i] = 0
		if _, failed := failed.reason(i); failed || v.blank(i) {
			out.ints[i] = 1
		}
	}
	return out
}

// takeBack makes the rows of the block at hand blank that failed: what was made of a failure
// is no result.
func (m *Machine) takeBack(out Values) {
	for _, rows := range m.failed.Rows {
		for row := m.base + m.lo; row < m.base+m.lo+m.n; row += 64 {
			if rows[row/64] == 0 {
				continue
			}
			for i := row; i < min(row+64, m.base+m.lo+m.n); i++ {
				if rows[i/64]>>(i%64)&1 == 0 {
					continue
				}
				switch {
				case out.Texts != nil:
					out.Texts[i-m.base] = ""
				case out.Floats != nil:
					out.Floats[i-m.base] = math.NaN()
				default:
					out.Ints[i-m.base] = table.Blank
				}
			}
		}
	}
}
