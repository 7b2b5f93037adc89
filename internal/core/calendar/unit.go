package calendar

import (
	"fmt"
	"time"
)

// Unit is a length of calendar time that dates can be grouped or counted by.
type Unit string

// The units, from short to long.
const (
	ByDay           Unit = "day"
	ByWeek          Unit = "week"
	ByMonth         Unit = "month"
	ByQuarter       Unit = "quarter"
	ByYear          Unit = "year"
	ByFiscalQuarter Unit = "fiscal_quarter"
	ByFiscalYear    Unit = "fiscal_year"

	// ByWeekday and ByHour recur, every week and every day; dates can be grouped by them but not
	// counted in them. A weekday is numbered from the first day of a week, 0 to 6;
	// an hour from 0 to 23.
	ByWeekday Unit = "weekday"
	ByHour    Unit = "hour"
)

// GroupUnits lists every unit that dates can be grouped by.
func GroupUnits() []Unit { return append(Units(), ByWeekday, ByHour) }

// Cyclic says whether the unit recurs: a weekday, an hour of the day.
func (u Unit) Cyclic() bool { return u == ByWeekday || u == ByHour }

// Units lists every unit in order of length.
func Units() []Unit {
	return []Unit{ByDay, ByWeek, ByMonth, ByQuarter, ByYear, ByFiscalQuarter, ByFiscalYear}
}

// Valid says whether the unit is one of Units.
func (u Unit) Valid() bool {
	for _, k := range Units() {
		if u == k {
			return true
		}
	}
	return false
}

// Word is the unit in running text: "fiscal year".
func (u Unit) Word() string {
	switch u {
	case ByFiscalQuarter:
		return "fiscal quarter"
	case ByFiscalYear:
		return "fiscal year"
	}
	return string(u)
}

// Start is the first day of the unit that holds a day.
func (c Calendar) Start(u Unit, d Day) Day {
	if u == ByDay {
		return d
	}
	if u == ByWeek {
		return d - c.Weekday(d)
	}
	y, m, _ := Date(d)
	first, months := time.January, 12
	switch u {
	case ByMonth:
		months = 1
	case ByQuarter:
		months = 3
	case ByFiscalQuarter:
		first, months = c.fiscalStart(), 3
	case ByFiscalYear:
		first = c.fiscalStart()
	}
	back := int(mod(int64(m-first), int64(months)))
	return FromDate(y, m-time.Month(back), 1)
}

// Weekday numbers a day within its week, from 0.
func (c Calendar) Weekday(d Day) int64 {
	// 1970-01-01 was a Thursday.
	return mod(d+int64(time.Thursday)-int64(c.WeekStart), 7)
}

// Add moves the first day of a unit by n units.
func (c Calendar) Add(u Unit, start Day, n int) Day {
	y, m, d := Date(start)
	switch u {
	case ByDay:
		return start + int64(n)
	case ByWeek:
		return start + int64(n)*7
	case ByMonth:
		return FromDate(y, m+time.Month(n), d)
	case ByQuarter, ByFiscalQuarter:
		return FromDate(y, m+time.Month(3*n), d)
	}
	return FromDate(y+n, m, d)
}

// Shift moves any day by n units, keeping to the last day of a shorter month:
// one month after 31 January is 28 February.
func (c Calendar) Shift(u Unit, d Day, n int) Day {
	if u == ByDay || u == ByWeek {
		return c.Add(u, d, n)
	}
	y, m, day := Date(d)
	first := c.Add(u, FromDate(y, m, 1), n)
	last := c.Add(ByMonth, first, 1) - 1
	return min(first+int64(day-1), last)
}

// Label names the unit that starts on a day: "Nov 2026", "week of 23 Nov 2026".
func (c Calendar) Label(u Unit, start Day) string {
	y, m, _ := Date(start)
	switch u {
	case ByWeekday:
		return time.Weekday(mod(start+int64(c.WeekStart), 7)).String()
	case ByHour:
		return fmt.Sprintf("%02d:00 to %02d:59", start, start)
	case ByWeek:
		return "week of " + FormatDay(start)
	case ByMonth:
		return fmt.Sprintf("%s %d", m.String()[:3], y)
	case ByQuarter:
		return fmt.Sprintf("Q%d %d", (int(m)+2)/3, y)
	case ByYear:
		return fmt.Sprint(y)
	case ByFiscalQuarter:
		n := mod(int64(m-c.fiscalStart()), 12)/3 + 1
		return fmt.Sprintf("FQ%d %s", n, c.fiscalName(y, m))
	case ByFiscalYear:
		return "FY " + c.fiscalName(y, m)
	}
	return FormatDay(start)
}

// fiscalName is the one calendar year of a fiscal year, or both it lies in.
func (c Calendar) fiscalName(y int, m time.Month) string {
	first := c.fiscalStart()
	if first == time.January {
		return fmt.Sprint(y)
	}
	if m < first {
		y--
	}
	return fmt.Sprintf("%d/%02d", y, (y+1)%100)
}

// FormatDay writes a day as "2 Jun 2026".
func FormatDay(d Day) string {
	y, m, day := Date(d)
	return fmt.Sprintf("%d %s %d", day, m.String()[:3], y)
}

func mod(a, n int64) int64 { return ((a % n) + n) % n }
