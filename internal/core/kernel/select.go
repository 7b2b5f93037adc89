// Quickselect: two neighbours of a sorted list without sorting it.

package kernel

// TwoFrom returns the values that sorting would put at k and right behind it, the
// same one twice at the end. It moves the values about.
func TwoFrom[T int64 | float64](vals []T, k int) (lower, upper T) {
	lower = selectNth(vals, k)
	if k+1 == len(vals) {
		return lower, lower
	}
	// What selectNth left behind the place is not smaller; the smallest of it is
	// the neighbour.
	upper = vals[k+1]
	for _, v := range vals[k+2:] {
		upper = min(upper, v)
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
