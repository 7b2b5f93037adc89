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
	ID    int64
	Email string
	Name  string
	Role  Role
	// PasswordHash is empty for somebody who has no password and signs in elsewhere.
	PasswordHash string
	// SignedOutAt is when she signed out everywhere: sessions begun before are worth
	// nothing.
	SignedOutAt time.Time
	// Traits are what row rules ask of her, such as her ports: name to text.
	Traits map[string]string
	// Groups are those that she is in; the one of people in no group, if it is none.
	Groups []GroupName
	// LeftAt says that she cannot sign in any more.
	LeftAt *time.Time
}

// Administrator says whether she may manage people and what they see.
func (p Person) Administrator() bool { return p.Role == Administrator }

// Role is how much a person may do.
type Role string

// The roles: a reader looks at views and tries them out; an analyst saves, too; an
// administrator manages people, what they see, and what all start with.
const (
	Reader        Role = "reader"
	Analyst       Role = "analyst"
	Administrator Role = "administrator"
)

const personSQL = `SELECT id, email, name, role, password_hash, signed_out_at, traits,
	(SELECT coalesce(json_agg(json_build_object('id', g.id, 'name', g.name) ORDER BY g.name), '[]') FROM groups g
	 WHERE g.id IN (SELECT group_id FROM memberships WHERE person_id = people.id)
	    OR g.rest AND NOT EXISTS (SELECT FROM memberships WHERE person_id = people.id)),
	left_at FROM people`

// AddPerson adds somebody; ErrTaken if the e-mail address is known.
func (s *Store) AddPerson(ctx context.Context, p Person) (int64, error) {
	var id int64
	role := p.Role
	if role == "" {
		role = Analyst
	}
	err := s.pool.QueryRow(ctx, `INSERT INTO people (email, name, role, password_hash)
		VALUES (lower($1), $2, $3, $4) RETURNING id`, p.Email, p.Name, role, p.PasswordHash).Scan(&id)
	if taken(err) {
		return 0, ErrTaken
	}
	if err != nil {
		return 0, fmt.Errorf("store: adding %s: %w", p.Email, err)
	}
	return id, nil
}

// taken says whether the database refused a second one of what must be one.
func taken(err error) bool {
	var refused *pgconn.PgError
	return errors.As(err, &refused) && refused.Code == pgerrcode.UniqueViolation
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
	rows, _ := s.pool.Query(ctx, personSQL+" WHERE "+where, arg) // CollectOneRow returns its error
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

// CountPeople counts everybody.
func (s *Store) CountPeople(ctx context.Context) (int, error) {
	var n int
	err := s.pool.QueryRow(ctx, "SELECT count(*) FROM people").Scan(&n)
	return n, err
}

// People lists everybody by name, those who have left last.
func (s *Store) People(ctx context.Context) ([]Person, error) {
	rows, _ := s.pool.Query(ctx, personSQL+" ORDER BY left_at IS NOT NULL, name, id") // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Person])
	if err != nil {
		return nil, fmt.Errorf("store: people: %w", err)
	}
	return out, nil
}

// ErrLastAdministrator says that nobody would be left to manage people.
var ErrLastAdministrator = errors.New("store: the last administrator")

// ChangePerson writes a person's name, role, traits and groups. One who has left is
// signed out at once and stays so. ErrNotFound says that there is no such person,
// ErrLastAdministrator that no administrator would be left; nothing is written then.
func (s *Store) ChangePerson(ctx context.Context, p Person, left bool) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		// Two administrators who take each other's role away come one after the other.
		if _, err := tx.Exec(ctx, "SELECT FROM people WHERE role = 'administrator' FOR UPDATE"); err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `UPDATE people SET name = $2, role = $3, traits = $4, left_at = CASE WHEN $5 THEN coalesce(left_at, now()) END,
			signed_out_at = CASE WHEN $5 AND left_at IS NULL THEN now() ELSE signed_out_at END WHERE id = $1`, p.ID, p.Name, p.Role, p.Traits, left)
		if err != nil {
			return fmt.Errorf("store: person: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		var others int
		if err := tx.QueryRow(ctx, "SELECT count(*) FROM people WHERE role = 'administrator' AND left_at IS NULL").Scan(&others); err != nil {
			return err
		}
		if others == 0 {
			return ErrLastAdministrator
		}
		ids := make([]int64, len(p.Groups))
		for i, g := range p.Groups {
			ids[i] = g.ID
		}
		if _, err := tx.Exec(ctx, "DELETE FROM memberships WHERE person_id = $1", p.ID); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, "INSERT INTO memberships (group_id, person_id) SELECT id, $2 FROM groups WHERE id = ANY($1) AND NOT rest", ids, p.ID)
		return err
	})
}

// HandOverAll makes every view of one person another's, those in the bin too, and says
// how many.
func (s *Store) HandOverAll(ctx context.Context, from, to int64) (int64, error) {
	tag, err := s.pool.Exec(ctx, "UPDATE views SET owner_id = $2 WHERE owner_id = $1", from, to)
	return tag.RowsAffected(), err
}

// BindSubject notes by what an identity provider knows a person; ErrTaken says that it is
// another's, or that she is known by another.
func (s *Store) BindSubject(ctx context.Context, id int64, subject string) error {
	tag, err := s.pool.Exec(ctx, "UPDATE people SET subject = $2 WHERE id = $1 AND coalesce(subject, $2) = $2", id, subject)
	if taken(err) || err == nil && tag.RowsAffected() == 0 {
		return ErrTaken
	}
	return err
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
