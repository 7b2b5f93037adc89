package incoming

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"

	"gavrik/internal/records/files"
)

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
		why := fmt.Errorf("line %d has the same key already (%s)", repeats[n].First, s.keyWords())
		if err := s.aside(row, why); err != nil {
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
	return sendAll(ctx, tx, asideOf(id), columns, piece)
}
