package table

import (
	"errors"
	"hash/maphash"
	"math"
)

// ErrTooMuchText says that the distinct texts of one column pass 4 GB.
var ErrTooMuchText = errors.New("table: the distinct texts of one column are more than 4 GB")

// seed is one for all hashes of this process.
var seed = maphash.MakeSeed()

// DictBuilder collects texts in the order of the rows, with provisional codes.
type DictBuilder struct {
	// chunks hold the texts; none straddles two. Growing means a new chunk, never a
	// copy of what is there.
	chunks [][]byte
	refs   []textRef // by provisional code; the first is the blank
	bytes  int
	// slots is an open hash table: the upper half of a hash, by which a text finds its
	// slot, and a code; 0 is a free slot. It is never more than half full. Without it,
	// all texts differ.
	slots []uint64
	full  bool
}

// textRef is a text within a chunk.
type textRef struct{ chunk, from, to uint32 }

const chunkBytes = 1 << 20

// NewDictBuilder returns a builder that knows only the blank, as code 0.
func NewDictBuilder() *DictBuilder {
	return &DictBuilder{refs: []textRef{{}}, slots: make([]uint64, 64)}
}

// NewUniqueBuilder is NewDictBuilder for texts that are known to differ all, and
// about how many they are.
func NewUniqueBuilder(texts int) *DictBuilder {
	return &DictBuilder{refs: append(make([]textRef, 0, texts+1), textRef{})}
}

// Code returns the provisional code of a text. An empty text is a blank: an
// analyst cannot tell the two apart on a screen.
func (b *DictBuilder) Code(text []byte) uint32 {
	if len(text) == 0 {
		return 0
	}
	if b.slots == nil {
		return b.add(text)
	}
	hash := maphash.Bytes(seed, text)
	mask := uint64(len(b.slots) - 1)
	at := hash >> 32 & mask
	for ; b.slots[at] != 0; at = (at + 1) & mask {
		slot := b.slots[at]
		if slot>>32 == hash>>32 && string(b.text(uint32(slot))) == string(text) {
			return uint32(slot)
		}
	}
	code := b.add(text)
	if code == 0 {
		return 0
	}
	b.slots[at] = hash>>32<<32 | uint64(code)
	if 2*len(b.refs) > len(b.slots) {
		b.grow()
	}
	return code
}

// Bytes is what the texts collected so far hold.
func (b *DictBuilder) Bytes() int64 { return int64(b.bytes) + 16*int64(len(b.refs)) }

// CodeOf is Code for a string.
func (b *DictBuilder) CodeOf(text string) uint32 { return b.Code([]byte(text)) }

func (b *DictBuilder) text(code uint32) []byte {
	r := b.refs[code]
	return b.chunks[r.chunk][r.from:r.to]
}

// add keeps a new text.
func (b *DictBuilder) add(text []byte) uint32 {
	if b.bytes+len(text) > math.MaxUint32 {
		b.full = true
		return 0
	}
	last := len(b.chunks) - 1
	if last < 0 || len(b.chunks[last])+len(text) > cap(b.chunks[last]) {
		size := chunkBytes
		if b.bytes < chunkBytes { // most columns have few texts
			size = max(1024, b.bytes)
		}
		b.chunks = append(b.chunks, make([]byte, 0, max(size, len(text))))
		last++
	}
	c := b.chunks[last]
	b.chunks[last] = append(c, text...)
	b.refs = append(b.refs, textRef{uint32(last), uint32(len(c)), uint32(len(c) + len(text))})
	b.bytes += len(text)
	return uint32(len(b.refs) - 1)
}

// grow makes room; the slots say all that is needed to place them anew.
func (b *DictBuilder) grow() {
	old := b.slots
	b.slots = make([]uint64, 4*len(old))
	mask := uint64(len(b.slots) - 1)
	for _, slot := range old {
		if slot == 0 {
			continue
		}
		at := slot >> 32 & mask
		for b.slots[at] != 0 {
			at = (at + 1) & mask
		}
		b.slots[at] = slot
	}
}

// Err says whether a text could not be taken; it is blank then.
func (b *DictBuilder) Err() error {
	if b.full {
		return ErrTooMuchText
	}
	return nil
}

// Texts that are long and many are not put into label order before somebody asks
// for it: few people sort by a free note, and all would wait for it.
const (
	manyTexts = 50_000
	longText  = 32 // bytes on average
)

// orderedLate says of how many texts of how many bytes that is.
func orderedLate(texts, bytes int) bool { return texts > manyTexts && bytes > longText*texts }

// Build makes the dictionary and rewrites codes, given provisionally, in place. The
// builder is of no use afterwards.
func (b *DictBuilder) Build(codes []uint32) *Texts {
	b.slots = nil
	given := b.joined()
	d := newDict(given)
	made := func(d *Dict) *Texts {
		d.makeIndex()
		c := NewTexts(codes, d)
		c.findRows()
		return c
	}
	if orderedLate(len(b.refs), b.bytes) {
		d.unordered = true
		return NewTexts(codes, d)
	}
	order := sortTexts(given, d.folded)
	if order == nil { // they came in order
		return made(d)
	}
	rank := ranks(order)
	for i, c := range codes {
		codes[i] = rank[c]
	}
	return made(newDict(given.permuted(order)))
}

// ranks turns an order round: where each code stands in it.
func ranks(order []uint32) []uint32 {
	out := make([]uint32, len(order))
	for pos, code := range order {
		out[code] = uint32(pos)
	}
	return out
}

// joined writes the texts one after another.
func (b *DictBuilder) joined() lines {
	text := make([]byte, 0, b.bytes)
	ends := make([]uint32, len(b.refs))
	for i, r := range b.refs {
		if i > 0 {
			text = append(text, b.chunks[r.chunk][r.from:r.to]...)
		}
		ends[i] = uint32(len(text))
	}
	b.chunks, b.refs = nil, b.refs[:len(b.refs):len(b.refs)]
	return lines{text: asString(text), ends: ends}
}
