// Sums and averages of linked values.

package fields

import (
	"math"
	"slices"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// noneLinks is the number of values of a row that no record links to at all.
const noneLinks = -1

// summed adds or averages a field. Where none links, a sum is 0; where none has a value, it is
// blank.
func (d *drawing) summed(col table.Column) (table.Column, error) {
	l, err := d.once()
	if err != nil {
		return nil, err
	}
	if err := d.job.Need(24*int64(d.Rows), d.step); err != nil {
		return nil, err
	}
	n := make([]int64, d.Rows)
	for i := range n {
		n[i] = noneLinks
	}
	count := func(target int32, many int64, filled bool) bool {
		n[target] = max(n[target], 0)
		if filled {
			n[target] += many
		}
		return filled
	}
	weights := l.weights
	switch c := col.(type) {
	case *table.Floats:
		sums := make([]float64, d.Rows)
		err := each(l, c.Values, func(target, row int32, v float64) {
			if many := weights.At(row); count(target, many, v == v) {
				sums[target] += v * float64(many)
			}
		})
		return d.floats(sums, n), err
	case *table.Numbers:
		if weights == nil && fitSums(c, l.rows.N) {
			sums := make([]int64, d.Rows)
			err := each(l, c.Values, func(target, _ int32, v int64) {
				if count(target, 1, v != table.Blank) {
					sums[target] += v
				}
			})
			return d.numbers(func(i int) kernel.Int128 { return kernel.Wide(sums[i]) }, n), err
		}
		sums := make([]kernel.Int128, d.Rows)
		err := each(l, c.Values, func(target, row int32, v int64) {
			if many := weights.At(row); count(target, many, v != table.Blank) {
				sums[target] = sums[target].Plus(kernel.Wide(v).Times(many))
			}
		})
		return d.numbers(func(i int) kernel.Int128 { return sums[i] }, n), err
	}
	panic("fields: texts have no sum, as the checker has seen to")
}

// fitSums says that no sum of so many values can pass 64 bits.
func fitSums(c *table.Numbers, n int) bool {
	lo, hi, ok := c.Bounds()
	most := int64(math.MaxInt64) / int64(max(n, 1))
	return !ok || lo > -most && hi < most
}

// numbers are the sums or averages of exact values; what is too large fails.
func (d *drawing) numbers(sum func(i int) kernel.Int128, n []int64) table.Column {
	average := d.l.Take == view.TakeAverage
	shift := table.Pow10(d.l.Field().Scale - d.l.Of.Field.Scale)
	out := make([]int64, d.Rows)
	for i := range out {
		switch {
		case n[i] == noneLinks && !average:
		case n[i] <= 0 || d.isSeveral(i):
			out[i] = table.Blank
		default:
			v, ok := sum(i).Narrow()
			if average {
				v, ok = sum(i).Ratio(n[i], shift)
			}
			if !ok || v == table.Blank {
				d.failed.Rows[formula.TooLarge][i/64] |= 1 << (i % 64)
				v = table.Blank
			}
			out[i] = v
		}
	}
	return table.NewNumbers(out)
}

// floats are the sums or averages of approximate values.
func (d *drawing) floats(sums []float64, n []int64) table.Column {
	for i := range sums {
		switch {
		case n[i] == noneLinks && d.l.Take == view.TakeSum:
		case n[i] <= 0 || d.isSeveral(i):
			sums[i] = math.NaN()
		case d.l.Take == view.TakeAverage:
			sums[i] /= float64(n[i])
		}
		if math.IsInf(sums[i], 0) {
			d.failed.Rows[formula.TooLarge][i/64] |= 1 << (i % 64)
			sums[i] = math.NaN()
		}
	}
	return table.NewFloats(sums)
}

// once is the records that count, but of those that lead to the same further record, whose
// number it is, the first of each target only.
func (d *drawing) once() (*linking, error) {
	if len(d.l.Once) == 0 {
		return d.linking, nil
	}
	held, _, err := d.there.Linked(d.l.Once)
	if err != nil {
		return nil, err
	}
	list, err := d.children()
	if err != nil {
		return nil, err
	}
	counts := kernel.NewBitmap(d.there.Rows)
	if err := d.job.Need(int64(d.there.Rows)/8+8*int64(len(d.weights)), d.step); err != nil {
		return nil, err
	}
	weights := slices.Clone(d.weights)
	for row := range weights {
		if held[row] >= 0 { // however many records it stands for, they share it
			weights[row] = 1
		}
	}
	var pairs []uint64 // the further record and the place of a row
	for i := range d.Rows {
		if i%kernel.BlockRows == 0 && d.job.IsStopped() {
			return nil, d.job.Stopped()
		}
		rows := list.of(i)
		pairs = pairs[:0]
		for at, row := range rows {
			if held[row] < 0 {
				counts.Words[row/64] |= 1 << (row % 64)
				continue
			}
			pairs = append(pairs, uint64(held[row])<<32|uint64(at))
		}
		slices.Sort(pairs)
		for j, pair := range pairs {
			if j == 0 || pair>>32 != pairs[j-1]>>32 {
				row := rows[uint32(pair)]
				counts.Words[row/64] |= 1 << (row % 64)
			}
		}
	}
	out := *d.linking
	out.rows, out.weights = kernel.RowsOf(counts), weights
	return &out, nil
}
