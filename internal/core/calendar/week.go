package calendar

// Weeks have numbers as in ISO 8601, whatever day they start on: week 1 of a year is the first that
// has most of its days in it. A year has 52 weeks or 53.

// WeekNumber is the year that a day's week belongs to, and its number there.
func (c Calendar) WeekNumber(d Day) (year, number int) {
	start := c.Start(ByWeek, d)
	year, _, _ = Date(start + 3)
	return year, int(start-c.firstWeek(year))/7 + 1
}

// firstWeek is the first day of a year's week 1, which is the week that holds 4 January.
func (c Calendar) firstWeek(year int) Day { return c.Start(ByWeek, FromDate(year, 1, 4)) }

// SameWeek is the same day of the week of the same number, so many years on; ok is false where
// that year has no such week.
func (c Calendar) SameWeek(d Day, years int) (day Day, ok bool) {
	year, number := c.WeekNumber(d)
	first := c.firstWeek(year + years)
	day = first + int64(7*(number-1)) + d - c.Start(ByWeek, d)
	return day, day < c.firstWeek(year+years+1)
}

// maxWeeks bounds the weeks that are looked at one by one: those of five centuries.
const maxWeeks = 500 * 53

// SameWeeks are the days of the weeks of the same numbers, so many years on, in as few ranges as
// hold them; nothing, if the range has no ends or more than 500 years.
func (c Calendar) SameWeeks(r Range, years int) (out []Range) {
	if r.OpenFrom || r.OpenTo || (r.To-r.From)/7 > maxWeeks {
		return nil
	}
	for from := r.From; from <= r.To; {
		to := min(r.To, c.Start(ByWeek, from)+6)
		if day, ok := c.SameWeek(from, years); ok {
			same := Range{From: day, To: day + to - from}
			if n := len(out); n > 0 && out[n-1].To+1 == same.From {
				out[n-1].To = same.To
			} else {
				out = append(out, same)
			}
		}
		from = to + 1
	}
	return out
}
