package format

import (
	"math/big"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// A number shown with other decimals or in thousands is the exact one, rounded half
// away from zero.
func TestFormatsRoundExactly(t *testing.T) {
	w := NewWriter(People, calendar.Calendar{})
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.Int64Range(-1<<62, 1<<62).Draw(t, "value") >> rapid.IntRange(0, 60).Draw(t, "small")
		scale, decimals := rapid.IntRange(0, 6).Draw(t, "scale"), rapid.IntRange(0, 6).Draw(t, "decimals")
		in := rapid.SampledFrom([]catalog.Magnitude{"", catalog.Thousands, catalog.Millions}).Draw(t, "in")
		got := w.Number(v, catalog.Field{
			Type: catalog.Decimal, Scale: scale, Format: &catalog.Format{Decimals: &decimals, In: in, Plain: true},
		})
		exact := new(big.Rat).SetFrac64(v, table.Pow10(scale+in.Power()))
		want := exact.FloatString(decimals) // rounds half away from zero
		if strings.Trim(want, "-0.") == "" {
			want = strings.TrimPrefix(want, "-")
		}
		require.Equal(t, want, strings.Replace(got, "−", "-", 1))
	})
}

func TestFormatsByExample(t *testing.T) {
	w := NewWriter(People, calendar.Calendar{})
	day := calendar.FromDate(2026, 11, 23)
	at := day*calendar.DayLen + 14*calendar.Hour + 5*calendar.Minute
	one := 1
	for _, c := range []struct {
		want string
		v    int64
		f    catalog.Field
	}{
		{
			"Mon 23 Nov 2026", day,
			catalog.Field{Type: catalog.Date, Format: &catalog.Format{Date: catalog.WithWeekday}},
		},
		{
			"2026-11-23 14:05", at,
			catalog.Field{Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.ISODate}},
		},
		{
			"23 Nov, 14:05", at,
			catalog.Field{Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.DayMonth}},
		},
		{"Nov 2026", at, catalog.Field{Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.MonthYear}}},
		{"14:05", at, catalog.Field{Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.TimeOnly}}},
		{"23 Nov 2026", at, catalog.Field{Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.DateOnly}}},
		{
			"−1.5 h", -90 * calendar.Minute,
			catalog.Field{Type: catalog.Duration, Format: &catalog.Format{Duration: catalog.InHours}},
		},
		{
			"2.3 d", 54 * calendar.Hour,
			catalog.Field{Type: catalog.Duration, Format: &catalog.Format{Duration: catalog.InDays, Decimals: &one}},
		},
		{
			"1,234.6", 123_456_000,
			catalog.Field{Type: catalog.Money, Scale: 2, Format: &catalog.Format{In: catalog.Thousands}},
		},
		{"2026", 2026, catalog.Field{Type: catalog.Whole, Format: &catalog.Format{Plain: true}}},
		{"12.5 %", 1250, catalog.Field{Type: catalog.Percent, Scale: 2, Format: &catalog.Format{Decimals: &one}}},
		{"", table.Blank, catalog.Field{Type: catalog.Date, Format: &catalog.Format{Date: catalog.YearOnly}}},
	} {
		require.Equal(t, c.want, w.Number(c.v, c.f))
		require.Empty(t, c.f.Format.Fault(c.f.Type))
	}
	require.Equal(
		t, "0.0",
		w.Float(-0.04, catalog.Field{Type: catalog.Decimal, Approx: true, Format: &catalog.Format{Decimals: &one}}),
	)
	// Programs get the values as they are.
	require.Equal(
		t, "2026-11-23T14:05:00",
		NewWriter(Plain, calendar.Calendar{}).Number(at, catalog.Field{
			Type: catalog.DateTime, Format: &catalog.Format{Date: catalog.YearOnly},
		}),
	)
	for _, bad := range []struct {
		t catalog.Type
		f catalog.Format
	}{
		{catalog.Text, catalog.Format{Decimals: &one}}, {catalog.Date, catalog.Format{Date: catalog.TimeOnly}},
		{catalog.Duration, catalog.Format{Decimals: &one}}, {catalog.Whole, catalog.Format{Date: catalog.ISODate}},
		{catalog.Money, catalog.Format{In: "dozens"}},
	} {
		require.NotEmpty(t, bad.f.Fault(bad.t), "%s %+v", bad.t, bad.f)
	}
}
