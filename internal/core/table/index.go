package table

import (
	"hash/maphash"
	"math/bits"
)

// index finds a text in a large dictionary by a hash of its folded form: three
// looks into memory, where halving takes twenty.
type index struct {
	// slots hold a code and, in the bits that no code needs, a part of its text's
	// hash; 0 is free. A quarter of them is.
	slots    []uint32
	codeBits int
	// width is the length of every text, if all are of one: their places need not be
	// looked up then.
	width int
}

// fewIndexed is up to how many texts are searched by halves.
const fewIndexed = 4096

// makeIndex is called once, while the dictionary is built.
func (d *Dict) makeIndex() {
	if d.Len() <= fewIndexed {
		return
	}
	x := &index{
		slots: make([]uint32, d.Len()/3*4+64), codeBits: bits.Len(uint(d.Len())), width: d.folded.width(),
	}
	for code := uint32(1); code < uint32(d.Len()); code++ {
		text := d.Folded(code)
		if code > 1 && d.Folded(code-1) == text {
			continue // those that differ in case alone stand side by side
		}
		at, tag := x.start(text)
		for x.slots[at] != 0 {
			at = x.next(at)
		}
		x.slots[at] = tag | code
	}
	d.index = x
}

// start scales a hash down to the slots; its lowest bits are the tag.
func (x *index) start(text string) (at, tag uint32) {
	hash := maphash.String(seed, text)
	hi, _ := bits.Mul64(hash, uint64(len(x.slots)))
	return uint32(hi), uint32(hash) << x.codeBits
}

func (x *index) next(at uint32) uint32 {
	if at++; at < uint32(len(x.slots)) {
		return at
	}
	return 0
}

func (x *index) find(dst []uint32, d *Dict, text string, at, tag uint32) []uint32 {
	codes := uint32(1)<<x.codeBits - 1
	for ; x.slots[at] != 0; at = x.next(at) {
		code := x.slots[at] & codes
		if x.slots[at]&^codes != tag {
			continue
		}
		if x.width > 0 {
			if from := x.width * int(code-1); d.folded.text[from:from+x.width] != text {
				continue
			}
			// All that is alike stands side by side.
			for dst = append(dst, code); int(code)+1 < d.Len() &&
				d.folded.text[x.width*int(code):x.width*int(code+1)] == text; code++ {
				dst = append(dst, code+1)
			}
			return dst
		}
		if d.Folded(code) == text {
			for ; code < uint32(d.Len()) && d.Folded(code) == text; code++ {
				dst = append(dst, code)
			}
			return dst
		}
	}
	return dst
}

// batch is how many texts are looked up at a time: a core waits for that many
// places of memory at once.
const batch = 32

// FindEach looks many folded texts up; it appends the codes of each to dst and
// calls missing with the places of those that are not there.
func (d *Dict) FindEach(dst []uint32, texts []string, missing func(i int)) []uint32 {
	one := func(i int, find func() []uint32) {
		before := len(dst)
		if dst = find(); len(dst) == before {
			missing(i)
		}
	}
	x := d.found()
	if x == nil {
		for i, s := range texts {
			one(i, func() []uint32 { return d.FindFolded(dst, s) })
		}
		return dst
	}
	var at, tag, slot [batch]uint32
	codes := uint32(1)<<x.codeBits - 1
	touched := uint32(0)
	for lo := 0; lo < len(texts); lo += batch {
		part := texts[lo:min(lo+batch, len(texts))]
		for i, s := range part {
			at[i], tag[i] = x.start(s)
			slot[i] = x.slots[at[i]]
		}
		// Touched here, they are near when they are compared.
		for i := range part {
			if code := max(slot[i]&codes, 1); x.width > 0 {
				slot[i] = uint32(x.width) * (code - 1)
			} else {
				slot[i] = d.folded.ends[code-1]
			}
		}
		for i := range part {
			touched += uint32(d.folded.text[min(int(slot[i]), len(d.folded.text)-1)])
		}
		for i, s := range part {
			one(lo+i, func() []uint32 { return x.find(dst, d, s, at[i], tag[i]) })
		}
	}
	if touched == 1 { // never; the looks above must not be left out
		return dst[:len(dst):len(dst)]
	}
	return dst
}
