package table

import (
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
		sums := make([]uint64, c.Dict.Len())
		for code := range sums {
			sums[code] = xxh3.HashString(c.Dict.Value(uint32(code)))
		}
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
	given := d.folded
	if d.values.ends != nil {
		given = d.values
	}
	writeAll(h, 'd', given.ends)
	if d.values.ends != nil || d.capitals == nil {
		_, _ = h.WriteString(given.text) // it does not fail
		return
	}
	const some = 1 << 16 // a copy with capitals would be of all texts
	for lo := 0; lo < len(given.text); lo += some {
		hi := min(lo+some, len(given.text))
		_, _ = h.WriteString(raised(given.text, d.capitals, uint32(lo), uint32(hi))) // it does not fail
	}
}

// writeAll writes the bytes of values, of a kind.
func writeAll[T any](h *xxh3.Hasher, kind byte, values []T) {
	_, _ = h.Write([]byte{kind}) // it does not fail
	if len(values) > 0 {
		bytes := unsafe.Slice((*byte)(unsafe.Pointer(unsafe.SliceData(values))), len(values)*int(unsafe.Sizeof(values[0])))
		_, _ = h.Write(bytes) // it does not fail
	}
}
