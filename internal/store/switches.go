package store

import (
	"context"
	"errors"

	"github.com/jackc/pgx/v5"
)

// Settings that are on or off, off at first.

// switched says whether a setting is on.
func (s *Store) switched(ctx context.Context, name string) (on bool, err error) {
	err = s.pool.QueryRow(ctx, "SELECT value::boolean FROM settings WHERE name = $1", name).Scan(&on)
	if errors.Is(err, pgx.ErrNoRows) {
		err = nil
	}
	return on, err
}

// turn turns a setting on or off.
func (s *Store) turn(ctx context.Context, name string, on bool) error {
	_, err := s.pool.Exec(
		ctx,
		"INSERT INTO settings (name, value) VALUES ($1, to_jsonb($2::boolean)) ON CONFLICT (name) DO UPDATE SET value = excluded.value, set_at = clock_timestamp()",
		name, on,
	)
	return err
}

// analystsAdd is the setting that analysts, too, may add facts to the records.
const analystsAdd = "analysts add facts"

// AnalystsAdd says whether analysts may add facts.
func (s *Store) AnalystsAdd(ctx context.Context) (bool, error) { return s.switched(ctx, analystsAdd) }

// LetAnalystsAdd settles it.
func (s *Store) LetAnalystsAdd(ctx context.Context, on bool) error {
	return s.turn(ctx, analystsAdd, on)
}
