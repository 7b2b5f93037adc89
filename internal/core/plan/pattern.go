package plan

// MaxPattern bounds a pattern of like, in characters.
const MaxPattern = 1000

// AnyOne stands in a Pattern for one character, whichever it is.
const AnyOne rune = -1

// Pattern takes the pattern of a like apart at its stars: what remains are runs of
// characters, AnyOne among them, that follow each other with anything between. A pattern
// without a star is one run. Behind a backslash, *, ? and \ stand for themselves.
func Pattern(pattern string) [][]rune {
	runs := [][]rune{nil}
	last := func() *[]rune { return &runs[len(runs)-1] }
	escaped := false
	for _, r := range pattern {
		switch {
		case escaped && r != '*' && r != '?' && r != '\\':
			*last() = append(*last(), '\\', r)
		case escaped:
			*last() = append(*last(), r)
		case r == '\\':
			escaped = true
			continue
		case r == '*':
			runs = append(runs, nil)
		case r == '?':
			*last() = append(*last(), AnyOne)
		default:
			*last() = append(*last(), r)
		}
		escaped = false
	}
	if escaped {
		*last() = append(*last(), '\\')
	}
	return runs
}
