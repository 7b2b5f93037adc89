package table

import (
	"slices"
	"strings"
	"sync"
)

// Dict holds the distinct texts of a column in label order: number-aware, and
// without regard to case and accents until those are all that differs. Code 0
// is the blank. It never changes after Build.
//
// All texts lie one after another in one string, so that a dictionary of a
// million references is a few allocations, not a million, and can be searched as
// one text. Most texts are ASCII: of them only the small letters are kept, with a
// bit for each byte that was a capital.
type Dict struct {
	// folded are the texts without case and accents.
	folded lines
	// values are the texts themselves, if any is not ASCII; capitals then are nil.
	values   lines
	capitals []uint64
	// given says that the texts stand in an order of their author's, unordered that
	// they stand in none yet; see InOrder.
	given, unordered bool
	// index finds texts by their folded form; nil for few texts, which are searched
	// by halves, and for unordered ones. It is read by found: with late, it is made when it is first needed.
	index  *index
	late   bool
	making sync.Once // protects index, if late

	sorting sync.Once // protects following fields
	sorted  *Dict
	rank    []uint32
}

// newDict makes the forms that a dictionary keeps of its texts.
func newDict(given lines) *Dict {
	if !isASCII(given.text) {
		return &Dict{values: given, folded: foldLines(given)}
	}
	d := &Dict{folded: lines{ends: given.ends}}
	d.folded.text, d.capitals = lowered(given.text)
	return d
}

// lines are texts joined without separators: text i ends at ends[i], where text
// i+1 begins.
type lines struct {
	text string
	ends []uint32
	room *linesRoom // nil: none is known of
}

func (l *lines) at(i uint32) string {
	if i == 0 {
		return l.text[:l.ends[0]]
	}
	return l.text[l.ends[i-1]:l.ends[i]]
}

// width is the length of every text but the blank, or 0 if they are of several.
func (l *lines) width() int {
	for i := 1; i < len(l.ends); i++ {
		if int(l.ends[i]) != i*int(l.ends[1]) {
			return 0
		}
	}
	return int(l.ends[min(1, len(l.ends)-1)])
}

func (l *lines) bytes() int64 { return int64(len(l.text)) + 4*int64(len(l.ends)) }

// Len counts the codes, the blank's included.
func (d *Dict) Len() int { return len(d.folded.ends) }

// Value is the text of a code; the blank's is empty.
func (d *Dict) Value(code uint32) string {
	switch {
	case d.values.ends != nil:
		return d.values.at(code)
	case d.capitals == nil || code == 0:
		return d.folded.at(code)
	}
	return raised(d.folded.text, d.capitals, d.folded.ends[code-1], d.folded.ends[code])
}

// Folded is the text of a code without case and accents, worked out once.
func (d *Dict) Folded(code uint32) string { return d.folded.at(code) }

// Bytes estimates the memory held.
func (d *Dict) Bytes() int64 {
	n := d.folded.bytes() + 8*int64(len(d.capitals))
	if d.values.ends != nil {
		n += d.values.bytes()
	}
	if !d.late && d.index != nil {
		n += 4 * int64(len(d.index.slots))
	}
	return n
}

// texts are the texts themselves, one after another.
func (d *Dict) texts() lines {
	switch {
	case d.values.ends != nil:
		return d.values
	case d.capitals == nil:
		return d.folded
	}
	return lines{text: raised(d.folded.text, d.capitals, 0, uint32(len(d.folded.text))), ends: d.folded.ends}
}

// inOrder returns the same texts in label order, and where each code went.
func (d *Dict) inOrder() (*Dict, []uint32) {
	d.sorting.Do(func() {
		given := d.texts()
		order := sortTexts(given, d.folded)
		if order == nil {
			order = make([]uint32, d.Len())
			for i := range order {
				order[i] = uint32(i)
			}
		}
		d.sorted, d.rank = newDict(given.permuted(order)), ranks(order)
	})
	return d.sorted, d.rank
}

// found is the index, or nil.
func (d *Dict) found() *index {
	if d.late {
		d.making.Do(func() {
			if !d.unordered && !d.given {
				d.makeIndex()
			}
		})
	}
	return d.index
}

// FindFolded appends the codes whose folded text is s: several when texts
// differ in case or accents only.
func (d *Dict) FindFolded(dst []uint32, s string) []uint32 {
	if x := d.found(); x != nil {
		at, tag := x.start(s)
		return x.find(dst, d, s, at, tag)
	}
	if d.given || d.unordered {
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

// FindsQuickly says whether FindFolded is quick: else it goes through all texts.
func (d *Dict) FindsQuickly() bool { return !d.unordered }

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
	var all lines
	for _, t := range append([]string{""}, texts...) {
		all.text += t
		all.ends = append(all.ends, uint32(len(all.text)))
	}
	d := newDict(all)
	d.given = true
	return d
}
