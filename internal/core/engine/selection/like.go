// Text patterns with * and ?, matched greedily from run to run without going back.

package selection

import (
	"slices"
	"strings"
	"unicode/utf8"

	"gavrik/internal/core/plan"
)

// like is a pattern that folded texts are matched against: runs of characters that follow
// each other with anything between them.
type like []likeRun

// likeRun is a run of characters, of which some may be any.
type likeRun struct {
	chars []rune
	text  string // the run, where every character is known
	known bool
}

func newLike(pattern string) like {
	var out like
	for _, chars := range plan.Pattern(pattern) {
		run := likeRun{chars: chars, known: !slices.Contains(chars, plan.AnyOne)}
		if run.known {
			run.text = string(chars)
		}
		out = append(out, run)
	}
	return out
}

// matches says whether the whole of a text is like the pattern. Between the first run and the
// last, each is taken where it first fits, which leaves the most to those that follow.
func (l like) matches(s string) bool {
	n, ok := l[0].at(s)
	if !ok || len(l) == 1 {
		return ok && n == len(s)
	}
	s = s[n:]
	for _, run := range l[1 : len(l)-1] {
		end, ok := run.find(s)
		if !ok {
			return false
		}
		s = s[end:]
	}
	return l[len(l)-1].ends(s)
}

// at says how many bytes of a text the run takes at its beginning.
func (r likeRun) at(s string) (n int, ok bool) {
	if r.known {
		return len(r.text), strings.HasPrefix(s, r.text)
	}
	for _, want := range r.chars {
		if n == len(s) {
			return 0, false
		}
		have, size := utf8.DecodeRuneInString(s[n:])
		if want != plan.AnyOne && want != have {
			return 0, false
		}
		n += size
	}
	return n, true
}

// find says where the run ends that fits first.
func (r likeRun) find(s string) (end int, ok bool) {
	if r.known {
		at := strings.Index(s, r.text)
		return at + len(r.text), at >= 0
	}
	for from := 0; from < len(s); {
		if n, ok := r.at(s[from:]); ok {
			return from + n, true
		}
		_, size := utf8.DecodeRuneInString(s[from:])
		from += size
	}
	return 0, false
}

// ends says whether the run fits at the end of a text.
func (r likeRun) ends(s string) bool {
	if r.known {
		return strings.HasSuffix(s, r.text)
	}
	from := len(s)
	for range r.chars {
		if from == 0 {
			return false
		}
		_, size := utf8.DecodeLastRuneInString(s[:from])
		from -= size
	}
	_, ok := r.at(s[from:])
	return ok
}
