package engine

// sortByKeys orders positions by their key, ascending and stable: a radix sort
// on bytes from the last to the first, which skips the bytes that all keys
// share. keys[i] is the key of position i; order is rewritten.
func sortByKeys(keys []uint64, order []int32) {
	var counts [8][256]int
	for _, p := range order {
		k := keys[p]
		for b := range counts {
			counts[b][byte(k>>(8*b))]++
		}
	}
	from, to := order, make([]int32, len(order))
	for b := range counts {
		at := &counts[b]
		if len(order) == 0 || at[byte(keys[from[0]]>>(8*b))] == len(order) {
			continue
		}
		next := 0
		for d, n := range at {
			at[d] = next
			next += n
		}
		for _, p := range from {
			d := byte(keys[p] >> (8 * b))
			to[at[d]] = p
			at[d]++
		}
		from, to = to, from
	}
	if len(order) > 0 && &from[0] != &order[0] {
		copy(order, from)
	}
}

// sortByGroup is a stable counting sort of positions by a small number.
func sortByGroup(group []uint32, groups int, order []int32) []int32 {
	start := make([]int32, groups+1)
	for _, p := range order {
		start[group[p]+1]++
	}
	for g := range groups {
		start[g+1] += start[g]
	}
	out := make([]int32, len(order))
	for _, p := range order {
		g := group[p]
		out[start[g]] = p
		start[g]++
	}
	return out
}
