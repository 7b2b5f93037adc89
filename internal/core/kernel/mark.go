// Tests over slices of values, 64 to a word of a bitmap.

package kernel

// MarkTable marks, from the first bit of words on, the codes for which meets holds a 1.
func MarkTable(words []uint64, codes []uint32, meets []uint8) {
	full := len(codes) / 64
	for w := range full {
		block := (*[64]uint32)(codes[w*64:])
		var word uint64
		// Eight at a time: shifts by a constant are free, by a variable not.
		for i := 0; i < 64; i += 8 {
			c := (*[8]uint32)(block[i:])
			word |= (uint64(meets[c[0]]) | uint64(meets[c[1]])<<1 | uint64(meets[c[2]])<<2 | uint64(meets[c[3]])<<3 |
				uint64(meets[c[4]])<<4 | uint64(meets[c[5]])<<5 | uint64(meets[c[6]])<<6 | uint64(meets[c[7]])<<7) << i
		}
		words[w] |= word
	}
	MarkFunc(words[full:], codes[full*64:], func(c uint32) bool { return meets[c] != 0 })
}

// MarkRange marks lo <= v <= hi. A NaN lies in no range, as it compares false.
func MarkRange[T int64 | float64](words []uint64, vals []T, lo, hi T) {
	in := func(v T) uint64 { return Bit(v >= lo) & Bit(v <= hi) }
	full := len(vals) / 64
	for w := range full {
		block := (*[64]T)(vals[w*64:])
		var word uint64
		for i := 0; i < 64; i += 8 {
			v := (*[8]T)(block[i:])
			word |= (in(v[0]) | in(v[1])<<1 | in(v[2])<<2 | in(v[3])<<3 |
				in(v[4])<<4 | in(v[5])<<5 | in(v[6])<<6 | in(v[7])<<7) << i
		}
		words[w] |= word
	}
	MarkFunc(words[full:], vals[full*64:], func(v T) bool { return v >= lo && v <= hi })
}

// MarkFunc marks the values that meet a test.
func MarkFunc[T any](words []uint64, vals []T, meets func(T) bool) {
	for i, v := range vals {
		words[i/64] |= Bit(meets(v)) << (i % 64)
	}
}
