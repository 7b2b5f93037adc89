// The functions that match a text with a pattern.

package program

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/formula"
)

// afterPattern writes numbers, dates or durations after a pattern.
func afterPattern(e *formula.Expr) kernel {
	pattern, typ := e.Args[1].Text, e.Args[0].Type.Type
	if typ.Temporal() || typ == catalog.Duration {
		parts, err := formula.ParseMomentPattern(pattern)
		if err != nil { // the checker has read it
			panic("program: " + err.Error())
		}
		return momentText(typ, parts)
	}
	parsed, err := formula.ParseNumberPattern(pattern)
	if err != nil {
		panic("program: " + err.Error())
	}
	return numberText(parsed)
}

// numberText writes numbers that have as many decimals as the pattern.
func numberText(p formula.NumberPattern) kernel {
	return rows(func(_ *Machine, _ int, a []cell) (cell, bool) {
		text := digitsOf(a[0].int, p.Decimals, p.Whole, p.Thousands)
		if p.Optional > 0 {
			for drop := p.Optional; drop > 0 && strings.HasSuffix(text, "0"); drop-- {
				text = strings.TrimSuffix(text, "0")
			}
			text = strings.TrimSuffix(text, ".")
		}
		sign := ""
		if a[0].int < 0 {
			sign = "−"
		}
		return cell{text: sign + p.Before + text + p.After}, true
	})
}

// digitsOf writes the magnitude of a scaled number with at least so many digits
// before the point.
func digitsOf(v int64, scale, least int, thousands bool) string {
	digits := strconv.FormatUint(magnitude(v), 10)
	if pad := scale + 1 - len(digits); pad > 0 {
		digits = strings.Repeat("0", pad) + digits
	}
	whole, part := strings.TrimLeft(digits[:len(digits)-scale], "0"), digits[len(digits)-scale:]
	if pad := least - len(whole); pad > 0 {
		whole = strings.Repeat("0", pad) + whole
	}
	if thousands {
		whole = format.Thousands(whole)
	}
	if part == "" {
		return whole
	}
	return whole + "." + part
}

// momentText fills the parts in from a date, a moment or a duration.
func momentText(typ catalog.Type, parts []formula.MomentPart) kernel {
	return rows(func(m *Machine, _ int, a []cell) (cell, bool) {
		day, inDay := a[0].int, int64(0)
		switch typ {
		case catalog.DateTime:
			local := m.clock.Local(a[0].int)
			day = calendar.FloorDay(local)
			inDay = local - day*calendar.DayLen
		case catalog.Duration:
			day, inDay = 0, a[0].int
		}
		var b strings.Builder
		if inDay < 0 {
			b.WriteString("−")
			inDay = int64(min(magnitude(inDay), math.MaxInt64))
		}
		at := time.Unix(day*86400, 0).UTC()
		for _, p := range parts {
			b.WriteString(fill(p, at, inDay))
		}
		return cell{text: b.String()}, true
	})
}

func fill(p formula.MomentPart, at time.Time, inDay calendar.Micros) string {
	hours, minutes, seconds := inDay/calendar.Hour, inDay/calendar.Minute%60, inDay/calendar.Second%60
	switch p.Code {
	case "yyyy":
		return fmt.Sprintf("%04d", at.Year())
	case "yy":
		return fmt.Sprintf("%02d", at.Year()%100)
	case "mmmm":
		return at.Month().String()
	case "mmm":
		return at.Month().String()[:3]
	case "mm":
		return fmt.Sprintf("%02d", at.Month())
	case "m":
		return strconv.Itoa(int(at.Month()))
	case "dddd":
		return at.Weekday().String()
	case "ddd":
		return at.Weekday().String()[:3]
	case "dd":
		return fmt.Sprintf("%02d", at.Day())
	case "d":
		return strconv.Itoa(at.Day())
	case "[h]", "h":
		return strconv.FormatInt(hours, 10)
	case "hh":
		return fmt.Sprintf("%02d", hours)
	case "minutemm", "minutemmm", "minutemmmm":
		return fmt.Sprintf("%02d", minutes)
	case "minutem":
		return strconv.FormatInt(minutes, 10)
	case "ss":
		return fmt.Sprintf("%02d", seconds)
	case "s":
		return strconv.FormatInt(seconds, 10)
	}
	return p.Text
}
