// The records that link to those of a set, as a linked value counts them.

package fields

import (
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// linking is the records that a linked value counts.
type linking struct {
	*Fields         // of the set whose records have the value
	there   *Fields // of those that count
	to      []int32 // for each of the latter the row it links to, or -1
	rows    kernel.Rows
	weights kernel.Weights // of all rows there
	step    string
}

// linkingOf finds the records that a linked value counts; step says what for.
func (f *Fields) linkingOf(l *plan.LinkedValue, step string) (*linking, error) {
	there, err := f.Over(l.There)
	if err != nil {
		return nil, err
	}
	to, _, err := there.Linked(l.Links)
	if err != nil {
		return nil, err
	}
	out := &linking{
		Fields: f, there: there, to: to, rows: kernel.Rows{N: there.Rows}, weights: there.Weights, step: step,
	}
	if l.Where == nil {
		return out, nil
	}
	out.rows, err = Keep(there, "counted "+l.Counted, func(there *Fields) (kernel.Rows, int64, error) {
		kept, err := f.Select(f.job, there, l.Where)
		if err != nil {
			return kernel.Rows{}, 0, err
		}
		rows := kernel.RowsOf(kept)
		return rows, 4 * int64(len(rows.List)), f.job.Need(4*int64(len(rows.List)), step)
	})
	return out, err
}

// fewestTargets is how many targets a worker takes at the least: each looks at all records.
const fewestTargets = 1 << 14

// each calls do with every record that counts and links to one, in the order of the records, and
// with its value. Targets are divided among the workers, each of which sees its own only.
func each[T any](l *linking, values []T, do func(target, row int32, v T)) error {
	return l.job.EachShare(l.Rows, fewestTargets, func(from, to int, halted func() bool) {
		least, size := uint32(from), uint32(to-from)
		targets, vals := make([]int32, kernel.BlockRows), make([]T, kernel.BlockRows)
		for lo := 0; lo < l.rows.N && !halted(); lo += kernel.BlockRows {
			hi := min(lo+kernel.BlockRows, l.rows.N)
			targets := kernel.ValuesAt(l.to, l.rows, lo, hi, targets)
			vals := kernel.ValuesAt(values, l.rows, lo, hi, vals)
			for i, target := range targets {
				if uint32(target)-least < size { // -1 is beyond all
					do(target, l.rows.At(lo+i), vals[i])
				}
			}
		}
	})
}

// counts is how many records link to each.
func (l *linking) counts() ([]int64, error) {
	if l.weights == nil {
		return l.rowCounts()
	}
	out := make([]int64, l.Rows)
	return out, each(l, l.weights, func(target, _ int32, many int64) { out[target] += many })
}

// rowCounts is how many rows link to each.
func (l *linking) rowCounts() ([]int64, error) {
	out := make([]int64, l.Rows)
	return out, each(l, l.to, func(target, _, _ int32) { out[target]++ })
}

// children are the rows that link to each row, in their order: those of row i are
// rows[start[i]:start[i+1]].
type children struct{ start, rows []int32 }

// of are the rows that link to a row.
func (c *children) of(row int) []int32 { return c.rows[c.start[row]:c.start[row+1]] }

// children lists the records by those they link to.
func (l *linking) children() (*children, error) {
	if err := l.job.Need(4*int64(2*l.Rows+l.rows.N), l.step); err != nil {
		return nil, err
	}
	counts, err := l.rowCounts()
	if err != nil {
		return nil, err
	}
	c := &children{start: make([]int32, l.Rows+1)}
	for i, n := range counts {
		c.start[i+1] = c.start[i] + int32(n)
	}
	c.rows = make([]int32, c.start[l.Rows])
	next := append([]int32(nil), c.start[:l.Rows]...)
	return c, each(l, l.to, func(target, row, _ int32) {
		c.rows[next[target]] = row
		next[target]++
	})
}

// Choice says for each record which of those that link to it is the latest or the earliest, or
// -1 if none has a date, and for which of them there were several.
type Choice struct {
	Rows []int32
	Tied []uint64
}

// Chosen finds each record's latest or earliest linking record. Of several with the same
// date, the last in the table is the latest, and the first the earliest.
func (f *Fields) Chosen(l *plan.LinkedValue, step string) (*Choice, error) {
	key := "chosen " + f.Plan.Records + " " + l.Chosen
	return Keep(f, key, func(f *Fields) (*Choice, int64, error) {
		linking, err := f.linkingOf(l, step)
		if err != nil {
			return nil, 0, err
		}
		col, err := linking.there.Column(l.Date)
		if err != nil {
			return nil, 0, err
		}
		if err := f.job.Need(13*int64(f.Rows), step); err != nil {
			return nil, 0, err
		}
		dates := col.(*table.Numbers).Values // as the checker has seen to
		out, err := linking.chosen(dates, l.Take == view.TakeLatest)
		return out, 5 * int64(f.Rows), err
	})
}

func (l *linking) chosen(dates []int64, latest bool) (*Choice, error) {
	out := &Choice{Rows: make([]int32, l.Rows), Tied: make([]uint64, (l.Rows+63)/64)}
	tied := make([]bool, l.Rows) // one word would be shared by two workers
	best := make([]int64, l.Rows)
	for i := range out.Rows {
		out.Rows[i] = -1
	}
	err := each(l, dates, func(target, row int32, v int64) {
		switch have := best[target]; {
		case v == table.Blank:
		case out.Rows[target] < 0, latest && v > have, !latest && v < have:
			out.Rows[target], best[target], tied[target] = row, v, l.weights.At(row) > 1
		case v == have:
			if tied[target] = true; latest {
				out.Rows[target] = row
			}
		}
	})
	for i, is := range tied {
		out.Tied[i/64] |= kernel.Bit(is) << (i % 64)
	}
	return out, err
}
