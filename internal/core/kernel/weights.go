// Rows that stand for several records each.

package kernel

import "math/bits"

// Weights says how many records each row of a table stands for; nil if each stands for one.
type Weights []int64

// At is how many records a row stands for.
func (w Weights) At(row int32) int64 {
	if w == nil {
		return 1
	}
	return w[row]
}

// Count is how many records the marked rows stand for.
func (w Weights) Count(b Bitmap) int {
	if w == nil {
		return b.Count()
	}
	n := int64(0)
	for i, word := range b.Words {
		for ; word != 0; word &= word - 1 {
			n += w[i*64+bits.TrailingZeros64(word)]
		}
	}
	return int(n)
}

// CountAnd counts the records of the rows that are marked in both.
func (w Weights) CountAnd(b, o Bitmap) int {
	if w == nil {
		return b.CountAnd(o)
	}
	n := int64(0)
	for i, word := range o.Words {
		for word &= b.Words[i]; word != 0; word &= word - 1 {
			n += w[i*64+bits.TrailingZeros64(word)]
		}
	}
	return int(n)
}

// CountRows is how many records some rows stand for.
func (w Weights) CountRows(rs Rows) int {
	if w == nil {
		return rs.N
	}
	n := int64(0)
	for i := range rs.N {
		n += w[rs.At(i)]
	}
	return int(n)
}
