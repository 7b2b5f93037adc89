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
	// Changing says that somebody else has set her password: she must change it before
	// anything else.
	Changing bool
	// SecondSecret is what her app makes codes with; SecondOn says that they are asked for.
	SecondSecret string
	SecondOn     bool
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

const personSQL = `SELECT id, email, name, role, password_hash, changing, second_secret, second_on, traits,
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
	err := s.pool.QueryRow(ctx, `INSERT INTO people (email, name, role, password_hash, changing)
		VALUES (lower($1), $2, $3, $4, $5) RETURNING id`, p.Email, p.Name, role, p.PasswordHash, p.Changing).Scan(&id)
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

// SetPassword replaces a person's password and ends all of her sessions; with tokens, her
// tokens too. Changing says that she must change it first of all.
func (s *Store) SetPassword(ctx context.Context, id int64, hash string, changing, tokens bool) error {
	_, err := s.pool.Exec(ctx, `WITH a AS (DELETE FROM sign_ins WHERE person_id = $1), b AS (DELETE FROM devices WHERE person_id = $1), c AS (DELETE FROM tokens WHERE person_id = $1 AND $4)
		UPDATE people SET password_hash = $2, changing = $3 WHERE id = $1`, id, hash, changing, tokens)
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
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, personSQL+" ORDER BY left_at IS NOT NULL, name, id")
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
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		// Two administrators who take each other's role away come one after the other.
		if _, err := tx.Exec(ctx, "SELECT FROM people WHERE role = 'administrator' FOR UPDATE"); err != nil {
			return err
		}
		tag, err := tx.Exec(ctx, `WITH out AS (DELETE FROM sign_ins WHERE person_id = $1 AND $5)
			UPDATE people SET name = $2, role = $3, traits = $4, left_at = CASE WHEN $5 THEN coalesce(left_at, now()) END WHERE id = $1`, p.ID, p.Name, p.Role, p.Traits, left)
		if err != nil {
			return fmt.Errorf("store: person: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		var others int
		if err := tx.QueryRow(
			ctx, "SELECT count(*) FROM people WHERE role = 'administrator' AND left_at IS NULL",
		).Scan(&others); err != nil {
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
		_, err = tx.Exec(
			ctx,
			"INSERT INTO memberships (group_id, person_id) SELECT id, $2 FROM groups WHERE id = ANY($1) AND NOT rest",
			ids, p.ID,
		)
		return err
	})
}

// HandOverAll makes every view of one person another's, those in the bin too, and says
// how many. What she brought in as files goes with them.
func (s *Store) HandOverAll(ctx context.Context, from, to int64) (int64, error) {
	tag, err := s.pool.Exec(ctx, `WITH files AS (UPDATE brought_in SET owner_id = $2, version = version + 1, at = clock_timestamp()
		WHERE owner_id = $1) UPDATE views SET owner_id = $2 WHERE owner_id = $1`, from, to)
	return tag.RowsAffected(), err
}

// BindSubject notes by what an identity provider knows a person; ErrTaken says that it is
// another's, or that she is known by another.
func (s *Store) BindSubject(ctx context.Context, id int64, subject string) error {
	tag, err := s.pool.Exec(
		ctx, "UPDATE people SET subject = $2 WHERE id = $1 AND coalesce(subject, $2) = $2", id, subject,
	)
	if taken(err) || err == nil && tag.RowsAffected() == 0 {
		return ErrTaken
	}
	return err
}

// PersonBySubject returns somebody by what an identity provider knows her by.
func (s *Store) PersonBySubject(ctx context.Context, subject string) (Person, error) {
	return s.person(ctx, "subject = $1", subject)
}
