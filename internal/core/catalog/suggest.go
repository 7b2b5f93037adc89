package catalog

import "fmt"

// Suggest names the key nearest to a mistyped one, as the end of a message.
func Suggest(typed string, keys []string) string {
	best, bestDistance := "", max(2, len(typed)/3)+1
	for _, k := range keys {
		if d := editDistance(typed, k); d < bestDistance {
			best, bestDistance = k, d
		}
	}
	if best == "" {
		return ""
	}
	return fmt.Sprintf("; did you mean %q?", best)
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
