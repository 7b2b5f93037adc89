// Rows of a table: all, or those that a list names.

package kernel

// Rows is an ordered list of rows of a table: the first N of them or, if List is
// set, those it names.
type Rows struct {
	List []int32
	N    int
}

// Listed is the rows that a list names.
func Listed(list []int32) Rows { return Rows{list, len(list)} }

// RowsOf lists the marked rows.
func RowsOf(b Bitmap) Rows {
	if b.Count() == b.N {
		return Rows{N: b.N}
	}
	return Listed(b.Rows())
}

// At is the row at a position.
func (r Rows) At(i int) int32 {
	if r.List == nil {
		return int32(i)
	}
	return r.List[i]
}

// Slice is the rows from lo on, hi left out, as a list.
func (r Rows) Slice(lo, hi int) []int32 {
	if r.List != nil {
		return r.List[lo:hi]
	}
	out := make([]int32, hi-lo)
	for i := range out {
		out[i] = int32(lo + i)
	}
	return out
}

// Part is the positions from lo on, hi left out.
func (r Rows) Part(lo, hi int) Rows {
	if r.List == nil && lo == 0 {
		return Rows{nil, hi}
	}
	return Listed(r.Slice(lo, hi))
}

// From is the positions from lo on.
func (r Rows) From(lo int) Rows { return Listed(r.Slice(lo, r.N)) }

// ValuesAt are a column's values at positions lo to hi: a part of the column
// itself where positions are row numbers, else copied into buf. Loops over what it
// returns need not know of rows at all.
func ValuesAt[T any](vals []T, r Rows, lo, hi int, buf []T) []T {
	if r.List == nil {
		return vals[lo:hi]
	}
	buf = buf[:hi-lo]
	for i, row := range r.List[lo:hi] {
		buf[i] = vals[row]
	}
	return buf
}
