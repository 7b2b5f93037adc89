// Package ordering puts records into the order that a plan asks for, as far as they are looked at.
package ordering

import (
	"cmp"
	"context"
	"slices"
	"sync/atomic"

	"gavrik/internal/core/kernel"
	"gavrik/internal/core/turn"
)

// Sorter puts records into order as far as they are asked for. The leading bits of
// their keys divide them into parts, in order among each other; a part is sorted when
// a window first touches it. Records equal in all keys keep their order.
type Sorter struct {
	rows    kernel.Rows
	keys    []Key // the first in weight first
	packed  int   // how many of the keys fit together into 64 bits
	width   int   // their bits
	workers int

	busy chan struct{} // holds one while somebody works on following fields
	// order are positions, divided into parts; nil until they are.
	order  []int32
	start  []int32 // of each part; one more behind the last
	sorted []bool
}

func NewSorter(rs kernel.Rows, keys []Key, workers int) *Sorter {
	s := &Sorter{rows: rs, keys: keys, workers: workers, busy: make(chan struct{}, 1)}
	for s.packed < len(keys) && s.width+keys[s.packed].width() <= 64 {
		s.width += keys[s.packed].width()
		s.packed++
	}
	return s
}

// Window returns the table rows at places lo to hi.
func (s *Sorter) Window(ctx context.Context, lo, hi int) ([]int32, error) {
	if len(s.keys) == 0 || lo >= hi {
		return s.rows.Slice(lo, max(lo, hi)), nil
	}
	order, err := s.Places(ctx, lo, hi)
	if err != nil {
		return nil, err
	}
	out := make([]int32, hi-lo)
	for i, pos := range order {
		out[i] = s.rows.At(int(pos))
	}
	return out, nil
}

// Places returns the positions at places lo to hi.
func (s *Sorter) Places(ctx context.Context, lo, hi int) ([]int32, error) {
	if len(s.keys) == 0 || lo >= hi {
		return kernel.Rows{N: s.rows.N}.Slice(lo, max(lo, hi)), nil
	}
	if err := s.enter(ctx); err != nil {
		return nil, err
	}
	defer func() { <-s.busy }()
	if s.order == nil {
		if err := s.divide(ctx); err != nil {
			return nil, err
		}
	}
	// The parts that the window touches, sorted by all cores.
	first, _ := slices.BinarySearch(s.start, int32(lo+1))
	var next atomic.Int32
	next.Store(int32(first - 1))
	err := kernel.EachShare(ctx, s.workers, 1, func(_, _ int, stopped func() bool) {
		for d := int(next.Add(1) - 1); d < len(s.sorted) && s.start[d] < int32(hi) &&
			!stopped(); d = int(next.Add(1) - 1) {
			if !s.sorted[d] {
				s.sortPart(s.order[s.start[d]:s.start[d+1]], stopped)
				s.sorted[d] = !stopped()
			}
		}
	})
	return s.order[lo:hi], err
}

// enter waits until nobody else puts these records into order, resting meanwhile: the
// other may need the turn.
func (s *Sorter) enter(ctx context.Context) error {
	select {
	case s.busy <- struct{}{}:
		return nil
	default:
	}
	waiting := turn.Of(ctx)
	waiting.Rest()
	select {
	case s.busy <- struct{}{}:
		return nil
	case <-ctx.Done():
		return kernel.Stopped(ctx.Err())
	}
}

// divide makes the parts: a counting sort of all positions by the leading bits.
func (s *Sorter) divide(ctx context.Context) error {
	n := s.rows.N
	digit := make([]uint16, n)
	share := (n + s.workers - 1) / s.workers
	counts := make([][kernel.DigitSize]int32, s.workers)
	err := kernel.EachShare(ctx, n, share, func(lo, hi int, stopped func() bool) {
		count := &counts[lo/share]
		keys := make([]uint64, min(kernel.BlockRows, hi-lo))
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			keys = keys[:min(kernel.BlockRows, hi-lo)]
			s.lead(keys, lo)
			for i, k := range keys {
				digit[lo+i] = uint16(k)
				count[k]++
			}
		}
	})
	if err != nil {
		return err
	}
	start := make([]int32, kernel.DigitSize+1)
	at := int32(0)
	for d := range kernel.DigitSize {
		start[d] = at
		for w := range counts {
			n := counts[w][d]
			counts[w][d] = at
			at += n
		}
	}
	start[kernel.DigitSize] = at
	order := make([]int32, n)
	err = kernel.EachShare(ctx, n, share, func(lo, hi int, stopped func() bool) {
		at := &counts[lo/share]
		for ; lo < hi && !stopped(); lo += kernel.BlockRows {
			for i, d := range digit[lo:min(lo+kernel.BlockRows, hi)] {
				order[at[d]] = int32(lo + i)
				at[d]++
			}
		}
	})
	s.order, s.start, s.sorted = order, start, make([]bool, kernel.DigitSize)
	if err != nil {
		s.order = nil
	}
	return err
}

// lead writes the leading digit of the positions from lo on.
func (s *Sorter) lead(keys []uint64, lo int) {
	clear(keys)
	width := 0
	for _, k := range s.keys[:max(1, s.packed)] {
		w := k.width()
		if width > 0 {
			for i := range keys {
				keys[i] <<= w
			}
		}
		k.put(keys, lo, 0)
		if width += w; width >= kernel.DigitBits {
			break
		}
	}
	if over := max(0, width-kernel.DigitBits); over > 0 {
		for i := range keys {
			keys[i] >>= over
		}
	}
}

// sortPart orders the positions of one part.
func (s *Sorter) sortPart(part []int32, stopped func() bool) {
	if len(part) < 2 {
		return
	}
	pairs := make([]kernel.Pair, len(part))
	for i, pos := range part {
		var key uint64
		for _, k := range s.keys[:s.packed] {
			key = key<<k.width() | k.at(pos)
		}
		pairs[i] = kernel.Pair{Key: key, Pos: pos}
	}
	if len(pairs) <= kernel.LargePart {
		slices.SortFunc(pairs, kernel.ComparePairs)
	} else {
		pairs, _ = kernel.SortPairs(pairs, make([]kernel.Pair, len(pairs)), s.width, stopped)
	}
	if s.packed < len(s.keys) {
		for lo := 0; lo < len(pairs); {
			hi := lo + 1
			for hi < len(pairs) && pairs[hi].Key == pairs[lo].Key {
				hi++
			}
			slices.SortStableFunc(pairs[lo:hi], func(a, b kernel.Pair) int { return s.compareRest(a.Pos, b.Pos) })
			lo = hi
		}
	}
	if stopped() {
		return // the part stays as it was
	}
	for i, p := range pairs {
		part[i] = p.Pos
	}
}

// compareRest compares by the keys that were not packed.
func (s *Sorter) compareRest(a, b int32) int {
	for _, k := range s.keys[s.packed:] {
		if c := cmp.Compare(k.at(a), k.at(b)); c != 0 {
			return c
		}
	}
	return 0
}

// All returns every position in order.
func (s *Sorter) All(ctx context.Context) ([]int32, error) {
	if len(s.keys) > 0 {
		return s.Places(ctx, 0, s.rows.N)
	}
	out := make([]int32, s.rows.N)
	for i := range out {
		out[i] = int32(i)
	}
	return out, nil
}
