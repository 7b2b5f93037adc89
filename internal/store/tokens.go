package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Token lets a program act for a person. What it consists of is not kept.
type Token struct {
	ID     int64
	Name   string
	MadeAt time.Time
	UsedAt *time.Time
	EndsAt time.Time
	// View is the key of the one view that it runs, or empty for every view.
	View string
}

// AddToken keeps the hash of a new token, of one view if its key is given.
// It ends so many days from now, by the database's clock.
func (s *Store) AddToken(
	ctx context.Context, person int64, name string, hash []byte, days int, view string,
) (ends time.Time, err error) {
	err = s.pool.QueryRow(
		ctx,
		"INSERT INTO tokens (person_id, name, hash, ends_at, view_key) VALUES ($1, $2, $3, now() + make_interval(days => $4), nullif($5, '')) RETURNING ends_at",
		person, name, hash, days, view,
	).Scan(&ends)
	if err != nil {
		return ends, fmt.Errorf("store: token: %w", err)
	}
	return ends, nil
}

// Tokens lists a person's, the newest first.
func (s *Store) Tokens(ctx context.Context, person int64) ([]Token, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(
		ctx, "SELECT id, name, made_at, used_at, ends_at, coalesce(view_key, '') FROM tokens WHERE person_id = $1 ORDER BY id DESC", person,
	)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Token])
}

// Revoke ends one of a person's tokens at once.
func (s *Store) Revoke(ctx context.Context, person, id int64) error {
	return s.change(ctx, "DELETE FROM tokens WHERE id = $1 AND person_id = $2", id, person)
}

// PersonByToken returns whose token has a hash, and notes that it was used; ErrNotFound
// if it is nobody's, has ended, its person has left, or it is of another view than the one
// asked for. bound says that only a token of that view will do.
func (s *Store) PersonByToken(ctx context.Context, hash []byte, view string, bound bool) (Person, error) {
	var id int64
	err := s.pool.QueryRow(
		ctx, `UPDATE tokens SET used_at = now() WHERE hash = $1 AND ends_at > now()
		AND (view_key = $2 OR view_key IS NULL AND NOT $3) RETURNING person_id`, hash, view, bound,
	).Scan(&id)
	if err != nil {
		return Person{}, notFound(err)
	}
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, personSQL+" WHERE id = $1 AND left_at IS NULL", id)
	p, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Person])
	return p, notFound(err)
}
