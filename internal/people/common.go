package people

import (
	_ "embed"
	"strings"
	"sync"
	"unicode"
)

// commonWords are stems of passwords that are tried first: words, names of keys side by
// side, and what people put behind them. Written by hand for this program.
//
//go:embed common.txt
var commonWords string

var commonStems = sync.OnceValue(func() map[string]bool {
	out := map[string]bool{}
	for _, w := range strings.Fields(commonWords) {
		out[w] = true
	}
	return out
})

// plainLetters undoes the usual disguises of letters.
var plainLetters = strings.NewReplacer(
	"0", "o", "1", "i", "3", "e", "4", "a", "5", "s", "7", "t", "8", "b", "@", "a", "$", "s", "!", "i",
)

// common says whether a password is made of nothing but words that are tried first, once
// or several times, with digits and signs around them, or of one character or a run of
// neighbours.
func common(password string) bool {
	s := strings.ToLower(password)
	if run(s) {
		return true
	}
	within := strings.TrimFunc(s, func(r rune) bool { return !unicode.IsLetter(r) })
	for _, form := range []string{s, plainLetters.Replace(within)} {
		letters := strings.Map(func(r rune) rune {
			if unicode.IsLetter(r) {
				return r
			}
			return -1
		}, form)
		if letters == "" || madeOf(letters, 4) {
			return true
		}
	}
	return false
}

// madeOf says whether a text is up to n of the stems, one after another.
func madeOf(letters string, n int) bool {
	if letters == "" {
		return true
	}
	if n == 0 {
		return false
	}
	for end := 3; end <= len(letters); end++ {
		if commonStems()[letters[:end]] && madeOf(letters[end:], n-1) {
			return true
		}
	}
	return false
}

// run says whether every character is the same as the one before, or its neighbour.
func run(s string) bool {
	runes := []rune(s)
	for i := 1; i < len(runes); i++ {
		if d := runes[i] - runes[i-1]; d < -1 || d > 1 {
			return false
		}
	}
	return true
}
