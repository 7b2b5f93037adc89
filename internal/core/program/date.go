// The functions of dates, moments and durations.

package program

import (
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

var dateFunctions = map[formula.Op]func(e *formula.Expr) kernel{
	formula.Today: fixed(func(m *Machine, out vec, _ []vec) {
		today := m.calendar.Today()
		for i := range out.ints {
			out.ints[i] = today
		}
	}),
	formula.Now: fixed(func(m *Machine, out vec, _ []vec) {
		now := m.calendar.Now.UnixMicro()
		for i := range out.ints {
			out.ints[i] = now
		}
	}),
	"DATE": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		const far = 1_000_000 // days and months that surely lie outside the calendar
		if max(a[0].int, a[1].int, a[2].int) > far || min(a[0].int, a[1].int, a[2].int) < -far {
			m.fail(formula.NoSuchDate, i)
			return cell{}, false
		}
		return m.day(i, calendar.FromDate(int(a[0].int), time.Month(a[1].int), int(a[2].int)))
	}),
	"TIME": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		const far = 1 << 30
		if max(a[0].int, a[1].int, a[2].int) > far || min(a[0].int, a[1].int, a[2].int) < -far {
			m.fail(formula.TooLarge, i)
			return cell{}, false
		}
		return cell{int: a[0].int*calendar.Hour + a[1].int*calendar.Minute + a[2].int*calendar.Second}, true
	}),
	"DATEVALUE": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		if a[0].text == "" {
			return cell{}, false
		}
		d, err := calendar.ParseDay(trimmed(a[0].text))
		if err != nil {
			m.fail(formula.NoSuchDate, i)
			return cell{}, false
		}
		return m.day(i, d)
	}),
	"YEAR":   datePart(func(d calendar.Day) int64 { y, _, _ := calendar.Date(d); return int64(y) }),
	"MONTH":  datePart(func(d calendar.Day) int64 { _, m, _ := calendar.Date(d); return int64(m) }),
	"DAY":    datePart(func(d calendar.Day) int64 { _, _, day := calendar.Date(d); return int64(day) }),
	"HOUR":   timePart(calendar.Hour, 24),
	"MINUTE": timePart(calendar.Minute, 60),
	"SECOND": timePart(calendar.Second, 60),
	"WEEKDAY": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		kind := int64(1)
		if len(a) > 1 {
			kind = a[1].int
		}
		sunday := calendar.Calendar{}.Weekday(a[0].int) // 0 on Sundays
		switch kind {
		case 1:
			return cell{int: sunday + 1}, true
		case 2:
			return cell{int: (sunday+6)%7 + 1}, true
		case 3:
			return cell{int: (sunday + 6) % 7}, true
		}
		m.fail(formula.NoSuchNumber, i)
		return cell{}, false
	}),
	"ISOWEEKNUM": datePart(func(d calendar.Day) int64 {
		_, w := time.Unix(d*86400, 0).UTC().ISOWeek()
		return int64(w)
	}),
	"EDATE": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		return m.months(i, a, func(c calendar.Calendar, d calendar.Day, n int) calendar.Day {
			return c.Shift(calendar.ByMonth, d, n)
		})
	}),
	"EOMONTH": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		return m.months(i, a, func(c calendar.Calendar, d calendar.Day, n int) calendar.Day {
			return c.Add(calendar.ByMonth, c.Start(calendar.ByMonth, d), n+1) - 1
		})
	}),
	"DAYS":          length(calendar.DayLen),
	"HOURS":         length(calendar.Hour),
	"MINUTES":       length(calendar.Minute),
	formula.DateDif: dateDif,
	"NETWORKDAYS": rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) {
		if a[1].int < a[0].int {
			return cell{int: -workDays(a[1].int, a[0].int)}, true
		}
		return cell{int: workDays(a[0].int, a[1].int)}, true
	}),
	formula.DayOf:      fixed(dayOf),
	formula.After:      fixed(afterMidnight(1)),
	formula.Before:     fixed(afterMidnight(-1)),
	formula.OnCalendar: func(e *formula.Expr) kernel { return onCalendar(e.Type.Type) },
}

// The calendar of a formula ends with year 9999 and begins with year 1.
var firstDay, lastDay = calendar.FromDate(1, 1, 1), calendar.FromDate(9999, 12, 31)

// day is a date of the calendar, or a failure.
func (m *Machine) day(i int, d calendar.Day) (cell, bool) {
	if d < firstDay || d > lastDay {
		m.fail(formula.NoSuchDate, i)
		return cell{}, false
	}
	return cell{int: d}, true
}

func (m *Machine) months(
	i int, a []cell, do func(c calendar.Calendar, d calendar.Day, n int) calendar.Day,
) (cell, bool) {
	const far = 12 * 10_000
	if a[1].int > far || a[1].int < -far {
		m.fail(formula.NoSuchDate, i)
		return cell{}, false
	}
	return m.day(i, do(m.calendar, a[0].int, int(a[1].int)))
}

// workDays counts the days from Monday to Friday from a to b, both included.
func workDays(a, b calendar.Day) int64 {
	// Days up to one, counted from a Monday: five for each whole week.
	until := func(d calendar.Day) int64 {
		n := d + 3 // 1969-12-29 was a Monday
		week, rest := n/7, n%7
		if rest < 0 {
			week, rest = week-1, rest+7
		}
		return 5*week + min(rest, 5)
	}
	return until(b+1) - until(a)
}

func datePart(part func(calendar.Day) int64) func(*formula.Expr) kernel {
	return rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) { return cell{int: part(a[0].int)}, true })
}

// timePart is how many units lie in the time of day, less those of larger ones.
func timePart(unit calendar.Micros, most int64) func(*formula.Expr) kernel {
	return rowwise(func(m *Machine, _ int, a []cell) (cell, bool) {
		local := m.clock.Local(a[0].int)
		return cell{int: (local - calendar.FloorDay(local)*calendar.DayLen) / unit % most}, true
	})
}

// length is a duration in a unit.
func length(unit calendar.Micros) func(*formula.Expr) kernel {
	return rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) {
		return cell{float: float64(a[0].int) / float64(unit)}, true
	})
}

// dateDif counts between two dates, in the unit that the last argument names.
func dateDif(e *formula.Expr) kernel {
	count := dateDifferences[e.Args[2].Text]
	return rows(func(_ *Machine, _ int, a []cell) (cell, bool) {
		if a[1].int < a[0].int {
			return cell{int: -count(a[1].int, a[0].int)}, true
		}
		return cell{int: count(a[0].int, a[1].int)}, true
	})
}

// dateDifferences count from a day to one that is not before it (OpenFormula's
// DATEDIF).
var dateDifferences = map[string]func(a, b calendar.Day) int64{
	"d":  func(a, b calendar.Day) int64 { return b - a },
	"m":  wholeMonths,
	"y":  func(a, b calendar.Day) int64 { return wholeMonths(a, b) / 12 },
	"ym": func(a, b calendar.Day) int64 { return wholeMonths(a, b) % 12 },
	"md": func(a, b calendar.Day) int64 {
		return b - calendar.Calendar{}.Shift(calendar.ByMonth, a, int(wholeMonths(a, b)))
	},
	"yd": func(a, b calendar.Day) int64 {
		return b - calendar.Calendar{}.Shift(calendar.ByMonth, a, int(wholeMonths(a, b)/12*12))
	},
}

// wholeMonths is how many months have passed in full: from 31 January the first has
// on 1 March.
func wholeMonths(a, b calendar.Day) int64 {
	ya, ma, da := calendar.Date(a)
	yb, mb, db := calendar.Date(b)
	n := int64(yb-ya)*12 + int64(mb-ma)
	if db < da {
		n--
	}
	return n
}

// dayOf turns moments into the days they lie on.
func dayOf(m *Machine, out vec, a []vec) {
	for i, v := range a[0].ints {
		out.ints[i] = v
		if v != table.Blank {
			out.ints[i] = calendar.FloorDay(m.clock.Local(v))
		}
	}
}

// afterMidnight is the moment at which the clock shows a time of a day: so much after
// midnight, on a day without change of the clocks; with -1, so much before.
func afterMidnight(sign int64) kernel {
	return func(m *Machine, out vec, v []vec) {
		for i, d := range v[0].ints {
			by := v[1].ints[i]
			out.ints[i] = table.Blank
			if d == table.Blank || by == table.Blank {
				continue
			}
			by *= sign
			local := d*calendar.DayLen + by
			if d < firstDay || d > lastDay || by > farthest || by < -farthest || !m.onCalendar(local) {
				m.fail(formula.NoSuchDate, i)
				continue
			}
			out.ints[i] = m.momentAt(local)
		}
	}
}

// farthest bounds what is added to a date or moment.
const farthest = 1 << 60

// onCalendar says whether a moment lies in the years 1 to 9999.
func (m *Machine) onCalendar(v calendar.Micros) bool {
	return v >= firstDay*calendar.DayLen && v < (lastDay+1)*calendar.DayLen
}

// momentAt is calendar.At, quickly where the clocks are not changed nearby.
func (m *Machine) momentAt(local calendar.Micros) calendar.Micros {
	from, to, offset := m.clock.Offset(local)
	const far = 2 * calendar.DayLen
	if at := local - offset; at-far > from && at+far < to {
		return at
	}
	return m.calendar.At(local)
}

// onCalendar keeps dates and moments within the calendar.
func onCalendar(t catalog.Type) kernel {
	return func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].ints {
			out.ints[i] = x
			if x == table.Blank {
				continue
			}
			if t == catalog.Date && (x < firstDay || x > lastDay) || t == catalog.DateTime && !m.onCalendar(x) {
				m.fail(formula.NoSuchDate, i)
				out.ints[i] = table.Blank
			}
		}
	}
}
