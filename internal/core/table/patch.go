package table

import (
	"fmt"
	"math"
	"slices"
)

// Patch is what becomes of the rows of a table: some are left out, some take other values, some come in.
// The values are in columns of their own, the fresh ones: first those of the rows that change, in the order
// of Changed, then those of the rows that come in, in the order of Added.
type Patch struct {
	// Rows is how many the table has before.
	Rows int
	// Gone are the rows that are left out, Changed those that take other values, ascending.
	Gone, Changed []int32
	// Added says for each row that comes in before which row of before it is put, ascending; Rows means
	// the end.
	Added []int32
}

// After is how many rows the table has then.
func (p *Patch) After() int { return p.Rows - len(p.Gone) + len(p.Added) }

// Fresh is how many rows the fresh columns have.
func (p *Patch) Fresh() int { return len(p.Changed) + len(p.Added) }

// Empty says that nothing becomes of the rows.
func (p *Patch) Empty() bool { return len(p.Gone)+len(p.Changed)+len(p.Added) == 0 }

// Stays says that every row keeps its number: what comes in comes in at the end.
func (p *Patch) Stays() bool {
	return len(p.Gone) == 0 && (len(p.Added) == 0 || int(p.Added[0]) == p.Rows)
}

// Moved tells for each row of before its number after, -1 if it is left out; nil if all stay.
func (p *Patch) Moved() []int32 {
	if p.Stays() {
		return nil
	}
	out := make([]int32, p.Rows)
	p.each(func(from, to, n int) {
		for i := range n {
			out[from+i] = int32(to + i)
		}
	}, func(int, int, int) {})
	for _, row := range p.Gone {
		out[row] = -1
	}
	return out
}

// each goes through the rows after in order: stretches of n rows of before, from one on, and stretches of
// fresh rows that come in; to is where each lies after.
func (p *Patch) each(kept, added func(from, to, n int)) {
	from, to, gone, in := 0, 0, 0, 0
	for from < p.Rows || in < len(p.Added) {
		// What comes in before this row.
		first := in
		for in < len(p.Added) && int(p.Added[in]) <= from {
			in++
		}
		if n := in - first; n > 0 {
			added(len(p.Changed)+first, to, n)
			to += n
		}
		if gone < len(p.Gone) && int(p.Gone[gone]) == from {
			gone++
			from++
			continue
		}
		end := p.Rows
		if gone < len(p.Gone) {
			end = int(p.Gone[gone])
		}
		if in < len(p.Added) {
			end = min(end, int(p.Added[in]))
		}
		if end > from {
			kept(from, to, end-from)
			to += end - from
			from = end
		}
	}
}

// keeps says that what is there stays as it is: if anything, further rows come in at the end. same says
// whether a row has the value of a fresh one.
func (p *Patch) keeps(same func(row, i int) bool) bool {
	for i, row := range p.Changed {
		if !same(int(row), i) {
			return false
		}
	}
	return p.Stays()
}

// rows are the values after: of before, with those of fresh. It is before itself if nothing differs; same
// says which values do not.
func rows[T any](p *Patch, before []T, in *room, fresh []T, same func(a, b T) bool) ([]T, *room) {
	if len(before) != p.Rows || len(fresh) != p.Fresh() {
		panic(fmt.Sprintf("table: a patch of %d and %d rows for columns of %d and %d",
			p.Rows, p.Fresh(), len(before), len(fresh)))
	}
	keeps := p.keeps(func(row, i int) bool { return same(before[row], fresh[i]) })
	added := fresh[len(p.Changed):]
	var out []T
	switch {
	case keeps && len(added) == 0:
		return before, in
	case keeps:
		return extended(before, in, added)
	case p.Stays():
		out = make([]T, p.After(), p.After()+p.After()/64+64)
		copy(out[copy(out, before):], added)
		for i, row := range p.Changed {
			out[row] = fresh[i]
		}
	default:
		out = make([]T, p.After(), p.After()+p.After()/64+64)
		changed := 0
		p.each(func(from, to, n int) {
			copy(out[to:to+n], before[from:from+n])
			for ; changed < len(p.Changed) && int(p.Changed[changed]) < from+n; changed++ {
				out[to+int(p.Changed[changed])-from] = fresh[changed]
			}
		}, func(from, to, n int) { copy(out[to:to+n], fresh[from:from+n]) })
	}
	return out, newRoom(len(out))
}

// Patched is a column after a patch: what a load would have made of the same values. What does not change is
// shared with the column before; if nothing does, it is that column. Columns of two kinds are a mistake of
// the loader and panic.
func (p *Patch) Patched(before, fresh Column) Column {
	switch c := before.(type) {
	case *Numbers:
		return c.patched(p, fresh.(*Numbers))
	case *Floats:
		return c.patched(p, fresh.(*Floats))
	case *Texts:
		return c.patched(p, fresh.(*Texts))
	}
	panic(fmt.Sprintf("table: a column of kind %T cannot be patched", before))
}

func (c *Numbers) patched(p *Patch, fresh *Numbers) Column {
	values, in := rows(p, c.Values, c.room, fresh.Values, func(a, b int64) bool { return a == b })
	if sameSlice(values, c.Values) {
		return c
	}
	if p.keeps(func(row, i int) bool { return c.Values[row] == fresh.Values[i] }) {
		return c.longer(values, in)
	}
	out := NewNumbers(values)
	out.room = in
	return out
}

// longer is the column with further values behind it; what is known of those before need not be found again.
func (c *Numbers) longer(values []int64, in *room) *Numbers {
	out := &Numbers{Values: values, room: in, blanks: c.blanks, min: c.min, max: c.max, step: c.step}
	for _, v := range values[len(c.Values):] {
		if v == Blank {
			out.blanks++
			continue
		}
		out.min, out.max = min(out.min, v), max(out.max, v)
	}
	// Without two values there were no distances, and of two that are too far apart it was not kept.
	if c.min >= c.max || uint64(c.max)-uint64(c.min) > math.MaxInt64 {
		out.step = step(values, out.min)
		return out
	}
	distance := gcd(uint64(c.min)-uint64(out.min), uint64(c.step))
	for _, v := range values[len(c.Values):] {
		if v != Blank {
			distance = gcd(uint64(v)-uint64(out.min), distance)
		}
	}
	out.step = int64(distance) // it divides c.step
	return out
}

func (c *Floats) patched(p *Patch, fresh *Floats) Column {
	values, in := rows(p, c.Values, c.room, fresh.Values, func(a, b float64) bool {
		return math.Float64bits(a) == math.Float64bits(b)
	})
	if sameSlice(values, c.Values) {
		return c
	}
	out := NewFloats(values)
	out.room = in
	return out
}

// Patched are the links after a patch of their own rows, where fresh are those of the fresh rows, and after
// the rows that they lead to have moved, nil if none of them has; fresh ones lead to where rows are after.
func (l *Links) Patched(p *Patch, fresh, moved []int32) *Links {
	before, in := l.Rows, l.room
	if moved != nil {
		before, in = make([]int32, len(l.Rows)), nil
		for i, row := range l.Rows {
			if before[i] = -1; row >= 0 {
				before[i] = moved[row]
			}
		}
	}
	out, in := rows(p, before, in, fresh, func(a, b int32) bool { return a == b })
	if slices.Equal(out, l.Rows) {
		return l
	}
	return &Links{To: l.To, Rows: out, room: in}
}

// sameSlice says that two slices are one.
func sameSlice[T any](a, b []T) bool {
	return len(a) == len(b) && (len(a) == 0 || &a[0] == &b[0])
}

// Reordered is a column with its rows in another order.
func Reordered(c Column, order []int32) Column {
	out := c.Gather(order)
	if t, ok := out.(*Texts); ok && !t.Dict.unordered && !t.Dict.given {
		t.findRows()
	}
	return out
}
