// Package program compiles checked formulas to column programs, and runs them block by block
// over typed slices.
//
// A program works all rows of a block out before the next operator begins, so its inner loops
// run over plain slices; a row that fails is marked with its reason and becomes a blank.
package program

import (
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
)

// blockRows is how many rows a program works on at a time: a few vectors of it
// fit a core's nearest cache. It is a multiple of 64, so that two blocks never
// share a word of a bitmap.
const blockRows = 2048

// Program is a compiled calculation. It is immutable.
type Program struct {
	Type  formula.Type
	root  node
	nodes int // node numbers run below it
}

// BlockBytes is about what a machine holds while it works on a block, beside the texts
// that it makes.
func (p *Program) BlockBytes() int64 { return int64(p.nodes) * blockRows * 8 }

// Failures marks the rows that failed, one bit each, by reason. The slices of
// reasons that never occurred are nil.
type Failures struct{ Rows [formula.Reasons][]uint64 }

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
