// Package proposal makes starting points: round bounds for bands, and the unit of time that gives a
// readable number of groups. What it proposes is only where an analyst begins.
package proposal

import (
	"time"

	"gavrik/internal/core/catalog"
)

// Steps of durations that people count in, in microseconds; below and above them decimal steps do.
var timeSteps = func() []int64 {
	out := []int64{}
	for _, d := range []time.Duration{
		time.Second, 5 * time.Second, 15 * time.Second, 30 * time.Second,
		time.Minute, 5 * time.Minute, 10 * time.Minute, 15 * time.Minute, 30 * time.Minute,
		time.Hour, 2 * time.Hour, 6 * time.Hour, 12 * time.Hour, 24 * time.Hour, 7 * 24 * time.Hour,
	} {
		out = append(out, d.Microseconds())
	}
	return out
}()

// stepWithin is the largest round step that is not over a width, and at least one. Decimal steps are 1,
// 2, 5, 10, 20, 50 ...; of whole weeks, their multiples by these.
func stepWithin(width int64, t catalog.Type) int64 {
	base := int64(1)
	if t == catalog.Duration {
		for _, s := range timeSteps {
			if s <= width {
				base = s
			}
		}
		if base != timeSteps[len(timeSteps)-1] && base != 1 {
			return base
		}
	}
	step := base
	for width/10 >= step {
		step *= 10
	}
	for _, times := range []int64{5, 2} {
		if width/times >= step {
			return times * step
		}
	}
	return step
}

// Round moves cuts, in ascending order and all different, to round numbers near them: each by less than
// half of what lies between it and its nearer neighbour, so that none meets another; a step is three
// quarters of that at most. Values are as stored: scaled, or microseconds of a duration.
func Round(cuts []int64, t catalog.Type) []int64 {
	out := make([]int64, 0, len(cuts))
	for i, cut := range cuts {
		gap := int64(0)
		if i > 0 {
			gap = cut - cuts[i-1]
		}
		if i+1 < len(cuts) && (gap == 0 || cuts[i+1]-cut < gap) {
			gap = cuts[i+1] - cut
		}
		if gap == 0 { // alone
			gap = max(cut, -cut)
		}
		round := nearest(cut, stepWithin(gap/4*3, t))
		for width := gap / 4; round == 0 && cut != 0; width /= 4 {
			round = nearest(cut, stepWithin(width, t)) // zero would leave the lowest band nothing
		}
		out = append(out, round)
	}
	return out
}

// nearest is the multiple of a step that is nearest to a value, unless it does not fit.
func nearest(v, step int64) int64 {
	down := v - ((v%step)+step)%step
	if v-down <= step/2 || down+step < down {
		return down
	}
	return down + step
}
