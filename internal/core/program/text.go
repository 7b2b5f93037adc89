// The functions of texts.

package program

import (
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"gavrik/internal/core/formula"
	"gavrik/internal/core/table"
)

var textFunctions = map[formula.Op]func(e *formula.Expr) kernel{
	"LEFT":  end(func(s []rune, n int) []rune { return s[:n] }),
	"RIGHT": end(func(s []rune, n int) []rune { return s[len(s)-n:] }),
	"MID": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		_, part, _, ok := m.cut(i, a)
		return cell{text: part}, ok
	}),
	"LEN": rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) {
		return cell{int: int64(len([]rune(a[0].text)))}, a[0].text != ""
	}),
	"TRIM":       changed(trimmed),
	"UPPER":      changed(strings.ToUpper),
	"LOWER":      changed(strings.ToLower),
	"PROPER":     changed(proper),
	"FIND":       place(func(r rune) string { return string(r) }),
	"SEARCH":     place(foldRune),
	"SUBSTITUTE": rowwise(substitute),
	"REPLACE": rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		before, _, after, ok := m.cut(i, a)
		if !ok || a[0].text == "" || !m.fits(i, len(before)+len(a[3].text)+len(after)) {
			return cell{}, false
		}
		return cell{text: before + a[3].text + after}, true
	}),
	"EXACT":           rowwise(both(func(a, b string) bool { return a == b })),
	"CONTAINS":        rowwise(both(folded(strings.Contains))),
	"STARTSWITH":      rowwise(both(folded(strings.HasPrefix))),
	"ENDSWITH":        rowwise(both(folded(strings.HasSuffix))),
	"VALUE":           rowwise(valueOf),
	formula.TextAfter: afterPattern,
}

// cut takes a text apart at a position and so many characters on, which are a text's
// second and third argument.
func (m *Machine) cut(i int, a []cell) (before, part, after string, ok bool) {
	s := []rune(a[0].text)
	if a[1].int < 1 || a[2].int < 0 {
		m.fail(formula.NoSuchPlace, i)
		return "", "", "", false
	}
	from := clamp(a[1].int-1, len(s))
	to := from + clamp(a[2].int, len(s)-from)
	return string(s[:from]), string(s[from:to]), string(s[to:]), true
}

func clamp(n int64, most int) int { return int(max(0, min(n, int64(most)))) }

func changed(do func(string) string) func(*formula.Expr) kernel {
	return rowwise(func(_ *Machine, _ int, a []cell) (cell, bool) { return cell{text: do(a[0].text)}, true })
}

// trimmed is a text without spaces at its ends and with single ones within.
func trimmed(s string) string { return strings.Join(strings.Fields(s), " ") }

// end takes so many characters of a text; one, if it is not said how many.
func end(do func(s []rune, n int) []rune) func(*formula.Expr) kernel {
	return rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		s, n := []rune(a[0].text), int64(1)
		if len(a) > 1 {
			n = a[1].int
		}
		if n < 0 {
			m.fail(formula.NoSuchPlace, i)
			return cell{}, false
		}
		return cell{text: string(do(s, clamp(n, len(s))))}, true
	})
}

// both compares two texts, neither of them blank.
func both(holds func(a, b string) bool) func(*Machine, int, []cell) (cell, bool) {
	return func(_ *Machine, _ int, a []cell) (cell, bool) {
		if a[0].text == "" || a[1].text == "" {
			return cell{}, false
		}
		return yes(holds(a[0].text, a[1].text))
	}
}

func folded(holds func(a, b string) bool) func(a, b string) bool {
	return func(a, b string) bool { return holds(table.Fold(a), table.Fold(b)) }
}

// proper makes the first letter of each run of letters a capital.
func proper(s string) string {
	within := false
	return strings.Map(func(r rune) rune {
		first := !within
		within = unicode.IsLetter(r)
		if first {
			return unicode.ToTitle(r)
		}
		return unicode.ToLower(r)
	}, s)
}

// place finds a text within another, character by character; fold writes a character as
// those that are compared.
func place(fold func(rune) string) func(*formula.Expr) kernel {
	return rowwise(func(m *Machine, i int, a []cell) (cell, bool) {
		start := int64(1)
		if len(a) > 2 {
			start = a[2].int
		}
		if start < 1 {
			m.fail(formula.NoSuchPlace, i)
			return cell{}, false
		}
		at, ok := position(a[0].text, a[1].text, start, fold)
		return cell{int: at}, ok
	})
}

// position finds a text within another, from a character on, both counted in characters
// from 1; fold writes a character as those that are compared.
func position(what, text string, start int64, fold func(rune) string) (int64, bool) {
	var want, within strings.Builder
	for _, r := range what {
		want.WriteString(fold(r))
	}
	ends := make([]int, 0, len(text)) // where each character ends in within
	for _, r := range text {
		within.WriteString(fold(r))
		ends = append(ends, within.Len())
	}
	if start > int64(len(ends)) {
		return 0, false
	}
	from := 0
	if start > 1 {
		from = ends[start-2]
	}
	hit := strings.Index(within.String()[from:], want.String())
	if hit < 0 {
		return 0, false
	}
	for at := start; at <= int64(len(ends)); at++ {
		if ends[at-1] > from+hit {
			return at, true
		}
	}
	return 0, false
}

func foldRune(r rune) string {
	if r < unicode.MaxASCII {
		return string(unicode.ToLower(r))
	}
	return table.Fold(string(r))
}

func substitute(m *Machine, i int, a []cell) (cell, bool) {
	text, old, fresh := a[0].text, a[1].text, a[2].text
	switch {
	case old == "":
		return cell{text: text}, true
	case len(a) < 4:
		if !m.fits(i, len(text)+strings.Count(text, old)*(len(fresh)-len(old))) {
			return cell{}, false
		}
		return cell{text: strings.ReplaceAll(text, old, fresh)}, true
	case a[3].int < 1:
		m.fail(formula.NoSuchPlace, i)
		return cell{}, false
	}
	parts := strings.Split(text, old)
	if n := a[3].int; n < int64(len(parts)) {
		return cell{text: strings.Join(parts[:n], old) + fresh + strings.Join(parts[n:], old)}, true
	}
	return cell{text: text}, true
}

// writtenNumber is how people and programs write numbers: thousands in threes.
var writtenNumber = regexp.MustCompile(
	`^[+−-]? ?(?:(?:\d{1,3}(?:,\d{3})+|\d{1,3}(?: \d{3})+|\d+)(?:\.\d*)?|\.\d+)(?:[eE][+-]?\d{1,3})?$`)

// bareNumber takes separators out of a number, and writes its sign as programs do.
var bareNumber = strings.NewReplacer(",", "", "−", "-", " ", "")

func valueOf(m *Machine, i int, a []cell) (cell, bool) {
	s := strings.TrimSpace(a[0].text)
	if s == "" {
		return cell{}, false
	}
	bare, percent := strings.CutSuffix(s, "%")
	bare = strings.TrimSpace(bare)
	if !writtenNumber.MatchString(bare) {
		m.fail(formula.NoSuchNumber, i)
		return cell{}, false
	}
	v, err := strconv.ParseFloat(bareNumber.Replace(bare), 64)
	if err != nil || math.IsInf(v, 0) {
		m.fail(formula.NoSuchNumber, i)
		return cell{}, false
	}
	if percent {
		v /= 100
	}
	return cell{float: v}, true
}
