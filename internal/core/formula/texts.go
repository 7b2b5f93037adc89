package formula

import (
	"math"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"gavrik/internal/core/table"
)

const positionFrom1 = "Positions are counted in characters, from 1."

var textFunctions = []Function{
	{Name: "CONCAT", Arguments: "value; …", least: 1, Result: "text", compile: (*checker).join,
		Meaning: "The values one after another, each as it is shown; the same as the operator &.", Blanks: "A blank adds nothing.",
		Example: `CONCAT('Category'; ", "; 'Status')`, Sample: `CONCAT("MB-"; 7)`},
	{Name: "LEFT", Arguments: "text; count", least: 1, most: 2, Result: "text", compile: compilePart(func(s []rune, n int) []rune { return s[:n] }),
		Meaning: "The first characters of the text; one, if no count is given.",
		Example: `LEFT('Ref'; 2)`, Sample: `LEFT("Mulberry"; 3)`},
	{Name: "RIGHT", Arguments: "text; count", least: 1, most: 2, Result: "text", compile: compilePart(func(s []rune, n int) []rune { return s[len(s)-n:] }),
		Meaning: "The last characters of the text; one, if no count is given.",
		Example: `RIGHT('Ref'; 4)`, Sample: `RIGHT("Mulberry"; 3)`},
	{Name: "MID", Arguments: "text; start; count", least: 3, most: 3, Result: "text",
		Meaning: "So many characters of the text from a position on. " + positionFrom1,
		Example: `MID('Ref'; 3; 2)`, Sample: `MID("Mulberry"; 4; 3)`,
		compile: rowwise(textType, func(m *Machine, i int, a []cell) (cell, bool) {
			_, part, _, ok := m.cut(i, a)
			return cell{text: part}, ok
		}, aText, aWhole)},
	{Name: "LEN", Arguments: "text", least: 1, most: 1, Result: "a whole number",
		Meaning: "How many characters the text has.", Blanks: "A blank gives a blank; the standard gives 0.",
		Example: `LEN('Note')`, Sample: `LEN("Été")`,
		compile: rowwise(wholeType, func(_ *Machine, _ int, a []cell) (cell, bool) {
			return cell{int: int64(len([]rune(a[0].text)))}, a[0].text != ""
		}, aText)},
	{Name: "TRIM", Arguments: "text", least: 1, most: 1, Result: "text", compile: compileText(trimmed),
		Meaning: "The text without spaces at its ends, and with single ones within.",
		Example: `TRIM('Note')`, Sample: `TRIM("  Mulberry   Quay ")`},
	{Name: "UPPER", Arguments: "text", least: 1, most: 1, Result: "text", compile: compileText(strings.ToUpper),
		Meaning: "The text in capitals.", Example: `UPPER('Ref')`, Sample: `UPPER("Mulberry")`},
	{Name: "LOWER", Arguments: "text", least: 1, most: 1, Result: "text", compile: compileText(strings.ToLower),
		Meaning: "The text in small letters.", Example: `LOWER('Ref')`, Sample: `LOWER("Mulberry")`},
	{Name: "PROPER", Arguments: "text", least: 1, most: 1, Result: "text", compile: compileText(proper),
		Meaning: "The text with the first letter of each word a capital and all others small.",
		Example: `PROPER('Category')`, Sample: `PROPER("mulberry QUAY")`},
	{Name: "FIND", Arguments: "what; text; start", least: 2, most: 3, Result: "a whole number", compile: compileFind(func(r rune) string { return string(r) }),
		Meaning: "Where a text first stands within another, capitals and accents regarded. " + positionFrom1,
		Blanks:  "Blank if it is not there; the standard gives an error.",
		Example: `FIND("-"; 'Ref')`, Sample: `FIND("Q"; "Mulberry Quay")`},
	{Name: "SEARCH", Arguments: "what; text; start", least: 2, most: 3, Result: "a whole number", compile: compileFind(foldRune),
		Meaning: "Where a text first stands within another, without regard to case and accents. " + positionFrom1,
		Blanks:  "Blank if it is not there; the standard gives an error.",
		Example: `SEARCH("refund"; 'Note')`, Sample: `SEARCH("quay"; "Mulberry Quay")`},
	{Name: "SUBSTITUTE", Arguments: "text; old; new; which", least: 3, most: 4, Result: "text",
		Meaning: "The text with one text put in place of another: everywhere, or at the given occurrence only. Case is regarded.",
		Example: `SUBSTITUTE('Ref'; "-"; "/")`, Sample: `SUBSTITUTE("a-b-c"; "-"; "+"; 2)`,
		compile: rowwise(textType, substitute, aText, aText, aText, aWhole)},
	{Name: "REPLACE", Arguments: "text; start; count; new", least: 4, most: 4, Result: "text",
		Meaning: "The text with another in place of so many characters from a position on. " + positionFrom1,
		Example: `REPLACE('Ref'; 1; 2; "Claim ")`, Sample: `REPLACE("Mulberry"; 1; 3; "Bil")`,
		compile: rowwise(textType, func(m *Machine, i int, a []cell) (cell, bool) {
			before, _, after, ok := m.cut(i, a)
			if !ok || a[0].text == "" || !m.fits(i, len(before)+len(a[3].text)+len(after)) {
				return cell{}, false
			}
			return cell{text: before + a[3].text + after}, true
		}, aText, aWhole, aWhole, aText)},
	{Name: "EXACT", Arguments: "text; text", least: 2, most: 2, Result: "yes or no",
		Meaning: "Yes if two texts are the same to the letter; = passes over case and accents.",
		Example: `EXACT('Status'; "Open")`, Sample: `EXACT("Open"; "open")`,
		compile: rowwise(truthType, both(func(a, b string) bool { return a == b }), aText)},
	{Name: "CONTAINS", Arguments: "text; part", least: 2, most: 2, Result: "yes or no",
		Meaning: "Yes if the text holds the part, without regard to case and accents.",
		Example: `CONTAINS('Note'; "refund")`, Sample: `CONTAINS("Mulberry Quay"; "QUAY")`,
		compile: rowwise(truthType, both(folded(strings.Contains)), aText)},
	{Name: "STARTSWITH", Arguments: "text; part", least: 2, most: 2, Result: "yes or no",
		Meaning: "Yes if the text begins with the part, without regard to case and accents.",
		Example: `STARTSWITH('Ref'; "CL")`, Sample: `STARTSWITH("Mulberry"; "mul")`,
		compile: rowwise(truthType, both(folded(strings.HasPrefix)), aText)},
	{Name: "ENDSWITH", Arguments: "text; part", least: 2, most: 2, Result: "yes or no",
		Meaning: "Yes if the text ends with the part, without regard to case and accents.",
		Example: `ENDSWITH('Ref'; "7")`, Sample: `ENDSWITH("Mulberry"; "rry")`,
		compile: rowwise(truthType, both(folded(strings.HasSuffix)), aText)},
	{Name: "TEXT", Arguments: "value; pattern", least: 2, most: 2, Result: "text", compile: compilePattern,
		Meaning: "A number, a date or a duration written after a pattern: 0.00, #,##0, 0%, yyyy-mm-dd, d mmm yyyy, dddd, hh:mm, [h]:mm.",
		Example: `TEXT('Opened at'; "mmm yyyy")`, Sample: `TEXT(1234.5; "#,##0.00")`},
	{Name: "VALUE", Arguments: "text", least: 1, most: 1, Result: "a number, approximate",
		Meaning: "The number that a text writes: 1234.5, 1,234.5 or 12 %.", Blanks: "A blank gives a blank; the standard gives an error. A text that is no number fails.",
		Example: `VALUE(RIGHT('Ref'; 4))`, Sample: `VALUE("1,234.5")`,
		compile: rowwise(floatType, valueOf, aText)},
}

// cut takes a text apart at a position and so many characters on, which are a text's
// second and third argument.
func (m *Machine) cut(i int, a []cell) (before, part, after string, ok bool) {
	s := []rune(a[0].text)
	if a[1].int < 1 || a[2].int < 0 {
		m.fail(NoSuchPlace, i)
		return "", "", "", false
	}
	from := clamp(a[1].int-1, len(s))
	to := from + clamp(a[2].int, len(s)-from)
	return string(s[:from]), string(s[from:to]), string(s[to:]), true
}

func clamp(n int64, most int) int { return int(max(0, min(n, int64(most)))) }

func compileText(do func(string) string) compiler {
	return rowwise(textType, func(_ *Machine, _ int, a []cell) (cell, bool) { return cell{text: do(a[0].text)}, true }, aText)
}

func compilePart(do func(s []rune, n int) []rune) compiler {
	return rowwise(textType, func(m *Machine, i int, a []cell) (cell, bool) {
		s, n := []rune(a[0].text), int64(1)
		if len(a) > 1 {
			n = a[1].int
		}
		if n < 0 {
			m.fail(NoSuchPlace, i)
			return cell{}, false
		}
		return cell{text: string(do(s, clamp(n, len(s))))}, true
	}, aText, aWhole)
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

// compileFind looks for a text character by character; fold writes a character as
// those that are compared.
func compileFind(fold func(rune) string) compiler {
	return rowwise(wholeType, func(m *Machine, i int, a []cell) (cell, bool) {
		start := int64(1)
		if len(a) > 2 {
			start = a[2].int
		}
		if start < 1 {
			m.fail(NoSuchPlace, i)
			return cell{}, false
		}
		at, ok := position(a[0].text, a[1].text, start, fold)
		return cell{int: at}, ok
	}, aText, aText, aWhole)
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
		m.fail(NoSuchPlace, i)
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
		m.fail(NoSuchNumber, i)
		return cell{}, false
	}
	v, err := strconv.ParseFloat(bareNumber.Replace(bare), 64)
	if err != nil || math.IsInf(v, 0) {
		m.fail(NoSuchNumber, i)
		return cell{}, false
	}
	if percent {
		v /= 100
	}
	return cell{float: v}, true
}
