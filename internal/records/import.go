package records

import (
	"bufio"
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/jackc/pgx/v5"
)

// ImportOptions say how a file is brought in.
type ImportOptions struct {
	// File is its name, for messages.
	File string
	// Name is the record set's; empty means the file's.
	Name string
	// Types gives the types of fields by name, in place of a guess.
	Types map[string]string
	// Replace allows a record set of the same name to be replaced.
	Replace bool
}

// Report says what an import did.
type Report struct {
	Table    string
	Columns  []ReportColumn
	Rows     int
	SetAside int
	// Rejects are the first rows kept aside.
	Rejects []Reject
}

// ReportColumn is a field with its type.
type ReportColumn struct{ Name, Type, Note string }

// Reject is a row that did not parse.
type Reject struct {
	Line    int
	Reason  string
	Content string
}

const (
	sampleLines = 1000
	keptRejects = 100
	keptContent = 2000 // bytes of a row that is kept aside
	maxColumns  = 500
)

// importer brings one file in.
type importer struct {
	o       ImportOptions
	reader  *csv.Reader
	names   []string // column names in the database
	kinds   []kind
	report  *Report
	ahead   []record // rows read for the guess
	rejects [][]any  // rows to write to set_aside
	broken  error    // why the file could not be read to its end
}

type record struct {
	line   int
	fields []string
	err    error
}

// Import reads a file of comma-separated values (or ones separated by semicolons,
// tabs or bars) with a heading line into a table of FilesSchema. All of it is one
// transaction: a file that cannot be read leaves nothing behind.
func Import(ctx context.Context, conn *pgx.Conn, file io.Reader, o ImportOptions) (*Report, error) {
	im := &importer{o: o, report: &Report{}}
	if err := im.open(file); err != nil {
		return nil, err
	}
	if err := im.settleTypes(); err != nil {
		return nil, err
	}
	err := pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		if err := im.createTable(ctx, tx); err != nil {
			return err
		}
		columns := append([]string{"line"}, im.names...)
		n, err := tx.CopyFrom(ctx, pgx.Identifier{FilesSchema, im.report.Table}, columns, pgx.CopyFromFunc(im.next))
		if err != nil {
			return fmt.Errorf("records: %w", err)
		}
		im.report.Rows = int(n)
		_, err = tx.CopyFrom(ctx, pgx.Identifier{"gavrik", "set_aside"}, []string{"record_set", "file", "line", "reason", "content"}, pgx.CopyFromRows(im.rejects))
		return err
	})
	if err != nil {
		return nil, err
	}
	return im.report, nil
}

// open looks at the file's first bytes and its heading line.
func (im *importer) open(file io.Reader) error {
	in := bufio.NewReaderSize(file, 64<<10)
	head, err := in.Peek(8 << 10)
	if err != nil && !errors.Is(err, io.EOF) {
		return err
	}
	if len(bytes.TrimSpace(head)) == 0 {
		return errors.New("the file is empty; its first line should name the fields")
	}
	if bytes.HasPrefix(head, []byte{0xff, 0xfe}) || bytes.HasPrefix(head, []byte{0xfe, 0xff}) {
		return errors.New("the file is in UTF-16; save it as CSV in UTF-8")
	}
	if bytes.IndexByte(head, 0) >= 0 {
		return errors.New("this is a binary file, not text; save it as CSV in UTF-8")
	}
	if bytes.HasPrefix(head, []byte("\xef\xbb\xbf")) {
		_, _ = in.Discard(3) // they were peeked at
	}
	im.reader = csv.NewReader(in)
	im.reader.Comma = delimiter(head)
	im.reader.FieldsPerRecord = -1
	heading, err := im.reader.Read()
	if err != nil {
		return fmt.Errorf("the heading line cannot be read: %w", err)
	}
	if len(heading) > maxColumns {
		return fmt.Errorf("the heading line names %d fields; at most %d are taken", len(heading), maxColumns)
	}
	im.report.Table = columnName(im.o.Name, "file")
	if im.o.Name == "" {
		base, _, _ := strings.Cut(im.o.File, ".")
		im.report.Table = columnName(base, "file")
	}
	for i, h := range heading {
		if !utf8.ValidString(h) {
			return errors.New("the heading line is not in UTF-8; save the file as CSV in UTF-8")
		}
		name := columnName(h, fmt.Sprintf("column_%d", i+1))
		for n := 2; slices.Contains(im.names, name) || name == "line"; n++ {
			name = fmt.Sprintf("%s_%d", columnName(h, "column"), n)
		}
		im.names = append(im.names, name)
	}
	return nil
}

// delimiter is the candidate that stands most often in the first line.
func delimiter(head []byte) rune {
	line, _, _ := bytes.Cut(head, []byte("\n"))
	best, most := ',', 0
	for _, d := range ",;\t|" {
		if n := bytes.Count(line, []byte(string(d))); n > most {
			best, most = d, n
		}
	}
	return best
}

var notName = regexp.MustCompile(`[^\p{L}\p{N}]+`)

// columnName makes a plain database name of a heading. PostgreSQL keeps 63 bytes.
func columnName(heading, fallback string) string {
	s := strings.Trim(notName.ReplaceAllString(strings.ToLower(heading), "_"), "_")
	for len(s) > 58 {
		_, size := utf8.DecodeLastRuneInString(s)
		s = s[:len(s)-size]
	}
	if s == "" {
		return fallback
	}
	return s
}

// settleTypes reads ahead and decides each field's type.
func (im *importer) settleTypes() error {
	for len(im.ahead) < sampleLines {
		r, ok := im.read()
		if !ok {
			break
		}
		im.ahead = append(im.ahead, r)
	}
	for name := range im.o.Types {
		if !slices.Contains(im.names, name) {
			return fmt.Errorf("--type names the field %q; the file has %s", name, strings.Join(im.names, ", "))
		}
	}
	for i, name := range im.names {
		var samples []string
		for _, r := range im.ahead {
			if r.err == nil && i < len(r.fields) && strings.TrimSpace(r.fields[i]) != "" {
				samples = append(samples, strings.TrimSpace(r.fields[i]))
			}
		}
		k, note := guess(samples)
		if given, ok := im.o.Types[name]; ok {
			var err error
			if k, err = kindNamed(given); err != nil {
				return fmt.Errorf("field %s: %w", name, err)
			}
			note = ""
		}
		im.kinds = append(im.kinds, k)
		im.report.Columns = append(im.report.Columns, ReportColumn{name, k.name, note})
	}
	return nil
}

// read takes the next row of the file; ok is false at its end.
func (im *importer) read() (record, bool) {
	fields, err := im.reader.Read()
	var parse *csv.ParseError
	switch {
	case err == nil:
		line, _ := im.reader.FieldPos(0)
		return record{line: line, fields: fields}, true
	case errors.As(err, &parse):
		return record{line: parse.StartLine, fields: fields, err: parse.Err}, true
	case !errors.Is(err, io.EOF):
		im.broken = err
	}
	return record{}, false
}

// next is the row source of the COPY: the next row that parses.
func (im *importer) next() ([]any, error) {
	for {
		var r record
		if len(im.ahead) > 0 {
			r, im.ahead = im.ahead[0], im.ahead[1:]
		} else {
			var ok bool
			if r, ok = im.read(); !ok {
				return nil, im.broken
			}
		}
		row, err := im.convert(r)
		if err == nil {
			return row, nil
		}
		im.setAside(r, err)
	}
}

func (im *importer) convert(r record) ([]any, error) {
	if r.err != nil {
		return nil, fmt.Errorf("the line cannot be cut into fields: %w", r.err)
	}
	if len(r.fields) != len(im.names) {
		return nil, fmt.Errorf("%d fields, not %d as in the heading line", len(r.fields), len(im.names))
	}
	row := make([]any, 1, len(im.names)+1)
	row[0] = int64(r.line)
	for i, s := range r.fields {
		if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
			return nil, fmt.Errorf("%s is not in UTF-8", im.names[i])
		}
		s = strings.TrimSpace(s)
		if s == "" {
			row = append(row, nil)
			continue
		}
		v, err := im.kinds[i].parse(s)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", im.names[i], err)
		}
		row = append(row, v)
	}
	return row, nil
}

func (im *importer) setAside(r record, why error) {
	content := strings.ToValidUTF8(strings.Join(r.fields, string(im.reader.Comma)), "�")
	content = strings.ReplaceAll(content, "\x00", "�")
	if len(content) > keptContent {
		content = strings.ToValidUTF8(content[:keptContent], "") + " …"
	}
	im.report.SetAside++
	im.rejects = append(im.rejects, []any{im.report.Table, im.o.File, int64(r.line), why.Error(), content})
	if len(im.report.Rejects) < keptRejects {
		im.report.Rejects = append(im.report.Rejects, Reject{r.line, why.Error(), content})
	}
}

func (im *importer) createTable(ctx context.Context, tx pgx.Tx) error {
	table := pgx.Identifier{FilesSchema, im.report.Table}
	var there bool
	err := tx.QueryRow(ctx, "SELECT to_regclass($1) IS NOT NULL", table.Sanitize()).Scan(&there)
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	if there && !im.o.Replace {
		return fmt.Errorf("there is a record set %q already; give another name with --name, or --replace it", im.report.Table)
	}
	var sql strings.Builder
	fmt.Fprintf(&sql, "CREATE SCHEMA IF NOT EXISTS %s; DROP TABLE IF EXISTS %s; CREATE TABLE %s (line bigint PRIMARY KEY", FilesSchema, table.Sanitize(), table.Sanitize())
	for i, name := range im.names {
		fmt.Fprintf(&sql, ", %s %s", quote(name), im.kinds[i].sql)
	}
	fmt.Fprintf(&sql, "); COMMENT ON TABLE %s IS %s; COMMENT ON COLUMN %s.line IS 'Line of the file.'",
		table.Sanitize(), literal("One row per line of the file "+im.o.File+"."), table.Sanitize())
	if _, err := tx.Exec(ctx, sql.String()); err != nil {
		return fmt.Errorf("records: %w", err)
	}
	_, err = tx.Exec(ctx, "DELETE FROM gavrik.set_aside WHERE record_set = $1", im.report.Table)
	return err
}
