// Radix sort of keys with positions, least significant digit first, and by parts over the cores.

package kernel

import (
	"cmp"
	"slices"
	"sync/atomic"

	"gavrik/internal/core/fault"
)

// Pair is a sort key and the position it belongs to.
type Pair struct {
	Key uint64
	Pos int32
}

const (
	DigitBits = 11
	DigitSize = 1 << DigitBits
)

// SortPairs orders pairs by the lowest bits of their keys, ascending and stable:
// a radix sort from the last digit to the first. A digit that all keys share
// costs one look. The result lies in one of the two slices, which are of equal
// length; the other is returned as the new spare. Once stopped says so, the order is
// of no use.
func SortPairs(pairs, spare []Pair, bits int, stopped func() bool) (sorted, unused []Pair) {
	for shift := 0; shift < bits && !stopped(); shift += DigitBits {
		var at [DigitSize]int32
		for lo := 0; lo < len(pairs) && !stopped(); lo += BlockRows {
			for i := range pairs[lo:min(lo+BlockRows, len(pairs))] {
				at[pairs[lo+i].Key>>shift&(DigitSize-1)]++
			}
		}
		if len(pairs) == 0 || stopped() {
			break
		}
		if int(at[pairs[0].Key>>shift&(DigitSize-1)]) == len(pairs) {
			continue
		}
		next := int32(0)
		for d, n := range at {
			at[d] = next
			next += n
		}
		for lo := 0; lo < len(pairs) && !stopped(); lo += BlockRows {
			for _, p := range pairs[lo:min(lo+BlockRows, len(pairs))] {
				d := p.Key >> shift & (DigitSize - 1)
				spare[at[d]] = p
				at[d]++
			}
		}
		pairs, spare = spare, pairs
	}
	return pairs, spare
}

// LargePart is above how many pairs a part is sorted by radix again.
const LargePart = 1 << 13

// SortParts orders pairs by the lowest bits of their keys and then by position:
// the first digit divides them into parts that fit a core's cache, which all cores
// then sort. The result lies in one of the two slices.
func SortParts(pairs, spare []Pair, bits, workers int, stopped func() bool) []Pair {
	shift := max(0, bits-DigitBits)
	var start [DigitSize + 1]int32
	for lo := 0; lo < len(pairs) && !stopped(); lo += BlockRows {
		for _, p := range pairs[lo:min(lo+BlockRows, len(pairs))] {
			start[p.Key>>shift&(DigitSize-1)+1]++
		}
	}
	if stopped() { // the counts are not whole
		return pairs
	}
	for d := range DigitSize {
		start[d+1] += start[d]
	}
	at := start
	for lo := 0; lo < len(pairs) && !stopped(); lo += BlockRows {
		for _, p := range pairs[lo:min(lo+BlockRows, len(pairs))] {
			d := p.Key >> shift & (DigitSize - 1)
			spare[at[d]] = p
			at[d]++
		}
	}
	var next atomic.Int32
	var group fault.Group
	for range workers {
		group.Go(func() {
			for d := next.Add(1) - 1; d < DigitSize && !stopped(); d = next.Add(1) - 1 {
				part, room := spare[start[d]:start[d+1]], pairs[start[d]:start[d+1]]
				if len(part) <= LargePart {
					slices.SortFunc(part, ComparePairs)
				} else if sorted, _ := SortPairs(part, room, shift, stopped); &sorted[0] != &part[0] {
					copy(part, sorted)
				}
			}
		})
	}
	if err := group.Wait(); err != nil {
		panic(err) // of the run, on whose goroutine it is caught
	}
	return spare
}

func ComparePairs(a, b Pair) int {
	if c := cmp.Compare(a.Key, b.Key); c != 0 {
		return c
	}
	return cmp.Compare(a.Pos, b.Pos)
}
