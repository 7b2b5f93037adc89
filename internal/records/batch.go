package records

import (
	"context"
	"errors"
	"fmt"
	"io"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// batch is rows on their way to the database, beside what they were in the file.
type batch struct {
	rows  [][]any
	texts []string
	bytes int
}

// copyRows sends the file's rows, a batch at a time.
func (im *importer) copyRows(ctx context.Context, tx pgx.Tx, file io.Reader) error {
	rows := im.rowsOf(file)
	rows.fields, rows.lines.number = len(im.names), im.headLines
	var b batch
	for {
		r, err := rows.next()
		if errors.Is(err, io.EOF) {
			return im.flush(ctx, tx, &b)
		}
		if err != nil {
			return fmt.Errorf("the file could not be read to its end: %w", err)
		}
		text := r.raw
		if text == "" {
			text = strings.Join(r.fields, string(im.comma))
		}
		if values, err := im.convert(r); err != nil {
			im.setAside(r.line, text, err)
			b.bytes += min(len(text), keptContent)
		} else {
			b.rows, b.texts = append(b.rows, values), append(b.texts, text)
			b.bytes += len(text)
		}
		if len(b.rows)+len(im.aside) >= batchRows || b.bytes >= batchBytes {
			if err := im.flush(ctx, tx, &b); err != nil {
				return err
			}
		}
	}
}

// flush sends a batch, and what was kept aside meanwhile.
func (im *importer) flush(ctx context.Context, tx pgx.Tx, b *batch) error {
	if err := im.send(ctx, tx, b.rows, b.texts); err != nil {
		return err
	}
	*b = batch{}
	_, err := tx.CopyFrom(
		ctx, pgx.Identifier{"gavrik", "set_aside"}, []string{"record_set", "file", "line", "reason", "content"},
		pgx.CopyFromRows(im.aside),
	)
	im.aside = nil
	if err != nil {
		return fmt.Errorf("records: %w", err)
	}
	return nil
}

// send copies rows. If the database does not take one of them, the rows are sent in
// halves, until the one is found: it is kept aside, and no other.
func (im *importer) send(ctx context.Context, tx pgx.Tx, rows [][]any, texts []string) error {
	if len(rows) == 0 {
		return nil
	}
	columns := append([]string{"line"}, im.names...)
	err := pgx.BeginFunc(ctx, tx, func(part pgx.Tx) error {
		_, err := part.CopyFrom(ctx, pgx.Identifier{FilesSchema, im.incoming}, columns, pgx.CopyFromRows(rows))
		return err
	})
	why, ofData := refusedData(err)
	switch {
	case err == nil:
		im.report.Rows += len(rows)
		return nil
	case !ofData || ctx.Err() != nil:
		return fmt.Errorf("records: %w", err)
	case len(rows) == 1:
		im.setAside(int(rows[0][0].(int64)), texts[0], fmt.Errorf("the database does not take it: %s", why))
		return nil
	}
	half := len(rows) / 2
	if err := im.send(ctx, tx, rows[:half], texts[:half]); err != nil {
		return err
	}
	return im.send(ctx, tx, rows[half:], texts[half:])
}

// refusedData says whether an error is about the values of a row, and why: classes 22 and
// 23 of PostgreSQL's codes, or a value that has no form on the wire.
func refusedData(err error) (why string, ofData bool) {
	var said *pgconn.PgError
	if errors.As(err, &said) {
		return said.Message, strings.HasPrefix(said.Code, "22") || strings.HasPrefix(said.Code, "23")
	}
	if err != nil && !pgconn.SafeToRetry(err) && !errors.Is(err, io.ErrUnexpectedEOF) &&
		strings.Contains(err.Error(), "encode") {
		return "a value is beyond what it can hold", true
	}
	return "", false
}
