// Package recurrence says when what recurs is due: every working day at 7:30, the first Monday of
// the month. Its rules are plain data, after RFC 5545; they go by the clock of the workspace's zone, so
// that half past seven stays half past seven when summer time begins.
package recurrence

import (
	"cmp"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
)

// Every is what a rule repeats by.
type Every string

// What a rule can repeat by.
const (
	Day        Every = "day"
	WorkingDay Every = "working day" // Monday to Friday
	Week       Every = "week"
	Month      Every = "month"
)

// Last is the last day of a month, or the last of its weekdays.
const Last = -1

// Rule says when something is due.
type Rule struct {
	Every Every `json:"every" enum:"day,working day,week,month"`
	// Count is 2 for every second of them; 0 is 1. Working days are not counted.
	Count int `json:"count,omitempty" minimum:"0" maximum:"99" doc:"2: every second of them"`
	// On are the weekdays of a week, or the one that Nth counts in a month.
	On []Weekday `json:"on,omitempty" maxItems:"7" doc:"Of a week: its days; of a month: the day that nth counts"`
	// Nth counts a weekday or, without On, a working day of a month: 1 to 4, or Last.
	Nth int `json:"nth,omitempty" minimum:"-1" maximum:"4" doc:"Of a month: its first, second …, -1: its last"`
	// Date is a day of a month, 1 to 31, or Last. Months that are too short are passed over.
	Date int `json:"date,omitempty" minimum:"-1" maximum:"31" doc:"Of a month: its day, -1: its last"`
	// At is a time of day: "07:30".
	At string `json:"at" pattern:"^([01][0-9]|2[0-3]):[0-5][0-9]$"`
	// From is the first day that counts; what is counted is counted from there.
	From string `json:"from,omitempty" format:"date" doc:"The first day that counts; today, if left out"`
}

// Weekday is a day of the week, as "monday".
type Weekday string

var weekdays = []Weekday{"monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday"}

// number is 0 for Monday; -1 for what is no weekday.
func (w Weekday) number() int { return slices.Index(weekdays, w) }

func (w Weekday) word() string { return strings.ToUpper(string(w[:1])) + string(w[1:]) }

// checked is a rule that was read.
type checked struct {
	Rule
	count int
	from  calendar.Day
	at    calendar.Micros
}

// never is for how many days it is looked when something is due: the rarest of dates, 29 February
// around the year 2100, comes again after eight years.
const never = 9 * 366

// Check says what is wrong with a rule; one that never comes is wrong, too.
func (r Rule) Check(cal calendar.Calendar) error {
	c, err := r.read()
	if err != nil {
		return err
	}
	if _, ok := c.day(c.from, cal); !ok {
		return errors.New("no month that is counted has such a day; it would never come")
	}
	return nil
}

func (r Rule) read() (*checked, error) {
	c := &checked{Rule: r, count: max(r.Count, 1)}
	at, err := time.Parse("15:04", r.At)
	if err != nil {
		return nil, fmt.Errorf("%q is no time of day; write it as 07:30", r.At)
	}
	c.at = int64(at.Hour())*calendar.Hour + int64(at.Minute())*calendar.Minute
	if c.from, err = calendar.ParseDay(r.From); err != nil {
		return nil, fmt.Errorf("%q is no day to begin with; write it as 2026-11-23", r.From)
	}
	for i, w := range r.On {
		if w.number() < 0 || slices.Contains(r.On[:i], w) {
			return nil, fmt.Errorf("%q is no day of the week, or stands there twice", w)
		}
	}
	if r.Count < 0 || r.Count > 99 || r.Nth < Last || r.Nth > 4 || r.Date < Last || r.Date > 31 {
		return nil, errors.New("a number of the rule is out of its range")
	}
	return c, r.fits()
}

// fits says whether a rule has what it repeats by needs, and nothing else.
func (r Rule) fits() error {
	switch r.Every {
	case Day, WorkingDay:
		if len(r.On) > 0 || r.Nth != 0 || r.Date != 0 || r.Every == WorkingDay && r.Count > 1 {
			return fmt.Errorf("every %s has no days to choose", r.Every)
		}
	case Week:
		if len(r.On) == 0 || r.Nth != 0 || r.Date != 0 {
			return errors.New("choose the days of the week")
		}
	case Month:
		if (r.Nth == 0) == (r.Date == 0) || len(r.On) > 1 || r.Date != 0 && len(r.On) > 0 {
			return errors.New("choose one day of the month: its date, or which weekday of it")
		}
	default:
		return fmt.Errorf("%q is nothing to repeat by", r.Every)
	}
	return nil
}

// Next is the first moment behind another at which it is due. ok is false for a rule that is wrong.
func (r Rule) Next(after calendar.Micros, cal calendar.Calendar) (moment calendar.Micros, ok bool) {
	c, err := r.read()
	if err != nil {
		return 0, false
	}
	// Clocks are set by less than a day.
	from := max(c.from, calendar.FloorDay(cal.Clock().Local(after))-1)
	for {
		day, ok := c.day(from, cal)
		if !ok {
			return 0, false
		}
		if at := cal.At(day*calendar.DayLen + c.at); at > after {
			return at, true
		}
		from = day + 1
	}
}

// day is the first day from one on at which it is due.
func (c *checked) day(from calendar.Day, cal calendar.Calendar) (calendar.Day, bool) {
	for day := from; day < from+never*int64(c.count); day++ {
		if c.due(day, cal) {
			return day, true
		}
	}
	return 0, false
}

// due says whether it is due on a day, which is not before the first.
func (c *checked) due(day calendar.Day, cal calendar.Calendar) bool {
	switch c.Every {
	case Day:
		return (day-c.from)%int64(c.count) == 0
	case WorkingDay:
		return working(day)
	case Week:
		weeks := (cal.Start(calendar.ByWeek, day) - cal.Start(calendar.ByWeek, c.from)) / 7
		return weeks%int64(c.count) == 0 && slices.Contains(c.On, weekdayOf(day))
	}
	y, m, d := calendar.Date(day)
	fromY, fromM, _ := calendar.Date(c.from)
	if (12*(y-fromY)+int(m-fromM))%c.count != 0 {
		return false
	}
	length := int(calendar.FromDate(y, m+1, 1) - calendar.FromDate(y, m, 1))
	switch {
	case c.Date == Last:
		return d == length
	case c.Date != 0:
		return d == c.Date
	}
	return c.nth(day, d, length)
}

// nth says whether a day is the chosen one of its kind in its month.
func (c *checked) nth(day calendar.Day, d, length int) bool {
	is := working
	if len(c.On) > 0 {
		is = func(day calendar.Day) bool { return weekdayOf(day) == c.On[0] }
	}
	if !is(day) {
		return false
	}
	before, step, edge := cmp.Or(max(c.Nth, 0), 1)-1, int64(-1), 1
	if c.Nth == Last {
		before, step, edge = 0, 1, length
	}
	for d != edge {
		day, d = day+step, d+int(step)
		if is(day) {
			before--
		}
	}
	return before == 0
}

// weekdayOf is the weekday of a day: the first day of 1970 was a Thursday.
func weekdayOf(day calendar.Day) Weekday { return weekdays[((day+3)%7+7)%7] }

func working(day calendar.Day) bool { return weekdayOf(day).number() < 5 }

// Due says when it was first due behind one moment and not behind another, and how often in all;
// times is 0 if it was not. It counts no further than to most.
func (r Rule) Due(after, now calendar.Micros, cal calendar.Calendar, most int) (since calendar.Micros, times int) {
	for at := after; times < most; times++ {
		next, ok := r.Next(at, cal)
		if !ok || next > now {
			break
		}
		if at = next; times == 0 {
			since = next
		}
	}
	return since, times
}
