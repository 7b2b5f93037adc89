// Package incoming brings files into the database: first to the side, where the rows can be counted
// and compared; then, in one transaction, in the place of what was there. Until that transaction is
// through, whoever reads the records reads the old ones, whatever becomes of the process.
package incoming

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"
	"sync/atomic"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/catalog"
	"gavrik/internal/core/fault"
	"gavrik/internal/records/files"
)

// Schema holds the tables of files that are not brought in yet.
const Schema = "gavrik_incoming"

// Progress is how far a file is read. Any goroutine may look at it.
type Progress struct{ Rows, Bytes atomic.Int64 }

// Report says what was read of a file.
type Report struct {
	Rows    int            `json:"rows" doc:"Rows that can come in"`
	Aside   int            `json:"aside" doc:"Rows that were kept aside"`
	Rejects []files.Reject `json:"-"`
}

const (
	// maxAside bounds the rows that are kept aside, and what is kept of them.
	maxAside      = 100_000
	maxAsideBytes = 64 << 20
	// batchRows is how many rows are handed on at a time, batchBytes about how much is sent.
	batchRows  = 1000
	batchBytes = 256 << 10
)

// Error says why a file cannot come in; it is said to people.
type Error struct{ Why string }

func (e *Error) Error() string { return e.Why }

func refuse(format string, args ...any) error { return &Error{fmt.Sprintf(format, args...)} }

// stager reads one file into a table of its own.
type stager struct {
	file     *files.File
	recipe   *files.Recipe
	convert  *files.Converter
	taken    []files.RecipeField
	progress *Progress
	report   *Report
	kept     int // bytes of the rows kept aside
	// asideKeys are the keys of rows kept aside, as far as they can be read: those records are
	// not missing from the file.
	asideKeys [][]files.Value
}

// Stage reads a file into a table of the schema Schema, called by id. Rows that cannot be taken, and
// those whose key stands in an earlier row, are kept aside. No more than some batches of rows are in
// memory. All of it is one transaction.
func Stage(
	ctx context.Context, conn *pgx.Conn, id string, file *files.File, r *files.Recipe, cal calendar.Calendar, p *Progress,
) (*Report, error) {
	if err := r.Check(); err != nil {
		return nil, err
	}
	c, err := r.Converter(file, cal)
	if err != nil {
		return nil, err
	}
	s := &stager{file: file, recipe: r, convert: c, taken: r.Taken(), progress: p, report: &Report{}}
	err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		if err := s.create(ctx, tx, id); err != nil {
			return err
		}
		if err := s.copy(ctx, tx.Conn(), id); err != nil {
			return err
		}
		if err := s.index(ctx, tx, id); err != nil {
			return err
		}
		return s.keepAside(ctx, tx, id)
	})
	if err != nil {
		return nil, err
	}
	return s.report, nil
}

func staged(id string) string { return pgx.Identifier{Schema, id}.Sanitize() }

// asideOf is the table of the keys of rows that were kept aside.
func asideOf(id string) string { return pgx.Identifier{Schema, id + "_aside"}.Sanitize() }

// sqlType is how values of a type are kept.
func sqlType(t catalog.Type) string {
	switch t {
	case catalog.Whole:
		return "bigint"
	case catalog.Decimal, catalog.Money, catalog.Percent:
		return "numeric" // without a bound, so that no decimal is rounded away
	case catalog.Date:
		return "date"
	case catalog.DateTime:
		return "timestamptz"
	case catalog.Duration:
		return "interval"
	case catalog.YesNo:
		return "boolean"
	}
	return "text"
}

// hint is the comment that tells amounts and percentages from other numbers.
func hint(f files.RecipeField) string {
	switch {
	case f.Type == catalog.Money && f.Currency != "":
		return "(money, " + f.Currency + ")"
	case f.Type == catalog.Money:
		return "(money)"
	case f.Type == catalog.Percent:
		return "(percent)"
	}
	return ""
}

func (s *stager) create(ctx context.Context, tx pgx.Tx, id string) error {
	var sql strings.Builder
	fmt.Fprintf(&sql, "CREATE SCHEMA IF NOT EXISTS %s; DROP TABLE IF EXISTS %s; CREATE TABLE %s (%s bigint NOT NULL",
		Schema, staged(id), staged(id), files.Line)
	for _, f := range s.taken {
		fmt.Fprintf(&sql, ", %s %s", quote(f.Key), sqlType(f.Type))
	}
	fmt.Fprintf(&sql, "); DELETE FROM gavrik.set_aside WHERE upload = %s; DROP TABLE IF EXISTS %s; CREATE TABLE %s (", literal(id),
		asideOf(id), asideOf(id))
	for i, key := range s.recipe.By {
		if i > 0 {
			sql.WriteString(", ")
		}
		fmt.Fprintf(&sql, "%s %s", quote(key), sqlType(s.recipe.Field(key).Type))
	}
	sql.WriteString(")")
	_, err := tx.Exec(ctx, sql.String())
	return wrapped(err)
}

// copy sends the file's rows: one goroutine cuts it into rows, one makes values of them, and one
// sends those.
func (s *stager) copy(ctx context.Context, conn *pgx.Conn, id string) error {
	group, ctx := errgroup.WithContext(ctx)
	cut, sent := make(chan []files.Row, 4), make(chan []byte, 4)
	group.Go(func() error {
		defer close(cut)
		return fault.Caught(func() error { return s.cut(ctx, cut) })
	})
	group.Go(func() error {
		defer close(sent)
		return fault.Caught(func() error { return s.encode(ctx, cut, sent) })
	})
	group.Go(func() error {
		columns := []string{quote(files.Line)}
		for _, f := range s.taken {
			columns = append(columns, quote(f.Key))
		}
		sql := fmt.Sprintf("COPY %s (%s) FROM STDIN (FORMAT binary, FREEZE)", staged(id), strings.Join(columns, ", "))
		_, err := conn.PgConn().CopyFrom(ctx, &feed{ctx: ctx, from: sent}, sql)
		return wrapped(err)
	})
	return group.Wait()
}

func (s *stager) cut(ctx context.Context, to chan<- []files.Row) error {
	rows, err := s.file.Rows(ctx)
	if err != nil {
		return err
	}
	defer rows.Close()
	for more := true; more; {
		batch := make([]files.Row, 0, batchRows)
		for size := 0; len(batch) < batchRows && size < 4*batchBytes; {
			row, err := rows.Next()
			if errors.Is(err, io.EOF) {
				more = false
				break
			}
			if err != nil {
				return err
			}
			batch = append(batch, row)
			size += len(row.Raw)
			for _, c := range row.Cells {
				size += len(c)
			}
		}
		select {
		case to <- batch:
			s.progress.Bytes.Store(rows.Read())
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	return nil
}

func (s *stager) encode(ctx context.Context, from <-chan []files.Row, to chan<- []byte) error {
	send := func(piece []byte) error {
		select {
		case to <- piece:
			return nil
		case <-ctx.Done():
			return ctx.Err()
		}
	}
	piece := begin()
	var values []files.Value
	for batch := range from {
		for _, row := range batch {
			var err error
			if values, err = s.convert.Convert(row, values); err != nil {
				if err := s.aside(row, err); err != nil {
					return err
				}
				continue
			}
			piece = appendRow(piece, int64(row.Line), values, s.taken)
			s.report.Rows++
		}
		s.progress.Rows.Add(int64(len(batch)))
		if len(piece) >= batchBytes {
			if err := send(piece); err != nil {
				return err
			}
			piece = make([]byte, 0, len(piece)+len(piece)/8)
		}
	}
	if ctx.Err() != nil {
		return ctx.Err()
	}
	return send(append(piece, 0xff, 0xff))
}

// aside keeps a row that cannot be taken.
func (s *stager) aside(row files.Row, why error) error {
	reject := files.Reject{
		Line: row.Line, Reason: strings.ReplaceAll(strings.ToValidUTF8(why.Error(), "�"), "\x00", "�"),
		Content: files.Content(row, s.file.Settings),
	}
	s.report.Aside++
	s.kept += len(reject.Content) + len(reject.Reason)
	if s.report.Aside > maxAside || s.kept > maxAsideBytes {
		return refuse("more than %d rows do not fit, the first of them line %d: %s. Look at the types of the fields",
			len(s.report.Rejects), s.report.Rejects[0].Line, s.report.Rejects[0].Reason)
	}
	s.report.Rejects = append(s.report.Rejects, reject)
	if key, ok := s.convert.Key(row); ok {
		s.asideKeys = append(s.asideKeys, key)
	}
	return nil
}

// feed is what is sent, piece by piece.
type feed struct {
	ctx   context.Context
	from  <-chan []byte
	piece []byte
}

func (f *feed) Read(p []byte) (int, error) {
	if len(f.piece) == 0 {
		piece, ok := <-f.from
		if !ok {
			if err := f.ctx.Err(); err != nil {
				return 0, err // not the end: it was given up
			}
			return 0, io.EOF
		}
		f.piece = piece
	}
	n := copy(p, f.piece)
	f.piece = f.piece[n:]
	return n, nil
}

// index makes the key. Where two rows have one, the first stays, and the others are kept aside.
func (s *stager) index(ctx context.Context, tx pgx.Tx, id string) error {
	by := s.recipe.By
	if len(by) == 0 {
		by = []string{files.Line}
	}
	add := func() error {
		return pgx.BeginFunc(ctx, tx, func(part pgx.Tx) error {
			_, err := part.Exec(ctx, fmt.Sprintf(
				"SET LOCAL maintenance_work_mem = '256MB'; ALTER TABLE %s ADD PRIMARY KEY (%s)", staged(id), quoted(by, "")))
			return err
		})
	}
	err := add()
	var said *pgconn.PgError
	if !errors.As(err, &said) || said.Code != pgerrcode.UniqueViolation {
		return wrapped(err)
	}
	if err := s.takeRepeatsOut(ctx, tx, id, by); err != nil {
		return err
	}
	return wrapped(add())
}

func (s *stager) takeRepeatsOut(ctx context.Context, tx pgx.Tx, id string, by []string) error {
	rows, _ := tx.Query(ctx, fmt.Sprintf( // CollectRows returns its error
		`SELECT line, first FROM (SELECT line, min(line) OVER key AS first FROM %s WINDOW key AS (PARTITION BY %s)) x
		WHERE line > first ORDER BY line LIMIT %d`, staged(id), quoted(by, ""), maxAside+1))
	type repeat struct{ Line, First int64 }
	repeats, err := pgx.CollectRows(rows, pgx.RowToStructByPos[repeat])
	if err != nil {
		return wrapped(err)
	}
	if len(repeats) > maxAside {
		return refuse("more than %d rows repeat the key of an earlier one; choose another key", maxAside)
	}
	lines := make([]int64, len(repeats))
	for i, r := range repeats {
		lines[i] = r.Line
	}
	// Their text stands in the file alone.
	again, err := s.file.Rows(ctx)
	if err != nil {
		return err
	}
	defer again.Close()
	for n := 0; n < len(repeats); {
		row, err := again.Next()
		if err != nil {
			return err
		}
		if ctx.Err() != nil {
			return ctx.Err()
		}
		if int64(row.Line) != repeats[n].Line {
			continue
		}
		if err := s.aside(row, fmt.Errorf("line %d has the same key already (%s)", repeats[n].First, s.keyWords())); err != nil {
			return err
		}
		n++
	}
	_, err = tx.Exec(ctx, fmt.Sprintf("DELETE FROM %s WHERE line = ANY($1)", staged(id)), lines)
	s.report.Rows -= len(lines)
	return wrapped(err)
}

func (s *stager) keyWords() string {
	var words []string
	for _, key := range s.recipe.By {
		words = append(words, s.recipe.Field(key).Label)
	}
	return strings.Join(words, ", ")
}

func (s *stager) keepAside(ctx context.Context, tx pgx.Tx, id string) error {
	slices.SortStableFunc(s.report.Rejects, func(a, b files.Reject) int { return a.Line - b.Line })
	_, err := tx.CopyFrom(ctx, pgx.Identifier{"gavrik", "set_aside"},
		[]string{"upload", "record_set", "file", "line", "reason", "content"},
		pgx.CopyFromSlice(len(s.report.Rejects), func(i int) ([]any, error) {
			r := s.report.Rejects[i]
			return []any{id, "", s.file.Name, int64(r.Line), r.Reason, r.Content}, nil
		}))
	if err != nil || len(s.asideKeys) == 0 {
		return wrapped(err)
	}
	var fields []files.RecipeField
	for _, f := range s.taken { // in the order of the converter's keys
		if slices.Contains(s.recipe.By, f.Key) {
			fields = append(fields, f)
		}
	}
	return s.copyKeys(ctx, tx, id, fields)
}

func (s *stager) copyKeys(ctx context.Context, tx pgx.Tx, id string, fields []files.RecipeField) error {
	columns := make([]string, len(fields))
	for i, f := range fields {
		columns[i] = f.Key
	}
	piece := begin()
	for _, key := range s.asideKeys {
		piece = appendValues(piece, key, fields)
	}
	sql := fmt.Sprintf("COPY %s (%s) FROM STDIN (FORMAT binary)", asideOf(id), quoted(columns, ""))
	_, err := tx.Conn().PgConn().CopyFrom(ctx, bytes.NewReader(append(piece, 0xff, 0xff)), sql)
	return wrapped(err)
}

func wrapped(err error) error {
	if err == nil {
		return nil
	}
	return fmt.Errorf("incoming: %w", err)
}

func quote(name string) string { return pgx.Identifier{name}.Sanitize() }

// quoted lists columns of a table.
func quoted(columns []string, of string) string {
	out := make([]string, len(columns))
	for i, c := range columns {
		if out[i] = quote(c); of != "" {
			out[i] = of + "." + out[i]
		}
	}
	return strings.Join(out, ", ")
}

func literal(s string) string { return "'" + strings.ReplaceAll(s, "'", "''") + "'" }
