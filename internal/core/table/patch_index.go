package table

import "math/bits"

// indexAfter is the index of what the dictionary has become: that of before without the codes that are gone,
// ascending, with the others' new ones, as rank tells, and with those of the texts that came in.
func (d *Dict) indexAfter(after *Dict, gone, rank, added []uint32) *index {
	const full = 0.85
	x := d.found()
	if x == nil || bits.Len(uint(after.Len())) != x.codeBits || float64(after.Len()) > full*float64(len(x.slots)) {
		after.makeIndex()
		return after.index
	}
	out := &index{slots: append([]uint32(nil), x.slots...), codeBits: x.codeBits, width: x.width}
	codes := uint32(1)<<x.codeBits - 1
	left := map[uint32]bool{}
	for _, code := range gone {
		left[code] = true
	}
	for _, code := range gone {
		out.forget(d, code, left)
	}
	if rank != nil {
		for i, slot := range out.slots {
			if slot != 0 {
				out.slots[i] = slot&^codes | rank[slot&codes]
			}
		}
	}
	in := map[uint32]bool{}
	for _, code := range added {
		in[code] = true
	}
	for _, code := range added {
		out.remember(after, code, in)
		if len(after.Folded(code)) != out.width {
			out.width = 0
		}
	}
	return out
}

// forget takes a code out. Of texts that differ in case alone, the first of those that stay takes its slot.
func (x *index) forget(d *Dict, code uint32, left map[uint32]bool) {
	text := d.Folded(code)
	codes := uint32(1)<<x.codeBits - 1
	at, tag := x.start(text)
	for x.slots[at] != 0 && x.slots[at] != tag|code {
		at = x.next(at)
	}
	if x.slots[at] == 0 {
		return // another of the same folded text has the slot
	}
	for next := code + 1; next < uint32(d.Len()) && d.Folded(next) == text; next++ {
		if !left[next] {
			x.slots[at] = tag | next
			return
		}
	}
	// What follows moves up, unless it would come to lie before where its search begins.
	free := at
	for at = x.next(at); x.slots[at] != 0; at = x.next(at) {
		home, _ := x.start(d.Folded(x.slots[at] & codes))
		if between := free < at && free < home && home <= at || free > at && (home > free || home <= at); between {
			continue
		}
		x.slots[free], free = x.slots[at], at
	}
	x.slots[free] = 0
}

// remember puts a code in, if it is the first of its folded text.
func (x *index) remember(d *Dict, code uint32, in map[uint32]bool) {
	text := d.Folded(code)
	if d.Folded(code-1) == text && code > 1 {
		return
	}
	old := uint32(0) // the first of those that were there before
	for next := code + 1; next < uint32(d.Len()) && d.Folded(next) == text; next++ {
		if !in[next] {
			old = next
			break
		}
	}
	at, tag := x.start(text)
	for x.slots[at] != 0 && (old == 0 || x.slots[at] != tag|old) {
		at = x.next(at)
	}
	x.slots[at] = tag | code
}
