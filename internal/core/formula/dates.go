package formula

import "slices"

var dateFunctions = []Function{
	{
		Name: "TODAY", most: 0, Result: "a date", check: checkToday, Meaning: "The day the view runs.",
		Example: `TODAY() - 'Opened at'`,
	},
	{
		Name: "NOW", most: 0, Result: "a date and time", check: checkNow, Meaning: "The moment the view runs.",
		Example: `NOW() - 'Opened at'`,
	},
	{Name: "DATE", Arguments: "year; month; day", least: 3, most: 3, Result: "a date",
		Meaning: "The date of a year, a month and a day. Months and days past the end are carried over, as in the standard: DATE(2026; 14; 1) is 1 Feb 2027.",
		Example: `DATE(YEAR('Opened at'); 1; 1)`, Sample: `DATE(2026; 14; 1)`,
		check: gives(dateType, aWhole)},
	{Name: "TIME", Arguments: "hours; minutes; seconds", least: 3, most: 3, Result: "a duration",
		Meaning: "A length of time; added to a date it gives a moment of that day.",
		Example: `'Joined on' + TIME(9; 30; 0)`, Sample: `TIME(36; 30; 0)`,
		check: gives(lengthType, aWhole)},
	{Name: "DATEVALUE", Arguments: "value", least: 1, most: 1, Result: "a date", check: checkDateValue,
		Meaning: "The day of a date and time, or of a text such as 2026-11-23.",
		Blanks:  "A blank gives a blank. A text that is no date fails.",
		Example: `DATEVALUE('Opened at')`, Sample: `DATEVALUE("2026-02-28")`},
	{Name: "YEAR", Arguments: "date", least: 1, most: 1, Result: "a whole number",
		Meaning: "The year of a date.",
		Example: `YEAR('Opened at')`, Sample: `YEAR(DATE(2026; 11; 23))`, check: gives(wholeType, aDate)},
	{Name: "MONTH", Arguments: "date", least: 1, most: 1, Result: "a whole number",
		Meaning: "The month of a date, from 1 to 12.",
		Example: `MONTH('Opened at')`, Sample: `MONTH(DATE(2026; 11; 23))`, check: gives(wholeType, aDate)},
	{Name: "DAY", Arguments: "date", least: 1, most: 1, Result: "a whole number",
		Meaning: "The day of the month.",
		Example: `DAY('Opened at')`, Sample: `DAY(DATE(2026; 11; 23))`, check: gives(wholeType, aDate)},
	{Name: "HOUR", Arguments: "date and time", least: 1, most: 1, Result: "a whole number",
		Meaning: "The hour of the day, from 0 to 23, in the workspace's zone.",
		Example: `HOUR('Opened at')`, Sample: `HOUR(DATE(2026; 11; 23) + TIME(14; 5; 9))`,
		check: gives(wholeType, aMoment)},
	{Name: "MINUTE", Arguments: "date and time", least: 1, most: 1, Result: "a whole number",
		Meaning: "The minute of the hour, from 0 to 59.",
		Example: `MINUTE('Opened at')`, Sample: `MINUTE(DATE(2026; 11; 23) + TIME(14; 5; 9))`,
		check: gives(wholeType, aMoment)},
	{Name: "SECOND", Arguments: "date and time", least: 1, most: 1, Result: "a whole number",
		Meaning: "The second of the minute, from 0 to 59.",
		Example: `SECOND('Opened at')`, Sample: `SECOND(DATE(2026; 11; 23) + TIME(14; 5; 9))`,
		check: gives(wholeType, aMoment)},
	{Name: "WEEKDAY", Arguments: "date; kind", least: 1, most: 2, Result: "a whole number",
		Meaning: "The day of the week. Kind 1, or none: Sunday is 1; kind 2: Monday is 1; kind 3: Monday is 0.",
		Example: `WEEKDAY('Opened at'; 2)`, Sample: `WEEKDAY(DATE(2026; 11; 23); 2)`,
		check: gives(wholeType, aDate, aWhole)},
	{Name: "ISOWEEKNUM", Arguments: "date", least: 1, most: 1, Result: "a whole number",
		Meaning: "The number of the week after ISO 8601: weeks begin on Monday, and the first holds the year's first Thursday.",
		Example: `ISOWEEKNUM('Opened at')`, Sample: `ISOWEEKNUM(DATE(2027; 1; 1))`,
		check: gives(wholeType, aDate)},
	{Name: "EDATE", Arguments: "date; months", least: 2, most: 2, Result: "a date",
		Meaning: "The date so many months later; the last day of a month that is too short.",
		Example: `EDATE('Joined on'; 12)`, Sample: `EDATE(DATE(2026; 1; 31); 1)`,
		check: gives(dateType, aDate, aWhole)},
	{Name: "EOMONTH", Arguments: "date; months", least: 2, most: 2, Result: "a date",
		Meaning: "The last day of the month so many months later.",
		Example: `EOMONTH('Opened at'; 0)`, Sample: `EOMONTH(DATE(2026; 1; 15); 1)`,
		check: gives(dateType, aDate, aWhole)},
	{Name: "DAYS", Arguments: "end; start", least: 1, most: 2,
		Result: "a whole number; of a duration, a number, approximate", check: checkDays,
		Meaning: "How many days lie between two dates. With one argument, a duration as a number of days.",
		Example: `DAYS(TODAY(); 'Opened at')`, Sample: `DAYS(DATE(2026; 3; 1); DATE(2026; 2; 27))`},
	{Name: "HOURS", Arguments: "duration", least: 1, most: 1, Result: "a number, approximate",
		check:   gives(floatType, aDuration),
		Meaning: "A duration as a number of hours.", Example: `HOURS('Closed at' - 'Opened at')`,
		Sample: `HOURS(TIME(1; 30; 0))`},
	{Name: "MINUTES", Arguments: "duration", least: 1, most: 1, Result: "a number, approximate",
		check:   gives(floatType, aDuration),
		Meaning: "A duration as a number of minutes.", Example: `MINUTES('Closed at' - 'Opened at')`,
		Sample: `MINUTES(TIME(1; 30; 0))`},
	{Name: "DATEDIF", Arguments: "start; end; unit", least: 3, most: 3, Result: "a whole number",
		check:   checkDateDif,
		Meaning: `Whole years ("y"), months ("m") or days ("d") between two dates; "ym" the months beyond whole years, "md" the days beyond whole months, "yd" the days beyond whole years. Negative if the end comes first.`,
		Example: `DATEDIF('Opened at'; TODAY(); "y")`,
		Sample:  `DATEDIF(DATE(2000; 2; 29); DATE(2026; 2; 28); "y")`},
	{Name: "NETWORKDAYS", Arguments: "start; end", least: 2, most: 2, Result: "a whole number",
		Meaning: "How many days from Monday to Friday lie between two dates, both counted. Negative if the end comes first. Holidays are not known.",
		Example: `NETWORKDAYS('Opened at'; TODAY())`, Sample: `NETWORKDAYS(DATE(2026; 11; 20); DATE(2026; 11; 23))`,
		check: gives(wholeType, aDate)},
}

func checkToday(c *checker, _ *tree, _ []*Expr) *Expr {
	c.making.UsesToday = true
	return &Expr{Op: Today, Type: dateType}
}

func checkNow(c *checker, _ *tree, _ []*Expr) *Expr {
	c.making.UsesNow = true
	return &Expr{Op: Now, Type: momentType}
}

func checkDateValue(c *checker, t *tree, args []*Expr) *Expr {
	if args[0].Type.Type.Temporal() {
		return days(args[0])
	}
	return gives(dateType, want{"a date or text", aText.fits, nil})(c, t, args)
}

func checkDays(c *checker, t *tree, args []*Expr) *Expr {
	if len(args) == 1 {
		return gives(floatType, aDuration)(c, t, args)
	}
	twoDates := aDate
	twoDates.words = "two dates"
	args, ok := c.wanted(t, args, twoDates)
	if !ok {
		return nil
	}
	return &Expr{Op: Subtract, Type: wholeType, Args: args}
}

// dateDifUnits are the units of DATEDIF (OpenFormula 6.10.3).
var dateDifUnits = []string{"y", "m", "d", "ym", "md", "yd"}

func checkDateDif(c *checker, t *tree, args []*Expr) *Expr {
	unit := t.args[2]
	if unit.kind != textToken || !slices.Contains(dateDifUnits, unit.text) {
		return c.fault(unit, `DATEDIF wants a unit in quotes: "y", "m", "d", "ym", "md" or "yd"`)
	}
	dates, ok := c.wanted(t, args[:2], aDate)
	if !ok {
		return nil
	}
	return &Expr{Op: DateDif, Type: wholeType, Args: append(dates, args[2])}
}
