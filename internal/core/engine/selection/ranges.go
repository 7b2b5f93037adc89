// Conditions on numbers, dates and moments: ranges, lists of them, weekdays and hours.

package selection

import (
	"cmp"
	"gavrik/internal/core/kernel"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/table"
	"math"
	"slices"
)

// fewRanges is up to where one pass for each range beats a look-up in a set.
const fewRanges = 8

func markNumbers(vals []int64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	ranges := t.Ranges
	if t.Match == plan.MatchBlank || t.Blank {
		ranges = append(slices.Clone(ranges), plan.Interval{Lo: table.Blank, Hi: table.Blank})
	}
	if len(ranges) > fewRanges {
		in := inRanges(ranges)
		return func(words []uint64, lo, hi int) { kernel.MarkFunc(words, vals[lo:hi], in) }
	}
	return func(words []uint64, lo, hi int) {
		for _, r := range ranges {
			kernel.MarkRange(words, vals[lo:hi], r.Lo, r.Hi)
		}
	}
}

// inRanges says of values whether one of many ranges holds them: single values are looked up in
// a set; whole days of moments are put in order, joined where they meet, and searched.
func inRanges(ranges []plan.Interval) func(v int64) bool {
	if !slices.ContainsFunc(ranges, func(r plan.Interval) bool { return r.Lo < r.Hi }) {
		wanted := make(map[int64]struct{}, len(ranges))
		for _, r := range ranges {
			if r.Lo == r.Hi { // a range turned round holds nothing
				wanted[r.Lo] = struct{}{}
			}
		}
		return func(v int64) bool { _, ok := wanted[v]; return ok }
	}
	ordered := slices.DeleteFunc(slices.Clone(ranges), func(r plan.Interval) bool { return r.Lo > r.Hi })
	slices.SortFunc(ordered, func(a, b plan.Interval) int { return cmp.Compare(a.Lo, b.Lo) })
	apart := ordered[:0]
	for _, r := range ordered {
		if last := len(apart) - 1; last >= 0 && r.Lo <= apart[last].Hi {
			apart[last].Hi = max(apart[last].Hi, r.Hi)
		} else {
			apart = append(apart, r)
		}
	}
	return func(v int64) bool {
		// The first that ends at or after the value is the only one that may hold it.
		i, _ := slices.BinarySearchFunc(apart, v, func(r plan.Interval, v int64) int {
			return cmp.Compare(r.Hi, v)
		})
		return i < len(apart) && apart[i].Lo <= v
	}
}

// markCycle marks the dates or moments that fall on certain weekdays or hours.
func (f *filter) markCycle(vals []int64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	return func(words []uint64, lo, hi int) {
		clock := f.fields.Plan.Calendar.Clock()
		kernel.MarkFunc(words, vals[lo:hi], func(v int64) bool {
			return v != table.Blank && t.MeetsCycle(v, f.fields.Plan.Calendar, clock)
		})
	}
}

func markFloats(vals []float64, t *plan.Predicate) func(words []uint64, lo, hi int) {
	return func(words []uint64, lo, hi int) {
		if t.Match == plan.MatchBlank || t.Blank {
			kernel.MarkFunc(words, vals[lo:hi], math.IsNaN)
		}
		for _, r := range t.Floats {
			kernel.MarkRange(words, vals[lo:hi], r.Lo, r.Hi)
		}
	}
}
