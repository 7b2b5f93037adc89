// One block of a program at work: its inputs, its scratch memory, its failures.

package program

import (
	"math"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

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

// Machine readies a program. inputs must fit the calculation's Inputs, or its totals; failed has
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

func (m *Machine) fail(r formula.Reason, i int) {
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
func (m *Machine) buffer(id int, t formula.Type) vec {
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

// clear makes a value blank.
func (v vec) clear(i int) {
	switch {
	case v.texts != nil:
		v.texts[i] = ""
	case v.floats != nil:
		v.floats[i] = math.NaN()
	default:
		v.ints[i] = table.Blank
	}
}
