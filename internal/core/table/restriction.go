package table

import "slices"

// Restriction says what is left out of a record set.
type Restriction struct {
	// Gone leaves out all of it, with the links that lead to it.
	Gone bool
	// Fields are the keys of columns that are left out.
	Fields []string
	// Rows are those that stay, ascending; nil keeps all.
	Rows []int32
}

// Cut is a snapshot without what restrictions leave out, and how it came about.
type Cut struct {
	*Snapshot
	from         *Snapshot
	restrictions map[string]Restriction
}

// Restricted returns the snapshot without what the restrictions leave out, as if it had never been
// there: no text, no row and no link tells of it. What is kept whole is shared, and what before, if not nil,
// has cut of the same in the same way. A link to a row that is gone leads nowhere.
func (s *Snapshot) Restricted(restrictions map[string]Restriction, before *Cut) *Cut {
	out := &Snapshot{AsOf: s.AsOf, Tables: map[string]*Table{}}
	// Where each row went.
	moved := map[string][]int32{}
	for name, c := range restrictions {
		if t := s.Tables[name]; t != nil && !c.Gone && c.Rows != nil {
			moved[name] = renumbered(t.Rows, c.Rows)
		}
	}
	for name, t := range s.Tables {
		c := restrictions[name]
		if c.Gone {
			continue
		}
		rows := t.Rows
		if c.Rows != nil {
			rows = len(c.Rows)
		}
		left := New(name, rows)
		left.AsOf = t.AsOf
		was := before.same(name, t, c)
		for key, col := range t.columns {
			switch {
			case slices.Contains(c.Fields, key):
				continue
			case c.Rows == nil:
			case was != nil && was.Column(key) != nil && before.from.Tables[name].Column(key) == col:
				col = was.Column(key)
			default:
				col = only(col, c.Rows)
			}
			left.Add(key, col)
		}
		for key, l := range t.links {
			switch {
			case restrictions[l.To].Gone:
			case was != nil && was.Link(key) != nil && before.from.Tables[name].Link(key) == l &&
				before.same(l.To, s.Tables[l.To], restrictions[l.To]) != nil:
				left.AddLink(key, was.Link(key))
			default:
				left.AddLink(key, l.only(c.Rows, moved[l.To]))
			}
		}
		out.Tables[name] = left
	}
	return &Cut{out, s, restrictions}
}

// Kept are the rows that stayed of a record set; nil for all.
func (c *Cut) Kept(set string) []int32 { return c.restrictions[set].Rows }

// same is what was left of a table, if the same rows of as many were.
func (c *Cut) same(name string, t *Table, r Restriction) *Table {
	if c == nil || t == nil || c.from.Tables[name] == nil || c.from.Tables[name].Rows != t.Rows {
		return nil
	}
	was := c.restrictions[name]
	if (was.Rows == nil) != (r.Rows == nil) || !slices.Equal(was.Rows, r.Rows) {
		return nil
	}
	return c.Tables[name]
}

// renumbered tells for each of n rows its number among those that stay, or -1.
func renumbered(n int, rows []int32) []int32 {
	out := make([]int32, n)
	for i := range out {
		out[i] = -1
	}
	for i, r := range rows {
		out[r] = int32(i)
	}
	return out
}

// only is the links of some rows, nil for all, to where their targets went, nil if none
// of them moved.
func (l *Links) only(rows, moved []int32) *Links {
	if rows == nil && moved == nil {
		return l
	}
	to := l.Rows
	if rows != nil {
		to = gather(l.Rows, rows, -1)
	}
	if moved != nil {
		to = gather(moved, to, -1)
	}
	return &Links{To: l.To, Rows: to}
}

// only is some rows of a column, with a dictionary of their texts alone.
func only(c Column, rows []int32) Column {
	t, ok := c.(*Texts)
	if !ok {
		return c.Gather(rows)
	}
	codes := gather(t.Codes, rows, 0)
	// New codes ascend as the old ones did, so that their order holds.
	code := make([]uint32, t.Dict.Len())
	for _, old := range codes {
		code[old] = 1
	}
	code[0] = 0
	given := t.Dict.texts()
	var texts []byte
	ends := []uint32{0}
	for old := range code {
		if code[old] == 0 {
			continue
		}
		texts = append(texts, given.at(uint32(old))...)
		code[old] = uint32(len(ends))
		ends = append(ends, uint32(len(texts)))
	}
	for i, old := range codes {
		codes[i] = code[old]
	}
	dict := newDict(lines{text: asString(texts), ends: ends})
	dict.given, dict.unordered = t.Dict.given, t.Dict.unordered
	if !dict.unordered && !dict.given {
		dict.makeIndex()
	}
	out := NewTexts(codes, dict)
	if !dict.unordered {
		out.findRows()
	}
	return out
}

// OwnBytes estimates what a snapshot holds that another does not.
func OwnBytes(s, other *Snapshot) int64 {
	shared := map[any]bool{}
	for _, t := range other.Tables {
		for _, c := range t.columns {
			shared[c] = true
		}
		for _, l := range t.links {
			shared[l] = true
		}
	}
	var own int64
	for _, t := range s.Tables {
		for _, c := range t.columns {
			if !shared[c] {
				own += c.Bytes()
			}
		}
		for _, l := range t.links {
			if !shared[l] {
				own += 4 * int64(len(l.Rows))
			}
		}
	}
	return own
}
