package records

import (
	"bytes"
	"context"
	"crypto/rand"
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
	keptRejects = 100
	keptContent = 2000 // bytes of a row that is kept aside
	maxColumns  = 500
	// batchRows and batchBytes bound what is sent to the database at a time.
	batchRows  = 5000
	batchBytes = 8 << 20
)

// importer brings one file in.
type importer struct {
	o      ImportOptions
	names  []string // column names in the database
	kinds  []kind
	report *Report
	// comma separates fields; bareReturns says that lines end in a carriage return alone,
	// and body is where the lines behind the heading begin.
	comma       byte
	bareReturns bool
	body        int64
	headLines   int // lines up to there
	// incoming is the table that the rows come into, until all are there.
	incoming string
	aside    [][]any // rows to write to set_aside
}

// Import reads a file of comma-separated values (or ones separated by semicolons,
// tabs or bars) with a heading line into a table of FilesSchema. All of it is one
// transaction: a file that cannot be read leaves nothing behind, and a record set that is
// replaced can be read until the last moment. Rows that cannot be taken are kept aside,
// and no more than a batch of rows is in memory.
func Import(ctx context.Context, conn *pgx.Conn, file io.Reader, o ImportOptions) (*Report, error) {
	in, size, done, err := spooled(file)
	if err != nil {
		return nil, err
	}
	defer done()
	im := &importer{o: o, report: &Report{}, incoming: "incoming_" + strings.ToLower(rand.Text()[:10])}
	if err := im.open(in); err != nil {
		return nil, err
	}
	samples, err := im.sample(in, size)
	if err != nil {
		return nil, err
	}
	if err := im.settleTypes(samples); err != nil {
		return nil, err
	}
	if _, err := in.Seek(im.body, io.SeekStart); err != nil {
		return nil, fmt.Errorf("records: %w", err)
	}
	err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		if err := im.createTable(ctx, tx); err != nil {
			return err
		}
		if err := im.copyRows(ctx, tx, in); err != nil {
			return err
		}
		return im.settleTable(ctx, tx)
	})
	if err != nil {
		return nil, err
	}
	return im.report, nil
}

// open looks at the file's first bytes and its heading line.
func (im *importer) open(file io.ReadSeeker) error {
	head := make([]byte, 64<<10)
	n, err := io.ReadFull(file, head)
	if err != nil && !errors.Is(err, io.EOF) && !errors.Is(err, io.ErrUnexpectedEOF) {
		return err
	}
	head = head[:n]
	start := min(n, 8<<10)
	if len(bytes.TrimSpace(head)) == 0 {
		return errors.New("the file is empty; its first line should name the fields")
	}
	if bytes.HasPrefix(head, []byte{0xff, 0xfe}) || bytes.HasPrefix(head, []byte{0xfe, 0xff}) {
		return errors.New("the file is in UTF-16; save it as CSV in UTF-8")
	}
	if bytes.IndexByte(head[:start], 0) >= 0 {
		return errors.New("this is a binary file, not text; save it as CSV in UTF-8")
	}
	mark := int64(0)
	if bytes.HasPrefix(head, []byte("\xef\xbb\xbf")) {
		mark = 3
	}
	im.bareReturns = bytes.IndexByte(head, '\r') >= 0 && bytes.IndexByte(head, '\n') < 0
	im.comma = delimiter(head[mark:])
	if _, err := file.Seek(mark, io.SeekStart); err != nil {
		return fmt.Errorf("records: %w", err)
	}
	counted := &counting{in: file}
	rows := im.rowsOf(counted)
	heading, err := rows.next()
	if err == nil {
		err = heading.err
	}
	if err != nil {
		return fmt.Errorf("the heading line cannot be read: %w", err)
	}
	im.headLines = rows.lines.number
	im.body = mark + counted.n - int64(rows.lines.in.Buffered())
	return im.name(heading.fields)
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

// name makes names of the table and its columns.
func (im *importer) name(heading []string) error {
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
func delimiter(head []byte) byte {
	line := head
	if end := bytes.IndexAny(head, "\r\n"); end >= 0 {
		line = head[:end]
	}
	best, most := byte(','), 0
	for _, d := range []byte(",;\t|") {
		if n := bytes.Count(line, []byte{d}); n > most {
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

// settleTypes decides each field's type from samples.
func (im *importer) settleTypes(rows [][]string) error {
	for name := range im.o.Types {
		if !slices.Contains(im.names, name) {
			return fmt.Errorf("--type names the field %q; the file has %s", name, strings.Join(im.names, ", "))
		}
	}
	for i, name := range im.names {
		var samples []string
		for _, r := range rows {
			if text := strings.TrimSpace(r[i]); text != "" {
				samples = append(samples, text)
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

func (im *importer) convert(r row) ([]any, error) {
	if r.err != nil {
		return nil, r.err
	}
	if len(r.fields) != len(im.names) {
		return nil, fmt.Errorf("%d fields, not %d as in the heading line", len(r.fields), len(im.names))
	}
	out := make([]any, 1, len(im.names)+1)
	out[0] = int64(r.line)
	for i, s := range r.fields {
		if !utf8.ValidString(s) || strings.ContainsRune(s, 0) {
			return nil, fmt.Errorf("%s is not in UTF-8", im.names[i])
		}
		s = strings.TrimSpace(s)
		if s == "" {
			out = append(out, nil)
			continue
		}
		v, err := im.kinds[i].parse(s)
		if err != nil {
			return nil, fmt.Errorf("%s: %w", im.names[i], err)
		}
		out = append(out, v)
	}
	return out, nil
}

// setAside notes a row that is not taken.
func (im *importer) setAside(number int, content string, why error) {
	content = strings.ReplaceAll(strings.ToValidUTF8(content, "�"), "\x00", "�")
	if content = strings.TrimRight(content, "\r\n"); len(content) > keptContent {
		content = strings.ToValidUTF8(content[:keptContent], "") + " …"
	}
	im.report.SetAside++
	im.aside = append(im.aside, []any{im.report.Table, im.o.File, int64(number), why.Error(), content})
	if len(im.report.Rejects) < keptRejects {
		im.report.Rejects = append(im.report.Rejects, Reject{number, why.Error(), content})
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
		return fmt.Errorf(
			"there is a record set %q already; give another name with --name, or --replace it", im.report.Table,
		)
	}
	incoming := pgx.Identifier{FilesSchema, im.incoming}.Sanitize()
	var sql strings.Builder
	fmt.Fprintf(&sql, "CREATE SCHEMA IF NOT EXISTS %s; CREATE TABLE %s (line bigint", FilesSchema, incoming)
	for i, name := range im.names {
		fmt.Fprintf(&sql, ", %s %s", quote(name), im.kinds[i].sql)
	}
	fmt.Fprintf(&sql, "); COMMENT ON TABLE %s IS %s; COMMENT ON COLUMN %s.line IS 'Line of the file.'",
		incoming, literal("One row per line of the file "+im.o.File+"."), incoming)
	if _, err := tx.Exec(ctx, sql.String()); err != nil {
		return fmt.Errorf("records: %w", err)
	}
	_, err = tx.Exec(ctx, "DELETE FROM gavrik.set_aside WHERE record_set = $1", im.report.Table)
	return err
}

// settleTable puts the rows in the place of those that were there: only now do others have
// to wait, and not for long.
func (im *importer) settleTable(ctx context.Context, tx pgx.Tx) error {
	of := func(name string) string { return pgx.Identifier{FilesSchema, name}.Sanitize() }
	table, incoming := of(im.report.Table), of(im.incoming)
	_, err := tx.Exec(ctx, fmt.Sprintf("ALTER TABLE %s ADD PRIMARY KEY (line); DROP TABLE IF EXISTS %s; ALTER TABLE %s RENAME TO %s; ALTER INDEX %s RENAME TO %s",
		incoming, table, incoming, quote(im.report.Table), of(im.incoming+"_pkey"),
		quote(im.report.Table+"_pkey")))
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	return nil
}
