package kept

import "gavrik/internal/core/cell"

// column is the cells of one head, of records or of groups, as arrays: a cell of every kind is a
// kind with a number, or with a text of the dictionary.
type column struct {
	Kinds []byte
	// Ints are the numbers; of a Text, its place in Texts.
	Ints  []int64
	Texts []string
	// Scales are those of the numbers, or one for all.
	Scales []int8
	// More is what few cells have, by their places.
	More map[int32]cell.More

	places map[string]int64 // of the texts, while it is filled
}

func (c *column) add(v cell.Cell) {
	at := int32(len(c.Kinds))
	c.Kinds = append(c.Kinds, byte(v.Kind))
	if v.More != nil {
		if c.More == nil {
			c.More = map[int32]cell.More{}
		}
		c.More[at] = *v.More
	}
	n := v.Int
	if v.Kind == cell.Text || v.Kind == cell.Picture {
		place, known := c.places[v.Text]
		if !known {
			if c.places == nil {
				c.places = map[string]int64{}
			}
			place = int64(len(c.Texts))
			c.places[v.Text], c.Texts = place, append(c.Texts, v.Text)
		}
		n = place
	}
	c.Ints = append(c.Ints, n)
	c.scale(int(at), v.Scale)
}

// scale notes the decimals of the cell at a place; mostly they are the same for all.
func (c *column) scale(at int, scale int8) {
	switch {
	case at == 0:
		c.Scales = []int8{scale}
	case len(c.Scales) == 1 && c.Scales[0] != scale:
		all := make([]int8, at, 2*at+1)
		for i := range all {
			all[i] = c.Scales[0]
		}
		c.Scales = append(all, scale)
	case len(c.Scales) > 1:
		c.Scales = append(c.Scales, scale)
	}
}

// at is the cell at a place.
func (c *column) at(i int) cell.Cell {
	out := cell.Cell{Kind: cell.Kind(c.Kinds[i]), Int: c.Ints[i]}
	if len(c.Scales) == 1 {
		out.Scale = c.Scales[0]
	} else {
		out.Scale = c.Scales[i]
	}
	if out.Kind == cell.Text || out.Kind == cell.Picture {
		out.Int, out.Text = 0, c.Texts[out.Int]
	}
	if more, ok := c.More[int32(i)]; ok {
		out.More = &more
	}
	return out
}

// whole says whether a column that was read has so many cells, each of which can be read.
func (c *column) whole(cells int) bool {
	if len(c.Kinds) != cells || len(c.Ints) != cells || len(c.Scales) != cells && len(c.Scales) != min(cells, 1) {
		return false
	}
	for i, kind := range c.Kinds {
		text := cell.Kind(kind) == cell.Text || cell.Kind(kind) == cell.Picture
		if cell.Kind(kind) > cell.Several || text && (c.Ints[i] < 0 || c.Ints[i] >= int64(len(c.Texts))) {
			return false
		}
	}
	return true
}

func (c *column) bytes() int64 {
	n := int64(len(c.Kinds) + 8*len(c.Ints) + len(c.Scales))
	for _, text := range c.Texts {
		n += 16 + int64(len(text))
	}
	for _, m := range c.More {
		n += 96 + 64*int64(len(m.Amounts))
	}
	return n
}
