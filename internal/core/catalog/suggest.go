package catalog

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Suggest names the word nearest to a mistyped one, as the end of a message; nothing, if none
// is so near that it can be meant. The first letter is seldom mistyped, and never in a short
// word that then reads as another.
func Suggest(typed string, words []string) string {
	best, bestDistance := "", max(1, len(typed)/3)+1
	for _, w := range words {
		d := editDistance(strings.ToLower(typed), strings.ToLower(w))
		if firstOf(typed) != firstOf(w) && (d > 1 || len(typed) < 5) {
			continue
		}
		if d < bestDistance {
			best, bestDistance = w, d
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf("; did you mean %q?", best)
}

func firstOf(s string) rune {
	r, _ := utf8.DecodeRuneInString(s)
	return unicode.ToLower(r)
}

// editDistance counts the single-byte insertions, deletions and replacements
// that turn a into b (Levenshtein's distance). Overlong input is not compared.
func editDistance(a, b string) int {
	if len(a) > 64 || len(b) > 64 {
		return 64
	}
	row := make([]int, len(b)+1)
	for j := range row {
		row[j] = j
	}
	for i := range len(a) {
		diagonal := row[0]
		row[0] = i + 1
		for j := range len(b) {
			cost := diagonal
			if a[i] != b[j] {
				cost = 1 + min(diagonal, row[j], row[j+1])
			}
			diagonal, row[j+1] = row[j+1], cost
		}
	}
	return row[len(b)]
}
