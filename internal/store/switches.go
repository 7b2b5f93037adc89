package store

import (
	"context"
	"crypto/rand"
	"errors"

	"github.com/jackc/pgx/v5"
)

// Settings that are on or off, off at first, and some that are texts.

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

// staying is the setting which record sets stay in their databases.
const staying = "records that stay"

// Staying are the keys of the record sets that are to stay in their databases.
func (s *Store) Staying(ctx context.Context) (sets []string, err error) {
	err = s.pool.QueryRow(ctx, "SELECT ARRAY(SELECT jsonb_array_elements_text(value)) FROM settings WHERE name = $1", staying).
		Scan(&sets)
	if errors.Is(err, pgx.ErrNoRows) {
		err = nil
	}
	return sets, err
}

// LetStay settles whether a record set is to stay in its database.
func (s *Store) LetStay(ctx context.Context, set string, stays bool) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO settings (name, value)
		VALUES ($1, CASE WHEN $3 THEN jsonb_build_array($2::text) ELSE '[]' END)
		ON CONFLICT (name) DO UPDATE SET set_at = clock_timestamp(),
			value = (settings.value - $2) || CASE WHEN $3 THEN jsonb_build_array($2::text) ELSE '[]' END`, staying, set, stays)
	return err
}

// outsideAddresses is the setting to which domains letters may go.
const outsideAddresses = "addresses outside"

// text is a setting that is a text, empty at first.
func (s *Store) text(ctx context.Context, name string) (text string, err error) {
	err = s.pool.QueryRow(ctx, "SELECT value #>> '{}' FROM settings WHERE name = $1", name).Scan(&text)
	if errors.Is(err, pgx.ErrNoRows) {
		err = nil
	}
	return text, err
}

// OutsideAddresses are the domains that letters may go to, between commas.
func (s *Store) OutsideAddresses(ctx context.Context) (string, error) {
	return s.text(ctx, outsideAddresses)
}

// AllowOutside settles them.
func (s *Store) AllowOutside(ctx context.Context, domains string) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO settings (name, value) VALUES ($1, to_jsonb($2::text))
		ON CONFLICT (name) DO UPDATE SET value = excluded.value, set_at = clock_timestamp()`, outsideAddresses, domains)
	return err
}

// Secret is a random text of this installation, of the same name the same for all of its servers.
func (s *Store) Secret(ctx context.Context, name string) (string, error) {
	_, err := s.pool.Exec(
		ctx, "INSERT INTO settings (name, value) VALUES ($1, to_jsonb($2::text)) ON CONFLICT (name) DO NOTHING", name, rand.Text()+rand.Text(),
	)
	if err != nil {
		return "", err
	}
	return s.text(ctx, name)
}
