package calendar

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func lisbon(t require.TestingT) *time.Location {
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	return zone
}

// at is a Monday in a fiscal year that starts in April.
func at(date string) Calendar {
	now, err := time.Parse("2006-01-02", date)
	if err != nil {
		panic(err)
	}
	return Calendar{Now: now.Add(9 * time.Hour), WeekStart: time.Monday, FiscalStart: time.April}
}

func TestPeriods(t *testing.T) {
	for _, c := range []struct {
		today string
		p     Period
		words string
		dates string
	}{
		{"2026-11-23", Period{This, ByDay, 0}, "is today", "23 Nov 2026"},
		{"2026-11-23", Period{Last, ByDay, 0}, "is yesterday", "22 Nov 2026"},
		{"2026-11-23", Period{Last, ByWeek, 0}, "is in the last week", "16 Nov 2026 to 22 Nov 2026"},
		{"2026-11-22", Period{This, ByWeek, 0}, "is in this week", "16 Nov 2026 to 22 Nov 2026"},
		{"2026-11-23", Period{Next, ByMonth, 0}, "is in the next month", "1 Dec 2026 to 31 Dec 2026"},
		{"2024-02-29", Period{This, ByMonth, 0}, "is in this month", "1 Feb 2024 to 29 Feb 2024"},
		{"2026-01-31", Period{Last, ByQuarter, 0}, "is in the last quarter", "1 Oct 2025 to 31 Dec 2025"},
		{"2026-03-31", Period{This, ByFiscalYear, 0}, "is in this fiscal year", "1 Apr 2025 to 31 Mar 2026"},
		{"2026-04-01", Period{Last, ByFiscalQuarter, 0}, "is in the last fiscal quarter", "1 Jan 2026 to 31 Mar 2026"},
		{"2026-11-23", Period{ToDate, ByYear, 0}, "is in this year up to today", "1 Jan 2026 to 23 Nov 2026"},
		{"2026-11-23", Period{Past, ByDay, 30}, "is in the last 30 days", "25 Oct 2026 to 23 Nov 2026"},
		{"2026-11-23", Period{Past, ByMonth, 6}, "is in the last 6 full months", "1 May 2026 to 31 Oct 2026"},
		{"2026-11-23", Period{Coming, ByDay, 60}, "is today or within 60 days from now", "23 Nov 2026 to 22 Jan 2027"},
		{"2026-11-23", Period{Coming, ByWeek, 1}, "is in the next 1 full week", "30 Nov 2026 to 6 Dec 2026"},
		{"2026-11-23", Period{Older, ByDay, 90}, "is more than 90 days ago", "up to 24 Aug 2026"},
		{"2026-03-31", Period{Older, ByMonth, 1}, "is more than 1 month ago", "up to 27 Feb 2026"},
		{"2024-02-29", Period{Beyond, ByYear, 1}, "is more than 1 year from now", "from 1 Mar 2025"},
	} {
		require.NoError(t, c.p.Check())
		require.Equal(t, c.words, c.p.Words())
		require.Equal(t, c.dates, at(c.today).Resolve(c.p).Dates(), "%s on %s", c.words, c.today)
	}
}

func TestPeriodsThatAreNone(t *testing.T) {
	require.ErrorContains(t, Period{"sometime", ByDay, 1}.Check(), `"sometime" is not a relative period`)
	require.ErrorContains(t, Period{This, "fortnight", 1}.Check(), `"fortnight" is not a unit of time`)
	require.ErrorContains(t, Period{Past, ByDay, 0}.Check(), "the number of days must be from 1 to 10000, not 0")
	require.ErrorContains(t, Period{Older, ByYear, 10_001}.Check(), "not 10001")
}

func TestLabels(t *testing.T) {
	c := at("2026-11-23")
	day := FromDate(2026, time.February, 18)
	for unit, want := range map[Unit]string{
		ByDay: "18 Feb 2026", ByWeek: "week of 16 Feb 2026", ByMonth: "Feb 2026", ByQuarter: "Q1 2026", ByYear: "2026",
		ByFiscalQuarter: "FQ4 2025/26", ByFiscalYear: "FY 2025/26",
	} {
		require.Equal(t, want, c.Label(unit, c.Start(unit, day)))
	}
	c.FiscalStart = 0
	require.Equal(t, "FY 2026", c.Label(ByFiscalYear, c.Start(ByFiscalYear, day)))
}

// Units cut the calendar without gaps: every day lies in the unit that its start
// begins, and the next unit begins after it.
func TestUnitsCutTheCalendar(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := Calendar{WeekStart: time.Weekday(rapid.IntRange(0, 6).Draw(t, "week")), FiscalStart: time.Month(rapid.IntRange(0, 12).Draw(t, "fiscal"))}
		u := rapid.SampledFrom(Units()).Draw(t, "unit")
		day := rapid.Int64Range(-800_000, 800_000).Draw(t, "day")
		start := c.Start(u, day)
		end := c.Add(u, start, 1)
		require.LessOrEqual(t, start, day)
		require.Greater(t, end, day)
		require.Equal(t, start, c.Start(u, start))
		require.Equal(t, start, c.Start(u, end-1))
		require.Equal(t, end, c.Start(u, end))
		n := rapid.IntRange(-50, 50).Draw(t, "n")
		require.Equal(t, start, c.Add(u, c.Add(u, start, n), -n))
	})
}

// The clock gives what package time gives, on both sides of every change.
func TestClockEqualsPackageTime(t *testing.T) {
	zone := lisbon(t)
	clock := Calendar{Zone: zone}.Clock()
	rapid.Check(t, func(t *rapid.T) {
		m := rapid.Int64Range(-4e15, 4e15).Draw(t, "moment")
		at := time.UnixMicro(m).In(zone)
		_, offset := at.Zone()
		require.Equal(t, m+int64(offset)*Second, clock.Local(m))
		y, month, d := at.Date()
		require.Equal(t, FromDate(y, month, d), FloorDay(clock.Local(m)))
	})
}

func TestMidnightAndMoments(t *testing.T) {
	c := Calendar{Zone: lisbon(t)}
	summer, err := ParseDay("2026-07-01")
	require.NoError(t, err)
	require.Equal(t, time.Date(2026, 6, 30, 23, 0, 0, 0, time.UTC).UnixMicro(), c.Midnight(summer))
	m, err := c.ParseMoment("2026-07-01T10:30")
	require.NoError(t, err)
	require.Equal(t, c.Midnight(summer)+10*Hour+30*Minute, m)
	_, err = ParseDay("2026-02-30")
	require.ErrorContains(t, err, `"2026-02-30" is not a date; write it as 2026-11-23`)
	_, err = c.ParseMoment("noon")
	require.ErrorContains(t, err, `"noon" is not a date and time`)
	require.Equal(t, FromDate(2026, 11, 24), Calendar{Now: time.Date(2026, 11, 23, 23, 30, 0, 0, time.UTC), Zone: time.FixedZone("east", 3600)}.Today())
}
