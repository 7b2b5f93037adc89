package table

import (
	"slices"
	"strings"
)

// Dict holds the distinct texts of a column in label order: number-aware, and
// without regard to case and accents until those are all that differs. Code 0
// is the blank. It never changes after Build.
//
// All texts lie one after another in one string, so that a dictionary of a
// million references is two allocations, not a million, and can be searched as
// one text.
type Dict struct {
	values lines
	// folded are the texts without case and accents; the same lines as values if
	// no text has any.
	folded lines
	// given says that the texts stand in an order of their author's.
	given bool
}

// lines are texts joined without separators: text i ends at ends[i], where text
// i+1 begins.
type lines struct {
	text string
	ends []uint32
}

func (l *lines) at(i uint32) string {
	if i == 0 {
		return l.text[:l.ends[0]]
	}
	return l.text[l.ends[i-1]:l.ends[i]]
}

func (l *lines) bytes() int64 { return int64(len(l.text)) + 4*int64(len(l.ends)) }

// Len counts the codes, the blank's included.
func (d *Dict) Len() int { return len(d.values.ends) }

// Value is the text of a code; the blank's is empty.
func (d *Dict) Value(code uint32) string { return d.values.at(code) }

// Folded is the text of a code without case and accents, worked out once.
func (d *Dict) Folded(code uint32) string { return d.folded.at(code) }

// bytes estimates the memory held.
func (d *Dict) bytes() int64 {
	n := d.values.bytes()
	if len(d.folded.ends) > 0 && &d.folded.ends[0] != &d.values.ends[0] {
		n += d.folded.bytes()
	}
	return n
}

// FindFolded appends the codes whose folded text is s: several when texts
// differ in case or accents only.
func (d *Dict) FindFolded(dst []uint32, s string) []uint32 {
	if d.given {
		for code := uint32(1); code < uint32(d.Len()); code++ {
			if d.Folded(code) == s {
				dst = append(dst, code)
			}
		}
		return dst
	}
	// Invariant: the folded texts from code 1 on ascend by CompareNatural.
	lo, hi := uint32(1), uint32(d.Len())
	for lo < hi {
		if mid := lo + (hi-lo)/2; CompareNatural(d.Folded(mid), s) < 0 {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	for ; lo < uint32(d.Len()) && d.Folded(lo) == s; lo++ {
		dst = append(dst, lo)
	}
	return dst
}

// EachFoldedWithin calls do with the codes from lo to hi, hi left out, ascending,
// whose folded text holds want, which must not be empty. Several goroutines can
// share a search.
func (d *Dict) EachFoldedWithin(want string, lo, hi uint32, do func(code uint32)) {
	if lo >= hi {
		return
	}
	text, ends := d.folded.text, d.folded.ends
	at, stop, code := ends[lo-1], ends[hi-1], lo
	for at < stop {
		hit := strings.Index(text[at:stop], want)
		if hit < 0 {
			return
		}
		at += uint32(hit)
		// The text that the hit begins in; hits are rare or near, so gallop.
		code += uint32(gallop(ends[code:hi], at))
		if at+uint32(len(want)) <= ends[code] {
			do(code)
			at = ends[code]
			code++
		} else {
			at++ // it runs over the end of its text
		}
	}
}

// gallop returns how many of the ascending ends lie at or before at.
func gallop(ends []uint32, at uint32) int {
	step := 1
	for step < len(ends) && ends[step] <= at {
		step *= 2
	}
	lo, hi := step/2, min(step+1, len(ends))
	n, _ := slices.BinarySearchFunc(ends[lo:hi], at, func(end, at uint32) int {
		if end <= at {
			return -1
		}
		return 1
	})
	return lo + n
}

// OrderedDict is a dictionary whose texts keep the order they are given in; its
// first text has the code 1. The texts must differ.
func OrderedDict(texts []string) *Dict {
	d := &Dict{given: true}
	for _, t := range append([]string{""}, texts...) {
		d.values.text += t
		d.values.ends = append(d.values.ends, uint32(len(d.values.text)))
		d.folded.text += Fold(t)
		d.folded.ends = append(d.folded.ends, uint32(len(d.folded.text)))
	}
	return d
}
