package table

import (
	"strings"
	"unicode"

	"golang.org/x/text/unicode/norm"
)

// Fold removes case and accents, so that "Café" and "CAFE" are one text to a
// filter. It decomposes (Unicode normal form D), drops combining marks and
// lowers what is left.
func Fold(s string) string {
	if isASCII(s) {
		return strings.ToLower(s) // does not copy what has no capitals
	}
	var b strings.Builder
	b.Grow(len(s))
	for _, r := range norm.NFD.String(s) {
		if !unicode.Is(unicode.Mn, r) {
			b.WriteRune(unicode.ToLower(r))
		}
	}
	return b.String()
}

// FoldAll folds many texts. Those of ASCII are written one behind another and cut
// apart again, which spares a pasted list thousands of small copies.
func FoldAll(texts []string) []string {
	bytes := 0
	for _, s := range texts {
		bytes += len(s)
	}
	joined, out := make([]byte, 0, bytes), make([]string, len(texts))
	for _, s := range texts {
		for i := range len(s) {
			c := s[i]
			if c-'A' < 26 {
				c += 'a' - 'A'
			}
			joined = append(joined, c)
		}
	}
	if !isASCII(asString(joined)) {
		for i, s := range texts {
			out[i] = Fold(s)
		}
		return out
	}
	rest := asString(joined)
	for i, s := range texts {
		out[i], rest = rest[:len(s)], rest[len(s):]
	}
	return out
}

// CompareNatural orders folded texts the way people number things: a run of
// digits counts as one number, so "route 2" comes before "route 10". It is zero
// only for equal texts: "07" comes right before "7".
func CompareNatural(a, b string) int {
	n := min(len(a), len(b))
	i := 0
	for i < n && a[i] == b[i] {
		i++
	}
	if i == n {
		return sign(len(a) - len(b)) // one begins the other: no number decides
	}
	if !isDigit(a[i]) && !isDigit(b[i]) {
		return sign(int(a[i]) - int(b[i]))
	}
	// Within a number, the whole of it counts.
	for i > 0 && isDigit(a[i-1]) {
		i--
	}
	if c := compareRuns(a[i:], b[i:]); c != 0 {
		return c
	}
	return strings.Compare(a, b)
}

// compareRuns is CompareNatural from the start of a run of digits or of others.
func compareRuns(a, b string) int {
	i, j := 0, 0
	for i < len(a) && j < len(b) {
		if isDigit(a[i]) && isDigit(b[j]) {
			ai, bj := skipZeros(a, i), skipZeros(b, j)
			ae, be := skipDigits(a, ai), skipDigits(b, bj)
			// Without leading zeros the longer run is the larger number.
			if d := (ae - ai) - (be - bj); d != 0 {
				return sign(d)
			}
			if c := strings.Compare(a[ai:ae], b[bj:be]); c != 0 {
				return c
			}
			i, j = ae, be
			continue
		}
		if a[i] != b[j] {
			return sign(int(a[i]) - int(b[j]))
		}
		i++
		j++
	}
	return sign((len(a) - i) - (len(b) - j))
}

func isDigit(c byte) bool { return c >= '0' && c <= '9' }

func skipZeros(s string, i int) int {
	for i < len(s) && s[i] == '0' {
		i++
	}
	return i
}

func skipDigits(s string, i int) int {
	for i < len(s) && isDigit(s[i]) {
		i++
	}
	return i
}

func sign(d int) int {
	switch {
	case d < 0:
		return -1
	case d > 0:
		return 1
	}
	return 0
}
