package files

import (
	"bufio"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"unicode/utf8"
)

// separators are what may part the values of a line, the likeliest first.
const separators = ",;\t|"

// openSeparated makes out a file of separated values (RFC 4180, with other separators, too).
func (f *File) openSeparated(ctx context.Context) error {
	var err error
	if f.Encoding == "" {
		if f.Encoding, err = encodingOf(f.in); err != nil {
			return err
		}
	}
	if err := f.openSeparatedAt(); err != nil {
		return err
	}
	return f.readHeadings(ctx)
}

// openSeparatedAt readies the rows of a file, or of a part of it.
func (f *File) openSeparatedAt() error {
	head, err := f.beginning()
	if err != nil {
		return err
	}
	if f.Separator == "" {
		f.Separator = separatorOf(head)
	}
	bare := bytes.IndexByte(head, '\r') >= 0 && bytes.IndexByte(head, '\n') < 0
	f.body = func(context.Context) (Rows, error) {
		in, counted := plain(f.in, f.Encoding)
		if bare {
			in = carriageReturns{in}
		}
		r := newRowReader(bufio.NewReaderSize(in, 256<<10), f.Separator[0])
		r.fields = len(f.Headings)
		return &separatedRows{r, counted, f.Encoding}, nil
	}
	return nil
}

// beginning is the first part of a text file, as UTF-8.
func (f *File) beginning() ([]byte, error) {
	in, _ := plain(f.in, f.Encoding)
	head := make([]byte, 64<<10)
	n, err := io.ReadFull(in, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return nil, fmt.Errorf("files: %w", err)
	}
	return head[:n], nil
}

// separatorOf is what parts the first lines into equally many values, the most of them.
func separatorOf(head []byte) string {
	best, most := ",", 0
	for _, mark := range separators {
		r := newRowReader(bufio.NewReader(bytes.NewReader(head)), byte(mark))
		often := map[int]int{} // lines by their number of fields
		for range firstLines {
			row, err := r.next()
			if err != nil {
				break
			}
			if len(row.fields) > 1 {
				often[len(row.fields)]++
			}
		}
		for fields, lines := range often {
			if score := lines*1000 + min(fields, 999); score > most {
				best, most = string(mark), score
			}
		}
	}
	return best
}

type separatedRows struct {
	rows    *rowReader
	counted *counting
	as      Encoding
}

func (s *separatedRows) Next() (Row, error) {
	r, err := s.rows.next()
	if err != nil {
		return Row{}, err
	}
	row := Row{Line: r.line, Cells: r.fields, Wrong: r.err, Raw: r.raw}
	for i, c := range row.Cells {
		if !utf8.ValidString(c) || strings.IndexByte(c, 0) >= 0 {
			if row.Broken == nil {
				row.Broken = map[int]string{}
			}
			row.Broken[i] = "is not in " + s.as.Words()
		}
	}
	return row, nil
}

func (s *separatedRows) Read() int64  { return s.counted.n }
func (s *separatedRows) Close() error { return nil }
