package engine

import (
	"cmp"
	"slices"
	"sync/atomic"

	"gavrik/internal/core/fault"
)

// pair is a sort key and the position it belongs to.
type pair struct {
	key uint64
	pos int32
}

const (
	digitBits = 11
	digitSize = 1 << digitBits
)

// sortPairs orders pairs by the lowest bits of their keys, ascending and stable:
// a radix sort from the last digit to the first. A digit that all keys share
// costs one look. The result lies in one of the two slices, which are of equal
// length; the other is returned as the new spare. Once stopped says so, the order is
// of no use.
func sortPairs(pairs, spare []pair, bits int, stopped func() bool) (sorted, unused []pair) {
	for shift := 0; shift < bits && !stopped(); shift += digitBits {
		var at [digitSize]int32
		for lo := 0; lo < len(pairs) && !stopped(); lo += blockRows {
			for i := range pairs[lo:min(lo+blockRows, len(pairs))] {
				at[pairs[lo+i].key>>shift&(digitSize-1)]++
			}
		}
		if len(pairs) == 0 || stopped() {
			break
		}
		if int(at[pairs[0].key>>shift&(digitSize-1)]) == len(pairs) {
			continue
		}
		next := int32(0)
		for d, n := range at {
			at[d] = next
			next += n
		}
		for lo := 0; lo < len(pairs) && !stopped(); lo += blockRows {
			for _, p := range pairs[lo:min(lo+blockRows, len(pairs))] {
				d := p.key >> shift & (digitSize - 1)
				spare[at[d]] = p
				at[d]++
			}
		}
		pairs, spare = spare, pairs
	}
	return pairs, spare
}

// largePart is above how many pairs a part is sorted by radix again.
const largePart = 1 << 13

// sortParts orders pairs by the lowest bits of their keys and then by position:
// the first digit divides them into parts that fit a core's cache, which all cores
// then sort. The result lies in one of the two slices.
func sortParts(pairs, spare []pair, bits, workers int, stopped func() bool) []pair {
	shift := max(0, bits-digitBits)
	var start [digitSize + 1]int32
	for lo := 0; lo < len(pairs) && !stopped(); lo += blockRows {
		for _, p := range pairs[lo:min(lo+blockRows, len(pairs))] {
			start[p.key>>shift&(digitSize-1)+1]++
		}
	}
	if stopped() { // the counts are not whole
		return pairs
	}
	for d := range digitSize {
		start[d+1] += start[d]
	}
	at := start
	for lo := 0; lo < len(pairs) && !stopped(); lo += blockRows {
		for _, p := range pairs[lo:min(lo+blockRows, len(pairs))] {
			d := p.key >> shift & (digitSize - 1)
			spare[at[d]] = p
			at[d]++
		}
	}
	var next atomic.Int32
	var group fault.Group
	for range workers {
		group.Go(func() {
			for d := next.Add(1) - 1; d < digitSize && !stopped(); d = next.Add(1) - 1 {
				part, room := spare[start[d]:start[d+1]], pairs[start[d]:start[d+1]]
				if len(part) <= largePart {
					slices.SortFunc(part, comparePairs)
				} else if sorted, _ := sortPairs(part, room, shift, stopped); &sorted[0] != &part[0] {
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

func comparePairs(a, b pair) int {
	if c := cmp.Compare(a.key, b.key); c != 0 {
		return c
	}
	return cmp.Compare(a.pos, b.pos)
}
