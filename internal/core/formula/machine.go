package formula

import (
	"cmp"
	"fmt"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// blockRows is how many rows a program works on at a time: a few vectors of it
// fit a core's nearest cache. It is a multiple of 64, so that two blocks never
// share a word of a bitmap.
const blockRows = 2048

// Program is a compiled expression.
type Program struct {
	// Inputs are the fields read, one value for each record. A program over totals
	// has none; its columns are the totals, in their order.
	Inputs []catalog.Ref
	Type   Type
	// UsesToday says that the values depend on the day, UsesNow on the moment.
	UsesToday, UsesNow bool
	// Least is how many characters its values have at least, if they are texts.
	Least int

	root  node
	nodes int // node numbers run below it
}

// BlockBytes is about what a machine holds while it works on a block, beside the texts
// that it makes.
func (p *Program) BlockBytes() int64 { return int64(p.nodes) * blockRows * 8 }

// Reason is why a row failed.
type Reason int

// The reasons. A row that fails is blank.
const (
	DividedByZero Reason = iota
	TooLarge             // the exact value does not fit in 64 bits
	NoSuchNumber         // the root of a negative number, the logarithm of zero
	NoSuchDate
	NoSuchPlace     // a position before the first character
	TooLong         // a text of more than MaxText characters
	Reasons     int = iota
)

// Words says a reason after "because".
func (r Reason) Words() string {
	return [...]string{
		"they divide by zero", "the result is too large", "there is no such number", "there is no such date",
		"there is no such place in the text",
		fmt.Sprintf("the text would have more than %d characters", MaxText),
	}[r]
}

// Failures marks the rows that failed, one bit each, by reason. The slices of
// reasons that never occurred are nil.
type Failures struct{ Rows [Reasons][]uint64 }

// NewFailures has room for n rows.
func NewFailures(n int) *Failures {
	f := &Failures{}
	for r := range f.Rows {
		f.Rows[r] = make([]uint64, (n+63)/64)
	}
	return f
}

// Values are a column in the making; the kind of the program's type is filled.
type Values struct {
	Ints   []int64
	Floats []float64
	Texts  []string
}

// Make returns room for n values of a program's type.
func (p *Program) Make(n int) Values {
	switch {
	case p.Type.Type == catalog.Text:
		return Values{Texts: make([]string, n)}
	case p.Type.Approx:
		return Values{Floats: make([]float64, n)}
	}
	return Values{Ints: make([]int64, n)}
}

// Meter counts the bytes of the texts that machines make, as they make them. Any
// goroutine may call Use.
type Meter interface {
	// Use takes bytes, gives them back if they are negative, or, of none, is only asked
	// whether the work may go on. After an error the machine stops.
	Use(bytes int64) error
}

// free is the meter of work that is bounded otherwise.
type free struct{}

func (free) Use(int64) error { return nil }

// Machine runs a program over columns. It belongs to one goroutine.
type Machine struct {
	program *Program
	inputs  []table.Column
	// calendar is the setting that dates are read and written in.
	calendar calendar.Calendar
	clock    *calendar.Clock
	failed   *Failures
	lo, n    int   // the rows of the block at hand
	base     int   // what stands before row 0 in failed
	buffers  []vec // by node number
	// active marks the rows of the block that count; nil means all. A row that a
	// condition sends the other way does not fail for what it never asked.
	active []bool
	// block tells the blocks apart, for what is worked out once in each.
	block int
	once  map[*shared]onceVec
	texts
}

// Machine readies a program. inputs must fit its Inputs, or its totals; failed has
// room for as many rows. Without a meter, only the length of single texts is bounded.
func (p *Program) Machine(
	inputs []table.Column, cal calendar.Calendar, failed *Failures, meter Meter,
) *Machine {
	if meter == nil {
		meter = free{}
	}
	return &Machine{
		program: p, inputs: inputs, calendar: cal, clock: cal.Clock(), failed: failed,
		buffers: make([]vec, p.nodes), texts: texts{meter: meter},
	}
}

// Run works out rows lo to hi into out. lo is a multiple of 64. The error is the
// meter's; out is not whole then. The texts in out stay booked.
func (m *Machine) Run(out Values, lo, hi int) error {
	for ; lo < hi; lo += blockRows {
		m.lo, m.n = lo, min(blockRows, hi-lo)
		m.block++
		v := m.program.root.eval(m)
		if err := m.settle(v.texts); err != nil {
			return err
		}
		switch {
		case out.Texts != nil:
			copy(out.Texts[lo:], v.texts[:m.n])
		case out.Floats != nil:
			copy(out.Floats[lo:], v.floats[:m.n])
		default:
			copy(out.Ints[lo:], v.ints[:m.n])
		}
		m.takeBack(out)
	}
	return nil
}

func (m *Machine) fail(r Reason, i int) {
	if m.active == nil || m.active[i] {
		row := m.base + m.lo + i
		m.failed.Rows[r][row/64] |= 1 << (row % 64)
	}
}

// vec is the values of a block: ints with table.Blank for a blank, floats with
// NaN, or texts with "".
type vec struct {
	ints   []int64
	floats []float64
	texts  []string
}

// buffer is a node's own vector, of the length of the block.
func (m *Machine) buffer(id int, t Type) vec {
	b := &m.buffers[id]
	switch {
	case t.Type == catalog.Text:
		if b.texts == nil {
			b.texts = make([]string, blockRows)
		}
		return vec{texts: b.texts[:m.n]}
	case t.Approx:
		if b.floats == nil {
			b.floats = make([]float64, blockRows)
		}
		return vec{floats: b.floats[:m.n]}
	}
	if b.ints == nil {
		b.ints = make([]int64, blockRows)
	}
	return vec{ints: b.ints[:m.n]}
}

// node is a part of a program.
type node interface {
	typ() Type
	// eval works the block out. The result is the node's own until its next eval.
	eval(m *Machine) vec
}

// input reads a column.
type input struct {
	t         Type
	id, index int
	least     int // characters of a text, at least
}

func (n *input) typ() Type { return n.t }

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
	t     Type
	id    int
	int   int64
	float float64
	text  string
}

func (n *constant) typ() Type { return n.t }

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

// apply runs a function over the values of its arguments, all worked out first.
type apply struct {
	t    Type
	id   int
	args []node
	do   func(m *Machine, out vec, args []vec)
	// least is how many characters a text has at least.
	least int
}

func (n *apply) typ() Type { return n.t }

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

func (n *nested) typ() Type { return n.program.Type }

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
	t        Type
	id       int
	tests    []node
	branches []node // one more than tests
}

func (n *choose) typ() Type { return n.t }

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

// set copies one value from another vector of the same kind.
func (v vec) set(i int, from vec) {
	switch {
	case v.texts != nil:
		v.texts[i] = from.texts[i]
	case v.floats != nil:
		v.floats[i] = from.floats[i]
	default:
		v.ints[i] = from.ints[i]
	}
}

// blank says whether a value is.
func (v vec) blank(i int) bool {
	switch {
	case v.texts != nil:
		return v.texts[i] == ""
	case v.floats != nil:
		return v.floats[i] != v.floats[i]
	}
	return v.ints[i] == table.Blank
}
