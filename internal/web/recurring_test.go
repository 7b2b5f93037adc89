package web

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/store"
)

// Days are told by the calendar of the zone, not by how many hours are between: also where one of them
// has 23 or 25.
func TestDaysInWords(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	at := func(text string) time.Time {
		m, err := time.ParseInLocation("2006-01-02 15:04", text, lisbon)
		require.NoError(t, err)
		return m
	}
	for _, c := range []struct{ moment, now, words string }{
		{"2026-11-23 07:30", "2026-11-23 23:59", "today 07:30"},
		{"2026-11-24 00:10", "2026-11-23 23:50", "tomorrow 00:10"},
		{"2026-11-22 23:50", "2026-11-23 00:10", "yesterday 23:50"},
		{"2026-10-25 23:30", "2026-10-24 23:30", "tomorrow 23:30"}, // a day of 25 hours
		{"2026-03-29 00:30", "2026-03-28 00:30", "tomorrow 00:30"},
		{"2026-03-30 00:30", "2026-03-29 23:30", "tomorrow 00:30"}, // and one of 23
		{"2026-11-29 07:30", "2026-11-23 09:00", "Sunday 07:30"},
		{"2026-11-30 07:30", "2026-11-23 09:00", "Mon 30 Nov, 07:30"},
		{"2026-11-16 07:30", "2026-11-23 09:00", "Mon 16 Nov, 07:30"},
		{"2027-01-04 07:30", "2026-11-23 09:00", "Mon 4 Jan 2027, 07:30"},
	} {
		require.Equal(t, c.words, dayWords(at(c.moment).UTC(), at(c.now).UTC(), lisbon), c.moment)
	}
}

func TestLettersInWords(t *testing.T) {
	for words, l := range map[string]store.Letter{
		"sent, 58 kB":                         {State: store.LetterSent, Bytes: 59_392, Tries: 1},
		"sent, 1.5 MB, at try 3":              {State: store.LetterSent, Bytes: 3 << 19, Tries: 3},
		"not sent: 0 claims":                  {State: store.LetterIdle, Why: "0 claims"},
		"kept back: Wen Aske has left":        {State: store.LetterKept, Why: "Wen Aske has left"},
		"not taken: no such mailbox":          {State: store.LetterFailed, Why: "no such mailbox"},
		"on the way":                          {State: store.LetterWaiting},
		"tried 1 time, and tried again: busy": {State: store.LetterWaiting, Why: "busy", Tries: 1},
	} {
		require.Equal(t, words, letterWords(l))
	}
	require.Equal(t, []string{"", ", twice", ", 5 times", ", 99 times or more"}, []string{
		timesWords(1), timesWords(2), timesWords(5), timesWords(99),
	})
	require.Equal(t, []string{"a", "a and b", "a, b, c and d", "a, b, c, d and 2 more"}, []string{
		manyWords([]string{"a"}), manyWords([]string{"a", "b"}), manyWords([]string{"a", "b", "c", "d"}),
		manyWords([]string{"a", "b", "c", "d", "e", "f"}),
	})
}
