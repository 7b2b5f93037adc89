package table

import (
	"cmp"
	"slices"
	"sort"
)

// Key is the columns that tell the rows of a table apart, the first of them most. Rows stand in the order of
// their key, so that they stand in the same one however they came.
type Key struct{ parts []keyPart }

// keyPart compares rows by one column of their key.
type keyPart struct {
	numbers []int64
	codes   []uint32
	dict    *Dict
}

// NewKey returns the key of some columns; ok is false if they have no order, or have blanks.
func NewKey(columns []Column) (k Key, ok bool) {
	for _, col := range columns {
		switch c := col.(type) {
		case *Numbers:
			k.parts, ok = append(k.parts, keyPart{numbers: c.Values}), c.blanks == 0
		case *Texts:
			k.parts = append(k.parts, keyPart{codes: c.Codes, dict: c.Dict})
			ok = c.blanks == 0 && !c.Dict.unordered
		default:
			ok = false
		}
		if !ok {
			return Key{}, false
		}
	}
	return k, len(k.parts) > 0
}

// Order says in which order the rows ascend by their key; nil if they stand in it. ok is false if the key
// does not tell all of them apart.
func (k Key) Order() (order []int32, ok bool) {
	n := k.parts[0].len()
	ascending := true
	for i := int32(1); int(i) < n && ascending; i++ {
		ascending = k.compare(i-1, i) < 0
	}
	if ascending {
		return nil, true
	}
	order = make([]int32, n)
	for i := range order {
		order[i] = int32(i)
	}
	slices.SortFunc(order, k.compare)
	for i := 1; i < n; i++ {
		if k.compare(order[i-1], order[i]) == 0 {
			return nil, false
		}
	}
	return order, true
}

func (k Key) compare(a, b int32) int {
	for _, part := range k.parts {
		c := 0
		if part.dict == nil {
			c = cmp.Compare(part.numbers[a], part.numbers[b])
		} else {
			c = cmp.Compare(part.codes[a], part.codes[b])
		}
		if c != 0 {
			return c
		}
	}
	return 0
}

func (p keyPart) len() int { return len(p.numbers) + len(p.codes) }

// Find looks keys up among rows that stand in the order of theirs. asked are columns of the same kinds, pair
// by pair. For each key: the row that has it, or -1, and the row before which one with it would stand.
func (k Key) Find(asked []Column) (rows, places []int32) {
	n, keys := k.parts[0].len(), asked[0].Len()
	rows, places = make([]int32, keys), make([]int32, keys)
	wanted := make([]wantedPart, len(k.parts))
	for i, part := range k.parts {
		wanted[i] = part.wanted(asked[i])
	}
	for i := range keys {
		at := sort.Search(n, func(row int) bool {
			for j, part := range k.parts {
				if c := part.against(row, wanted[j], i); c != 0 {
					return c > 0
				}
			}
			return true
		})
		rows[i], places[i] = -1, int32(at)
		if at == n {
			continue
		}
		same := true
		for j, part := range k.parts {
			same = same && part.against(at, wanted[j], i) == 0
		}
		if same {
			rows[i] = int32(at)
		}
	}
	return rows, places
}

// wantedPart are the values of one column that are looked for. A text that the rows do not have stands
// before a code of theirs.
type wantedPart struct {
	numbers []int64
	codes   []uint32
	before  []bool
}

func (p keyPart) wanted(asked Column) wantedPart {
	if p.dict == nil {
		return wantedPart{numbers: asked.(*Numbers).Values}
	}
	c := asked.(*Texts)
	codes, before := make([]uint32, len(c.Codes)), make([]bool, len(c.Codes))
	for i, code := range c.Codes {
		at, there := p.dict.place(c.Dict.Value(code))
		codes[i], before[i] = at, !there
	}
	return wantedPart{codes: codes, before: before}
}

// against compares a row with the i-th value that is looked for.
func (p keyPart) against(row int, w wantedPart, i int) int {
	if p.dict == nil {
		return cmp.Compare(p.numbers[row], w.numbers[i])
	}
	if c := cmp.Compare(p.codes[row], w.codes[i]); c != 0 || !w.before[i] {
		return c
	}
	return 1
}
