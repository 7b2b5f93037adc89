package plan

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/view"
)

// The days that the other side of a comparison stands for, on 23 November 2026.
func TestComparedStretches(t *testing.T) {
	cal := calendar.Calendar{
		Now: time.Date(2026, 11, 23, 9, 0, 0, 0, time.UTC), Zone: time.UTC, WeekStart: time.Monday,
		FiscalStart: time.April,
	}
	period := func(which calendar.Which, unit calendar.Unit, n int) view.Condition {
		return view.Condition{
			Field: "opened_at", Op: view.In, Period: &calendar.Period{Which: which, Unit: unit, N: n},
		}
	}
	between := func(from, to string) view.Condition {
		return view.Condition{Field: "opened_at", Op: view.Between, Value: from, To: to}
	}
	for _, c := range []struct {
		name   string
		filter view.Condition
		with   view.Compare
		want   string
		shift  Shift
	}{
		{
			"a month", period(calendar.Last, calendar.ByMonth, 0), view.Compare{With: view.PeriodBefore},
			"1 Sep 2026 to 30 Sep 2026", Shift{Months: 1},
		},
		{
			"six months", period(calendar.Past, calendar.ByMonth, 6), view.Compare{With: view.PeriodBefore},
			"1 Nov 2025 to 30 Apr 2026", Shift{Months: 6},
		},
		{
			"a quarter, a year ago", period(calendar.Last, calendar.ByQuarter, 0), view.Compare{With: view.YearAgo},
			"1 Jul 2025 to 30 Sep 2025", Shift{Months: 12},
		},
		{
			"a fiscal year", period(calendar.Last, calendar.ByFiscalYear, 0), view.Compare{With: view.PeriodBefore},
			"1 Apr 2024 to 31 Mar 2025", Shift{Months: 12},
		},
		{
			"a week", period(calendar.Last, calendar.ByWeek, 0), view.Compare{With: view.PeriodBefore},
			"9 Nov 2026 to 15 Nov 2026", Shift{Days: 7},
		},
		{
			"a week, a year ago", period(calendar.Last, calendar.ByWeek, 0), view.Compare{With: view.YearAgo},
			"16 Nov 2025 to 22 Nov 2025", Shift{Months: 12},
		},
		{
			"ten days", period(calendar.Past, calendar.ByDay, 10), view.Compare{With: view.PeriodBefore},
			"4 Nov 2026 to 13 Nov 2026", Shift{Days: 10},
		},
		{
			"this year up to today", period(calendar.ToDate, calendar.ByYear, 0),
			view.Compare{With: view.PeriodBefore}, "1 Jan 2025 to 23 Nov 2025", Shift{Months: 12},
		},
		{
			"a February after a leap year's", between("2025-02-01", "2025-02-28"), view.Compare{With: view.YearAgo},
			"1 Feb 2024 to 29 Feb 2024", Shift{Months: 12},
		},
		{
			"some days", between("2026-11-03", "2026-11-05"), view.Compare{With: view.PeriodBefore},
			"31 Oct 2026 to 2 Nov 2026", Shift{Days: 3},
		},
		{
			"the same weeks", between("2026-11-02", "2026-11-08"), view.Compare{With: view.WeeksAgo},
			"3 Nov 2025 to 9 Nov 2025", Shift{WeekYears: 1},
		},
		{
			"given days", between("2026-11-01", "2026-11-30"),
			view.Compare{With: view.OtherPeriod, From: "2026-06-01", To: "2026-06-30"}, "1 Jun 2026 to 30 Jun 2026",
			Shift{Months: 5},
		},
		{
			"a given period", period(calendar.This, calendar.ByMonth, 0),
			view.Compare{
				With: view.OtherPeriod, Period: &calendar.Period{Which: calendar.Last, Unit: calendar.ByYear},
			},
			"1 Jan 2025 to 31 Dec 2025", Shift{Months: 22},
		},
	} {
		t.Run(c.name, func(t *testing.T) {
			d := &view.Document{
				Gavrik: 1, Records: "claims",
				Filter:  &view.Condition{All: []view.Condition{{Field: "urgent", Op: view.Is, Value: "yes"}, c.filter}},
				Compare: &c.with,
			}
			p, err := Check(d, ferry, cal)
			require.NoError(t, err)
			require.Equal(t, c.want, p.Compare.Dates)
			require.Equal(t, c.shift, p.Compare.Shift)
			// The other filter differs in that one condition.
			require.Equal(t, p.Filter.Children[0], p.Compare.Filter.Children[0])
			require.Equal(t, c.want, p.Compare.Filter.Children[1].Predicate.Dates)
			// Moved forward again, its first day is the first of the view's own.
			own, other := p.Filter.Children[1].Predicate.Days, p.Compare.Filter.Children[1].Predicate.Days
			require.Equal(t, own.From, p.Compare.Shift.Forward(cal, "", other.From))
		})
	}
}

func TestOnlyABoundedDateCanBeMoved(t *testing.T) {
	for filter, want := range map[string]string{
		`{"any":[{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}}]}`:                                                                                "the filter bounds no stretch of whole days",
		`{"field":"opened_at","op":"between","value":"2026-11-02T10:00","to":"2026-11-02T12:00"}`:                                                                           "the filter bounds no stretch of whole days",
		`{"field":"opened_at","op":"at_least","value":"2026-11-02"}`:                                                                                                        "the filter bounds no stretch of whole days",
		`{"field":"opened_at","op":"not_in","period":{"which":"last","unit":"month"}}`:                                                                                      "the filter bounds no stretch of whole days",
		`{"field":"opened_at","op":"in","period":{"which":"older","unit":"month","n":2}}`:                                                                                   "the filter bounds no stretch of whole days",
		`{"all":[{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}},{"field":"claim.opened_at","op":"in","period":{"which":"last","unit":"month"}}]}`: "the filter bounds several dates; say which one to move: opened_at or claim.opened_at",
	} {
		_, err := check(
			t, `{"gavrik":1,"records":"claims","columns":[],"compare":{"with":"before"},"filter":`+filter+`}`,
		)
		require.ErrorContains(t, err, want)
	}
	_, err := check(t, `{"gavrik":1,"records":"claims","columns":[],"compare":{"with":"before","field":"claim.opened_at"},
		"filter":{"all":[{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}},{"field":"claim.opened_at","op":"in","period":{"which":"last","unit":"month"}}]}}`)
	require.NoError(t, err)
	_, err = check(
		t,
		`{"gavrik":1,"records":"claims","columns":[],"compare":{"with":"period","from":"2026-11-05","to":"2026-11-01"},"filter":{"field":"opened_at","op":"in","period":{"which":"last","unit":"month"}}}`,
	)
	require.ErrorContains(t, err, `"2026-11-01" is not the last day of the other period`)
}

// From a day on and up to a day, as two conditions, is a stretch like any other.
func TestTwoConditionsBoundAStretch(t *testing.T) {
	p, err := check(t, `{"gavrik":1,"records":"claims","columns":[],"compare":{"with":"before"},"filter":{"all":[
		{"field":"opened_at","op":"at_least","value":"2026-11-01"},{"field":"urgent","op":"is","value":"yes"},{"field":"opened_at","op":"under","value":"2026-12-01"}]}}`)
	require.NoError(t, err)
	require.Equal(t, "1 Oct 2026 to 31 Oct 2026", p.Compare.Dates)
	one, err := check(
		t,
		`{"gavrik":1,"records":"claims","columns":[],"filter":{"field":"opened_at","op":"between","value":"2026-10-01","to":"2026-10-31"}}`,
	)
	require.NoError(t, err)
	first, last := p.Compare.Filter.Children[0].Predicate, p.Compare.Filter.Children[2].Predicate
	require.Equal(t, one.Filter.Predicate.Ranges, first.Ranges)
	require.Equal(t, []Interval{{lowest, calendar.Highest}}, last.Ranges)
}
