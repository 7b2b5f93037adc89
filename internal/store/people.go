package store

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Person is somebody who can sign in.
type Person struct {
	ID            int64
	Email         string
	Name          string
	Administrator bool
	PasswordHash  string
	// SignedOutAt is when she signed out everywhere: sessions begun before are worth
	// nothing.
	SignedOutAt time.Time
}

const personColumns = "id, email, name, administrator, password_hash, signed_out_at"

// AddPerson adds somebody; ErrTaken if the e-mail address is known.
func (s *Store) AddPerson(ctx context.Context, p Person) (int64, error) {
	var id int64
	err := s.pool.QueryRow(ctx, `INSERT INTO people (email, name, administrator, password_hash)
		VALUES (lower($1), $2, $3, $4) RETURNING id`, p.Email, p.Name, p.Administrator, p.PasswordHash).Scan(&id)
	var refused *pgconn.PgError
	if errors.As(err, &refused) && refused.Code == pgerrcode.UniqueViolation {
		return 0, ErrTaken
	}
	if err != nil {
		return 0, fmt.Errorf("store: adding %s: %w", p.Email, err)
	}
	return id, nil
}

// Person returns somebody by number.
func (s *Store) Person(ctx context.Context, id int64) (Person, error) {
	return s.person(ctx, "id = $1", id)
}

// PersonByEmail returns somebody by e-mail address, whatever its case.
func (s *Store) PersonByEmail(ctx context.Context, email string) (Person, error) {
	return s.person(ctx, "email = $1", strings.ToLower(email))
}

func (s *Store) person(ctx context.Context, where string, arg any) (Person, error) {
	rows, _ := s.pool.Query(ctx, "SELECT "+personColumns+" FROM people WHERE "+where, arg) // CollectOneRow returns its error
	p, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Person])
	return p, notFound(err)
}

// SignOutEverywhere ends all of a person's sessions.
func (s *Store) SignOutEverywhere(ctx context.Context, id int64) error {
	_, err := s.pool.Exec(ctx, "UPDATE people SET signed_out_at = now() WHERE id = $1", id)
	return err
}

// SetPassword replaces a person's password and ends all of her sessions.
func (s *Store) SetPassword(ctx context.Context, id int64, hash string) error {
	_, err := s.pool.Exec(ctx, "UPDATE people SET password_hash = $2, signed_out_at = now() WHERE id = $1", id, hash)
	return err
}

// People counts everybody.
func (s *Store) People(ctx context.Context) (int, error) {
	var n int
	err := s.pool.QueryRow(ctx, "SELECT count(*) FROM people").Scan(&n)
	return n, err
}

// AddFailure notes a failed sign-in under a key, and forgets old ones.
func (s *Store) AddFailure(ctx context.Context, key string, window time.Duration) error {
	_, err := s.pool.Exec(ctx, `WITH gone AS (DELETE FROM signin_failures WHERE at < now() - $2::interval)
		INSERT INTO signin_failures (key) VALUES ($1)`, key, window)
	return err
}

// Failures counts the failed sign-ins under a key within a window up to now.
func (s *Store) Failures(ctx context.Context, key string, window time.Duration) (int, error) {
	var n int
	err := s.pool.QueryRow(ctx, "SELECT count(*) FROM signin_failures WHERE key = $1 AND at > now() - $2::interval", key, window).Scan(&n)
	return n, err
}

// ClearFailures forgets the failed sign-ins under a key.
func (s *Store) ClearFailures(ctx context.Context, key string) error {
	_, err := s.pool.Exec(ctx, "DELETE FROM signin_failures WHERE key = $1", key)
	return err
}
