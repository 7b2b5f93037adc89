package formula

import (
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

var dateFunctions = []Function{
	{Name: "TODAY", most: 0, Result: "a date", compile: compileToday, Meaning: "The day the view runs.", Example: `TODAY() - 'Opened at'`},
	{Name: "NOW", most: 0, Result: "a date and time", compile: compileNow, Meaning: "The moment the view runs.", Example: `NOW() - 'Opened at'`},
	{Name: "DATE", Arguments: "year; month; day", least: 3, most: 3, Result: "a date",
		Meaning: "The date of a year, a month and a day. Months and days past the end are carried over, as in the standard: DATE(2026; 14; 1) is 1 Feb 2027.",
		Example: `DATE(YEAR('Opened at'); 1; 1)`, Sample: `DATE(2026; 14; 1)`,
		compile: rowwise(dateType, func(m *Machine, i int, a []cell) (cell, bool) {
			const far = 1_000_000 // days and months that surely lie outside the calendar
			if max(a[0].int, a[1].int, a[2].int) > far || min(a[0].int, a[1].int, a[2].int) < -far {
				m.fail(NoSuchDate, i)
				return cell{}, false
			}
			return m.day(i, calendar.FromDate(int(a[0].int), time.Month(a[1].int), int(a[2].int)))
		}, aWhole)},
	{Name: "TIME", Arguments: "hours; minutes; seconds", least: 3, most: 3, Result: "a duration",
		Meaning: "A length of time; added to a date it gives a moment of that day.",
		Example: `'Joined on' + TIME(9; 30; 0)`, Sample: `TIME(36; 30; 0)`,
		compile: rowwise(Type{Type: catalog.Duration, Scale: 1}, func(m *Machine, i int, a []cell) (cell, bool) {
			const far = 1 << 30
			if max(a[0].int, a[1].int, a[2].int) > far || min(a[0].int, a[1].int, a[2].int) < -far {
				m.fail(TooLarge, i)
				return cell{}, false
			}
			return cell{int: a[0].int*calendar.Hour + a[1].int*calendar.Minute + a[2].int*calendar.Second}, true
		}, aWhole)},
	{Name: "DATEVALUE", Arguments: "value", least: 1, most: 1, Result: "a date", compile: compileDateValue,
		Meaning: "The day of a date and time, or of a text such as 2026-11-23.", Blanks: "A blank gives a blank. A text that is no date fails.",
		Example: `DATEVALUE('Opened at')`, Sample: `DATEVALUE("2026-02-28")`},
	{Name: "YEAR", Arguments: "date", least: 1, most: 1, Result: "a whole number", Meaning: "The year of a date.",
		Example: `YEAR('Opened at')`, Sample: `YEAR(DATE(2026; 11; 23))`, compile: datePart(func(d calendar.Day) int64 { y, _, _ := calendar.Date(d); return int64(y) })},
	{Name: "MONTH", Arguments: "date", least: 1, most: 1, Result: "a whole number", Meaning: "The month of a date, from 1 to 12.",
		Example: `MONTH('Opened at')`, Sample: `MONTH(DATE(2026; 11; 23))`, compile: datePart(func(d calendar.Day) int64 { _, m, _ := calendar.Date(d); return int64(m) })},
	{Name: "DAY", Arguments: "date", least: 1, most: 1, Result: "a whole number", Meaning: "The day of the month.",
		Example: `DAY('Opened at')`, Sample: `DAY(DATE(2026; 11; 23))`, compile: datePart(func(d calendar.Day) int64 { _, _, day := calendar.Date(d); return int64(day) })},
	{Name: "HOUR", Arguments: "date and time", least: 1, most: 1, Result: "a whole number", Meaning: "The hour of the day, from 0 to 23, in the workspace's zone.",
		Example: `HOUR('Opened at')`, Sample: `HOUR(DATE(2026; 11; 23) + TIME(14; 5; 9))`, compile: timePart(calendar.Hour, 24)},
	{Name: "MINUTE", Arguments: "date and time", least: 1, most: 1, Result: "a whole number", Meaning: "The minute of the hour, from 0 to 59.",
		Example: `MINUTE('Opened at')`, Sample: `MINUTE(DATE(2026; 11; 23) + TIME(14; 5; 9))`, compile: timePart(calendar.Minute, 60)},
	{Name: "SECOND", Arguments: "date and time", least: 1, most: 1, Result: "a whole number", Meaning: "The second of the minute, from 0 to 59.",
		Example: `SECOND('Opened at')`, Sample: `SECOND(DATE(2026; 11; 23) + TIME(14; 5; 9))`, compile: timePart(calendar.Second, 60)},
	{Name: "WEEKDAY", Arguments: "date; kind", least: 1, most: 2, Result: "a whole number",
		Meaning: "The day of the week. Kind 1, or none: Sunday is 1; kind 2: Monday is 1; kind 3: Monday is 0.",
		Example: `WEEKDAY('Opened at'; 2)`, Sample: `WEEKDAY(DATE(2026; 11; 23); 2)`,
		compile: rowwise(wholeType, func(m *Machine, i int, a []cell) (cell, bool) {
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
			m.fail(NoSuchNumber, i)
			return cell{}, false
		}, aDate, aWhole)},
	{Name: "ISOWEEKNUM", Arguments: "date", least: 1, most: 1, Result: "a whole number",
		Meaning: "The number of the week after ISO 8601: weeks begin on Monday, and the first holds the year's first Thursday.",
		Example: `ISOWEEKNUM('Opened at')`, Sample: `ISOWEEKNUM(DATE(2027; 1; 1))`,
		compile: datePart(func(d calendar.Day) int64 { _, w := time.Unix(d*86400, 0).UTC().ISOWeek(); return int64(w) })},
	{Name: "EDATE", Arguments: "date; months", least: 2, most: 2, Result: "a date",
		Meaning: "The date so many months later; the last day of a month that is too short.",
		Example: `EDATE('Joined on'; 12)`, Sample: `EDATE(DATE(2026; 1; 31); 1)`,
		compile: rowwise(dateType, func(m *Machine, i int, a []cell) (cell, bool) {
			return m.months(i, a, func(c calendar.Calendar, d calendar.Day, n int) calendar.Day { return c.Shift(calendar.ByMonth, d, n) })
		}, aDate, aWhole)},
	{Name: "EOMONTH", Arguments: "date; months", least: 2, most: 2, Result: "a date",
		Meaning: "The last day of the month so many months later.",
		Example: `EOMONTH('Opened at'; 0)`, Sample: `EOMONTH(DATE(2026; 1; 15); 1)`,
		compile: rowwise(dateType, func(m *Machine, i int, a []cell) (cell, bool) {
			return m.months(i, a, func(c calendar.Calendar, d calendar.Day, n int) calendar.Day {
				return c.Add(calendar.ByMonth, c.Start(calendar.ByMonth, d), n+1) - 1
			})
		}, aDate, aWhole)},
	{Name: "DAYS", Arguments: "end; start", least: 1, most: 2, Result: "a whole number; of a duration, a number, approximate", compile: compileDays,
		Meaning: "How many days lie between two dates. With one argument, a duration as a number of days.",
		Example: `DAYS(TODAY(); 'Opened at')`, Sample: `DAYS(DATE(2026; 3; 1); DATE(2026; 2; 27))`},
	{Name: "HOURS", Arguments: "duration", least: 1, most: 1, Result: "a number, approximate", compile: compileLength(calendar.Hour),
		Meaning: "A duration as a number of hours.", Example: `HOURS('Closed at' - 'Opened at')`, Sample: `HOURS(TIME(1; 30; 0))`},
	{Name: "MINUTES", Arguments: "duration", least: 1, most: 1, Result: "a number, approximate", compile: compileLength(calendar.Minute),
		Meaning: "A duration as a number of minutes.", Example: `MINUTES('Closed at' - 'Opened at')`, Sample: `MINUTES(TIME(1; 30; 0))`},
	{Name: "DATEDIF", Arguments: "start; end; unit", least: 3, most: 3, Result: "a whole number", compile: compileDateDif,
		Meaning: `Whole years ("y"), months ("m") or days ("d") between two dates; "ym" the months beyond whole years, "md" the days beyond whole months, "yd" the days beyond whole years. Negative if the end comes first.`,
		Example: `DATEDIF('Opened at'; TODAY(); "y")`, Sample: `DATEDIF(DATE(2000; 2; 29); DATE(2026; 2; 28); "y")`},
	{Name: "NETWORKDAYS", Arguments: "start; end", least: 2, most: 2, Result: "a whole number",
		Meaning: "How many days from Monday to Friday lie between two dates, both counted. Negative if the end comes first. Holidays are not known.",
		Example: `NETWORKDAYS('Opened at'; TODAY())`, Sample: `NETWORKDAYS(DATE(2026; 11; 20); DATE(2026; 11; 23))`,
		compile: rowwise(wholeType, func(_ *Machine, _ int, a []cell) (cell, bool) {
			if a[1].int < a[0].int {
				return cell{int: -workDays(a[1].int, a[0].int)}, true
			}
			return cell{int: workDays(a[0].int, a[1].int)}, true
		}, aDate)},
}

// The calendar of a formula ends with year 9999 and begins with year 1.
var firstDay, lastDay = calendar.FromDate(1, 1, 1), calendar.FromDate(9999, 12, 31)

// day is a date of the calendar, or a failure.
func (m *Machine) day(i int, d calendar.Day) (cell, bool) {
	if d < firstDay || d > lastDay {
		m.fail(NoSuchDate, i)
		return cell{}, false
	}
	return cell{int: d}, true
}

func (m *Machine) months(i int, a []cell, do func(c calendar.Calendar, d calendar.Day, n int) calendar.Day) (cell, bool) {
	const far = 12 * 10_000
	if a[1].int > far || a[1].int < -far {
		m.fail(NoSuchDate, i)
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

func compileToday(c *checker, _ *tree, _ []node) (node, error) {
	c.building.UsesToday = true
	return &apply{t: dateType, id: c.id(), do: func(m *Machine, out vec, _ []vec) {
		today := m.calendar.Today()
		for i := range out.ints {
			out.ints[i] = today
		}
	}}, nil
}

func compileNow(c *checker, _ *tree, _ []node) (node, error) {
	c.building.UsesNow = true
	return &apply{t: Type{Type: catalog.DateTime}, id: c.id(), do: func(m *Machine, out vec, _ []vec) {
		now := m.calendar.Now.UnixMicro()
		for i := range out.ints {
			out.ints[i] = now
		}
	}}, nil
}

func compileDateValue(c *checker, t *tree, args []node) (node, error) {
	if args[0].typ().Type.Temporal() {
		return c.days(args[0]), nil
	}
	return rowwise(dateType, func(m *Machine, i int, a []cell) (cell, bool) {
		if a[0].text == "" {
			return cell{}, false
		}
		d, err := calendar.ParseDay(trimmed(a[0].text))
		if err != nil {
			m.fail(NoSuchDate, i)
			return cell{}, false
		}
		return m.day(i, d)
	}, want{"a date or text", aText.fits, nil})(c, t, args)
}

func datePart(part func(calendar.Day) int64) compiler {
	return rowwise(wholeType, func(_ *Machine, _ int, a []cell) (cell, bool) { return cell{int: part(a[0].int)}, true }, aDate)
}

// timePart is how many units lie in the time of day, less those of larger ones.
func timePart(unit calendar.Micros, most int64) compiler {
	return rowwise(wholeType, func(m *Machine, _ int, a []cell) (cell, bool) {
		local := m.clock.Local(a[0].int)
		return cell{int: (local - calendar.FloorDay(local)*calendar.DayLen) / unit % most}, true
	}, aMoment)
}

func compileDays(c *checker, t *tree, args []node) (node, error) {
	if len(args) == 1 {
		return compileLength(calendar.DayLen)(c, t, args)
	}
	twoDates := aDate
	twoDates.words = "two dates"
	args, err := c.wanted(t, args, twoDates)
	if err != nil {
		return nil, err
	}
	return c.adding(args[0], args[1], wholeType, true), nil
}

func compileLength(unit calendar.Micros) compiler {
	return rowwise(floatType, func(_ *Machine, _ int, a []cell) (cell, bool) {
		return cell{float: float64(a[0].int) / float64(unit)}, true
	}, aDuration)
}

func compileDateDif(c *checker, t *tree, args []node) (node, error) {
	count, ok := dateDifferences[t.args[2].text]
	if !ok || t.args[2].kind != textToken {
		return nil, fault(t.args[2], `DATEDIF wants a unit in quotes: "y", "m", "d", "ym", "md" or "yd"`)
	}
	dates, err := c.wanted(t, args[:2], aDate)
	if err != nil {
		return nil, err
	}
	return c.rows(wholeType, dates, func(m *Machine, _ int, a []cell) (cell, bool) {
		if a[1].int < a[0].int {
			return cell{int: -count(a[1].int, a[0].int)}, true
		}
		return cell{int: count(a[0].int, a[1].int)}, true
	}), nil
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

// atTime is the moment at which the clock shows a time of a day: so much after midnight, on
// a day without change of the clocks.
func (c *checker) atTime(date, length node, minus bool) node {
	moment := Type{Type: catalog.DateTime}
	return &apply{t: moment, id: c.id(), args: []node{date, length}, do: func(m *Machine, out vec, v []vec) {
		for i, d := range v[0].ints {
			by := v[1].ints[i]
			out.ints[i] = table.Blank
			if d == table.Blank || by == table.Blank {
				continue
			}
			if minus {
				by = -by
			}
			local := d*calendar.DayLen + by
			if d < firstDay || d > lastDay || by > farthest || by < -farthest || !m.onCalendar(local) {
				m.fail(NoSuchDate, i)
				continue
			}
			out.ints[i] = m.momentAt(local)
		}
	}}
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

// dated keeps dates and moments within the calendar.
func (c *checker) dated(n node) node {
	typ := n.typ()
	if !typ.Type.Temporal() {
		return n
	}
	return &apply{t: typ, id: c.id(), args: []node{n}, do: func(m *Machine, out vec, v []vec) {
		for i, x := range v[0].ints {
			out.ints[i] = x
			if x == table.Blank {
				continue
			}
			if typ.Type == catalog.Date && (x < firstDay || x > lastDay) || typ.Type == catalog.DateTime && !m.onCalendar(x) {
				m.fail(NoSuchDate, i)
				out.ints[i] = table.Blank
			}
		}
	}}
}
