package format

import (
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/table"
)

// formatted writes an exact value for people as the field's own format asks.
func (w *Writer) formatted(v int64, f catalog.Field) string {
	switch f.Type {
	case catalog.Date:
		return w.dateAs(f.Format.Date, v, 0, "")
	case catalog.DateTime:
		local := w.clock.Local(v)
		day := calendar.FloorDay(local)
		minutes := int((local - day*calendar.DayLen) / calendar.Minute)
		return w.dateAs(f.Format.Date, day, minutes, ", "+clockOf(minutes))
	case catalog.Duration:
		return w.durationAs(v, f)
	}
	scale := f.Scale + f.Format.In.Power()
	decimals := decimalsOf(f, f.Scale)
	text := decimalText(v, scale) + strings.Repeat("0", max(0, decimals-scale))
	switch {
	case decimals < scale:
		text = decimalText(rounded(v, scale-decimals), decimals)
	case scale == 0 && decimals > 0:
		text = decimalText(v, 0) + "." + strings.Repeat("0", decimals)
	}
	if !f.Format.Plain {
		text = Thousands(text)
	}
	if f.Type == catalog.Percent {
		text += " %"
	}
	return w.sign(text)
}

// decimalsOf is how many digits stand behind the point: usual, unless the format
// says otherwise. What is shown in thousands has one.
func decimalsOf(f catalog.Field, usual int) int {
	switch {
	case f.Format.Decimals != nil:
		return *f.Format.Decimals
	case f.Format.In != "":
		return 1
	}
	return usual
}

// most is the number of digits that a number of 64 bits may have.
const most = 19

// rounded takes digits off a decimal's end, halves away from zero.
func rounded(v int64, digits int) int64 {
	if digits >= most {
		return 0
	}
	unit := table.Pow10(digits)
	q, r := v/unit, v%unit
	switch {
	case r >= unit-r:
		q++
	case -r >= unit+r:
		q--
	}
	return q
}

// decimalText is a decimal with its point, without separators.
func decimalText(v int64, scale int) string {
	digits := strconv.FormatUint(magnitude(v), 10)
	if short := scale + 1 - len(digits); short > 0 {
		digits = strings.Repeat("0", short) + digits
	}
	text := digits[:len(digits)-scale]
	if scale > 0 {
		text += "." + digits[len(digits)-scale:]
	}
	if v < 0 {
		return "-" + text
	}
	return text
}

func clockOf(minutes int) string { return pad(minutes/60, 2) + ":" + pad(minutes%60, 2) }

// dateAs writes a day; clock is what follows it where the time of day is kept.
func (w *Writer) dateAs(as catalog.DateFormat, d calendar.Day, minutes int, clock string) string {
	y, m, day := calendar.Date(d)
	month := m.String()[:3]
	switch as {
	case catalog.WithWeekday:
		return time.Weekday((d%7 + 7 + int64(time.Thursday)) % 7).String()[:3] + " " + calendar.FormatDay(d) + clock
	case catalog.ISODate:
		return pad(y, 4) + "-" + pad(int(m), 2) + "-" + pad(day, 2) + strings.Replace(clock, ",", "", 1)
	case catalog.DayMonth:
		return strconv.Itoa(day) + " " + month + clock
	case catalog.MonthYear:
		return month + " " + strconv.Itoa(y)
	case catalog.YearOnly:
		return strconv.Itoa(y)
	case catalog.TimeOnly:
		return clockOf(minutes)
	case catalog.DateOnly:
		return calendar.FormatDay(d)
	}
	return calendar.FormatDay(d) + clock
}

// durationAs writes a duration as h:mm, or as a decimal number of hours or days.
func (w *Writer) durationAs(v calendar.Micros, f catalog.Field) string {
	unit, mark := calendar.Hour, " h"
	switch f.Format.Duration {
	case catalog.InHours:
	case catalog.InDays:
		unit, mark = calendar.DayLen, " d"
	default:
		return w.duration(v, f.Scale > 0)
	}
	decimals := 1
	if f.Format.Decimals != nil {
		decimals = *f.Format.Decimals
	}
	// Whole units and the rest apart: a rest of a day times a million fits 64 bits.
	whole, rest := v/unit, v%unit
	scaled := rest * table.Pow10(decimals)
	part := scaled / unit
	switch left := scaled % unit; {
	case left >= unit-left:
		part++
	case -left >= unit+left:
		part--
	}
	return w.sign(Thousands(decimalText(whole*table.Pow10(decimals)+part, decimals))) + mark
}
