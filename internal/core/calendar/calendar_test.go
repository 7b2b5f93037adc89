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
		{
			"2026-04-01", Period{Last, ByFiscalQuarter, 0}, "is in the last fiscal quarter",
			"1 Jan 2026 to 31 Mar 2026",
		},
		{"2026-11-23", Period{ToDate, ByYear, 0}, "is in this year up to today", "1 Jan 2026 to 23 Nov 2026"},
		{"2026-11-23", Period{Past, ByDay, 30}, "is in the last 30 days", "25 Oct 2026 to 23 Nov 2026"},
		{"2026-11-23", Period{Past, ByMonth, 6}, "is in the last 6 full months", "1 May 2026 to 31 Oct 2026"},
		{"2026-11-23", Period{Coming, ByDay, 60}, "is in the next 60 days", "23 Nov 2026 to 21 Jan 2027"},
		{"2026-11-23", Period{Coming, ByWeek, 1}, "is in the next 1 full week", "30 Nov 2026 to 6 Dec 2026"},
		{"2026-11-23", Period{Older, ByDay, 90}, "is before the last 90 days", "up to 25 Aug 2026"},
		{"2026-03-31", Period{Older, ByMonth, 1}, "is before the last 1 full month", "up to 31 Jan 2026"},
		{"2024-02-29", Period{Beyond, ByYear, 1}, "is after the next 1 full year", "from 1 Jan 2026"},
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
		ByDay: "18 Feb 2026", ByWeek: "week of 16 Feb 2026", ByMonth: "Feb 2026", ByQuarter: "Q1 2026",
		ByYear:          "2026",
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
		c := Calendar{
			WeekStart:   time.Weekday(rapid.IntRange(0, 6).Draw(t, "week")),
			FiscalStart: time.Month(rapid.IntRange(0, 12).Draw(t, "fiscal")),
		}
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

// days are the moments of whole days.
func days(c Calendar, from, to Day) []Span { return c.Moments(from*DayLen, (to+1)*DayLen-1) }

func TestMidnightAndMoments(t *testing.T) {
	c := Calendar{Zone: lisbon(t)}
	summer, err := ParseDay("2026-07-01")
	require.NoError(t, err)
	require.Equal(t, time.Date(2026, 6, 30, 23, 0, 0, 0, time.UTC).UnixMicro(), days(c, summer, summer)[0].From)
	local, err := ParseLocal("2026-07-01T10:30")
	require.NoError(t, err)
	require.Equal(t, days(c, summer, summer)[0].From+10*Hour+30*Minute, c.At(local))
	_, err = ParseDay("2026-02-30")
	require.ErrorContains(t, err, `"2026-02-30" is not a date; write it as 2026-11-23`)
	_, err = ParseLocal("noon")
	require.ErrorContains(t, err, `"noon" is not a date and time`)
	require.Equal(
		t, FromDate(2026, 11, 24),
		Calendar{Now: time.Date(2026, 11, 23, 23, 30, 0, 0, time.UTC), Zone: time.FixedZone("east", 3600)}.Today(),
	)
}

// changing are zones whose clocks are or were put forward or back at or over midnight, and
// others.
var changing = []string{
	"Atlantic/Azores", "America/Havana", "America/Santiago", "America/Asuncion", "America/Sao_Paulo",
	"America/St_Johns",
	"Europe/Lisbon", "Asia/Kolkata", "Pacific/Apia", "Asia/Beirut", "UTC",
}

// Days and times of day hold exactly the moments whose clock shows them, whatever the clocks
// do, as package time tells it.
func TestDaysHoldTheMomentsOfTheirClock(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone, err := time.LoadLocation(rapid.SampledFrom(changing).Draw(t, "zone"))
		require.NoError(t, err)
		c := Calendar{Zone: zone}
		// Mostly close to a change of the clocks.
		_, change := time.Date(
			rapid.IntRange(1987, 2027).Draw(t, "year"), 3, 1, 0, 0, 0, 0, time.UTC,
		).In(zone).ZoneBounds()
		if change.IsZero() || rapid.IntRange(0, 9).Draw(t, "anywhere") == 0 {
			change = time.UnixMicro(rapid.Int64Range(-2e15, 2e15).Draw(t, "moment"))
		}
		m := (change.UnixMicro() + rapid.Int64Range(-2*DayLen, 2*DayLen).Draw(t, "off")) / Second * Second
		at := time.UnixMicro(m).In(zone)
		y, month, d := at.Date()
		day := FromDate(y, month, d)
		local := day*DayLen + Micros(at.Hour())*Hour + Micros(at.Minute())*Minute + Micros(at.Second())*Second
		within := func(spans []Span) (n int) {
			for i, s := range spans {
				require.LessOrEqual(t, s.From, s.To)
				require.True(t, i == 0 || spans[i-1].To+1 < s.From, "in order, and apart")
				if m >= s.From && m <= s.To {
					n++
				}
			}
			return n
		}
		for off := Day(-3); off <= 3; off++ {
			from := day + off
			to := from + rapid.Int64Range(0, 2).Draw(t, "days")
			want := 0
			if from <= day && day <= to {
				want = 1
			}
			require.Equal(t, want, within(days(c, from, to)), "days %d to %d of %d", from, to, day)
		}
		require.Equal(t, 1, within(c.Moments(local, local)))
		require.Equal(t, 1, within(c.Moments(Lowest, local)))
		require.Equal(t, 0, within(c.Moments(local+1, Highest)))
		require.LessOrEqual(t, c.At(local), m, "the first of two")
		require.Equal(t, local, c.Clock().Local(c.At(local)))
		require.Equal(t, day, FloorDay(c.Clock().Local(days(c, day, day)[0].From)))
		require.Less(t, FloorDay(c.Clock().Local(days(c, day, day)[0].From-1)), day)
		first, last := c.DaysBetween(m, m+rapid.Int64Range(0, 3*DayLen).Draw(t, "long"))
		require.LessOrEqual(t, first, day)
		require.GreaterOrEqual(t, last, day)
	})
}

// Where the clock was put forward over a time of day, it is taken as much later.
func TestTimesInAGap(t *testing.T) {
	for _, c := range []struct{ zone, local, want string }{
		{"Europe/Lisbon", "2026-03-29T01:30", "2026-03-29T01:30:00Z"}, // 02:30 in summer time
		{"America/Havana", "2026-03-08T00:30", "2026-03-08T05:30:00Z"},
	} {
		zone, err := time.LoadLocation(c.zone)
		require.NoError(t, err)
		local, err := ParseLocal(c.local)
		require.NoError(t, err)
		require.Equal(t, c.want, time.UnixMicro(Calendar{Zone: zone}.At(local)).UTC().Format(time.RFC3339))
	}
}

// For every N, what is older, the last N and the rest part all days; so do the next N and
// what is beyond.
func TestPeriodsPartTheCalendar(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		c := Calendar{
			Now:         time.Unix(rapid.Int64Range(-1e9, 4e9).Draw(t, "now"), 0),
			WeekStart:   time.Weekday(rapid.IntRange(0, 6).Draw(t, "week")),
			FiscalStart: time.Month(rapid.IntRange(0, 12).Draw(t, "fiscal")),
		}
		u, n := rapid.SampledFrom(Units()).Draw(t, "unit"), rapid.OneOf(
			rapid.IntRange(1, 100), rapid.IntRange(1, 400),
		).Draw(t, "n")
		older, past := c.Resolve(Period{Older, u, n}), c.Resolve(Period{Past, u, n})
		coming, beyond := c.Resolve(Period{Coming, u, n}), c.Resolve(Period{Beyond, u, n})
		require.True(t, older.OpenFrom && beyond.OpenTo)
		require.Equal(t, past.From, older.To+1)
		require.Equal(t, beyond.From, coming.To+1)
		if u == ByDay {
			require.Equal(t, [2]Day{c.Today(), int64(n)}, [2]Day{past.To, past.To - past.From + 1})
			require.Equal(t, [2]Day{c.Today(), int64(n)}, [2]Day{coming.From, coming.To - coming.From + 1})
			return
		}
		this := c.Resolve(Period{Which: This, Unit: u})
		require.Equal(t, this.From, past.To+1)
		require.Equal(t, this.To, coming.From-1)
		require.Equal(t, past.From, c.Add(u, this.From, -n))
	})
}

// Weeks have the numbers that package time gives them, and lead to the week of the same number.
func TestSameWeeks(t *testing.T) {
	cal := at("2026-11-23")
	for d := FromDate(2019, 12, 20); d < FromDate(2029, 1, 20); d++ {
		year, number := cal.WeekNumber(d)
		isoYear, isoNumber := time.Unix(d*86400, 0).UTC().ISOWeek()
		require.Equal(t, [2]int{isoYear, isoNumber}, [2]int{year, number})
		same, ok := cal.SameWeek(d, -1)
		y, n := time.Unix(same*86400, 0).UTC().ISOWeek()
		require.Equal(t, ok, y == year-1 && n == number, "day %d", d)
		require.Equal(t, cal.Weekday(d), cal.Weekday(same))
		if ok {
			back, _ := cal.SameWeek(same, 1)
			require.Equal(t, d, back)
		}
	}
	// 2026 has 53 weeks, 2025 and 2027 have not.
	of := func(y1, m1, d1, y2, m2, d2 int) []Range {
		return cal.SameWeeks(Range{From: FromDate(y1, time.Month(m1), d1), To: FromDate(y2, time.Month(m2), d2)}, -1)
	}
	require.Equal(t, []Range{{From: FromDate(2025, 12, 15), To: FromDate(2026, 1, 25)}}, of(2026, 12, 14, 2027, 1, 31),
		"weeks 51 and 52 of 2025 and 1 to 4 of 2026")
	require.Equal(t, []Range{
		{From: FromDate(2026, 12, 14), To: FromDate(2026, 12, 27)}, {From: FromDate(2027, 1, 4), To: FromDate(2027, 1, 17)},
	}, of(2027, 12, 20, 2028, 1, 16), "without week 53 of 2026, which 2027 has not")
}
