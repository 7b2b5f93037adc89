package engine

// middle returns the two middle values of a list, the same one twice if its
// length is odd. It moves the values about.
func middle[T int64 | float64](vals []T) (lower, upper T) {
	n := len(vals)
	upper = selectNth(vals, n/2)
	if n%2 == 1 {
		return upper, upper
	}
	// What selectNth left before the place is not larger; the largest of it is
	// the neighbour.
	lower = vals[0]
	for _, v := range vals[1 : n/2] {
		lower = max(lower, v)
	}
	return lower, upper
}

// selectNth puts the value that sorting would put at k there, what is not larger
// before it and what is not smaller behind it (Hoare's selection, the middle of
// three as pivot).
func selectNth[T int64 | float64](vals []T, k int) T {
	lo, hi := 0, len(vals)-1
	for lo < hi {
		mid := lo + (hi-lo)/2
		pivot := medianOfThree(vals[lo], vals[mid], vals[hi])
		i, j := lo, hi
		// Invariant: vals[lo:i] <= pivot <= vals[j+1:hi+1].
		for i <= j {
			for vals[i] < pivot {
				i++
			}
			for vals[j] > pivot {
				j--
			}
			if i <= j {
				vals[i], vals[j] = vals[j], vals[i]
				i++
				j--
			}
		}
		switch {
		case k <= j:
			hi = j
		case k >= i:
			lo = i
		default:
			return vals[k]
		}
	}
	return vals[k]
}

func medianOfThree[T int64 | float64](a, b, c T) T {
	return max(min(a, b), min(max(a, b), c))
}
