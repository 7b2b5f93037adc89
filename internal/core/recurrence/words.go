package recurrence

import (
	"fmt"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/format"
)

var ordinals = map[int]string{1: "first", 2: "second", 3: "third", 4: "fourth", Last: "last"}

// Words say a rule: "every working day at 7:30", "the first Monday of every second month at 9:00".
func (r Rule) Words() string {
	return r.days() + " at " + strings.TrimPrefix(r.At, "0")
}

func (r Rule) days() string {
	switch r.Every {
	case Week:
		var days []string
		for _, w := range weekdays {
			for _, on := range r.On {
				if on == w {
					days = append(days, w.word())
				}
			}
		}
		words := format.Listed(days)
		if r.Count > 1 {
			return fmt.Sprintf("every %s week on %s", counted(r.Count), words)
		}
		return "every " + words
	case Month:
		of := " of the month"
		if r.Count > 1 {
			of = fmt.Sprintf(" of every %s month", counted(r.Count))
		}
		switch {
		case r.Date == Last:
			return "the last day" + of
		case r.Date != 0:
			return "the " + numbered(r.Date) + of
		case len(r.On) == 0:
			return "the " + ordinals[r.Nth] + " working day" + of
		}
		return "the " + ordinals[r.Nth] + " " + r.On[0].word() + of
	}
	if r.Count > 1 {
		return fmt.Sprintf("every %s %s", counted(r.Count), r.Every)
	}
	return "every " + string(r.Every)
}

// counted is "second" or "5th".
func counted(n int) string {
	if word := ordinals[n]; n > 1 && word != "" {
		return word
	}
	return numbered(n)
}

func numbered(n int) string {
	suffix := "th"
	if n%100 < 11 || n%100 > 13 {
		switch n % 10 {
		case 1:
			suffix = "st"
		case 2:
			suffix = "nd"
		case 3:
			suffix = "rd"
		}
	}
	return fmt.Sprint(n, suffix)
}

// RFC5545 is the rule as calendars read it (RFC 5545, 3.3.10): its days. The time is that of the first.
func (r Rule) RFC5545(cal calendar.Calendar) string {
	code := func(w Weekday) string { return strings.ToUpper(string(w[:2])) }
	var parts []string
	switch r.Every {
	case Day:
		parts = append(parts, "FREQ=DAILY")
	case WorkingDay:
		parts = append(parts, "FREQ=WEEKLY", "BYDAY=MO,TU,WE,TH,FR")
	case Week:
		var days []string
		for _, w := range r.On {
			days = append(days, code(w))
		}
		start := map[int64]string{0: "MO", 5: "SA", 6: "SU"}[firstOfWeek(cal)]
		parts = append(parts, "FREQ=WEEKLY", "BYDAY="+strings.Join(days, ","), "WKST="+start)
	case Month:
		parts = append(parts, "FREQ=MONTHLY")
		switch {
		case r.Date != 0:
			parts = append(parts, fmt.Sprintf("BYMONTHDAY=%d", r.Date))
		case len(r.On) == 0:
			parts = append(parts, "BYDAY=MO,TU,WE,TH,FR", fmt.Sprintf("BYSETPOS=%d", r.Nth))
		default:
			parts = append(parts, fmt.Sprintf("BYDAY=%d%s", r.Nth, code(r.On[0])))
		}
	}
	if r.Count > 1 {
		parts = append(parts, fmt.Sprintf("INTERVAL=%d", r.Count))
	}
	return strings.Join(parts, ";")
}

// firstOfWeek is the number of the day that weeks begin with, 0 for Monday.
func firstOfWeek(cal calendar.Calendar) int64 {
	return int64(weekdayOf(cal.Start(calendar.ByWeek, calendar.FromDate(2026, 11, 25))).number())
}
