package recurrence

import (
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"github.com/teambition/rrule-go"
	"pgregory.net/rapid"

	"gavrik/internal/core/calendar"
)

func lisbon(t require.TestingT) calendar.Calendar {
	zone, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	return calendar.Calendar{Zone: zone, WeekStart: time.Monday, FiscalStart: time.January}
}

func drawn(t *rapid.T) Rule {
	r := Rule{
		Every: rapid.SampledFrom([]Every{Day, WorkingDay, Week, Month}).Draw(t, "every"),
		At:    rapid.SampledFrom([]string{"00:00", "01:30", "07:30", "23:59"}).Draw(t, "at"),
		From:  time.Unix(86400*(calendar.FromDate(2026, 1, 1)+rapid.Int64Range(0, 1200).Draw(t, "from")), 0).UTC().Format(time.DateOnly),
	}
	if r.Every != WorkingDay {
		r.Count = rapid.IntRange(0, 5).Draw(t, "count")
	}
	day := rapid.SampledFrom(weekdays)
	switch r.Every {
	case Week:
		r.On = rapid.SliceOfNDistinct(day, 1, 4, rapid.ID).Draw(t, "on")
	case Month:
		switch rapid.IntRange(0, 2).Draw(t, "kind") {
		case 0:
			r.Date = rapid.SampledFrom([]int{1, 15, 28, 29, 30, 31, Last}).Draw(t, "date")
		case 1:
			r.On = []Weekday{day.Draw(t, "weekday")}
			fallthrough
		default:
			r.Nth = rapid.SampledFrom([]int{1, 2, 3, 4, Last}).Draw(t, "nth")
		}
	}
	return r
}

// A rule comes when a reader of RFC 5545 says that it does, by the clock of the zone.
func TestRulesComeAsRFC5545HasThem(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cal, r := lisbon(t), drawn(t)
		cal.WeekStart = rapid.SampledFrom([]time.Weekday{time.Monday, time.Sunday, time.Saturday}).Draw(t, "week")
		if r.Check(cal) != nil {
			t.Skip("it never comes")
		}
		c, err := r.read()
		require.NoError(t, err)
		y, m, d := calendar.Date(c.from)
		hour, minute := int(c.at/calendar.Hour), int(c.at%calendar.Hour/calendar.Minute)
		// The other one computes in a zone without summer time; the clock is set afterwards.
		option, err := rrule.StrToROption(r.RFC5545(cal))
		require.NoError(t, err, r.RFC5545(cal))
		option.Dtstart, option.Count = time.Date(y, m, d, hour, minute, 0, 0, time.UTC), 12
		other, err := rrule.NewRRule(*option)
		require.NoError(t, err)
		var want, got []string
		for _, at := range other.All() {
			want = append(want, at.Format("2006-01-02"))
		}
		before := calendar.FromDate(2025, 12, 1) * calendar.DayLen
		moment := before
		for range want {
			next, ok := r.Next(moment, cal)
			require.True(t, ok)
			require.Greater(t, next, moment)
			local := time.UnixMicro(next).In(cal.Zone)
			got = append(got, local.Format("2006-01-02"))
			y, m, d := local.Date()
			// An hour that is not there, as summer time begins, is told by the clock before.
			require.Equal(t, time.Date(y, m, d, hour, minute, 0, 0, cal.Zone).Format("15:04"), local.Format("15:04"))
			moment = next
		}
		require.Equal(t, want, got, "%s: %s", r.Words(), r.RFC5545(cal))
		since, times := r.Due(before, moment, cal, 99)
		require.Equal(t, len(want), times)
		require.Equal(t, want[0], time.UnixMicro(since).In(cal.Zone).Format("2006-01-02"))
		_, times = r.Due(moment, moment, cal, 99)
		require.Zero(t, times, "what came due at a moment is not due behind it")
	})
}

func TestRulesInWords(t *testing.T) {
	for want, r := range map[string]Rule{
		"every working day at 7:30":                         {Every: WorkingDay, At: "07:30"},
		"every day at 0:00":                                 {Every: Day, At: "00:00"},
		"every third day at 12:05":                          {Every: Day, Count: 3, At: "12:05"},
		"every Monday and Thursday at 8:00":                 {Every: Week, On: []Weekday{"thursday", "monday"}, At: "08:00"},
		"every second week on Monday at 8:00":               {Every: Week, Count: 2, On: []Weekday{"monday"}, At: "08:00"},
		"the first Monday of the month at 9:00":             {Every: Month, Nth: 1, On: []Weekday{"monday"}, At: "09:00"},
		"the last working day of every third month at 9:00": {Every: Month, Count: 3, Nth: Last, At: "09:00"},
		"the 22nd of the month at 9:00":                     {Every: Month, Date: 22, At: "09:00"},
		"the last day of every 12th month at 9:00":          {Every: Month, Count: 12, Date: Last, At: "09:00"},
	} {
		require.Equal(t, want, r.Words())
		r.From = "2026-11-27"
		require.NoError(t, r.Check(lisbon(t)), want)
	}
}

func TestRulesThatCannotBe(t *testing.T) {
	good := Rule{Every: Week, On: []Weekday{"monday"}, At: "07:30", From: "2026-11-27"}
	for want, wrong := range map[string]func(*Rule){
		"is no time of day":       func(r *Rule) { r.At = "7.30" },
		"is no day to begin with": func(r *Rule) { r.From = "tomorrow" },
		"is no day of the week":   func(r *Rule) { r.On = []Weekday{"monday", "monday"} },
		"choose the days":         func(r *Rule) { r.On = nil },
		"choose one day of":       func(r *Rule) { r.Every = Month },
		"out of its range":        func(r *Rule) { r.Count = 1000 },
		"nothing to repeat by":    func(r *Rule) { r.Every = "blue moon" },
		"has no days to choose":   func(r *Rule) { r.Every = Day },
		"it would never come":     func(r *Rule) { *r = Rule{Every: Month, Count: 12, Date: 31, At: "07:30", From: "2026-02-01"} },
	} {
		r := good
		r.On = slices.Clone(good.On)
		wrong(&r)
		require.ErrorContains(t, r.Check(lisbon(t)), want)
		_, ok := r.Next(0, lisbon(t))
		require.False(t, ok, want)
	}
	// The clock jumps: an hour that is not there is told by the clock before, one that comes twice is its first.
	early := Rule{Every: Day, At: "01:30", From: "2026-03-28"}
	var got []string
	moment := time.Date(2026, 3, 28, 12, 0, 0, 0, time.UTC).UnixMicro()
	for range 2 {
		moment, _ = early.Next(moment, lisbon(t))
		got = append(got, time.UnixMicro(moment).UTC().Format("02T15:04"))
	}
	require.Equal(t, "29T01:30 30T00:30", strings.Join(got, " "))
}
