package formula

import (
	"fmt"
	"strings"

	"gavrik/internal/core/catalog"
)

// NumberPattern is what TEXT writes a number after: digits with other characters around
// them.
type NumberPattern struct {
	Before, After string
	// Whole is how many digits before the point there are at least; Decimals is how many
	// follow it, of which Optional last ones are left out if they are zeros.
	Whole, Decimals, Optional int
	Thousands                 bool
}

// ParseNumberPattern reads a pattern of 0, #, one comma for thousands, one point, and what
// may stand around it.
func ParseNumberPattern(pattern string) (NumberPattern, error) {
	first, last := strings.IndexAny(pattern, "0#"), strings.LastIndexAny(pattern, "0#")
	if first < 0 {
		return NumberPattern{}, fmt.Errorf(
			`the pattern %q has no place for digits; write one such as "#,##0.00"`, pattern)
	}
	digits := pattern[first : last+1]
	whole, part, _ := strings.Cut(strings.ReplaceAll(digits, ",", ""), ".")
	switch {
	case strings.Trim(whole+part, "0#") != "":
		return NumberPattern{}, fmt.Errorf(
			`the pattern %q holds more than digits between its digits; write one such as "#,##0.00"`, pattern)
	case len(part) > 12:
		return NumberPattern{}, fmt.Errorf(
			"the pattern %q has %d decimals; at most 12 are written", pattern, len(part))
	}
	return NumberPattern{
		Before: pattern[:first], After: pattern[last+1:], Thousands: strings.Contains(digits, ","),
		Whole: strings.Count(whole, "0"), Decimals: len(part),
		Optional: len(part) - len(strings.TrimRight(part, "#")),
	}, nil
}

// MomentPart is a piece of a pattern for dates and durations: what is filled in, or a text
// that is written as it is.
type MomentPart struct{ Code, Text string }

var momentCodes = []string{
	"yyyy", "yy", "mmmm", "mmm", "mm", "m", "dddd", "ddd", "dd", "d", "[h]", "hh", "h", "ss", "s",
}

// ParseMomentPattern reads a pattern of y, m, d, h and s. An m behind hours or before
// seconds means minutes; its code then is minute and the m's.
func ParseMomentPattern(pattern string) ([]MomentPart, error) {
	var parts []MomentPart
	clock := false // the part before was of hours
	for rest := pattern; rest != ""; {
		part := MomentPart{Text: rest[:1]}
		for _, code := range momentCodes {
			if strings.HasPrefix(strings.ToLower(rest), code) {
				part = MomentPart{Code: code, Text: rest[:len(code)]}
				break
			}
		}
		rest = rest[len(part.Text):]
		switch {
		case strings.Contains(part.Code, "h"):
			clock = true
		case strings.HasPrefix(part.Code, "m") &&
			(clock || strings.HasPrefix(strings.TrimLeft(strings.ToLower(rest), ":"), "s")):
			part.Code, clock = "minute"+part.Code, false
		case part.Code != "":
			clock = false
		case part.Text != ":" && part.Text[0] < 0x80 && (part.Text[0]|0x20 >= 'a' && part.Text[0]|0x20 <= 'z'):
			return nil, fmt.Errorf(
				"the pattern %q holds %q, which stands for nothing; use y, m, d, h and s", pattern, part.Text,
			)
		}
		parts = append(parts, part)
	}
	return parts, nil
}

// checkPattern checks TEXT, whose pattern is known before any record.
func checkPattern(c *checker, t *tree, args []*Expr) *Expr {
	if t.args[1].kind != textToken || t.args[1].text == "" {
		return c.fault(t.args[1], `TEXT wants its pattern in double quotes, such as "0.00" or "d mmm yyyy"`)
	}
	value, typ := args[0], args[0].Type
	switch {
	case typ.plainNumber():
		pattern, err := ParseNumberPattern(args[1].Text)
		if err != nil {
			return c.fault(t.args[1], "%s", err)
		}
		if value = c.scaledFor(t, pattern, value); value == nil {
			return nil
		}
	case typ.Type.Temporal() || typ.Type == catalog.Duration:
		if _, err := ParseMomentPattern(args[1].Text); err != nil {
			return c.fault(t.args[1], "%s", err)
		}
	default:
		return c.fault(
			t.args[0], "TEXT wants a number, a date or a duration; %s is %s", t.args[0].said(), typ.Word(),
		)
	}
	return &Expr{Op: TextAfter, Type: textType, Args: []*Expr{value, args[1]}}
}

// scaledFor is the number that is written after a pattern: of a percentage what is shown
// of it, and of any number a hundred times it before a percent sign.
func (c *checker) scaledFor(t *tree, pattern NumberPattern, e *Expr) *Expr {
	if strings.HasPrefix(pattern.After, "%") || e.Type.Type == catalog.Percent {
		e = c.product(&tree{text: "*", from: t.from, to: t.to}, unpercented(e), whole(100))
		if e == nil {
			return nil
		}
	}
	return rounded(Round, e, pattern.Decimals)
}
