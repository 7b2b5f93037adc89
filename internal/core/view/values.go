package view

import (
	"encoding/json"
	"strings"
	"unicode/utf8"
)

// Values are the operands of a list. Thousands of them are pasted, so they are read
// as parts of one text rather than one by one.
type Values []string

// UnmarshalJSON reads an array of texts.
func (v *Values) UnmarshalJSON(raw []byte) error {
	if list, ok := plainTexts(string(raw)); ok {
		*v = list
		return nil
	}
	return json.Unmarshal(raw, (*[]string)(v))
}

// plainTexts cuts an array of texts without escapes apart; ok is false for any
// other.
func plainTexts(s string) (out []string, ok bool) {
	if strings.IndexByte(s, '\\') >= 0 || !utf8.ValidString(s) || len(s) < 2 || s[0] != '[' ||
		s[len(s)-1] != ']' {
		return nil, false
	}
	out = make([]string, 0, strings.Count(s, `"`)/2)
	s = strings.TrimSpace(s[1 : len(s)-1])
	for s != "" {
		if s[0] != '"' {
			return nil, false // a number, null or an object
		}
		end := strings.IndexByte(s[1:], '"')
		if end < 0 {
			return nil, false
		}
		out = append(out, s[1:1+end])
		s = strings.TrimLeft(s[end+2:], " \t\r\n")
		if s == "" {
			return out, true
		}
		if s[0] != ',' {
			return nil, false
		}
		s = strings.TrimLeft(s[1:], " \t\r\n")
		if s == "" {
			return nil, false
		}
	}
	return out, true
}
