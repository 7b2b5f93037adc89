package files

import (
	"bufio"
	"encoding/csv"
	"errors"
	"slices"
	"strings"
)

// maxContent is how many bytes of a row are kept that is set aside.
const maxContent = 8 << 10

// TooLong ends the text of a row of which not all is kept.
const TooLong = " … (cut)"

// Content is a row as a text that people can mend: as it stands in the file, or parted by commas
// where a file holds no texts.
func Content(row Row, s Settings) string {
	text := strings.TrimRight(row.Raw, "\r\n")
	if row.Raw == "" || s.Format != JSONLines && row.Wrong == nil {
		text = joined(row.Cells, s.comma())
	}
	text = strings.ReplaceAll(strings.ToValidUTF8(text, "�"), "\x00", "�")
	if len(text) > maxContent {
		return strings.ToValidUTF8(text[:maxContent], "") + TooLong
	}
	return text
}

// comma parts the values of a row that is written as a text.
func (s Settings) comma() byte {
	if s.Format == Separated && s.Separator != "" {
		return s.Separator[0]
	}
	return ','
}

func joined(cells []string, comma byte) string {
	var b strings.Builder
	w := csv.NewWriter(&b)
	w.Comma = rune(comma)
	_ = w.Write(cells) // to memory, with a comma that is none of those refused
	w.Flush()
	return strings.TrimRight(b.String(), "\n")
}

// Joined writes cells as a line of the file.
func (f *File) Joined(cells []string) string { return joined(cells, f.comma()) }

var errNothing = errors.New("there is nothing in it")

// Again reads the text of a row that was set aside, of a file with given headings.
func Again(text string, headings []string, s Settings) (Row, error) {
	if strings.TrimSpace(text) == "" {
		return Row{}, errNothing
	}
	if s.Format == JSONLines {
		known := map[string]int{}
		for i, h := range headings {
			known[h] = i
		}
		o := &objectRows{known: known}
		return o.row(line{number: 1, text: text}), nil
	}
	r := newRowReader(bufio.NewReader(strings.NewReader(text)), s.comma())
	r.fields = len(headings)
	got, err := r.next()
	if err != nil {
		return Row{}, errNothing
	}
	row := Row{Line: 1, Cells: got.fields, Wrong: got.err, Raw: got.raw}
	if row.Wrong == nil {
		row = fitted(row, len(headings), false)
	}
	if !slices.ContainsFunc(row.Cells, func(c string) bool { return strings.TrimSpace(c) != "" }) && row.Wrong == nil {
		return Row{}, errNothing
	}
	return row, nil
}
