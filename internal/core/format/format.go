// Package format writes stored values for people and for other programs.
//
// For people: thousands by comma, a true minus sign, durations as hours and
// minutes that may pass 24, a blank as nothing and zero as 0. For programs:
// plain decimals, ISO 8601 dates, yes as true.
package format

import (
	"math"
	"strconv"
	"strings"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/table"
)

// Style chooses the reader.
type Style int

// The styles.
const (
	People Style = iota
	Plain
)

// Writer writes the values of fields. It belongs to one goroutine.
type Writer struct {
	style Style
	clock *calendar.Clock
}

// NewWriter returns a writer for dates in the calendar's zone.
func NewWriter(style Style, cal calendar.Calendar) *Writer {
	return &Writer{style: style, clock: cal.Clock()}
}

// Number writes an exact value of a field; table.Blank gives "".
func (w *Writer) Number(v int64, f catalog.Field) string {
	if v == table.Blank {
		return ""
	}
	switch f.Type {
	case catalog.YesNo:
		return w.yesNo(v)
	}
	if f.Format != nil && w.style == People {
		return w.formatted(v, f)
	}
	switch f.Type {
	case catalog.Date:
		return w.day(v)
	case catalog.DateTime:
		return w.moment(v)
	case catalog.Duration:
		return w.duration(v, f.Scale > 0)
	}
	s := w.sign(w.decimal(v, f.Scale))
	if f.Type == catalog.Percent && w.style == People {
		s += " %"
	}
	return s
}

// Float writes an approximate value; NaN gives "".
func (w *Writer) Float(v float64, f catalog.Field) string {
	if math.IsNaN(v) {
		return ""
	}
	if w.style == Plain {
		return strconv.FormatFloat(v, 'g', -1, 64)
	}
	if math.Abs(v) >= 1e15 {
		return w.sign(strconv.FormatFloat(v, 'e', 3, 64))
	}
	decimals, plain := 2, false
	if f.Format != nil {
		v /= math.Pow10(f.Format.In.Power())
		decimals, plain = decimalsOf(f, decimals), f.Format.Plain
	}
	text := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Trim(text, "-0.") == "" {
		text = strings.TrimPrefix(text, "-")
	}
	if !plain {
		text = Thousands(text)
	}
	s := w.sign(text)
	if f.Type == catalog.Percent {
		s += " %"
	}
	return s
}

// Cell writes a value of a field with what stands beside it, but for a Several.
func (w *Writer) Cell(c cell.Cell, f catalog.Field) string {
	text := ""
	switch c.Kind {
	case cell.Blank, cell.Several:
		return ""
	case cell.Text, cell.Picture:
		text = c.Text
	case cell.Approximate:
		text = w.Float(c.Float(), f)
	case cell.Date: // also one that bounds moments
		f.Type = catalog.Date
		text = w.Number(c.Int, f)
	default:
		text = w.Number(c.Int, f)
	}
	if c.More == nil {
		return text
	}
	if c.More.Currency != "" {
		text += " " + c.More.Currency
	}
	if c.More.Times > 0 {
		text += w.Times(c.More.Times)
	}
	return text
}

// Unit writes the unit of time that starts on a day: by its name for people, by its first
// day for programs. A weekday has its name for both, as its number hangs on a setting.
func (w *Writer) Unit(cal calendar.Calendar, u calendar.Unit, start int64) string {
	switch {
	case start == table.Blank:
		return ""
	case w.style == Plain && u == calendar.ByHour:
		return strconv.FormatInt(start, 10)
	case w.style == Plain && !u.Cyclic():
		return w.day(start)
	}
	return cal.Label(u, start)
}

// Times says behind a value how many records have it: ", 412 times". Programs get the value
// alone.
func (w *Writer) Times(n int64) string {
	switch {
	case w.style == Plain:
		return ""
	case n == 1:
		return ", once"
	}
	return ", " + w.decimal(n, 0) + " times"
}

// decimal places the point in a value scaled by ten to scale.
func (w *Writer) decimal(v int64, scale int) string {
	if w.style == People {
		return Thousands(decimalText(v, scale))
	}
	return decimalText(v, scale)
}

func magnitude(v int64) uint64 {
	if v < 0 {
		return -uint64(v)
	}
	return uint64(v)
}

// Thousands puts commas between the thousands of a decimal number written in digits.
func Thousands(s string) string {
	start := 0
	if strings.HasPrefix(s, "-") {
		start = 1
	}
	end := strings.IndexByte(s, '.')
	if end < 0 {
		end = len(s)
	}
	for i := end - 3; i > start; i -= 3 {
		s = s[:i] + "," + s[i:]
	}
	return s
}

// sign turns the hyphen of a negative number into a minus sign for people.
func (w *Writer) sign(s string) string {
	if w.style == People && strings.HasPrefix(s, "-") {
		return "−" + s[1:]
	}
	return s
}

func (w *Writer) day(d calendar.Day) string {
	if w.style == People {
		return calendar.FormatDay(d)
	}
	y, m, day := calendar.Date(d)
	return pad(y, 4) + "-" + pad(int(m), 2) + "-" + pad(day, 2)
}

func (w *Writer) moment(m calendar.Micros) string {
	local := w.clock.Local(m)
	d := calendar.FloorDay(local)
	seconds := int((local - d*calendar.DayLen) / calendar.Second)
	clock := pad(seconds/3600, 2) + ":" + pad(seconds/60%60, 2)
	if w.style == People {
		return w.day(d) + ", " + clock
	}
	return w.day(d) + "T" + clock + ":" + pad(seconds%60, 2)
}

// duration writes h:mm, or h:mm:ss for a field that has seconds.
func (w *Writer) duration(v calendar.Micros, seconds bool) string {
	unit := uint64(calendar.Minute)
	if seconds || w.style == Plain {
		unit = uint64(calendar.Second)
	}
	n := (magnitude(v) + unit/2) / unit // rounded to what is shown
	negative := v < 0 && n > 0
	out := ""
	if unit == uint64(calendar.Second) {
		out = ":" + pad(int(n%60), 2)
		n /= 60
	}
	hours := strconv.FormatUint(n/60, 10)
	if w.style == People {
		hours = Thousands(hours)
	}
	out = hours + ":" + pad(int(n%60), 2) + out
	if negative {
		out = w.sign("-" + out)
	}
	return out
}

func (w *Writer) yesNo(v int64) string {
	words := [2]string{"No", "Yes"}
	if w.style == Plain {
		words = [2]string{"false", "true"}
	}
	return words[min(max(v, 0), 1)]
}

func pad(n, width int) string {
	s := strconv.Itoa(n)
	for len(s) < width {
		s = "0" + s
	}
	return s
}
