// Comparisons, and membership of lists.

package program

import (
	"cmp"
	"strings"

	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// written writes values of a type as people read them.
func written(t formula.Type) kernel {
	f := t.Field("", "")
	return func(m *Machine, out vec, a []vec) {
		w := format.NewWriter(format.People, m.calendar)
		for i, v := range a[0].ints {
			out.texts[i] = m.text(i, w.Number(v, f))
		}
		for i, v := range a[0].floats {
			out.texts[i] = m.text(i, w.Float(v, f))
		}
	}
}

// join puts texts together; a blank adds nothing.
func join(m *Machine, out vec, a []vec) {
	var together strings.Builder
	for i := range out.texts {
		out.texts[i] = ""
		bytes := 0
		for _, v := range a {
			bytes += len(v.texts[i])
		}
		if m.halted() || bytes == 0 || !m.fits(i, bytes) {
			continue
		}
		together.Reset()
		together.Grow(bytes)
		for _, v := range a {
			together.WriteString(v.texts[i])
		}
		out.texts[i] = m.text(i, together.String())
	}
}

// comparison decides by how two values follow each other. A blank on either side gives a
// blank. Texts compare without regard to case and accents, as filters do.
func comparison(holds func(c int) bool) func(*formula.Expr, []node) kernel {
	compare := func(m *Machine, out vec, v []vec) {
		for i := range out.ints {
			if v[0].texts != nil {
				m.look(int64(len(v[0].texts[i]) + len(v[1].texts[i])))
				if m.halted() {
					return
				}
			}
			out.ints[i] = table.Blank
			if !v[0].blank(i) && !v[1].blank(i) && holds(v[0].order(i, v[1])) {
				out.ints[i] = 1
			} else if !v[0].blank(i) && !v[1].blank(i) {
				out.ints[i] = 0
			}
		}
	}
	return func(*formula.Expr, []node) kernel { return compare }
}

// order compares a value with another vector's, neither being blank.
func (v vec) order(i int, o vec) int {
	switch {
	case v.texts != nil:
		if v.texts[i] == o.texts[i] {
			return 0
		}
		return table.CompareNatural(table.Fold(v.texts[i]), table.Fold(o.texts[i]))
	case v.floats != nil:
		return cmp.Compare(v.floats[i], o.floats[i])
	}
	return cmp.Compare(v.ints[i], o.ints[i])
}
