package table

import (
	"cmp"
	"slices"
	"strings"
	"unsafe"
)

// place is the code of a text or, if it is not there, that before which it would stand. The dictionary must
// be in label order.
func (d *Dict) place(text string) (code uint32, there bool) {
	if text == "" {
		return 0, true
	}
	folded := Fold(text)
	lo, hi := uint32(1), uint32(d.Len())
	for lo < hi {
		mid := lo + (hi-lo)/2
		c := CompareNatural(d.Folded(mid), folded)
		if c == 0 {
			c = strings.Compare(d.Value(mid), text)
		}
		if c == 0 {
			return mid, true
		}
		if c < 0 {
			lo = mid + 1
		} else {
			hi = mid
		}
	}
	return lo, false
}

// codesOf finds texts: for each its code, or 0 if it is not there.
func (d *Dict) codesOf(texts []string) []uint32 {
	out := make([]uint32, len(texts))
	if !d.unordered {
		for i, text := range texts {
			if code, there := d.place(text); there {
				out[i] = code
			}
		}
		return out
	}
	// In no order: each text of the dictionary is looked up in the list. Few share their length.
	wanted := make(map[string]int, len(texts))
	var lengths [longest + 1]bool
	for i, text := range texts {
		wanted[text] = i
		lengths[min(len(Fold(text)), longest)] = true
	}
	given := d.folded
	for code := uint32(1); code < uint32(d.Len()); code++ {
		if !lengths[min(int(given.ends[code]-given.ends[code-1]), longest)] {
			continue
		}
		if i, ok := wanted[d.Value(code)]; ok {
			out[i] = code
		}
	}
	return out
}

// longest is the length in bytes from which on texts are not told apart by it.
const longest = 4096

// changed is the dictionary without the texts of some codes, ascending, and with further ones, which differ
// from its own and from each other. rank tells for each code of before that of after, nil if all stay as
// they are; codes are those of the further texts.
func (d *Dict) changed(gone []uint32, more []string) (out *Dict, rank, codes []uint32) {
	by := make([]int, len(more)) // which of them is put in where
	p := Patch{Rows: d.Len(), Gone: make([]int32, len(gone)), Added: make([]int32, len(more))}
	for i, code := range gone {
		p.Gone[i] = int32(code)
	}
	places := make([]uint32, len(more))
	for i, text := range more {
		if by[i], places[i] = i, uint32(d.Len()); !d.unordered {
			places[i], _ = d.place(text)
		}
	}
	if !d.unordered {
		slices.SortFunc(by, func(a, b int) int {
			if c := cmp.Compare(places[a], places[b]); c != 0 {
				return c
			}
			if c := CompareNatural(Fold(more[a]), Fold(more[b])); c != 0 {
				return c
			}
			return strings.Compare(more[a], more[b])
		})
	}
	fresh := lines{ends: make([]uint32, len(more))}
	var text []byte
	for at, i := range by {
		p.Added[at] = int32(places[i])
		text = append(text, more[i]...)
		fresh.ends[at] = uint32(len(text))
	}
	fresh.text = asString(text)
	out = d.patched(&p, fresh)
	out.unordered = d.unordered
	codes = make([]uint32, len(more))
	p.each(func(int, int, int) {}, func(from, to, n int) {
		for i := range n {
			codes[by[from+i]] = uint32(to + i)
		}
	})
	if moved := p.Moved(); moved != nil {
		rank = make([]uint32, len(moved))
		for code, to := range moved {
			rank[code] = uint32(max(to, 0)) // those that are gone are no row's
		}
	}
	if !out.unordered {
		out.index = d.indexAfter(out, gone, rank, codes)
	}
	return out, rank, codes
}

// patched is the dictionary with some texts cut out and others put in.
func (d *Dict) patched(p *Patch, fresh lines) *Dict {
	if d.values.ends != nil {
		return &Dict{values: d.values.patched(p, fresh), folded: d.folded.patched(p, foldLines(fresh))}
	}
	if !isASCII(fresh.text) {
		given := d.texts()
		return newDict(given.patched(p, fresh))
	}
	low, capitals := lowered(fresh.text)
	out := &Dict{folded: d.folded.patched(p, lines{text: low, ends: fresh.ends})}
	if d.capitals == nil && capitals == nil {
		return out
	}
	out.capitals = make([]uint64, (len(out.folded.text)+63)/64)
	at := 0
	p.each(func(from, _, n int) {
		lo, hi := d.folded.from(from), d.folded.from(from+n)
		copyBits(out.capitals, at, d.capitals, int(lo), int(hi-lo))
		at += int(hi - lo)
	}, func(from, _, n int) {
		lo, hi := fresh.from(from), fresh.from(from+n)
		copyBits(out.capitals, at, capitals, int(lo), int(hi-lo))
		at += int(hi - lo)
	})
	return out
}

// from is where a text begins; that behind the last ends them all.
func (l *lines) from(i int) uint32 {
	if i == 0 {
		return 0
	}
	return l.ends[i-1]
}

// patched cuts some lines out and puts others in.
func (l *lines) patched(p *Patch, fresh lines) lines {
	if p.Stays() {
		return l.longer(fresh)
	}
	text := make([]byte, 0, len(l.text)+len(fresh.text))
	ends := make([]uint32, 0, p.After())
	take := func(of *lines, from, n int) {
		lo, hi := of.from(from), of.from(from+n)
		shift := uint32(len(text)) - lo
		text = append(text, of.text[lo:hi]...)
		for _, end := range of.ends[from : from+n] {
			ends = append(ends, end+shift)
		}
	}
	p.each(func(from, _, n int) { take(l, from, n) }, func(from, _, n int) { take(&fresh, from, n) })
	return lines{text: asString(text), ends: ends}
}

// longer puts lines behind the others, in the same memory if there is room.
func (l *lines) longer(more lines) lines {
	bytes := unsafe.Slice(unsafe.StringData(l.text), len(l.text))
	in := l.room
	if in != nil {
		bytes = in.bytes[:len(l.text)]
	} else {
		in = &linesRoom{}
	}
	out := &linesRoom{}
	bytes, out.ofBytes = extended(bytes, in.ofBytes, unsafe.Slice(unsafe.StringData(more.text), len(more.text)))
	out.bytes = bytes
	ends := make([]uint32, len(more.ends))
	for i, end := range more.ends {
		ends[i] = end + uint32(len(l.text))
	}
	ends, out.ofEnds = extended(l.ends, in.ofEnds, ends)
	return lines{asString(bytes), ends, out}
}

// linesRoom is the room behind lines.
type linesRoom struct {
	bytes           []byte
	ofBytes, ofEnds *room
}

// copyBits copies n bits; those of dst must be 0 there. A nil src has none set.
func copyBits(dst []uint64, at int, src []uint64, from, n int) {
	if src == nil {
		return
	}
	for n > 0 {
		// As many as lie in one word both here and there.
		step := min(n, 64-at%64, 64-from%64)
		word := src[from/64] >> (from % 64)
		if step < 64 {
			word &= 1<<step - 1
		}
		dst[at/64] |= word << (at % 64)
		at, from, n = at+step, from+step, n-step
	}
}
