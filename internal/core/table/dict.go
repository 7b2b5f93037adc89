package table

import (
	"slices"
	"strings"
)

// Dict holds the distinct texts of a column in label order: number-aware, and
// without regard to case and accents until those are all that differs. Code 0
// is the blank. It never changes after Build.
type Dict struct {
	values []string
	folded []string
	bytes  int64
}

// Len counts the codes, the blank's included.
func (d *Dict) Len() int { return len(d.values) }

// Value is the text of a code; the blank's is empty.
func (d *Dict) Value(code uint32) string { return d.values[code] }

// Folded is the text of a code without case and accents, worked out once.
func (d *Dict) Folded(code uint32) string { return d.folded[code] }

// FindFolded appends the codes whose folded text is s: several when texts
// differ in case or accents only.
func (d *Dict) FindFolded(dst []uint32, s string) []uint32 {
	// Invariant: the folded texts from code 1 on ascend by CompareNatural.
	lo, _ := slices.BinarySearchFunc(d.folded[1:], s, CompareNatural)
	for code := lo + 1; code < len(d.folded) && d.folded[code] == s; code++ {
		dst = append(dst, uint32(code))
	}
	return dst
}

// DictBuilder collects texts in the order of the rows, with provisional codes.
type DictBuilder struct {
	codes  map[string]uint32
	values []string
}

// NewDictBuilder returns a builder that knows only the blank, as code 0.
func NewDictBuilder() *DictBuilder {
	return &DictBuilder{codes: map[string]uint32{}, values: []string{""}}
}

// Code returns the provisional code of a text. An empty text is a blank: an
// analyst cannot tell the two apart on a screen.
func (b *DictBuilder) Code(text []byte) uint32 {
	if len(text) == 0 {
		return 0
	}
	// The compiler makes no string for this look-up.
	if code, ok := b.codes[string(text)]; ok {
		return code
	}
	s := string(text)
	code := uint32(len(b.values))
	b.codes[s] = code
	b.values = append(b.values, s)
	return code
}

// Build sorts the dictionary and rewrites codes, given provisionally, in place.
func (b *DictBuilder) Build(codes []uint32) *Texts {
	n := len(b.values)
	folded := make([]string, n)
	d := &Dict{values: make([]string, n), folded: make([]string, n)}
	order := make([]uint32, n)
	for i, v := range b.values {
		order[i] = uint32(i)
		folded[i] = Fold(v)
		d.bytes += int64(len(v)) + 32
		if folded[i] != v {
			d.bytes += int64(len(v))
		}
	}
	slices.SortFunc(order[1:], func(x, y uint32) int {
		if c := CompareNatural(folded[x], folded[y]); c != 0 {
			return c
		}
		return strings.Compare(b.values[x], b.values[y])
	})
	rank := make([]uint32, n)
	for pos, code := range order {
		rank[code] = uint32(pos)
		d.values[pos], d.folded[pos] = b.values[code], folded[code]
	}
	for i, c := range codes {
		codes[i] = rank[c]
	}
	return NewTexts(codes, d)
}
