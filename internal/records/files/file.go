// Package files reads files of records: separated values, spreadsheets of Office Open XML, JSON
// Lines and Parquet. Whatever the format, a file is headings and rows of texts; what is wrong with
// one row is said of that row and costs no other, and no file fills the memory.
package files

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"path"
	"strings"
)

// Format is how a file is laid out.
type Format string

// The formats.
const (
	Separated Format = "separated"
	Workbook  Format = "workbook"
	JSONLines Format = "jsonlines"
	Parquet   Format = "parquet"
)

// Words are what people call a format.
func (f Format) Words() string {
	return map[Format]string{
		Separated: "separated values", Workbook: "spreadsheet", JSONLines: "JSON Lines", Parquet: "Parquet",
	}[f]
}

// Settings say how a file is read. What is left empty is recognised.
type Settings struct {
	Format Format `json:"format,omitempty" enum:"separated,workbook,jsonlines,parquet"`
	// Encoding and Separator are of separated values, Encoding of JSON Lines, too.
	Encoding  Encoding `json:"encoding,omitempty" enum:"utf-8,utf-16le,utf-16be,windows-1252" doc:"How letters are kept"`
	Separator string   `json:"separator,omitempty" maxLength:"1" doc:"What parts the values of a line: a comma, a semicolon, a tab or a bar"`
	// Sheet is of a spreadsheet.
	Sheet string `json:"sheet,omitempty" maxLength:"100" doc:"Sheet of the spreadsheet"`
	// Heading is the line with the names of the fields; NoHeading means that there is none.
	Heading int `json:"heading,omitempty" minimum:"-1" maximum:"1000" doc:"Line that names the fields; -1: no line does"`
}

// NoHeading says that a file's first line holds values already.
const NoHeading = -1

// Bounds on files.
const (
	// MaxFields is how many columns are taken.
	MaxFields = 500
	// MaxRow is how many bytes one row may have.
	MaxRow = 1 << 20
	// maxHeading is how many bytes a heading may have.
	maxHeading = 200
	// firstLines is how many lines are shown to choose the heading from, and where it is looked for.
	firstLines = 20
)

// File is a file that was made out.
type File struct {
	// Settings are as given, and what was left empty as recognised.
	Settings
	// Name is the file's.
	Name string
	// Sheets are those of a spreadsheet.
	Sheets []string
	// Headings name the columns, each otherwise.
	Headings []string
	// First are the first lines as they stand, for people to choose the heading from; of
	// formats that have headings of their own there are none.
	First []Row
	// Notices tell what could not be taken as it is.
	Notices []string

	in   *io.SectionReader
	book *workbook
	body func(ctx context.Context) (Rows, error) // rows from the file's beginning on
}

// Row is one row of a file.
type Row struct {
	// Line is where it begins, counted from 1.
	Line int
	// Cells are texts, one for each heading.
	Cells []string
	// Broken names cells that hold no value but a fault, by their place.
	Broken map[int]string
	// Wrong says that the row could not be cut into cells; Raw is what stands there then.
	Wrong error
	Raw   string
}

// Rows are the rows of a file, one after the other.
type Rows interface {
	// Next is the next row; io.EOF at the end. Its cells stay as they are.
	Next() (Row, error)
	// Read is how many bytes of the file were read.
	Read() int64
	Close() error
}

// FileError says why a file cannot be taken; it is said to people.
type FileError struct{ Why string }

func (e *FileError) Error() string { return e.Why }

func refuse(format string, args ...any) error { return &FileError{fmt.Sprintf(format, args...)} }

// Open makes a file out: its format, and what its columns are called.
func Open(ctx context.Context, in *io.SectionReader, name string, s Settings) (*File, error) {
	if !strings.Contains(separators, s.Separator) {
		return nil, refuse("%q cannot part values; use a comma, a semicolon, a tab or a bar", s.Separator)
	}
	if s.Encoding != "" && s.Encoding.Words() == "" {
		return nil, refuse("there is no encoding %q; use utf-8, utf-16le, utf-16be or windows-1252", s.Encoding)
	}
	f := &File{Settings: s, Name: name, in: in}
	recognised, err := recognise(in)
	if err != nil {
		return nil, err
	}
	isText := func(as Format) bool { return as == Separated || as == JSONLines }
	if !isText(f.Format) || !isText(recognised) {
		f.Format = recognised // what is no text cannot be taken for another format
	}
	open := map[Format]func(context.Context) error{
		Separated: f.openSeparated, Workbook: f.openWorkbook, JSONLines: f.openJSONLines, Parquet: f.openParquet,
	}[f.Format]
	if err := caught(func() error { return open(ctx) }); err != nil {
		return nil, err
	}
	return f, nil
}

// recognise tells a file's format by its first bytes.
func recognise(in *io.SectionReader) (Format, error) {
	head := make([]byte, 8<<10)
	n, err := in.ReadAt(head, 0)
	if err != nil && !errors.Is(err, io.EOF) {
		return "", fmt.Errorf("files: %w", err)
	}
	head = head[:n]
	plain := bytes.TrimSpace(bytes.TrimPrefix(head, []byte(utf8Mark)))
	switch {
	case len(plain) == 0:
		return "", refuse("the file is empty; its first line should name the fields")
	case bytes.HasPrefix(head, []byte("PK\x03\x04")):
		return Workbook, nil
	case bytes.HasPrefix(head, []byte("PAR1")):
		return Parquet, nil
	case bytes.HasPrefix(head, []byte("\xd0\xcf\x11\xe0")):
		return "", refuse("this is a spreadsheet of the old format, or one with a password; save it as .xlsx without one")
	case bytes.HasPrefix(head, []byte("\x1f\x8b")):
		return "", refuse("the file is compressed; unpack it first")
	case bytes.HasPrefix(head, []byte("%PDF")):
		return "", refuse("this is a PDF; records come from CSV, .xlsx, JSON Lines or Parquet")
	case bytes.IndexByte(head, 0) >= 0 && !looksUTF16(head):
		return "", refuse("this is a binary file, not text; records come from CSV, .xlsx, JSON Lines or Parquet")
	case plain[0] == '{':
		return JSONLines, nil
	case plain[0] == '[':
		return "", refuse("this is one JSON list; write each record as an object on a line of its own (JSON Lines)")
	}
	return Separated, nil
}

// Rows reads the rows behind the heading.
func (f *File) Rows(ctx context.Context) (Rows, error) {
	var rows Rows
	err := caught(func() (err error) {
		rows, err = f.body(ctx)
		return err
	})
	if err != nil {
		return nil, err
	}
	return &behind{Rows: rows, file: f}, nil
}

// behind are the rows behind the heading, as wide as it.
type behind struct {
	Rows
	file *File
}

func (b *behind) Next() (row Row, err error) {
	err = caught(func() (err error) {
		row, err = b.next()
		return err
	})
	return row, err
}

func (b *behind) next() (Row, error) {
	f := b.file
	for {
		row, err := b.Rows.Next()
		if err != nil || row.Wrong != nil && row.Line > f.Heading {
			return row, err
		}
		if row.Line <= f.Heading || blank(row) {
			continue
		}
		width := len(f.Headings)
		if n := len(row.Cells); n != width {
			row = fitted(row, width, f.Format == Workbook)
		}
		return row, nil
	}
}

// fitted makes a row as wide as the heading. In a spreadsheet, what is blank at the end of a row
// is not written down.
func fitted(row Row, width int, padded bool) Row {
	n := len(row.Cells)
	if padded && n < width {
		row.Cells = append(row.Cells, make([]string, width-n)...)
		return row
	}
	for n > width && row.Cells[n-1] == "" && padded {
		n--
	}
	if n != width {
		row.Wrong = fmt.Errorf("%d fields, not %d as in the heading line", n, width)
		return row
	}
	row.Cells = row.Cells[:n]
	return row
}

func blank(row Row) bool {
	if row.Wrong != nil || len(row.Broken) > 0 {
		return false
	}
	for _, c := range row.Cells {
		if c != "" {
			return false
		}
	}
	return true
}

// Stem is a file's name without its ending.
func Stem(name string) string {
	base := path.Base(strings.ReplaceAll(name, "\\", "/"))
	stem, _, _ := strings.Cut(base, ".")
	return stem
}
