package plan

import (
	"fmt"
	"math"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/view"
)

// The seams of a bucket are exactly the values between its ends that no band holds,
// and those that two hold, whatever the order of the bands.
func TestSeamsAreTheGapsAndOverlaps(t *testing.T) {
	field := catalog.Field{Key: "cars", Label: "Cars", Type: catalog.Whole}
	w := format.NewWriter(format.Plain, calendar.Calendar{})
	rapid.Check(t, func(rt *rapid.T) {
		b := &Bucket{Of: catalog.Ref{Path: "cars", Field: field}}
		least, most := int64(math.MaxInt64), int64(0)
		for i := range rapid.IntRange(1, 5).Draw(rt, "bands") {
			lo := rapid.Int64Range(0, 25).Draw(rt, "from")
			hi := lo + rapid.Int64Range(0, 8).Draw(rt, "length")
			b.Bands = append(b.Bands, Band{Label: fmt.Sprint(i), Range: Interval{lo, hi}})
			least, most = min(least, lo), max(most, hi)
		}
		holders := func(v int64) (n int) {
			for _, band := range b.Bands {
				if v >= band.Range.Lo && v <= band.Range.Hi {
					n++
				}
			}
			return n
		}
		gaps, overlaps := map[int64]bool{}, map[int64]bool{}
		for _, s := range b.Seams(w) {
			var from, to int64
			_, err := fmt.Sscanf(s.Words, "%d to %d", &from, &to)
			require.NoError(rt, err, s.Words)
			require.LessOrEqual(rt, from, to)
			for v := from; v <= to; v++ {
				if s.Gap {
					gaps[v] = true
				} else {
					overlaps[v] = true
				}
			}
		}
		for v := least; v <= most; v++ {
			require.Equal(rt, holders(v) == 0, gaps[v], "%d of %v", v, b.Bands)
			if overlaps[v] {
				require.Greater(rt, holders(v), 1, "%d of %v", v, b.Bands)
			}
			if holders(v) == 2 {
				require.True(rt, overlaps[v], "%d of %v", v, b.Bands)
			}
		}
	})
}

// A band without a name is named by its bounds; whole numbers and days by the last
// value that belongs to it.
func TestBandsAreNamedByTheirBounds(t *testing.T) {
	k := &checker{cal: calendar.Calendar{}}
	whole := catalog.Field{Type: catalog.Whole}
	for _, c := range []struct {
		field catalog.Field
		band  view.Band
		want  string
	}{
		{whole, view.Band{Below: "31"}, "under 31"},
		{whole, view.Band{From: "31", Below: "91"}, "31 to 90"},
		{whole, view.Band{From: "7", Below: "8"}, "7"},
		{whole, view.Band{From: "1000"}, "1,000 and over"},
		{catalog.Field{Type: catalog.Money, Scale: 2}, view.Band{From: "25", Below: "50"}, "25.00 to under 50.00"},
		{
			catalog.Field{Type: catalog.Decimal, Approx: true}, view.Band{From: "0.5", Below: "2"},
			"0.50 to under 2.00",
		},
		{
			catalog.Field{Type: catalog.Date}, view.Band{From: "2026-03-01", Below: "2026-04-01"},
			"1 Mar 2026 to 31 Mar 2026",
		},
		{catalog.Field{Type: catalog.Date}, view.Band{Below: "2026-04-01"}, "before 1 Apr 2026"},
		{catalog.Field{Type: catalog.Duration}, view.Band{From: "7 days"}, "168:00 and over"},
		{
			catalog.Field{Type: catalog.Text}, view.Band{Values: []string{"Web", "Phone", "Agent", "Counter"}},
			"Web, Phone and 2 more",
		},
	} {
		require.Equal(t, c.want, k.bandName(c.field, c.band))
	}
}
