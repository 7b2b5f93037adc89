package files

import (
	"bytes"
	"fmt"
	"io"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Encoding is how a file keeps letters.
type Encoding string

// The encodings.
const (
	UTF8        Encoding = "utf-8"
	UTF16Little Encoding = "utf-16le"
	UTF16Big    Encoding = "utf-16be"
	Windows1252 Encoding = "windows-1252"
)

// Words are what people call an encoding.
func (e Encoding) Words() string {
	return map[Encoding]string{
		UTF8: "UTF-8", UTF16Little: "UTF-16", UTF16Big: "UTF-16 (big-endian)", Windows1252: "Windows-1252",
	}[e]
}

const utf8Mark = "\xef\xbb\xbf"

// marks are the bytes that a file may say its encoding with.
var marks = map[Encoding]string{UTF8: utf8Mark, UTF16Little: "\xff\xfe", UTF16Big: "\xfe\xff"}

func (e Encoding) decoder() *encoding.Decoder {
	switch e {
	case UTF16Little:
		return unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewDecoder()
	case UTF16Big:
		return unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM).NewDecoder()
	case Windows1252:
		return charmap.Windows1252.NewDecoder()
	}
	return nil
}

// looksUTF16 says whether a text's zero bytes are those of letters of two bytes.
func looksUTF16(head []byte) bool { return utf16Of(head) != "" }

func utf16Of(head []byte) Encoding {
	for _, e := range []Encoding{UTF16Little, UTF16Big} {
		if bytes.HasPrefix(head, []byte(marks[e])) {
			return e
		}
	}
	var zeros [2]int // at even places, at odd ones
	for i, b := range head {
		if b == 0 {
			zeros[i%2]++
		}
	}
	half := len(head) / 2
	switch {
	case zeros[1] > half*9/10 && zeros[0] < half/10:
		return UTF16Little
	case zeros[0] > half*9/10 && zeros[1] < half/10:
		return UTF16Big
	}
	return ""
}

const (
	// looked is up to which size all of a file is looked at for its encoding; of larger
	// ones, some pieces from all over it.
	looked = 64 << 20
	piece  = 1 << 20
	pieces = 12
)

// encodingOf recognises how a file keeps letters. Where bytes that are no UTF-8 are rarer than
// letters that are, the file is UTF-8 with something wrong in it.
func encodingOf(in *io.SectionReader) (Encoding, error) {
	head := make([]byte, 8<<10)
	n, err := in.ReadAt(head, 0)
	if err != nil && err != io.EOF {
		return "", fmt.Errorf("files: %w", err)
	}
	head = head[:n]
	if e := utf16Of(head); e != "" {
		return e, nil
	}
	if bytes.HasPrefix(head, []byte(utf8Mark)) {
		return UTF8, nil
	}
	step := int64(piece)
	if in.Size() > looked {
		step = in.Size() / pieces
	}
	buf := make([]byte, piece)
	letters, strays := 0, 0
	for at := int64(0); at < in.Size(); at += step {
		n, err := in.ReadAt(buf, at)
		if err != nil && err != io.EOF {
			return "", fmt.Errorf("files: %w", err)
		}
		l, s := count(buf[:n])
		letters, strays = letters+l, strays+s
	}
	if strays > letters {
		return Windows1252, nil
	}
	return UTF8, nil
}

// count counts the letters of several bytes, and the bytes that are no UTF-8; a letter that is cut
// at the beginning or the end counts as neither.
func count(text []byte) (letters, strays int) {
	for i := 0; i < utf8.UTFMax-1 && len(text) > 0 && !utf8.RuneStart(text[0]); i++ {
		text = text[1:]
	}
	for len(text) > 0 {
		if text[0] < utf8.RuneSelf {
			text = text[1:]
			continue
		}
		r, size := utf8.DecodeRune(text)
		switch {
		case r != utf8.RuneError || size > 1:
			letters++
		case len(text) >= utf8.UTFMax || utf8.FullRune(text):
			strays++
		}
		text = text[size:]
	}
	return letters, strays
}

// plain reads a text file from a place on as UTF-8, without the mark at its beginning.
func plain(in *io.SectionReader, e Encoding) (io.Reader, *counting) {
	from := int64(0)
	mark := make([]byte, len(marks[e]))
	if n, _ := in.ReadAt(mark, 0); n > 0 && string(mark[:n]) == marks[e] { // a shorter file has none
		from = int64(n)
	}
	counted := &counting{in: io.NewSectionReader(in, from, in.Size()-from), n: from}
	if d := e.decoder(); d != nil {
		return d.Reader(counted), counted
	}
	return counted, counted
}

// counting counts the bytes that were read.
type counting struct {
	in io.Reader
	n  int64
}

func (c *counting) Read(p []byte) (int, error) {
	n, err := c.in.Read(p)
	c.n += int64(n)
	return n, err
}
