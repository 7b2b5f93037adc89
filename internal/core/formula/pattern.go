package formula

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"time"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/format"
	"gavrik/internal/core/table"
)

// compilePattern compiles TEXT: the pattern is read once, for the type of the value.
func compilePattern(c *checker, t *tree, args []node) (node, error) {
	if t.args[1].kind != textToken || t.args[1].text == "" {
		return nil, fault(t.args[1], `TEXT wants its pattern in double quotes, such as "0.00" or "d mmm yyyy"`)
	}
	pattern := t.args[1].text
	typ := args[0].typ()
	switch {
	case typ.plainNumber():
		return c.numberPattern(t, args[0], pattern)
	case typ.Type.Temporal() || typ.Type == catalog.Duration:
		parts, err := momentPattern(pattern)
		if err != nil {
			return nil, fault(t.args[1], "%s", err)
		}
		return c.momentText(args[0], parts), nil
	}
	return nil, fault(t.args[0], "TEXT wants a number, a date or a duration; %s is %s", t.args[0].said(), typ.Word())
}

// numberPattern writes numbers after a pattern of 0, #, one comma for thousands, one
// point, and a percent sign behind it; other characters may stand around it.
func (c *checker) numberPattern(t *tree, n node, pattern string) (node, error) {
	first, last := strings.IndexAny(pattern, "0#"), strings.LastIndexAny(pattern, "0#")
	if first < 0 {
		return nil, fault(t.args[1], `the pattern %q has no place for digits; write one such as "#,##0.00"`, pattern)
	}
	before, digits, after := pattern[:first], pattern[first:last+1], pattern[last+1:]
	thousands := strings.Contains(digits, ",")
	whole, part, _ := strings.Cut(strings.ReplaceAll(digits, ",", ""), ".")
	if strings.Trim(whole+part, "0#") != "" {
		return nil, fault(t.args[1], `the pattern %q holds more than digits between its digits; write one such as "#,##0.00"`, pattern)
	}
	least := strings.Count(whole, "0")
	typ := n.typ()
	percent := strings.HasPrefix(after, "%")
	n = c.unpercented(n)
	if percent {
		var err error
		if n, err = c.product(&tree{text: "*"}, n, &constant{t: wholeType, id: c.id(), int: 100}); err != nil {
			return nil, err
		}
	} else if typ.Type == catalog.Percent {
		n = c.asShown(n) // 12.5 % is written 12.5
	}
	if len(part) > 12 {
		return nil, fault(t.args[1], "the pattern %q has %d decimals; at most 12 are written", pattern, len(part))
	}
	n = c.rounded(n, len(part), nearest)
	return c.rows(textType, []node{n}, func(_ *Machine, _ int, a []cell) (cell, bool) {
		text := digitsOf(a[0].int, len(part), least, thousands)
		if cut := len(strings.TrimRight(part, "#")); cut < len(part) { // # writes no zero at the end
			for drop := len(part) - cut; drop > 0 && strings.HasSuffix(text, "0"); drop-- {
				text = strings.TrimSuffix(text, "0")
			}
			text = strings.TrimSuffix(text, ".")
		}
		sign := ""
		if a[0].int < 0 {
			sign = "−"
		}
		return cell{text: sign + before + text + after}, true
	}), nil
}

// asShown takes a percentage's number back to what is shown of it.
func (c *checker) asShown(n node) node {
	out, err := c.product(&tree{text: "*"}, n, &constant{t: wholeType, id: c.id(), int: 100})
	if err != nil { // no more decimals than before, so there is no such fault
		return n
	}
	return out
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

// momentParts are the pieces of a pattern for dates: what is written as it is, and
// the names of what is filled in.
type momentPart struct{ code, text string }

var momentCodes = []string{"yyyy", "yy", "mmmm", "mmm", "mm", "m", "dddd", "ddd", "dd", "d", "[h]", "hh", "h", "ss", "s"}

func momentPattern(pattern string) ([]momentPart, error) {
	var parts []momentPart
	clock := false // an m behind hours or before seconds means minutes
	for rest := pattern; rest != ""; {
		part := momentPart{text: rest[:1]}
		for _, code := range momentCodes {
			if strings.HasPrefix(strings.ToLower(rest), code) {
				part = momentPart{code: code, text: rest[:len(code)]}
				break
			}
		}
		rest = rest[len(part.text):]
		switch {
		case strings.Contains(part.code, "h"):
			clock = true
		case strings.HasPrefix(part.code, "m") && (clock || strings.HasPrefix(strings.TrimLeft(strings.ToLower(rest), ":"), "s")):
			part.code, clock = "minute"+part.code, false
		case part.code != "":
			clock = false
		case part.text != ":" && part.text[0] < 0x80 && (part.text[0]|0x20 >= 'a' && part.text[0]|0x20 <= 'z'):
			return nil, fmt.Errorf("the pattern %q holds %q, which stands for nothing; use y, m, d, h and s", pattern, part.text)
		}
		parts = append(parts, part)
	}
	return parts, nil
}

// momentText fills the parts in from a date, a moment or a duration.
func (c *checker) momentText(n node, parts []momentPart) node {
	typ := n.typ().Type
	return c.rows(textType, []node{n}, func(m *Machine, _ int, a []cell) (cell, bool) {
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
			b.WriteString(p.fill(at, inDay))
		}
		return cell{text: b.String()}, true
	})
}

func (p momentPart) fill(at time.Time, inDay calendar.Micros) string {
	hours, minutes, seconds := inDay/calendar.Hour, inDay/calendar.Minute%60, inDay/calendar.Second%60
	switch p.code {
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
	return p.text
}

// clear makes a value blank.
func (v vec) clear(i int) {
	switch {
	case v.texts != nil:
		v.texts[i] = ""
	case v.floats != nil:
		v.floats[i] = math.NaN()
	default:
		v.ints[i] = table.Blank
	}
}
