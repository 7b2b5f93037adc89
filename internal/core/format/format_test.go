package format

import (
	"math"
	"math/big"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

func TestValuesForPeopleAndPrograms(t *testing.T) {
	cal := calendar.Calendar{Zone: time.FixedZone("east", 3600)}
	people, plain := NewWriter(People, cal), NewWriter(Plain, cal)
	noon := time.Date(2026, 6, 2, 12, 5, 9, 0, time.UTC).UnixMicro()
	for _, c := range []struct {
		v             int64
		f             catalog.Field
		people, plain string
	}{
		{0, catalog.Field{Type: catalog.Whole}, "0", "0"},
		{table.Blank, catalog.Field{Type: catalog.Money, Scale: 2}, "", ""},
		{-123456789, catalog.Field{Type: catalog.Money, Scale: 2}, "−1,234,567.89", "-1234567.89"},
		{-5, catalog.Field{Type: catalog.Decimal, Scale: 3}, "−0.005", "-0.005"},
		{1250, catalog.Field{Type: catalog.Percent, Scale: 2}, "12.50 %", "12.50"},
		{calendar.FromDate(2026, 6, 2), catalog.Field{Type: catalog.Date}, "2 Jun 2026", "2026-06-02"},
		{noon, catalog.Field{Type: catalog.DateTime}, "2 Jun 2026, 13:05", "2026-06-02T13:05:09"},
		{-1, catalog.Field{Type: catalog.DateTime}, "1 Jan 1970, 00:59", "1970-01-01T00:59:59"},
		{1, catalog.Field{Type: catalog.YesNo}, "Yes", "true"},
		{75*calendar.Hour + 4*calendar.Minute, catalog.Field{Type: catalog.Duration}, "75:04", "75:04:00"},
		{-20 * calendar.Minute, catalog.Field{Type: catalog.Duration}, "−0:20", "-0:20:00"},
		{90*calendar.Second + 500_000, catalog.Field{Type: catalog.Duration}, "0:02", "0:01:31"},
		{90 * calendar.Second, catalog.Field{Type: catalog.Duration, Scale: 1}, "0:01:30", "0:01:30"},
		{-10 * calendar.Second, catalog.Field{Type: catalog.Duration}, "0:00", "-0:00:10"},
		{5000 * calendar.Hour, catalog.Field{Type: catalog.Duration}, "5,000:00", "5000:00:00"},
	} {
		require.Equal(t, c.people, people.Number(c.v, c.f))
		require.Equal(t, c.plain, plain.Number(c.v, c.f))
	}
	f := catalog.Field{Approx: true, Type: catalog.Decimal}
	require.Equal(t, []string{"1,234.57", "−0.50", "", "0.00", "1.000e+20"}, []string{
		people.Float(1234.567, f), people.Float(-0.5, f), people.Float(math.NaN(), f), people.Float(-0.001, f), people.Float(1e20, f)})
	require.Equal(t, "1234.567", plain.Float(1234.567, f))
}

// What is written plainly reads back as the same number, and what is written for
// people differs only by its thousands and its minus sign.
func TestDecimalsReadBack(t *testing.T) {
	plain, people := NewWriter(Plain, calendar.Calendar{}), NewWriter(People, calendar.Calendar{})
	rapid.Check(t, func(t *rapid.T) {
		v := rapid.Int64Range(math.MinInt64+1, math.MaxInt64).Draw(t, "v")
		f := catalog.Field{Type: catalog.Decimal, Scale: rapid.IntRange(0, 9).Draw(t, "scale")}
		s := plain.Number(v, f)
		r, ok := new(big.Rat).SetString(s)
		require.True(t, ok, s)
		unit := new(big.Int).Exp(big.NewInt(10), big.NewInt(int64(f.Scale)), nil)
		require.Zero(t, r.Cmp(new(big.Rat).SetFrac(big.NewInt(v), unit)))
		require.Equal(t, s, strings.NewReplacer(",", "", "−", "-").Replace(people.Number(v, f)))
	})
}
