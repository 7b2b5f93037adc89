package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// KnownField is a field, or with an empty name a record set, that was loaded once.
type KnownField struct {
	Set, Field string
	// Shown says that restricted readers may see it, as far as their limits go.
	Shown bool
	Since time.Time
}

// KnownFields lists all, by record set and field.
func (s *Store) KnownFields(ctx context.Context) ([]KnownField, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(
		ctx,
		"SELECT record_set, field, shown, since FROM known_fields ORDER BY record_set COLLATE \"C\", field COLLATE \"C\"",
	)
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[KnownField])
	if err != nil {
		return nil, fmt.Errorf("store: known fields: %w", err)
	}
	return out, nil
}

// Know adds fields that were loaded for the first time. Those that are known stay as they
// are.
func (s *Store) Know(ctx context.Context, fields []SensitiveField, shown bool) error {
	sets, keys := make([]string, len(fields)), make([]string, len(fields))
	for i, f := range fields {
		sets[i], keys[i] = f.Set, f.Field
	}
	_, err := s.pool.Exec(ctx, `INSERT INTO known_fields (record_set, field, shown) SELECT r, f, $3 FROM unnest($1::text[], $2::text[]) AS x (r, f)
		ON CONFLICT DO NOTHING`, sets, keys, shown)
	if err != nil {
		return fmt.Errorf("store: known fields: %w", err)
	}
	return nil
}

// ShowField lets restricted readers see a field that came after their limits were made;
// ErrNotFound says that there is no such field. A record set is shown with the fields
// that came with it.
func (s *Store) ShowField(ctx context.Context, f SensitiveField) error {
	return s.change(
		ctx, "UPDATE known_fields SET shown = true WHERE record_set = $1 AND (field = $2 OR $2 = '')", f.Set,
		f.Field,
	)
}
