package export

import (
	"math"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/cell"
	"gavrik/internal/core/format"
)

// style is how a cell looks: each is made once.
type style struct {
	// number is the format of its value.
	number string
	look   look
	level  int // of a group's line
	right  bool
	middle bool // over several columns
	ruled  bool // has a rule below
}

// look is the kind of line that a cell stands in.
type look int

const (
	plain look = iota
	group
	grandTotal
	heading
	note
	title
	sentence
	wrapped
)

// The ink of workbooks, as on screen.
const (
	ink, mute, rule, paper = "23201B", "6A6459", "E3DCCD", "F7F4EC"
)

// style returns the number of a style.
func (b *workbook) style(s style) (int, error) {
	if id, ok := b.styles[s]; ok {
		return id, nil
	}
	out := &excelize.Style{
		Font:      &excelize.Font{Family: "Calibri", Size: 11, Color: ink},
		Alignment: &excelize.Alignment{Vertical: "top"},
	}
	if s.number != "" {
		out.CustomNumFmt = &s.number
	}
	switch {
	case s.middle:
		out.Alignment.Horizontal = "center"
	case s.right:
		out.Alignment.Horizontal = "right"
	default:
		out.Alignment.Horizontal = "left" // dates, too, which are numbers to a spreadsheet
	}
	line := func(side, color string, kind int) {
		out.Border = append(out.Border, excelize.Border{Type: side, Color: color, Style: kind})
	}
	switch s.look {
	case group:
		out.Font.Bold = true
		line("bottom", rule, 1)
		if s.level == 1 {
			out.Fill = excelize.Fill{Type: "pattern", Pattern: 1, Color: []string{paper}}
		}
		if !s.right {
			out.Alignment.Indent = max(0, s.level-1)
		}
	case grandTotal:
		out.Font.Bold = true
		line("top", ink, 2)
	case heading:
		out.Font.Bold = true
		out.Alignment.WrapText, out.Alignment.Vertical = true, "bottom"
	case note:
		out.Font.Color, out.Font.Size = mute, 9
		out.Alignment.Vertical = "bottom"
	case title:
		out.Font.Family, out.Font.Size, out.Font.Bold = "Cambria", 16, true
	case sentence:
		out.Font.Family, out.Alignment.WrapText = "Cambria", true
	case wrapped:
		out.Alignment.WrapText = true
	}
	if s.ruled {
		line("bottom", ink, 1)
	}
	id, err := b.file.NewStyle(out)
	if err == nil {
		b.styles[s] = id
	}
	return id, err
}

// The first day that spreadsheets count, and the first that all of them count alike: before
// 1 March 1900 some have a day that never was.
const (
	serialEpoch = 25569 // 1970-01-01
	firstSerial = 61
)

// longest is how many digits of a number spreadsheets keep.
const longest = 1_000_000_000_000_000

// value is a cell as a spreadsheet holds it, nil for a blank. Percentages are parts of one,
// durations parts of a day, moments the clock's time in the view's zone.
func (b *workbook) value(c cell.Cell, f catalog.Field) any {
	switch c.Kind {
	case cell.Number:
		if c.Int >= longest || c.Int <= -longest {
			b.unlike.long++
		}
		return scaled(c.Int, int(c.Scale)+percentDigits(f))
	case cell.Approximate:
		v := c.Float() / math.Pow10(percentDigits(f))
		if math.IsInf(v, 0) || math.IsNaN(v) {
			return strconv.FormatFloat(v, 'g', -1, 64)
		}
		return v
	case cell.Text:
		return c.Text
	case cell.YesNo:
		return c.Int == 1
	case cell.Duration:
		return float64(c.Int) / float64(calendar.DayLen)
	case cell.Date:
		return b.serial(float64(c.Int), c, f)
	case cell.Moment:
		return b.serial(float64(b.clock.Local(c.Int))/float64(calendar.DayLen), c, f)
	case cell.Picture:
		b.unlike.pictures++
	}
	return nil
}

// serial is a number of days since 1970 as spreadsheets count days.
func (b *workbook) serial(days float64, c cell.Cell, f catalog.Field) any {
	if days+serialEpoch < firstSerial {
		b.unlike.early++
		return format.NewWriter(format.Plain, b.source.Result.Summarize().Plan.Calendar).Cell(c, f)
	}
	return days + serialEpoch
}

// scaled is an exact number as the nearest one in binary, which shows the same digits.
func scaled(v int64, scale int) float64 {
	if v > -1<<53 && v < 1<<53 && scale <= 22 {
		return float64(v) / math.Pow10(scale) // both exact, so that the quotient is the nearest
	}
	out, err := strconv.ParseFloat(strconv.FormatInt(v, 10)+"e-"+strconv.Itoa(scale), 64)
	if err != nil {
		return float64(v) / math.Pow10(scale)
	}
	return out
}

// percentDigits are those by which a percentage differs from a part of one.
func percentDigits(f catalog.Field) int {
	if f.Type == catalog.Percent {
		return 2
	}
	return 0
}

// numberFormat is how a spreadsheet shows the values of a field; currency, if there is one,
// is the amount's own.
func numberFormat(f catalog.Field, currency string) string {
	as := catalog.Format{}
	if f.Format != nil {
		as = *f.Format
	}
	switch f.Type {
	case catalog.Date, catalog.DateTime:
		return dateFormat(as.Date, f.Type)
	case catalog.Duration:
		if f.Scale > 0 {
			return "[h]:mm:ss"
		}
		return "[h]:mm"
	case catalog.Text, catalog.Picture:
		return "@" // what is typed over it stays a text
	case catalog.YesNo:
		return ""
	}
	decimals := f.Scale
	switch {
	case as.Decimals != nil:
		decimals = *as.Decimals
	case as.In != "":
		decimals = 1
	case f.Approx:
		decimals = 2
	}
	out := "#,##0"
	if as.Plain {
		out = "0"
	}
	if decimals > 0 {
		out += "." + strings.Repeat("0", decimals)
	}
	out += strings.Repeat(",", as.In.Power()/3) // each divides by a thousand
	if f.Type == catalog.Percent {
		out += " %"
	}
	if currency != "" {
		out += ` "` + strings.ReplaceAll(currency, `"`, "") + `"`
	}
	return out
}

func dateFormat(as catalog.DateFormat, t catalog.Type) string {
	clock := ""
	if t == catalog.DateTime {
		clock = ", hh:mm"
	}
	switch as {
	case catalog.WithWeekday:
		return "ddd d mmm yyyy" + clock
	case catalog.ISODate:
		return "yyyy-mm-dd" + strings.Replace(clock, ",", "", 1)
	case catalog.DayMonth:
		return "d mmm" + clock
	case catalog.MonthYear:
		return "mmm yyyy"
	case catalog.YearOnly:
		return "yyyy"
	case catalog.TimeOnly:
		return "hh:mm"
	case catalog.DateOnly:
		return "d mmm yyyy"
	}
	return "d mmm yyyy" + clock
}
