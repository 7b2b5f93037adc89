package table

import "slices"

// patched is a column of texts after a patch. Its dictionary holds just the texts that its rows have, as if
// it had been built of them.
func (c *Texts) patched(p *Patch, fresh *Texts) Column {
	given := c.codesFor(fresh, p)
	if p.Stays() && len(p.Added) == 0 && !slices.Contains(given.codes, unknown) {
		changes := false
		for i, row := range p.Changed {
			changes = changes || c.Codes[row] != given.codes[i]
		}
		if !changes {
			return c
		}
	}
	gone := c.unused(p, given.codes)
	dict, in, before, codes := c.Dict, c.room, c.Codes, given.codes
	if len(gone)+len(given.more) > 0 {
		var rank, added []uint32
		dict, rank, added = c.Dict.changed(gone, given.more)
		if rank != nil {
			in, before = nil, make([]uint32, len(c.Codes))
			for i, code := range c.Codes {
				before[i] = rank[code]
			}
		}
		for i, code := range codes {
			if code == unknown {
				codes[i] = added[given.which[i]]
			} else if rank != nil {
				codes[i] = rank[code]
			}
		}
	}
	after, in := rows(p, before, in, codes, func(a, b uint32) bool { return a == b })
	out := NewTexts(after, dict)
	out.room = in
	if !dict.unordered {
		out.findRows()
	}
	return out
}

// unknown stands for the code of a text that a dictionary does not have.
const unknown = ^uint32(0)

// freshTexts are the texts of fresh rows by the codes of the column before.
type freshTexts struct {
	codes []uint32 // unknown if the column does not have the text
	// more are the texts that it does not have, which tells for each row its text among them.
	more  []string
	which []int
}

func (c *Texts) codesFor(fresh *Texts, p *Patch) freshTexts {
	out := freshTexts{codes: make([]uint32, len(fresh.Codes)), which: make([]int, len(fresh.Codes))}
	// Most rows that change keep most of their texts: those need not be looked for.
	known := make([]uint32, fresh.Dict.Len())
	for code := 1; code < len(known); code++ {
		known[code] = unknown
	}
	for i, row := range p.Changed {
		if code := fresh.Codes[i]; known[code] == unknown && c.Dict.Value(c.Codes[row]) == fresh.Dict.Value(code) {
			known[code] = c.Codes[row]
		}
	}
	var asked []uint32
	var texts []string
	for code, have := range known {
		if have == unknown {
			asked, texts = append(asked, uint32(code)), append(texts, fresh.Dict.Value(uint32(code)))
		}
	}
	place := make([]int, len(known))
	if len(texts) > 0 {
		for i, code := range c.Dict.codesOf(texts) {
			if code > 0 {
				known[asked[i]] = code
				continue
			}
			place[asked[i]] = len(out.more)
			out.more = append(out.more, texts[i])
		}
	}
	for i, code := range fresh.Codes {
		out.codes[i], out.which[i] = known[code], place[code]
	}
	return out
}

// unused are the codes that no row has any more, ascending; given are those of the fresh rows.
func (c *Texts) unused(p *Patch, given []uint32) []uint32 {
	left := map[uint32]bool{}
	for _, row := range p.Gone {
		left[c.Codes[row]] = true
	}
	for i, row := range p.Changed {
		if c.Codes[row] != given[i] {
			left[c.Codes[row]] = true
		}
	}
	for _, code := range given {
		delete(left, code)
	}
	delete(left, 0)
	if len(left) == 0 {
		return nil
	}
	if c.unique {
		return sortedCodes(left)
	}
	asked := make([]uint64, c.Dict.Len()/64+1)
	for code := range left {
		asked[code/64] |= 1 << (code % 64)
	}
	gone, changed := p.Gone, p.Changed
	for row, code := range c.Codes {
		if asked[code/64]>>(code%64)&1 == 0 {
			continue
		}
		for len(gone) > 0 && int(gone[0]) < row {
			gone = gone[1:]
		}
		for len(changed) > 0 && int(changed[0]) < row {
			changed = changed[1:]
		}
		if len(gone) > 0 && int(gone[0]) == row || len(changed) > 0 && int(changed[0]) == row {
			continue // what it had is what is asked about
		}
		asked[code/64] &^= 1 << (code % 64)
		if delete(left, code); len(left) == 0 {
			return nil
		}
	}
	return sortedCodes(left)
}

func sortedCodes(set map[uint32]bool) []uint32 {
	out := make([]uint32, 0, len(set))
	for code := range set {
		out = append(out, code)
	}
	slices.Sort(out)
	return out
}
