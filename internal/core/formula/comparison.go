package formula

import (
	"cmp"
	"strings"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
)

// written turns any value into text, as people read it.
func (c *checker) written(n node) node {
	t := n.typ()
	if t.Type == catalog.Text {
		return n
	}
	f := t.Field("", "")
	return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, a []vec) {
		w := format.NewWriter(format.People, m.calendar)
		for i, v := range a[0].ints {
			out.texts[i] = m.text(i, w.Number(v, f))
		}
		for i, v := range a[0].floats {
			out.texts[i] = m.text(i, w.Float(v, f))
		}
	}}
}

// join puts texts together; a blank adds nothing.
func (c *checker) join(t *tree, args []node) (node, error) {
	texts, least := make([]node, len(args)), 0
	for i, a := range args {
		texts[i] = c.written(a)
		least += leastText(texts[i])
	}
	if least > MaxText {
		return nil, fault(t, "this text would have at least %d characters; a text has %d at most", least, MaxText)
	}
	return &apply{t: Type{Type: catalog.Text}, id: c.id(), args: texts, least: least, do: func(m *Machine, out vec, a []vec) {
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
	}}, nil
}

// compare decides =, <>, <, <=, > and >=. A blank on either side gives a blank.
// Texts compare without regard to case and accents, as filters do.
func (c *checker) compare(t *tree, a, b node) (node, error) {
	x, y := a.typ(), b.typ()
	switch {
	case x.plainNumber() && y.plainNumber():
		var err error
		if a, b, _, err = c.alike(t, a, b); err != nil {
			return nil, err
		}
	case x.Type != y.Type && x.Type.Temporal() && y.Type.Temporal():
		a, b = c.days(a), c.days(b)
	case x.Type != y.Type:
		return nil, fault(t, "%s cannot be compared with %s", x.Word(), y.Word())
	}
	holds := map[string]func(c int) bool{
		"=": func(c int) bool { return c == 0 }, "<>": func(c int) bool { return c != 0 },
		"<": func(c int) bool { return c < 0 }, "<=": func(c int) bool { return c <= 0 },
		">": func(c int) bool { return c > 0 }, ">=": func(c int) bool { return c >= 0 },
	}[t.text]
	return &apply{t: Type{Type: catalog.YesNo}, id: c.id(), args: []node{a, b}, do: func(m *Machine, out vec, v []vec) {
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
	}}, nil
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

// trimmed is a text without spaces at its ends and with single ones within.
func trimmed(s string) string { return strings.Join(strings.Fields(s), " ") }
