package files

import (
	"bufio"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"strings"
)

// Bounds on one row of a file. A row may run over several lines, within quotation marks.
const (
	maxRowBytes = MaxRow
	maxRowLines = 1000
	// keptRaw is how much of a row is shown that is too long.
	keptRaw = 2000
)

var (
	errRowLong  = fmt.Errorf("the line is longer than %d KB", maxRowBytes>>10)
	errUnclosed = errors.New("a quotation mark is opened and not closed")
)

// rowReader cuts a file of comma-separated values into rows (RFC 4180). What is wrong
// with one line is said of that line and costs no other: an unclosed quotation mark does
// not swallow what follows, and no row fills the memory.
type rowReader struct {
	lines *lineReader
	comma byte
	// fields is how many a row should have; 0 while the heading is read.
	fields int
	feed   *feed
	parser *csv.Reader
}

func newRowReader(in *bufio.Reader, comma byte) *rowReader {
	return &rowReader{lines: &lineReader{in: in}, comma: comma}
}

// row is one row of the file, or what is wrong with it.
type row struct {
	line   int
	fields []string
	err    error
	// raw is the beginning of what stands there, if it could not be cut into fields.
	raw string
}

// next returns the next row; io.EOF at the end. Empty lines are passed over.
func (r *rowReader) next() (row, error) {
	for {
		first, err := r.lines.next()
		if err != nil {
			return row{}, err
		}
		if first.long {
			return row{line: first.number, err: errRowLong, raw: first.text}, nil
		}
		if strings.TrimRight(first.text, "\r\n") == "" {
			continue
		}
		if strings.IndexByte(first.text, '"') < 0 {
			return row{line: first.number, fields: r.cut(strings.TrimRight(first.text, "\r\n"))}, nil
		}
		return r.quoted(first)
	}
}

// cut cuts a line without quotation marks.
func (r *rowReader) cut(text string) []string {
	out := make([]string, 0, max(r.fields, 8))
	for {
		at := strings.IndexByte(text, r.comma)
		if at < 0 {
			return append(out, text)
		}
		out, text = append(out, text[:at]), text[at+1:]
	}
}

// quoted reads a row that holds quotation marks, and may go on over further lines. If it
// does not come to a good end, only its first line is bad: the others are read again.
func (r *rowReader) quoted(first line) (row, error) {
	text, more := first.text, []line(nil)
	state := r.scan(text, atField)
	for state == inQuotes && len(more) < maxRowLines && len(text) < maxRowBytes {
		next, err := r.lines.next()
		if err != nil && !errors.Is(err, io.EOF) {
			return row{}, err
		}
		if err != nil {
			break
		}
		more = append(more, next)
		if next.long {
			break
		}
		text += next.text
		state = r.scan(next.text, state)
	}
	if state == atField {
		got := r.parsed(first.number, text)
		if len(more) == 0 || got.err == nil && (r.fields == 0 || len(got.fields) == r.fields) {
			return got, nil
		}
	} else if len(more) == 0 && state == malformed {
		return r.parsed(first.number, text), nil // in the parser's words
	}
	r.lines.again(more)
	return row{line: first.number, err: errUnclosed, raw: first.text}, nil
}

// Where a scan of a line stands.
type scanned int

const (
	atField   scanned = iota // between rows, outside of quotation marks
	inQuotes                 // the line ended within them
	malformed                // something stands behind a closing mark
)

// scan follows the quotation marks of a line.
func (r *rowReader) scan(text string, state scanned) scanned {
	text = strings.TrimRight(text, "\r\n")
	start := state == atField // a field begins here
	for i := 0; i < len(text); i++ {
		c := text[i]
		switch {
		case state == inQuotes && c == '"':
			if i+1 < len(text) && text[i+1] == '"' {
				i++ // a mark written twice is one of the text
				continue
			}
			if i+1 < len(text) && text[i+1] != r.comma {
				return malformed
			}
			state = atField
		case state == inQuotes:
		case start && c == '"':
			state = inQuotes
		}
		start = state == atField && c == r.comma
	}
	return state
}

// parsed cuts the text of one row into fields.
func (r *rowReader) parsed(number int, text string) row {
	if r.parser == nil {
		r.feed = &feed{}
		r.parser = csv.NewReader(r.feed)
		r.parser.Comma, r.parser.FieldsPerRecord = rune(r.comma), -1
	}
	if !strings.HasSuffix(text, "\n") {
		text += "\n"
	}
	r.feed.text = text
	fields, err := r.parser.Read()
	var why *csv.ParseError
	if errors.As(err, &why) {
		r.parser = nil // it may hold a part of the row
		return row{line: number, err: fmt.Errorf("the line cannot be cut into fields: %w", why.Err), raw: text}
	}
	if err != nil {
		r.parser = nil
		return row{line: number, err: err, raw: text}
	}
	return row{line: number, fields: fields}
}

// feed gives a parser one row at a time.
type feed struct{ text string }

func (f *feed) Read(p []byte) (int, error) {
	if f.text == "" {
		return 0, io.EOF
	}
	n := copy(p, f.text)
	f.text = f.text[n:]
	return n, nil
}

// line is one line of a file with its end; of one that is too long, the beginning.
type line struct {
	number int
	text   string
	long   bool
}

// lineReader reads lines of bounded length, and takes some back.
type lineReader struct {
	in      *bufio.Reader
	number  int
	pending []line
}

func (l *lineReader) again(lines []line) { l.pending = append(lines, l.pending...) }

func (l *lineReader) next() (line, error) {
	if len(l.pending) > 0 {
		next := l.pending[0]
		l.pending = l.pending[1:]
		return next, nil
	}
	var text []byte
	long := false
	for {
		piece, err := l.in.ReadSlice('\n')
		if err == nil && len(text) == 0 && !long {
			l.number++
			return line{l.number, string(piece), false}, nil
		}
		if len(text)+len(piece) <= maxRowBytes {
			text = append(text, piece...)
		} else {
			long = true
			text = text[:min(len(text), keptRaw)]
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case err != nil && (!errors.Is(err, io.EOF) || len(text) == 0 && !long):
			return line{}, err
		}
		l.number++
		return line{l.number, string(text), long}, nil
	}
}

// carriageReturns makes lines that end in a carriage return alone end as others do.
type carriageReturns struct{ in io.Reader }

func (c carriageReturns) Read(p []byte) (int, error) {
	n, err := c.in.Read(p)
	for i, b := range p[:n] {
		if b == '\r' {
			p[i] = '\n'
		}
	}
	return n, err
}
