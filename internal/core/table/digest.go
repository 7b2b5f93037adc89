package table

import (
	"math/bits"
	"slices"
	"sync/atomic"
	"unsafe"

	"github.com/zeebo/xxh3"
)

// digest is that of a column's or a link's values, once it was asked for; 0 until then.
type digest struct{ sum atomic.Uint64 }

// of is the digest, worked out by the first who asks: two who ask at once come to the same.
func (d *digest) of(write func(h *xxh3.Hasher)) uint64 {
	if sum := d.sum.Load(); sum != 0 {
		return sum
	}
	h := xxh3.New()
	write(h)
	sum := max(h.Sum64(), 1)
	d.sum.Store(sum)
	return sum
}

// Digest is the same for the same values in the same order, in whatever process they are read.
func (c *Numbers) Digest() uint64 {
	return c.digest.of(func(h *xxh3.Hasher) { writeAll(h, 'n', c.Values) })
}

// Digest is the same for the same values in the same order; see Numbers.
func (c *Floats) Digest() uint64 {
	return c.digest.of(func(h *xxh3.Hasher) { writeAll(h, 'f', c.Values) })
}

// Digest is the same for links to the same rows of a record set; see Numbers.
func (l *Links) Digest() uint64 {
	return l.digest.of(func(h *xxh3.Hasher) {
		_, _ = h.WriteString(l.To) // it does not fail
		writeAll(h, 'l', l.Rows)
	})
}

// Digest is the same for the same texts in the same order; see Numbers.
func (c *Texts) Digest() uint64 {
	return c.digest.of(func(h *xxh3.Hasher) {
		if d := c.Dict; !d.given && !orderedLate(d.Len(), len(d.folded.text)) {
			ordered := c.InOrder()
			ordered.Dict.write(h)
			writeAll(h, 't', ordered.Codes)
			return
		}
		// In no order of labels, the same texts may have other codes, so every row counts with its text.
		sums := c.Dict.sums()
		const some = 1 << 12
		rows := make([]uint64, 0, some)
		for i, code := range c.Codes {
			if rows = append(rows, sums[code]); len(rows) == some || i == len(c.Codes)-1 {
				writeAll(h, 'u', rows)
				rows = rows[:0]
			}
		}
	})
}

// write writes the texts, in whichever form they are kept.
func (d *Dict) write(h *xxh3.Hasher) {
	text, capitals := d.plainest()
	writeAll(h, 'd', text.ends)
	_, _ = h.WriteString(text.text) // it does not fail
	writeAll(h, 'c', capitals)
}

// plainest are the texts in the form that a fresh dictionary would keep: those that are gone may have left
// another.
func (d *Dict) plainest() (text lines, capitals []uint64) {
	switch {
	case d.values.ends == nil && slices.ContainsFunc(d.capitals, func(some uint64) bool { return some != 0 }):
		return d.folded, d.capitals
	case d.values.ends == nil:
		return d.folded, nil
	case isASCII(d.values.text):
		low, capitals := lowered(d.values.text)
		return lines{text: low, ends: d.values.ends}, capitals
	}
	return d.values, nil
}

// sums tell the texts apart, by their codes.
func (d *Dict) sums() []uint64 {
	text, capitals := d.plainest()
	out := make([]uint64, d.Len())
	for code := range out {
		sum := xxh3.HashString(text.at(uint32(code)))
		if capitals != nil {
			for lo, hi := text.from(code), text.from(code+1); lo < hi; lo += 64 {
				var part [1]uint64
				copyBits(part[:], 0, capitals, int(lo), int(min(hi-lo, 64)))
				sum = bits.RotateLeft64(sum, 5)*odd ^ part[0]
			}
		}
		out[code] = sum
	}
	return out
}

// odd spreads bits over a word: 2^64 over the golden ratio.
const odd = 0x9e3779b97f4a7c15

// writeAll writes the bytes of values, of a kind.
func writeAll[T any](h *xxh3.Hasher, kind byte, values []T) {
	_, _ = h.Write([]byte{kind}) // it does not fail
	if len(values) > 0 {
		bytes := unsafe.Slice(
			(*byte)(unsafe.Pointer(unsafe.SliceData(values))), len(values)*int(unsafe.Sizeof(values[0])),
		)
		_, _ = h.Write(bytes) // it does not fail
	}
}
