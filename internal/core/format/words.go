package format

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Listed names several: "a, b and c".
func Listed(words []string) string {
	if len(words) < 2 {
		return strings.Join(words, "")
	}
	last := len(words) - 1
	return strings.Join(words[:last], ", ") + " and " + words[last]
}

// Sentence makes a sentence of words that may begin small and end without a stop.
func Sentence(s string) string {
	if s == "" {
		return s
	}
	first, size := utf8.DecodeRuneInString(s)
	s = string(unicode.ToUpper(first)) + s[size:]
	if !strings.HasSuffix(s, ".") && !strings.HasSuffix(s, "?") {
		s += "."
	}
	return s
}
