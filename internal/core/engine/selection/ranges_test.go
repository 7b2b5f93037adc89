package selection

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/plan"
)

// Of many ranges, some within others, the look-up finds what trying each of them does.
func TestManyRangesHoldWhatEachHolds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		end := rapid.Int64Range(-30, 30)
		var ranges []plan.Interval
		for range rapid.IntRange(1, 20).Draw(t, "ranges") {
			lo := end.Draw(t, "lo")
			ranges = append(ranges, plan.Interval{
				Lo: lo, Hi: lo + rapid.SampledFrom([]int64{-1, 0, 0, 1, 9}).Draw(t, "length"),
			})
		}
		in := inRanges(ranges)
		for v := int64(-40); v <= 50; v++ {
			want := slices.ContainsFunc(ranges, func(r plan.Interval) bool { return r.Lo <= v && v <= r.Hi })
			require.Equal(t, want, in(v), "%d in %v", v, ranges)
		}
	})
}
