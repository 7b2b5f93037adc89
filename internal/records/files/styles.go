package files

import "strings"

// cellStyle is what a number in a cell stands for.
type cellStyle int

const (
	plainNumber cellStyle = iota
	aDay
	aMoment
	aClock // a time of day, or how long something took
	aPercent
)

func (b *workbook) readStyles() error {
	const name = "xl/styles.xml"
	if b.parts[name] == nil {
		return nil
	}
	var styles struct {
		Formats []struct {
			ID   int    `xml:"numFmtId,attr"`
			Code string `xml:"formatCode,attr"`
		} `xml:"numFmts>numFmt"`
		Cells []struct {
			Format int `xml:"numFmtId,attr"`
		} `xml:"cellXfs>xf"`
	}
	if err := b.decode(name, &styles); err != nil {
		return err
	}
	own := map[int]string{}
	for _, f := range styles.Formats {
		own[f.ID] = f.Code
	}
	for _, c := range styles.Cells {
		style := builtIn(c.Format)
		if code, ok := own[c.Format]; ok {
			style = styleOf(code)
		}
		b.styles = append(b.styles, style)
	}
	return nil
}

// builtIn is what the numbered formats of ECMA-376, part 1, 18.8.30 stand for.
func builtIn(id int) cellStyle {
	switch {
	case id == 9 || id == 10:
		return aPercent
	case id >= 14 && id <= 17, id >= 27 && id <= 31, id == 36, id >= 50 && id <= 54, id == 57 || id == 58:
		return aDay
	case id == 22:
		return aMoment
	case id >= 18 && id <= 21, id >= 32 && id <= 35, id == 55 || id == 56, id >= 45 && id <= 47:
		return aClock
	}
	return plainNumber
}

// styleOf tells by a format's code what it writes: what stands in quotation marks, behind a
// backslash or in square brackets is text, a condition or a colour, but for [h], [m] and [s].
func styleOf(code string) cellStyle {
	code, _, _ = strings.Cut(code, ";") // the first part is for positive numbers
	day, clock, percent := false, false, false
	for i := 0; i < len(code); i++ {
		switch c := code[i] | 0x20; {
		case code[i] == '"':
			if end := strings.IndexByte(code[i+1:], '"'); end >= 0 {
				i += end + 1
			}
		case code[i] == '\\' || code[i] == '_' || code[i] == '*':
			i++
		case code[i] == '[':
			end := strings.IndexByte(code[i:], ']')
			if end < 0 {
				return plainNumber
			}
			inner := strings.ToLower(code[i+1 : i+end])
			for _, unit := range []string{"h", "m", "s"} {
				clock = clock || inner != "" && strings.Trim(inner, unit) == ""
			}
			i += end
		case code[i] == '%':
			percent = true
		case c == 'y' || c == 'd':
			day = true
		case c == 'h' || c == 's':
			clock = true
		case c == 'm' && !clock:
			// Of a month, unless hours stand before it or seconds behind.
			if rest := strings.TrimLeft(code[i:], "mM"); !strings.HasPrefix(strings.TrimLeft(rest, ":"), "s") {
				day = true
			}
		case c == 'g' && strings.HasPrefix(strings.ToLower(code[i:]), "general"):
			i += len("general") - 1
		}
	}
	switch {
	case day && clock:
		return aMoment
	case day:
		return aDay
	case clock:
		return aClock
	case percent:
		return aPercent
	}
	return plainNumber
}
