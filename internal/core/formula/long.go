package formula

import (
	"strings"
	"unicode/utf8"
)

// MaxText is how many characters a text may have that a formula makes: as many as the
// cells of spreadsheets hold.
const MaxText = 32_767

// lookEvery is after how many bytes of text a machine looks up from its work.
const lookEvery = 1 << 18

// texts counts the texts that a machine makes and reads.
type texts struct {
	meter Meter
	err   error // of the meter
	// made are the bytes made in the block at hand, of which those before booked are
	// with the meter. since are the bytes read and made since it was asked last.
	made, booked, since int64
}

// text is a text made for a row, or a blank where it is too long.
func (m *Machine) text(i int, s string) string {
	if tooLong(s) {
		m.fail(TooLong, i)
		return ""
	}
	m.take(int64(len(s)))
	return s
}

func tooLong(s string) bool { return len(s) > MaxText && utf8.RuneCountInString(s) > MaxText }

// fits says whether a text of so many bytes may be short enough; if not, the row fails.
func (m *Machine) fits(i, bytes int) bool {
	if bytes > MaxText*utf8.UTFMax {
		m.fail(TooLong, i)
		return false
	}
	return true
}

// take counts bytes of a text that was made.
func (t *texts) take(bytes int64) {
	t.made += bytes
	t.look(bytes)
}

// look counts bytes of a text that was read; halted then tells whether to go on.
func (t *texts) look(bytes int64) {
	if t.since += bytes; t.since >= lookEvery && t.err == nil {
		t.err = t.meter.Use(t.made - t.booked)
		t.booked, t.since = t.made, 0
	}
}

// halted says that the meter has ended the work.
func (t *texts) halted() bool { return t.err != nil }

// settle ends a block: of the texts made in it, only those of the result are left.
func (t *texts) settle(result []string) error {
	if t.err != nil {
		return t.err
	}
	left := int64(0)
	for _, s := range result {
		left += int64(len(s))
	}
	if left = min(left, t.made); left != t.booked {
		t.err = t.meter.Use(left - t.booked)
	}
	t.made, t.booked, t.since = 0, 0, 0
	return t.err
}

// leastText is how many characters the texts of an expression have at least.
func leastText(n node) int {
	switch n := n.(type) {
	case *constant:
		return utf8.RuneCountInString(n.text)
	case *input:
		return n.least
	case *apply:
		return n.least
	case *shared:
		return leastText(n.node)
	case *coalesce:
		least := leastText(n.args[0])
		for _, a := range n.args[1:] {
			least = min(least, leastText(a))
		}
		return least
	case *choose:
		least := leastText(n.branches[0])
		for _, b := range n.branches[1:] {
			least = min(least, leastText(b))
		}
		return least
	}
	return 0
}

// position finds a text within another, from a character on, both counted in characters
// from 1; fold writes a character as those that are compared.
func position(what, text string, start int64, fold func(rune) string) (int64, bool) {
	var want, within strings.Builder
	for _, r := range what {
		want.WriteString(fold(r))
	}
	ends := make([]int, 0, len(text)) // where each character ends in within
	for _, r := range text {
		within.WriteString(fold(r))
		ends = append(ends, within.Len())
	}
	if start > int64(len(ends)) {
		return 0, false
	}
	from := 0
	if start > 1 {
		from = ends[start-2]
	}
	hit := strings.Index(within.String()[from:], want.String())
	if hit < 0 {
		return 0, false
	}
	for at := start; at <= int64(len(ends)); at++ {
		if ends[at-1] > from+hit {
			return at, true
		}
	}
	return 0, false
}
