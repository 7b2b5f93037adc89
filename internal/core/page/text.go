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
			for line = word; len(lines) <= most; {
				end := fitting(m, face, size, width, line)
				if end == len(line) {
					break
				}
				put(line[:end])
				line = line[end:]
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

// fitting is how many bytes of a text's start are no wider than width: those of one character at
// least. It looks no further than it has to, however long the text is.
func fitting(m Metrics, face Face, size, width float64, text string) int {
	used := 0.0
	for at, r := range text {
		if used += m.Width(face, size, string(r)); used > width && at > 0 {
			return at
		}
	}
	return len(text)
}

// cut shortens a text to a width; what is left out is told by an ellipsis.
func cut(m Metrics, face Face, size, width float64, text string) string {
	if fitting(m, face, size, width, text) == len(text) {
		return text
	}
	end := fitting(m, face, size, width-m.Width(face, size, "…"), text)
	return strings.TrimRightFunc(text[:end], unicode.IsSpace) + "…"
}

// longestWord is the width of the longest word of a text.
func longestWord(m Metrics, face Face, size float64, text string) float64 {
	most := 0.0
	for _, word := range strings.Fields(text) {
		most = max(most, m.Width(face, size, word))
	}
	return most
}
