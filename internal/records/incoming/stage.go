// Package incoming brings files into the database: first to the side, where the rows can be counted
// and compared; then, in one transaction, in the place of what was there. Until that transaction is
// through, whoever reads the records reads the old ones, whatever becomes of the process.
package incoming

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"sync/atomic"

	"github.com/jackc/pgx/v5"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/turn"
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
	ctx context.Context, conn *pgx.Conn, id string, file *files.File, r *files.Recipe, cal calendar.Calendar,
	p *Progress,
) (*Report, error) {
	if err := r.Check(); err != nil {
		return nil, err
	}
	c, err := r.Converter(file, cal)
	if err != nil {
		return nil, err
	}
	s := &stager{file: file, recipe: r, convert: c, taken: r.Taken(), progress: p, report: &Report{}}
	var why error // not that a broken connection cannot be rolled back
	err = pgx.BeginFunc(ctx, conn, func(tx pgx.Tx) error {
		why = s.stage(ctx, tx, id)
		return why
	})
	if err = cmp.Or(why, err); err != nil {
		return nil, err
	}
	return s.report, nil
}

func (s *stager) stage(ctx context.Context, tx pgx.Tx, id string) error {
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
}

func (s *stager) create(ctx context.Context, tx pgx.Tx, id string) error {
	var sql strings.Builder
	fmt.Fprintf(&sql, "CREATE SCHEMA IF NOT EXISTS %s; DROP TABLE IF EXISTS %s; CREATE TABLE %s (%s bigint NOT NULL",
		Schema, staged(id), staged(id), files.Line)
	for _, f := range s.taken {
		fmt.Fprintf(&sql, ", %s %s", quote(f.Key), sqlType(f.Type))
	}
	fmt.Fprintf(&sql, "); DELETE FROM gavrik.set_aside WHERE upload = %s; DROP TABLE IF EXISTS %s; CREATE TABLE %s (", Literal(id),
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
	mine := turn.Of(ctx)
	defer mine.Rest() // what follows is the database's work
	send := func(piece []byte) error {
		mine.Rest() // while the database takes it, others work
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
		if err := mine.Wait(ctx); err != nil {
			return err
		}
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
	return send(ended(piece))
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
