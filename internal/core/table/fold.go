package table

import (
	"encoding/binary"
	"math/bits"
	"strings"
	"unsafe"
)

const (
	everyByte = 0x0101010101010101
	highBits  = 0x8080808080808080
)

// isASCII says whether a text has no byte beyond ASCII, eight at a time.
func isASCII(s string) bool {
	for ; len(s) >= 8; s = s[8:] {
		if word(s)&highBits != 0 {
			return false
		}
	}
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// lowered turns an ASCII text to small letters and says where it had capitals: one
// bit for each byte, or nil if it had none.
func lowered(s string) (low string, capitals []uint64) {
	out := make([]byte, len(s))
	marks := make([]uint64, (len(s)+63)/64)
	any := uint64(0)
	i := 0
	for ; i+8 <= len(s); i += 8 {
		w := word(s[i:])
		// A byte's high bit is set by the first sum from 'A' on, and by the second
		// from the byte after 'Z' on.
		caps := ((w + everyByte*(0x80-'A')) &^ (w + everyByte*(0x80-'Z'-1))) & highBits
		binary.LittleEndian.PutUint64(out[i:], w|caps>>2) // 'a' is 'A' with the bit 0x20
		any |= caps
		// The eight high bits side by side.
		marks[i/64] |= (caps >> 7 * 0x0102040810204080 >> 56) << (i % 64)
	}
	for ; i < len(s); i++ {
		c := s[i]
		if c >= 'A' && c <= 'Z' {
			c += 'a' - 'A'
			any = 1
			marks[i/64] |= 1 << (i % 64)
		}
		out[i] = c
	}
	if any == 0 {
		return s, nil
	}
	return asString(out), marks
}

// raised undoes lowered for the bytes from lo on, hi left out.
func raised(low string, capitals []uint64, lo, hi uint32) string {
	first := lo
	for first < hi {
		rest := capitals[first/64] >> (first % 64)
		if rest != 0 {
			first += uint32(bits.TrailingZeros64(rest))
			break
		}
		first = first/64*64 + 64
	}
	if first >= hi {
		return low[lo:hi]
	}
	out := []byte(low[lo:hi])
	for i := first; i < hi; i++ {
		if capitals[i/64]>>(i%64)&1 != 0 {
			out[i-lo] -= 'a' - 'A'
		}
	}
	return asString(out)
}

func word(s string) uint64 {
	_ = s[7]
	return uint64(s[0]) | uint64(s[1])<<8 | uint64(s[2])<<16 | uint64(s[3])<<24 | uint64(s[4])<<32 | uint64(s[5])<<40 | uint64(s[6])<<48 | uint64(s[7])<<56
}

// asString gives bytes away as a string; nobody may write to them any more. A copy
// would be of all texts of a column.
func asString(b []byte) string { return unsafe.String(unsafe.SliceData(b), len(b)) }

// foldLines folds every text by itself.
func foldLines(given lines) lines {
	var text strings.Builder
	text.Grow(len(given.text))
	ends := make([]uint32, len(given.ends))
	for i := range given.ends {
		text.WriteString(Fold(given.at(uint32(i))))
		ends[i] = uint32(text.Len())
	}
	return lines{text: text.String(), ends: ends}
}

// permuted returns the lines in another order.
func (l lines) permuted(order []uint32) lines {
	out := lines{ends: make([]uint32, len(order))}
	text := make([]byte, 0, len(l.text))
	for i, from := range order {
		text = append(text, l.at(from)...)
		out.ends[i] = uint32(len(text))
	}
	out.text = asString(text)
	return out
}
