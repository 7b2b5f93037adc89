// What the nodes of a program have in common, and the simplest of them.

package program

import (
	"cmp"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

// node is a part of a program.
type node interface {
	// eval works the block out. The result is the node's own until its next eval.
	eval(m *Machine) vec
}

// input reads a column.
type input struct {
	t         formula.Type
	id, index int
}

func (n *input) eval(m *Machine) vec {
	switch c := m.inputs[n.index].(type) {
	case *table.Numbers:
		return vec{ints: c.Values[m.lo : m.lo+m.n]}
	case *table.Floats:
		return vec{floats: c.Values[m.lo : m.lo+m.n]}
	case *table.Texts:
		out := m.buffer(n.id, n.t)
		for i, code := range c.Codes[m.lo : m.lo+m.n] {
			out.texts[i] = c.Dict.Value(code)
		}
		return out
	}
	return m.buffer(n.id, n.t)
}

// constant is a value written in the formula.
type constant struct {
	t     formula.Type
	id    int
	int   int64
	float float64
	text  string
}

func (n *constant) eval(m *Machine) vec {
	fresh := m.buffers[n.id].ints == nil && m.buffers[n.id].floats == nil && m.buffers[n.id].texts == nil
	out := m.buffer(n.id, n.t)
	if fresh { // filled once, to the whole length of a block
		whole := m.buffers[n.id]
		for i := range whole.ints {
			whole.ints[i] = n.int
		}
		for i := range whole.floats {
			whole.floats[i] = n.float
		}
		for i := range whole.texts {
			whole.texts[i] = n.text
		}
	}
	return out
}

// kernel works a block out of the values of its arguments.
type kernel func(m *Machine, out vec, args []vec)

// apply runs a function over the values of its arguments, all worked out first.
type apply struct {
	t    formula.Type
	id   int
	args []node
	do   kernel
}

func (n *apply) eval(m *Machine) vec {
	var few [4]vec
	args := few[:0]
	for _, a := range n.args {
		args = append(args, a.eval(m))
	}
	out := m.buffer(n.id, n.t)
	n.do(m, out, args)
	return out
}

// nested runs another program over the values of its arguments.
type nested struct {
	id      int
	program *Program
	args    []node
}

func (n *nested) eval(m *Machine) vec {
	inner := n.program.Machine(make([]table.Column, len(n.args)), m.calendar, m.failed, m.meter)
	for i, a := range n.args {
		v := a.eval(m)
		switch {
		case v.texts != nil:
			dict, codes := table.NewDictBuilder(), make([]uint32, m.n)
			for j, s := range v.texts {
				codes[j] = dict.CodeOf(s)
			}
			inner.inputs[i] = dict.Build(codes)
		case v.floats != nil:
			inner.inputs[i] = table.NewFloats(v.floats)
		default:
			inner.inputs[i] = table.NewNumbers(v.ints)
		}
	}
	inner.n, inner.base, inner.active, inner.block = m.n, m.base+m.lo, m.active, 1
	v := inner.program.root.eval(inner)
	m.made, m.booked = m.made+inner.made, m.booked+inner.booked
	m.err = cmp.Or(m.err, inner.err)
	return v
}

// shared is an expression that several places read: each block works it out once. The
// place that is read first must be that of the most rows, for which it may fail.
type shared struct{ node }

type onceVec struct {
	vec
	block int
}

func (n *shared) eval(m *Machine) vec {
	if m.once == nil {
		m.once = map[*shared]onceVec{}
	}
	if have, ok := m.once[n]; ok && have.block == m.block {
		return have.vec
	}
	v := n.node.eval(m)
	m.once[n] = onceVec{v, m.block}
	return v
}

// choose takes each row's value from the first branch whose condition is yes, or
// from the last. Branches fail only for the rows that take them.
type choose struct {
	t        formula.Type
	id       int
	tests    []node
	branches []node // one more than tests
}

func (n *choose) eval(m *Machine) vec {
	outer := m.active
	defer func() { m.active = outer }()
	left := m.undecided()
	out := m.buffer(n.id, n.t)
	taken := make([]bool, m.n)
	for b, branch := range n.branches {
		if b < len(n.tests) {
			m.active = left
			for i, yes := range n.tests[b].eval(m).ints {
				taken[i] = left[i] && yes == 1
				left[i] = left[i] && !taken[i]
			}
		} else {
			copy(taken, left)
		}
		m.active = taken
		v := branch.eval(m)
		for i, t := range taken {
			if t {
				out.set(i, v)
			}
		}
	}
	return out
}

// undecided marks the rows that are still to be given a value: all that count.
func (m *Machine) undecided() []bool {
	left := make([]bool, m.n)
	for i := range left {
		left[i] = m.active == nil || m.active[i]
	}
	return left
}
