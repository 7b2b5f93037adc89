package formula

import (
	"fmt"
	"strings"
	"unicode"

	"gavrik/internal/core/code"
)

type tokenKind uint8

const (
	endToken tokenKind = iota
	numberToken
	textToken  // "in double quotes"
	fieldToken // 'in single quotes'
	nameToken  // a bare word: a field, a function, or a path of fields
	signToken  // an operator, a bracket or a separator
)

type token struct {
	kind tokenKind
	// text is what was written, quotes and doubled quotes resolved.
	text     string
	from, to int // characters
}

// signs are the operators and brackets, the longer before their beginnings.
var signs = []string{"<>", "<=", ">=", "+", "-", "*", "/", "^", "&", "%", "=", "<", ">", "(", ")", ",", ";"}

// scan cuts a source into tokens; the last is the end.
func scan(source string) ([]token, error) {
	chars := []rune(source)
	if len(chars) > MaxLength {
		return nil, &Error{
			MaxLength, len(chars), code.FormulaSize,
			fmt.Sprintf("the formula has %d characters; at most %d are read", len(chars), MaxLength),
		}
	}
	var out []token
	for at := 0; at < len(chars); {
		c := chars[at]
		from := at
		switch {
		case unicode.IsSpace(c):
			at++
			continue
		case c == '"' || c == '\'':
			text, end, ok := quoted(chars, at)
			if !ok {
				return nil, &Error{
					from, len(chars), code.FormulaForm, fmt.Sprintf("the %c that opens here is never closed", c),
				}
			}
			kind := textToken
			if c == '\'' {
				kind = fieldToken
			}
			out, at = append(out, token{kind, text, from, end}), end
			continue
		case isDigitRune(c) || c == '.' && at+1 < len(chars) && isDigitRune(chars[at+1]):
			for at < len(chars) && (isDigitRune(chars[at]) || chars[at] == '.') {
				at++
			}
			out = append(out, token{numberToken, string(chars[from:at]), from, at})
			continue
		case unicode.IsLetter(c) || c == '_':
			for at < len(chars) &&
				(unicode.IsLetter(chars[at]) || unicode.IsDigit(chars[at]) || unicode.Is(unicode.Mn, chars[at]) ||
					chars[at] == '_' || chars[at] == '.') {
				at++
			}
			out = append(out, token{nameToken, string(chars[from:at]), from, at})
			continue
		case c == '−' || c == '–': // a true minus, or what a word processor makes of one
			out, at = append(out, token{signToken, "-", from, from + 1}), at+1
			continue
		case c == '×':
			out, at = append(out, token{signToken, "*", from, from + 1}), at+1
			continue
		}
		sign := signAt(chars[at:])
		if sign == "" {
			return nil, &Error{
				from, from + 1, code.FormulaForm, fmt.Sprintf("the character %q has no meaning here", c),
			}
		}
		at += len(sign)
		out = append(out, token{signToken, sign, from, at})
	}
	return append(out, token{endToken, "", len(chars), len(chars)}), nil
}

// quoted reads a quoted run whose quote, doubled, stands for itself.
func quoted(chars []rune, at int) (text string, end int, ok bool) {
	var b strings.Builder
	quote := chars[at]
	for at++; at < len(chars); at++ {
		if chars[at] != quote {
			b.WriteRune(chars[at])
			continue
		}
		if at+1 == len(chars) || chars[at+1] != quote {
			return b.String(), at + 1, true
		}
		b.WriteRune(quote)
		at++
	}
	return "", at, false
}

func isDigitRune(c rune) bool { return c >= '0' && c <= '9' }

func signAt(chars []rune) string {
	for _, s := range signs {
		if len(chars) >= len(s) && string(chars[:len(s)]) == s {
			return s
		}
	}
	return ""
}
