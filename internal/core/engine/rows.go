package engine

import "gavrik/internal/core/kernel"

// rows is an ordered list of rows of a table: the first n of them or, if list is
// set, those it names.
type rows struct {
	list []int32
	n    int
}

func listed(list []int32) rows { return rows{list, len(list)} }

// at is the row at a position.
func (r rows) at(i int) int32 {
	if r.list == nil {
		return int32(i)
	}
	return r.list[i]
}

// slice is the rows from lo on, hi left out, as a list.
func (r rows) slice(lo, hi int) []int32 {
	if r.list != nil {
		return r.list[lo:hi]
	}
	out := make([]int32, hi-lo)
	for i := range out {
		out[i] = int32(lo + i)
	}
	return out
}

// part is the positions from lo on, hi left out.
func (r rows) part(lo, hi int) rows {
	if r.list == nil && lo == 0 {
		return rows{nil, hi}
	}
	return listed(r.slice(lo, hi))
}

// valuesAt are a column's values at positions lo to hi: a part of the column
// itself where positions are row numbers, else copied into buf. Loops over what it
// returns need not know of rows at all.
func valuesAt[T any](vals []T, r rows, lo, hi int, buf []T) []T {
	if r.list == nil {
		return vals[lo:hi]
	}
	buf = buf[:hi-lo]
	for i, row := range r.list[lo:hi] {
		buf[i] = vals[row]
	}
	return buf
}

// pass calls do with every value in the order of the rows, a block at a time,
// unless the run is stopped. Work that cannot be split goes this way.
func pass[T any](r *run, vals []T, rs rows, do func(at int, vals []T)) error {
	buf := make([]T, min(kernel.BlockRows, rs.n))
	for lo := 0; lo < rs.n; lo += kernel.BlockRows {
		if err := r.stopped(); err != nil {
			return err
		}
		do(lo, valuesAt(vals, rs, lo, min(lo+kernel.BlockRows, rs.n), buf))
	}
	return nil
}
