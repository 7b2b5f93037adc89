package reading

import (
	"errors"
	"fmt"
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
	written("point", "as 1,234.56", pointPattern, ",", "."),
	written("comma", "as 1.234,56", commaPattern, ".", ","),
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

var (
	wholePattern = regexp.MustCompile(`^[-+]?\d{1,18}$`)
	pointPattern = regexp.MustCompile(`^[-+]?(\d{1,18}|\d{1,3}(,\d{3}){1,5})(\.\d{1,9})?$`)
	commaPattern = regexp.MustCompile(`^[-+]?(\d{1,18}|\d{1,3}(\.\d{3}){1,5})(,\d{1,9})?$`)
)

func readWhole(s string, _ Setting) (Exact, error) {
	if !wholePattern.MatchString(s) {
		return Exact{}, fmt.Errorf("%q is not a whole number", s)
	}
	v, err := strconv.ParseInt(s, 10, 64)
	return Exact{Value: v}, err
}

// written reads decimals with marks between thousands and before the decimals.
func written(key, example string, pattern *regexp.Regexp, thousands, point string) Way {
	return Way{
		Key: key, Words: example, from: []catalog.Type{catalog.Text}, to: numbers,
		text: func(s string, _ Setting) (Exact, error) {
			s = strings.TrimSpace(strings.TrimSuffix(strings.ReplaceAll(s, "−", "-"), "%"))
			if !pattern.MatchString(s) {
				return Exact{}, fmt.Errorf("%q is not a number written %s", s, example)
			}
			before, after, _ := strings.Cut(strings.ReplaceAll(s, thousands, ""), point)
			v, err := strconv.ParseInt(before+after, 10, 64)
			if err != nil {
				return Exact{}, fmt.Errorf("%q has too many digits to keep", s)
			}
			return Exact{v, len(after)}, nil
		},
	}
}

// sampleMoment is what examples are made of.
var sampleMoment = time.Date(2026, 11, 23, 14, 30, 0, 0, time.UTC)

func dates(key, layout string) Way {
	words := "as " + sampleMoment.Format(layout)
	return Way{
		Key: key, Words: words, from: []catalog.Type{catalog.Text}, to: []catalog.Type{catalog.Date},
		text: func(s string, _ Setting) (Exact, error) {
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

// moments reads dates with a time: of the workspace's zone, unless they name one (RFC 3339).
func moments(key, example string, layouts ...string) Way {
	words := "as " + sampleMoment.Format(example)
	return Way{
		Key: key, Words: words, from: []catalog.Type{catalog.Text}, to: []catalog.Type{catalog.DateTime},
		text: func(s string, in Setting) (Exact, error) {
			if key == "iso" {
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

// momentAt is the moment at which the clock shows a local time: the later of two, as PostgreSQL has it
// of a timestamp without a zone.
func momentAt(cal calendar.Calendar, local calendar.Micros) calendar.Micros {
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
	in := Setting{Calendar: cal, clock: cal.Clock()}
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
