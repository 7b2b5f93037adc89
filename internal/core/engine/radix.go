package engine

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
// length; the other is returned as the new spare.
func sortPairs(pairs, spare []pair, bits int) (sorted, unused []pair) {
	for shift := 0; shift < bits; shift += digitBits {
		var at [digitSize]int32
		for i := range pairs {
			at[pairs[i].key>>shift&(digitSize-1)]++
		}
		if len(pairs) == 0 || int(at[pairs[0].key>>shift&(digitSize-1)]) == len(pairs) {
			continue
		}
		next := int32(0)
		for d, n := range at {
			at[d] = next
			next += n
		}
		for _, p := range pairs {
			d := p.key >> shift & (digitSize - 1)
			spare[at[d]] = p
			at[d]++
		}
		pairs, spare = spare, pairs
	}
	return pairs, spare
}
