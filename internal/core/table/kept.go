package table

// Parts are what a column of texts can be written down as, and made of again.
type Parts struct {
	Codes []uint32
	// Text holds the distinct texts one after another, the blank's first; text i ends at Ends[i].
	Text string
	Ends []uint32
	// Unordered says that the texts stand in no order yet.
	Unordered bool
}

// Parts are those of the column. Nobody may write to them.
func (c *Texts) Parts() Parts {
	given := c.Dict.texts()
	return Parts{c.Codes, given.text, given.ends, c.Dict.unordered}
}

// TextsOf makes a column of its parts, which it takes over. An index is made when it is first needed.
func TextsOf(p Parts) *Texts {
	d := newDict(lines{text: p.Text, ends: p.Ends})
	d.unordered, d.late = p.Unordered, true
	c := NewTexts(p.Codes, d)
	if !d.unordered {
		c.findRows()
	}
	return c
}
