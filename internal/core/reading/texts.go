package reading

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
)

// textWays read what is written as text.
var textWays = []Way{
	{
		Key: "whole", Words: "as 1234", from: []catalog.Type{catalog.Text}, to: []catalog.Type{catalog.Whole},
		text: readWhole,
	},
	written("point", "as 1,234.56", ',', '.'), written("comma", "as 1.234,56", '.', ','),
	dates("iso", "2006-01-02"), dates("day.month.year", "2.1.2006"), dates("day/month/year", "2/1/2006"),
	dates("month/day/year", "1/2/2006"), dates("day name year", "2 Jan 2006"), dates("yearmonthday", "20060102"),
	moments("iso", "2006-01-02 15:04", "2006-01-02T15:04", "2006-01-02 15:04"),
	moments("day.month.year", "2.1.2006 15:04", "2.1.2006 15:04"),
	moments("day/month/year", "2/1/2006 15:04", "2/1/2006 15:04"),
	moments("month/day/year", "1/2/2006 15:04", "1/2/2006 15:04", "1/2/2006 3:04 PM"),
	{
		Key: "clock", Words: "as 1:30, 90 min or PT1H30M", from: []catalog.Type{catalog.Text},
		to: []catalog.Type{catalog.Duration}, text: readDuration,
	},
	{
		Key: "words", Words: "as yes and no, true and false, 1 and 0", from: []catalog.Type{catalog.Text},
		to: []catalog.Type{catalog.YesNo}, text: readYesNo,
	},
}

// most is how many digits a whole number, or the part before the point, may have; mostDecimals
// how many may follow the point. All of them together must fit in 64 bits.
const (
	most         = 18
	mostDecimals = 9
)

func readWhole(s string, _ Setting) (Exact, error) {
	digits, negative := signed(s)
	v, n := leading(digits)
	if n == 0 || n > most || n < len(digits) {
		return Exact{}, fmt.Errorf("%q is not a whole number", s)
	}
	if negative {
		v = -v
	}
	return Exact{Value: v}, nil
}

// written reads decimals with marks between thousands and before the decimals.
func written(key, example string, thousands, point byte) Way {
	return Way{
		Key: key, Words: example, from: []catalog.Type{catalog.Text}, to: numbers,
		text: func(s string, _ Setting) (Exact, error) {
			bare := strings.TrimSpace(strings.TrimSuffix(s, "%"))
			if rest, minus := strings.CutPrefix(bare, "−"); minus {
				bare = "-" + rest
			}
			digits, negative := signed(bare)
			before, rest, ok := grouped(digits, thousands)
			if !ok {
				return Exact{}, fmt.Errorf("%q is not a number written %s", s, example)
			}
			e := Exact{Value: before}
			if rest != "" {
				after, n := leading(rest[1:])
				if rest[0] != point || n == 0 || n > mostDecimals || n < len(rest)-1 {
					return Exact{}, fmt.Errorf("%q is not a number written %s", s, example)
				}
				if e, ok = e.At(n); !ok || e.Value > math.MaxInt64-after {
					return Exact{}, fmt.Errorf("%q has too many digits to keep", s)
				}
				e.Value += after
			}
			if negative {
				e.Value = -e.Value
			}
			return e, nil
		},
	}
}

// signed takes the sign off a number.
func signed(s string) (digits string, negative bool) {
	if s != "" && (s[0] == '-' || s[0] == '+') {
		return s[1:], s[0] == '-'
	}
	return s, false
}

// leading reads the digits that a text begins with; more than fit are counted and not read.
func leading(s string) (v int64, n int) {
	for n < len(s) && s[n]-'0' <= 9 {
		if n < most {
			v = 10*v + int64(s[n]-'0')
		}
		n++
	}
	return v, n
}

// grouped reads the digits before the point, all together or in threes with a mark between;
// rest is what follows.
func grouped(s string, mark byte) (v int64, rest string, ok bool) {
	v, n := leading(s)
	if n == 0 || n > most {
		return 0, "", false
	}
	rest = s[n:]
	if n > 3 {
		return v, rest, rest == "" || rest[0] != mark
	}
	for digits := n; rest != "" && rest[0] == mark; digits += 3 {
		three, n := leading(rest[1:])
		if n != 3 || digits+3 > most {
			return 0, "", false
		}
		v, rest = 1000*v+three, rest[4:]
	}
	return v, rest, true
}

// sampleMoment is what examples are made of.
var sampleMoment = time.Date(2026, 11, 23, 14, 30, 0, 0, time.UTC)

func dates(key, layout string) Way {
	words := "as " + sampleMoment.Format(layout)
	return Way{
		Key: key, Words: words, from: []catalog.Type{catalog.Text}, to: []catalog.Type{catalog.Date},
		text: func(s string, _ Setting) (Exact, error) {
			if key == "iso" {
				if e, ok := isoDay(s); ok {
					return e, nil
				}
			}
			t, err := time.Parse(layout, s)
			if err != nil {
				return Exact{}, fmt.Errorf("%q is not a date written %s", s, words)
			}
			e, ok := day(t.Year(), int(t.Month()), t.Day())
			if !ok {
				return e, fmt.Errorf("%q lies outside the calendar", s)
			}
			return e, nil
		},
	}
}

// isoDay reads a date of ISO 8601 that is in the calendar: "2026-11-23".
func isoDay(s string) (Exact, bool) {
	if len(s) != len("2026-11-23") || s[4] != '-' || s[7] != '-' {
		return Exact{}, false
	}
	y, ny := leading(s[:4])
	m, nm := leading(s[5:7])
	d, nd := leading(s[8:])
	if ny != 4 || nm != 2 || nd != 2 {
		return Exact{}, false
	}
	return day(int(y), int(m), int(d))
}

// moments reads dates with a time: of the workspace's zone, unless they name one (RFC 3339).
func moments(key, example string, layouts ...string) Way {
	words := "as " + sampleMoment.Format(example)
	return Way{
		Key: key, Words: words, from: []catalog.Type{catalog.Text}, to: []catalog.Type{catalog.DateTime},
		text: func(s string, in Setting) (Exact, error) {
			if key == "iso" {
				if local, ok := isoLocal(s); ok {
					return Exact{Value: momentAt(in.Calendar, local)}, nil
				}
				if t, err := time.Parse(time.RFC3339, strings.Replace(s, " ", "T", 1)); err == nil {
					return Exact{Value: t.UnixMicro()}, nil
				}
			}
			for _, layout := range layouts {
				for _, seconds := range []string{"", ":05"} { // a fraction may follow the seconds
					if t, err := time.Parse(strings.Replace(layout, ":04", ":04"+seconds, 1), s); err == nil {
						return Exact{Value: momentAt(in.Calendar, t.UnixMicro())}, nil
					}
				}
			}
			return Exact{}, fmt.Errorf("%q is not a date and time written %s", s, words)
		},
	}
}

// isoLocal reads the commonest way to write a local time: "2026-11-23 14:30", seconds as may be.
func isoLocal(s string) (calendar.Micros, bool) {
	if len(s) != len("2026-11-23 14:30") && len(s) != len("2026-11-23 14:30:00") || s[10] != ' ' && s[10] != 'T' {
		return 0, false
	}
	date, ok := isoDay(s[:10])
	sum := date.Value * calendar.DayLen
	for i, at := range []int{11, 14, 17} {
		if at > len(s) {
			break
		}
		v, n := leading(s[at : at+2])
		if n != 2 || v > []int64{23, 59, 59}[i] || at > 11 && s[at-1] != ':' {
			return 0, false
		}
		sum += v * []calendar.Micros{calendar.Hour, calendar.Minute, calendar.Second}[i]
	}
	return sum, ok
}

// momentAt is the moment at which the clock shows a local time: the later of two, as PostgreSQL has it
// of a timestamp without a zone.
func momentAt(cal calendar.Calendar, local calendar.Micros) calendar.Micros {
	if cal.Zone == time.UTC {
		return local
	}
	if spans := cal.Moments(local, local); len(spans) > 1 {
		return spans[len(spans)-1].From
	}
	return cal.At(local)
}

// day is a date as it is kept; ok is false for one that is not in the calendar.
func day(y, m, d int) (Exact, bool) {
	date := time.Date(y, time.Month(m), d, 0, 0, 0, 0, time.UTC)
	ok := y >= 1 && y <= 9999 && int(date.Month()) == m && date.Day() == d
	return Exact{Value: calendar.FromDate(y, time.Month(m), d)}, ok
}

// isoDuration is a duration of ISO 8601 without years and months, whose lengths differ.
var isoDuration = regexp.MustCompile(
	`^P(?:(\d{1,6})D)?(?:T(?:(\d{1,6})H)?(?:(\d{1,6})M)?(?:(\d{1,6})S)?)?$`,
)

func readDuration(s string, _ Setting) (Exact, error) {
	m := isoDuration.FindStringSubmatch(s)
	if m == nil || s == "P" || strings.HasSuffix(s, "T") {
		v, err := plan.ParseDuration(s)
		return Exact{Value: v}, err
	}
	sum := int64(0)
	for i, unit := range []calendar.Micros{calendar.DayLen, calendar.Hour, calendar.Minute, calendar.Second} {
		n, _ := strconv.ParseInt("0"+m[i+1], 10, 64) // the pattern leaves digits alone
		sum += n * unit
	}
	return Exact{Value: sum}, nil
}

var errYesNo = errors.New("it is neither yes nor no")

func readYesNo(s string, _ Setting) (Exact, error) {
	switch strings.ToLower(s) {
	case "yes", "true", "y", "t", "1":
		return Exact{Value: 1}, nil
	case "no", "false", "n", "f", "0":
		return Exact{}, nil
	}
	return Exact{}, errYesNo
}

// Number reads a number written as 1234.50; ok is false for anything else.
func Number(s string) (Exact, bool) {
	w, _ := Find(catalog.Text, catalog.Decimal, "point")
	v, err := w.text(s, Setting{})
	return v, err == nil
}

// Outcomes are the different values that a text can be read as in the ways of a type.
func Outcomes(s string, to catalog.Type, cal calendar.Calendar) []Exact {
	in := In(cal)
	var out []Exact
	for _, w := range Ways(catalog.Text, to) {
		v, err := w.text(s, in)
		if err != nil {
			continue
		}
		if !slices.ContainsFunc(out, func(o Exact) bool {
			scale := max(o.Scale, v.Scale)
			a, fitsA := o.At(scale)
			b, fitsB := v.At(scale)
			return fitsA && fitsB && a.Value == b.Value
		}) {
			out = append(out, v)
		}
	}
	return out
}
