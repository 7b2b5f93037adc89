package page

import (
	"strings"
	"unicode"
)

// wrap breaks a text into lines no wider than width, at blanks where it can; at most so many,
// the last of which then ends in an ellipsis.
func wrap(m Metrics, face Face, size, width float64, text string, most int) []string {
	if !strings.ContainsAny(text, "\n\r") && m.Width(face, size, text) <= width {
		return []string{strings.TrimSpace(text)}
	}
	var lines []string
	line := ""
	put := func(l string) {
		lines = append(lines, strings.TrimRightFunc(l, unicode.IsSpace))
	}
	for _, part := range strings.Split(strings.ReplaceAll(text, "\r", ""), "\n") {
		line = ""
		for _, word := range strings.FieldsFunc(part, unicode.IsSpace) {
			next := word
			if line != "" {
				next = line + " " + word
			}
			if m.Width(face, size, next) <= width {
				line = next
				continue
			}
			if line != "" {
				put(line)
			}
			for line = word; m.Width(face, size, line) > width; {
				head, rest := broken(m, face, size, width, line)
				put(head)
				line = rest
			}
			if len(lines) > most {
				break
			}
		}
		put(line)
		if len(lines) > most {
			break
		}
	}
	if len(lines) > most {
		lines = lines[:most]
		lines[most-1] = cut(m, face, size, width, lines[most-1]+"…")
	}
	return lines
}

// broken takes as much off a word's start as is no wider than width: one character at least.
func broken(m Metrics, face Face, size, width float64, word string) (head, rest string) {
	end := 0
	for at := range word {
		if at > 0 && m.Width(face, size, word[:at]) > width {
			break
		}
		if at > 0 {
			end = at
		}
	}
	if end == 0 {
		_, n := firstRune(word)
		end = n
	}
	return word[:end], word[end:]
}

func firstRune(s string) (r rune, size int) {
	for i, c := range s {
		if i > 0 {
			return r, i
		}
		r = c
	}
	return r, len(s)
}

// cut shortens a text to a width; what is left out is told by an ellipsis.
func cut(m Metrics, face Face, size, width float64, text string) string {
	if m.Width(face, size, text) <= width {
		return text
	}
	runes := []rune(strings.TrimSuffix(text, "…"))
	for len(runes) > 0 && m.Width(face, size, string(runes)+"…") > width {
		runes = runes[:len(runes)-1]
	}
	return strings.TrimRightFunc(string(runes), unicode.IsSpace) + "…"
}

// longestWord is the width of the longest word of a text.
func longestWord(m Metrics, face Face, size float64, text string) float64 {
	most := 0.0
	for _, word := range strings.Fields(text) {
		most = max(most, m.Width(face, size, word))
	}
	return most
}
