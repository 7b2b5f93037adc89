// Variance and standard deviation, from exact sums of distances and of their squares.

package aggregation

import (
	"math"
	"math/big"
	"math/bits"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine/work"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/table"
	"gavrik/internal/core/view"
)

// moments are what a variance is worked out from: the number of values, and the
// sums of their distances from a fixed value and of the squares of these. A
// variance does not depend on which value that is.
type moments struct {
	n       int64
	sum     kernel.Int128
	squares [3]uint64 // the lowest 64 bits first
}

func (m *moments) add(d uint64) {
	m.n++
	m.sum = m.sum.Plus(kernel.WideUnsigned(d))
	hi, lo := bits.Mul64(d, d)
	m.addSquares([3]uint64{lo, hi, 0})
}

// addMany is add, so many times.
func (m *moments) addMany(d uint64, many int64) {
	m.n += many
	m.sum = m.sum.Plus(kernel.WideProduct(d, uint64(many)))
	hi, lo := bits.Mul64(d, d)
	carry, low := bits.Mul64(lo, uint64(many))
	top, middle := bits.Mul64(hi, uint64(many))
	middle, over := bits.Add64(middle, carry, 0)
	m.addSquares([3]uint64{low, middle, top + over})
}

func (m *moments) addSquares(o [3]uint64) {
	var carry uint64
	for i := range m.squares {
		m.squares[i], carry = bits.Add64(m.squares[i], o[i], carry)
	}
}

func (m *moments) join(o moments) {
	m.n += o.n
	m.sum = m.sum.Plus(o.sum)
	m.addSquares(o.squares)
}

// variance is that of a sample: (n Σd² − (Σd)²) / (n (n − 1)) units squared, exact
// until it is rounded to a floating-point number. It needs two values.
func (m *moments) variance(unit *big.Rat) float64 {
	if m.n < 2 {
		return math.NaN()
	}
	n, sum := big.NewInt(m.n), m.sum.Big()
	squares := new(big.Int)
	for i := len(m.squares) - 1; i >= 0; i-- {
		squares.Lsh(squares, 64).Add(squares, new(big.Int).SetUint64(m.squares[i]))
	}
	top := new(big.Int).Sub(squares.Mul(squares, n), sum.Mul(sum, sum))
	v := new(big.Rat).SetFrac(top, new(big.Int).Mul(n, big.NewInt(m.n-1)))
	out, _ := v.Mul(v, unit).Mul(v, unit).Float64()
	return out
}

// spread works out the variance or standard deviation of every node.
func (w *measuring) spread(f *Aggregates) error {
	col, err := w.valuesColumn()
	if err != nil {
		return err
	}
	f.Counted = make([]int64, len(w.tree.Nodes))
	out := make([]float64, len(w.tree.Nodes))
	switch c := col.(type) {
	case *table.Floats:
		err = w.spreadFloats(f, c, out)
	case *table.Numbers:
		err = w.spreadNumbers(f, c, out)
	}
	if err != nil {
		return err
	}
	if w.measure.Fn == view.Spread {
		for i, v := range out {
			out[i] = math.Sqrt(v)
		}
	}
	if w.measure.Ref.Field.Type != catalog.Duration {
		f.Floats = out
		return nil
	}
	f.Numbers = make([]int64, len(out))
	for i, v := range out {
		f.Numbers[i] = table.Blank
		if v == v && v < math.MaxInt64 {
			f.Numbers[i] = int64(math.Round(v))
		}
	}
	return nil
}

// spreadNumbers counts distances from the smallest value, in steps of the column.
func (w *measuring) spreadNumbers(f *Aggregates, c *table.Numbers, out []float64) error {
	lo, _, _ := c.Bounds()
	step := uint64(c.Step())
	distance := func(v int64) uint64 { return (uint64(v) - uint64(lo)) / step }
	all := make([]moments, len(w.tree.Nodes))
	var err error
	if w.measure.PerLinked {
		err = w.eachLinked(func(node int, rows []int32) {
			for _, row := range rows {
				if v := c.Values[row]; v != table.Blank {
					all[node].add(distance(v))
				}
			}
		})
	} else {
		first := w.tree.First()
		if w.side.Weights != nil {
			err = work.WeightedPass(w.job, c.Values, w.side.Weights, w.side.Rows, func(at int, vals, weights []int64) {
				for i, v := range vals {
					if v != table.Blank {
						all[first+int(w.side.Leaf[at+i])].addMany(distance(v), weights[i])
					}
				}
			})
		} else {
			err = work.Pass(w.job, c.Values, w.side.Rows, func(at int, vals []int64) {
				for i, v := range vals {
					if v != table.Blank {
						all[first+int(w.side.Leaf[at+i])].add(distance(v))
					}
				}
			})
		}
		w.rollUp(func(parent, child int) { all[parent].join(all[child]) })
	}
	scale := int64(1)
	if w.measure.Ref.Field.Type != catalog.Duration {
		scale = table.Pow10(w.measure.Ref.Field.Scale)
	}
	// What a distance of one stands for.
	unit := new(big.Rat).SetFrac(new(big.Int).SetUint64(step), big.NewInt(scale))
	for i := range all {
		f.Counted[i] = all[i].n
		out[i] = all[i].variance(unit)
	}
	return err
}

// spreadFloats takes the mean first, in the order of the rows, one core only.
func (w *measuring) spreadFloats(f *Aggregates, c *table.Floats, out []float64) error {
	if w.side.Weights != nil && !w.measure.PerLinked {
		return w.spreadWeighted(f, c, out)
	}
	return eachValues(w, c.Values, math.IsNaN, func(node int, of []float64) {
		f.Counted[node], out[node] = int64(len(of)), math.NaN()
		if len(of) < 2 {
			return
		}
		mean, squares := 0.0, 0.0
		for _, v := range of {
			mean += v / float64(len(of))
		}
		for _, v := range of {
			squares += (v - mean) * (v - mean)
		}
		out[node] = squares / float64(len(of)-1)
	})
}
