// Values written as texts.

package program

import (
	"unicode/utf8"

	"gavrik/internal/core/formula"
)

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
		m.fail(formula.TooLong, i)
		return ""
	}
	m.take(int64(len(s)))
	return s
}

func tooLong(s string) bool {
	return len(s) > formula.MaxText && utf8.RuneCountInString(s) > formula.MaxText
}

// fits says whether a text of so many bytes may be short enough; if not, the row fails.
func (m *Machine) fits(i, bytes int) bool {
	if bytes > formula.MaxText*utf8.UTFMax {
		m.fail(formula.TooLong, i)
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
