// Package kernel is loops over plain slices: bitmaps, 128-bit sums, radix sorts, selection, and
// blocks of rows over the cores. Nothing here knows of plans or records.
package kernel

import "math/bits"

// Bitmap marks rows of a table, one bit each. Bits past the last row are 0.
type Bitmap struct {
	Words []uint64
	N     int
}

// NewBitmap marks none of n rows.
func NewBitmap(n int) Bitmap { return Bitmap{Words: make([]uint64, (n+63)/64), N: n} }

// FullBitmap marks all of n rows.
func FullBitmap(n int) Bitmap {
	b := NewBitmap(n)
	for i := range b.Words {
		b.Words[i] = ^uint64(0)
	}
	b.trim()
	return b
}

// trim clears the bits past the last row.
func (b Bitmap) trim() {
	if rest := b.N % 64; rest != 0 {
		b.Words[len(b.Words)-1] &= 1<<rest - 1
	}
}

// Clone is a bitmap of its own with the same marks.
func (b Bitmap) Clone() Bitmap {
	return Bitmap{Words: append([]uint64(nil), b.Words...), N: b.N}
}

// And keeps the marks that the other has, too.
func (b Bitmap) And(o Bitmap) {
	for i, w := range o.Words {
		b.Words[i] &= w
	}
}

// Or adds the other's marks.
func (b Bitmap) Or(o Bitmap) {
	for i, w := range o.Words {
		b.Words[i] |= w
	}
}

// AndNot takes the other's marks away.
func (b Bitmap) AndNot(o Bitmap) {
	for i, w := range o.Words {
		b.Words[i] &^= w
	}
}

// Not marks the others.
func (b Bitmap) Not() {
	for i := range b.Words {
		b.Words[i] = ^b.Words[i]
	}
	b.trim()
}

// Count is how many rows are marked.
func (b Bitmap) Count() int {
	n := 0
	for _, w := range b.Words {
		n += bits.OnesCount64(w)
	}
	return n
}

// CountAnd counts the rows marked in both.
func (b Bitmap) CountAnd(o Bitmap) int {
	n := 0
	for i, w := range o.Words {
		n += bits.OnesCount64(w & b.Words[i])
	}
	return n
}

// Rows lists the marked rows in ascending order.
func (b Bitmap) Rows() []int32 {
	out := make([]int32, 0, b.Count())
	for i, w := range b.Words {
		if w == ^uint64(0) {
			for j := range 64 {
				out = append(out, int32(i*64+j))
			}
			continue
		}
		for ; w != 0; w &= w - 1 {
			out = append(out, int32(i*64+bits.TrailingZeros64(w)))
		}
	}
	return out
}

// Bit is 1 for true; the compiler makes a set instruction of it, not a branch.
func Bit(b bool) uint64 {
	if b {
		return 1
	}
	return 0
}

// Has says whether a row is marked.
func (b Bitmap) Has(row int) bool { return b.Words[row/64]>>(row%64)&1 != 0 }
