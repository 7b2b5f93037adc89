package pgreader

import (
	"cmp"
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/plan"
	"gavrik/internal/records"
)

// What lies beyond these is kept by no load: a database's NaN, its infinities, the one bigint that stands for
// a blank.
var (
	least = map[string]string{"numeric": "(-1e18)", "int8": "(-9223372036854775807)"}
	most  = map[string]string{"numeric": "1e18"}
)

// within says that a column's value lies in a range of stored values.
func within(c records.AwayColumn, r plan.Interval) (string, error) {
	if r.Lo > r.Hi {
		return "false", nil
	}
	lo, err := stored(c, max(r.Lo, math.MinInt64+1))
	if err != nil {
		return "", err
	}
	hi, err := stored(c, r.Hi)
	if err != nil {
		return "", err
	}
	lo, hi = cmp.Or(lo, least[c.Type]), cmp.Or(hi, most[c.Type])
	switch {
	case lo == hi && lo != "":
		return fmt.Sprintf("(%s) = %s", c.Expr, lo), nil
	case lo == "" && hi == "":
		return fmt.Sprintf("(%s) IS NOT NULL", c.Expr), nil
	case lo == "":
		return fmt.Sprintf("(%s) <= %s", c.Expr, hi), nil
	case hi == "":
		return fmt.Sprintf("(%s) >= %s", c.Expr, lo), nil
	}
	return fmt.Sprintf("(%s) BETWEEN %s AND %s", c.Expr, lo, hi), nil
}

// The days within which days are written, and what PostgreSQL knows of beyond: the infinite ones lie further.
var (
	firstDay = calendar.FromDate(1, 1, 1)
	lastDay  = calendar.FromDate(9999, 12, 31)
)

const (
	earliestDate, latestDate = "date '4714-11-24 BC'", "date '5874897-12-31'"
	earliestMoment           = "timestamptz '4714-11-24 00:00:00+00 BC'"
	latestMoment             = "timestamptz '294276-12-31 23:59:59.999999+00'"
)

// stored is a stored value as SQL; empty for one beyond which nothing lies.
func stored(c records.AwayColumn, v int64) (string, error) {
	first, last := v <= math.MinInt64+1, v == math.MaxInt64
	switch c.Field.Type {
	case catalog.YesNo:
		return []string{"false", "true"}[min(max(v, 0), 1)], nil
	case catalog.Date:
		switch {
		case (first || last) && !c.Infinite:
			return "", nil
		case first:
			return earliestDate, nil
		case last:
			return latestDate, nil
		case v >= firstDay && v <= lastDay:
			return "date '" + day(v) + "'", nil
		}
	case catalog.DateTime:
		switch {
		case (first || last) && !c.Infinite:
			return "", nil
		case first:
			return earliestMoment, nil
		case last:
			return latestMoment, nil
		case v >= firstDay*calendar.DayLen && v < (lastDay+1)*calendar.DayLen:
			return "timestamptz '" + moment(v) + "'", nil
		}
	case catalog.Duration:
		if first || last {
			return "", nil
		}
		return fmt.Sprintf("interval '%d microseconds'", v), nil
	case catalog.Whole, catalog.Decimal, catalog.Money, catalog.Percent:
		if first || last {
			return "", nil
		}
		return decimal(v, c.Field.Scale), nil
	}
	return "", &undecided{"a bound that cannot be written"}
}

func day(d int64) string {
	y, m, dd := calendar.Date(d)
	return fmt.Sprintf("%04d-%02d-%02d", y, m, dd)
}

func moment(v int64) string {
	at := time.UnixMicro(v).UTC()
	return fmt.Sprintf("%04d-%02d-%02d %02d:%02d:%02d.%06d+00",
		at.Year(), at.Month(), at.Day(), at.Hour(), at.Minute(), at.Second(), at.Nanosecond()/1000)
}

// decimal writes a scaled number.
func decimal(v int64, scale int) string {
	text, minus := strconv.FormatInt(v, 10), ""
	if v < 0 {
		text, minus = text[1:], "-"
	}
	if scale > 0 {
		text = strings.Repeat("0", max(0, scale+1-len(text))) + text
		text = text[:len(text)-scale] + "." + text[len(text)-scale:]
	}
	return "(" + minus + text + ")"
}

func float(v float64) string {
	return "'" + strconv.FormatFloat(v, 'g', -1, 64) + "'::float8"
}

// listed is an array of texts.
func listed(texts []string) string {
	out := make([]string, len(texts))
	for i, text := range texts {
		out[i] = records.Literal(text)
	}
	return "ARRAY[" + strings.Join(out, ",") + "]::text[]"
}
