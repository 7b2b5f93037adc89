package table

import (
	"errors"
	"hash/maphash"
	"math"
	"strings"
)

// ErrTooMuchText says that the distinct texts of one column pass 4 GB.
var ErrTooMuchText = errors.New("table: the distinct texts of one column are more than 4 GB")

// DictBuilder collects texts in the order of the rows, with provisional codes.
type DictBuilder struct {
	text []byte
	ends []uint32
	// slots is an open hash table of codes; 0 is a free slot. It is never more
	// than half full.
	slots []uint32
	seed  maphash.Seed
	full  bool
}

// NewDictBuilder returns a builder that knows only the blank, as code 0.
func NewDictBuilder() *DictBuilder {
	return &DictBuilder{ends: []uint32{0}, slots: make([]uint32, 64), seed: maphash.MakeSeed()}
}

// Code returns the provisional code of a text. An empty text is a blank: an
// analyst cannot tell the two apart on a screen.
func (b *DictBuilder) Code(text []byte) uint32 {
	if len(text) == 0 {
		return 0
	}
	mask := uint64(len(b.slots) - 1)
	at := maphash.Bytes(b.seed, text) & mask
	for ; b.slots[at] != 0; at = (at + 1) & mask {
		code := b.slots[at]
		if string(b.text[b.ends[code-1]:b.ends[code]]) == string(text) {
			return code
		}
	}
	if len(b.text)+len(text) > math.MaxUint32 {
		b.full = true
		return 0
	}
	code := uint32(len(b.ends))
	b.text = append(b.text, text...)
	b.ends = append(b.ends, uint32(len(b.text)))
	b.slots[at] = code
	if 2*len(b.ends) > len(b.slots) {
		b.grow()
	}
	return code
}

// CodeOf is Code for a string.
func (b *DictBuilder) CodeOf(text string) uint32 {
	return b.Code([]byte(text))
}

func (b *DictBuilder) grow() {
	b.slots = make([]uint32, 4*len(b.slots))
	mask := uint64(len(b.slots) - 1)
	for code := uint32(1); code < uint32(len(b.ends)); code++ {
		at := maphash.Bytes(b.seed, b.text[b.ends[code-1]:b.ends[code]]) & mask
		for b.slots[at] != 0 {
			at = (at + 1) & mask
		}
		b.slots[at] = code
	}
}

// Err says whether a text could not be taken; it is blank then.
func (b *DictBuilder) Err() error {
	if b.full {
		return ErrTooMuchText
	}
	return nil
}

// Build sorts the dictionary and rewrites codes, given provisionally, in place.
// The builder is of no use afterwards.
func (b *DictBuilder) Build(codes []uint32) *Texts {
	b.slots = nil
	given := lines{text: string(b.text), ends: b.ends}
	b.text = nil
	folded := foldAll(given)
	order := sortTexts(given, folded)
	rank := make([]uint32, len(order))
	for pos, code := range order {
		rank[code] = uint32(pos)
	}
	d := &Dict{values: given.permuted(order)}
	d.folded = d.values
	if folded.text != given.text {
		d.folded = folded.permuted(order)
	}
	for i, c := range codes {
		codes[i] = rank[c]
	}
	return NewTexts(codes, d)
}

// foldAll folds every text; texts without case and accents are not copied.
func foldAll(given lines) lines {
	if isLowerASCII(given.text) {
		return given
	}
	var text strings.Builder
	text.Grow(len(given.text))
	ends := make([]uint32, len(given.ends))
	var low []byte
	for i := range given.ends {
		s := given.at(uint32(i))
		if isASCII(s) {
			low = append(low[:0], s...)
			for j, c := range low {
				if c >= 'A' && c <= 'Z' {
					low[j] = c + 'a' - 'A'
				}
			}
			text.Write(low)
		} else {
			text.WriteString(Fold(s))
		}
		ends[i] = uint32(text.Len())
	}
	return lines{text.String(), ends}
}

func isASCII(s string) bool {
	for i := range len(s) {
		if s[i] >= 0x80 {
			return false
		}
	}
	return true
}

// permuted returns the lines in another order.
func (l lines) permuted(order []uint32) lines {
	out := lines{ends: make([]uint32, len(order))}
	var text strings.Builder
	text.Grow(len(l.text))
	for i, from := range order {
		text.WriteString(l.at(from))
		out.ends[i] = uint32(text.Len())
	}
	out.text = text.String()
	return out
}
