package engine

import "math/bits"

// bitmap marks rows of a table, one bit each. Bits past the last row are 0.
type bitmap struct {
	words []uint64
	n     int
}

func newBitmap(n int) bitmap { return bitmap{words: make([]uint64, (n+63)/64), n: n} }

func fullBitmap(n int) bitmap {
	b := newBitmap(n)
	for i := range b.words {
		b.words[i] = ^uint64(0)
	}
	b.trim()
	return b
}

// trim clears the bits past the last row.
func (b bitmap) trim() {
	if rest := b.n % 64; rest != 0 {
		b.words[len(b.words)-1] &= 1<<rest - 1
	}
}

func (b bitmap) clone() bitmap {
	return bitmap{words: append([]uint64(nil), b.words...), n: b.n}
}

func (b bitmap) and(o bitmap) {
	for i, w := range o.words {
		b.words[i] &= w
	}
}

func (b bitmap) or(o bitmap) {
	for i, w := range o.words {
		b.words[i] |= w
	}
}

func (b bitmap) andNot(o bitmap) {
	for i, w := range o.words {
		b.words[i] &^= w
	}
}

func (b bitmap) not() {
	for i := range b.words {
		b.words[i] = ^b.words[i]
	}
	b.trim()
}

func (b bitmap) count() int {
	n := 0
	for _, w := range b.words {
		n += bits.OnesCount64(w)
	}
	return n
}

// countAnd counts the rows marked in both.
func (b bitmap) countAnd(o bitmap) int {
	n := 0
	for i, w := range o.words {
		n += bits.OnesCount64(w & b.words[i])
	}
	return n
}

// rows lists the marked rows in ascending order.
func (b bitmap) rows() []int32 {
	out := make([]int32, 0, b.count())
	for i, w := range b.words {
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

// bit is 1 for true; the compiler makes a set instruction of it, not a branch.
func bit(b bool) uint64 {
	if b {
		return 1
	}
	return 0
}

func (b bitmap) has(row int) bool { return b.words[row/64]>>(row%64)&1 != 0 }
