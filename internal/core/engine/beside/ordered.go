// What goes by an order: the record before, the running total, the first and the last of each group.

package beside

import (
	"fmt"
	"math"
	"math/bits"

	"gavrik/internal/core/engine/fields"
	"gavrik/internal/core/engine/ordering"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

func bitsOf(n int) int { return bits.Len(uint(n)) }

// line is the records in the order of their groups and, within each, in that asked for.
type line struct {
	*compared
	// places are the positions of the records, in order.
	places []int32
	tied   []uint64
}

// ordered works out what goes by the order of the records of each group.
func (c *compared) ordered() (fields.Derived, error) {
	l, err := c.inOrder()
	if err != nil {
		return fields.Derived{}, err
	}
	var col table.Column
	switch c.beside.Take {
	case view.Position:
		col, err = l.positions()
	case view.Previous:
		col, err = l.beside(-1)
	case view.Next:
		col, err = l.beside(1)
	case view.PreviousChange, view.SincePrevious:
		col, err = l.changes()
	case view.RunningTotal:
		col, err = l.running()
	case view.FirstOfEach:
		col, err = l.ends(false)
	case view.LastOfEach:
		col, err = l.ends(true)
	default:
		err = fmt.Errorf("beside: nothing is known of taking %q", c.beside.Take)
	}
	return fields.Derived{Column: col, Failed: c.failed, Tied: l.tied}, err
}

func (c *compared) inOrder() (*line, error) {
	keys, err := ordering.Keys(c.fields, c.beside.By, c.rows)
	if err != nil {
		return nil, err
	}
	place := make([]uint32, c.groups)
	for i := range place {
		place[i] = uint32(i)
	}
	if err := c.job.Need(24*int64(c.rows.N), c.step); err != nil {
		return nil, err
	}
	all := append([]ordering.Key{&ordering.ByPlace{Leaf: c.leaf, Place: place}}, keys...)
	l := &line{compared: c}
	sorter := ordering.NewSorter(c.rows, all, c.job.Workers)
	if l.places, err = sorter.Places(c.job.Ctx, 0, c.rows.N); err != nil {
		return nil, err
	}
	tied := false
	l.tied = make([]uint64, (c.fields.Rows+63)/64)
	for i := 1; i < len(l.places); i++ {
		a, b := l.places[i-1], l.places[i]
		if c.leaf[a] == c.leaf[b] && ordering.Equal(keys, a, b) {
			tied = true
			for _, at := range []int32{a, b} {
				row := c.rows.At(int(at))
				l.tied[row/64] |= 1 << (row % 64)
			}
		}
	}
	if !tied {
		l.tied = nil
	}
	return l, c.job.Stopped()
}

// row is the record at a place.
func (l *line) row(i int) int32 { return l.rows.At(int(l.places[i])) }

// starts says whether a group starts at a place.
func (l *line) starts(i int) bool { return i == 0 || l.leaf[l.places[i-1]] != l.leaf[l.places[i]] }

// walk calls do for every place, with whether a group starts there. Records of groups of several
// currencies are passed over, and fail.
func (l *line) walk(do func(i int, row int32, starts bool)) error {
	for i := range l.places {
		if i%kernel.BlockRows == 0 && l.job.IsStopped() {
			return l.job.Stopped()
		}
		row := l.row(i)
		if l.several != nil && l.several[l.leaf[l.places[i]]] {
			l.fail(row, formula.SeveralCurrencies)
			continue
		}
		do(i, row, l.starts(i))
	}
	return nil
}

func (l *line) positions() (table.Column, error) {
	out, n := l.blanks(), int64(0)
	err := l.walk(func(_ int, row int32, starts bool) {
		if n++; starts {
			n = 1
		}
		out[row] = n
	})
	return table.NewNumbers(out), err
}

// beside is the value of the record so many places further on in the same group.
func (l *line) beside(step int) (table.Column, error) {
	from := make([]int32, l.fields.Rows)
	for i := range from {
		from[i] = -1
	}
	err := l.walk(func(i int, row int32, _ bool) {
		if j := i + step; j >= 0 && j < len(l.places) && l.leaf[l.places[j]] == l.leaf[l.places[i]] {
			from[row] = l.row(j)
		}
	})
	return l.col.Gather(from), err
}

// changes is each value less the one before it in the group; of dates, the days between, of moments
// the time.
func (l *line) changes() (table.Column, error) {
	if l.approx != nil {
		out := l.blankFloats()
		err := l.walk(func(i int, row int32, starts bool) {
			if !starts {
				out[row] = l.approx[row] - l.approx[l.row(i-1)]
			}
		})
		return table.NewFloats(out), err
	}
	out := l.blanks()
	err := l.walk(func(i int, row int32, starts bool) {
		if starts {
			return
		}
		v, before := l.exact[row], l.exact[l.row(i-1)]
		if v == table.Blank || before == table.Blank {
			return
		}
		far, ok := kernel.Wide(v).Plus(kernel.Wide(before).Negated()).Narrow()
		if out[row] = far; !ok {
			out[row] = table.Blank
			l.fail(row, formula.TooLarge)
		}
	})
	return table.NewNumbers(out), err
}

// running is the sum down to each record of a group; blanks add nothing.
func (l *line) running() (table.Column, error) {
	if l.approx != nil {
		out, sum := l.blankFloats(), 0.0
		err := l.walk(func(_ int, row int32, starts bool) {
			if starts {
				sum = 0
			}
			if v := l.approx[row]; v == v {
				sum += v
			}
			if out[row] = sum; math.IsInf(sum, 0) {
				out[row] = math.NaN()
				l.fail(row, formula.TooLarge)
			}
		})
		return table.NewFloats(out), err
	}
	out := l.blanks()
	var sum kernel.Int128
	err := l.walk(func(_ int, row int32, starts bool) {
		if starts {
			sum = kernel.Int128{}
		}
		if v := l.exact[row]; v != table.Blank {
			sum = sum.Plus(kernel.Wide(v))
		}
		var ok bool
		if out[row], ok = sum.Narrow(); !ok {
			out[row] = table.Blank
			l.fail(row, formula.TooLarge)
		}
	})
	return table.NewNumbers(out), err
}

// ends is the first value there is in each group, or the last.
func (l *line) ends(last bool) (table.Column, error) {
	blank := table.BlankTest(l.col)
	at := make([]int32, l.groups)
	for i := range at {
		at[i] = -1
	}
	err := l.walk(func(i int, row int32, _ bool) {
		if g := l.leaf[l.places[i]]; !blank(row) && (last || at[g] < 0) {
			at[g] = row
		}
	})
	if err != nil {
		return nil, err
	}
	from := make([]int32, l.fields.Rows)
	for i := range from {
		from[i] = -1
	}
	err = l.walk(func(i int, row int32, _ bool) { from[row] = at[l.leaf[l.places[i]]] })
	return l.col.Gather(from), err
}
