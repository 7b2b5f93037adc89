package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// SignIn is a session of somebody's.
type SignIn struct {
	ID      int64
	Way     string // how she came in: "with a password"
	Address string
	Agent   string // what her browser says of itself
	BegunAt time.Time
	SeenAt  time.Time // within a few minutes
}

// How long a session lasts, and how long without use. How recently it was used is noted
// every few minutes only, so that looking writes nothing.
const validSignIn = "s.begun_at > now() - interval '30 days' AND s.seen_at > now() - interval '7 days'"

// BeginSignIn opens a session under a hash, and forgets those that have ended.
func (s *Store) BeginSignIn(ctx context.Context, person int64, hash []byte, in SignIn) error {
	_, err := s.pool.Exec(ctx, `WITH gone AS (DELETE FROM sign_ins s WHERE NOT (`+validSignIn+`))
		INSERT INTO sign_ins (hash, person_id, way, address, agent) VALUES ($1, $2, $3, $4, left($5, 400))`,
		hash, person, in.Way, in.Address, in.Agent)
	if err != nil {
		return fmt.Errorf("store: sign-in: %w", err)
	}
	return nil
}

// PersonBySignIn returns whose session has a hash, and its number; ErrNotFound if it is
// nobody's, has ended, or its person has left.
func (s *Store) PersonBySignIn(ctx context.Context, hash []byte) (p Person, id int64, err error) {
	err = s.hurried(ctx, func(ctx context.Context) error {
		p, id, err = s.personBySignIn(ctx, hash)
		return err
	})
	return p, id, err
}

func (s *Store) personBySignIn(ctx context.Context, hash []byte) (Person, int64, error) {
	var id, person int64
	var stale bool
	err := s.pool.QueryRow(ctx, `SELECT s.id, s.person_id, s.seen_at < now() - interval '5 minutes'
		FROM sign_ins s WHERE s.hash = $1 AND `+validSignIn, hash).Scan(&id, &person, &stale)
	if err != nil {
		return Person{}, 0, notFound(err)
	}
	if stale { // a database that takes no writes is no reason to sign anybody out
		_, _ = s.pool.Exec(ctx, "UPDATE sign_ins SET seen_at = now() WHERE id = $1", id)
	}
	p, err := s.Person(ctx, person)
	if err == nil && p.LeftAt != nil {
		err = ErrNotFound
	}
	return p, id, err
}

// SignIns lists a person's sessions, the one used last first.
func (s *Store) SignIns(ctx context.Context, person int64) ([]SignIn, error) {
	rows, _ := s.pool.Query(ctx, `SELECT s.id, s.way, s.address, s.agent, s.begun_at, s.seen_at FROM sign_ins s
		WHERE s.person_id = $1 AND `+validSignIn+` ORDER BY s.seen_at DESC, s.id DESC`, person) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[SignIn])
	if err != nil {
		return nil, fmt.Errorf("store: sign-ins: %w", err)
	}
	return out, nil
}

// EndSignIn ends one of a person's sessions; ErrNotFound says that she has no such.
func (s *Store) EndSignIn(ctx context.Context, person, id int64) error {
	return s.change(ctx, "DELETE FROM sign_ins WHERE id = $1 AND person_id = $2", id, person)
}

// EndSignIns ends all of a person's sessions and forgets her devices; with tokens, her
// tokens too.
func (s *Store) EndSignIns(ctx context.Context, person int64, tokens bool) error {
	_, err := s.pool.Exec(ctx, `WITH a AS (DELETE FROM sign_ins WHERE person_id = $1),
		b AS (DELETE FROM devices WHERE person_id = $1)
		DELETE FROM tokens WHERE person_id = $1 AND $2`, person, tokens)
	return err
}

// KnowDevice notes that a person has signed in with a browser.
func (s *Store) KnowDevice(ctx context.Context, person int64, hash []byte) error {
	_, err := s.pool.Exec(ctx, `WITH gone AS (DELETE FROM devices WHERE seen_at < now() - interval '400 days')
		INSERT INTO devices (hash, person_id) VALUES ($1, $2)
		ON CONFLICT (hash) DO UPDATE SET person_id = $2, seen_at = now()`, hash, person)
	return err
}

// KnowsDevice says whether somebody has signed in with a browser, by her e-mail address.
func (s *Store) KnowsDevice(ctx context.Context, email string, hash []byte) (bool, error) {
	var known bool
	err := s.hurried(ctx, func(ctx context.Context) error {
		return s.pool.QueryRow(ctx, `SELECT EXISTS (SELECT FROM devices d JOIN people p ON p.id = d.person_id
			WHERE d.hash = $1 AND p.email = lower($2))`, hash, email).Scan(&known)
	})
	return known, err
}

// Attempt bounds the tries under a key.
type Attempt struct {
	Key string
	// Free are the tries without a pause; from then on the pause doubles from a second.
	Free int
	// Window is after how long without a try all is forgotten; pauses are no longer.
	Window time.Duration
}

// TryAttempts counts a try under every key, unless one of them must wait: then nothing is
// counted, and wait says for how long. All of it goes by the database's clock.
func (s *Store) TryAttempts(ctx context.Context, of []Attempt) (wait time.Duration, err error) {
	err = s.hurried(ctx, func(ctx context.Context) error {
		wait, err = s.tryAttempts(ctx, of)
		return err
	})
	return wait, err
}

func (s *Store) tryAttempts(ctx context.Context, of []Attempt) (wait time.Duration, err error) {
	err = s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		for _, a := range of {
			var let bool
			err := tx.QueryRow(ctx, `INSERT INTO attempts AS x (key, tries) VALUES ($1, 1)
				ON CONFLICT (key) DO UPDATE SET
				  tries = CASE WHEN x.until < clock_timestamp() - $3::interval THEN 1 ELSE x.tries + 1 END,
				  since = CASE WHEN x.until < clock_timestamp() - $3::interval THEN clock_timestamp() ELSE x.since END,
				  until = clock_timestamp() + CASE
				    WHEN x.until < clock_timestamp() - $3::interval OR x.tries + 1 < $2 THEN interval '0'
				    ELSE least($3::interval, interval '1 second' * 2 ^ least(20, x.tries + 1 - $2)) END
				WHERE x.until <= clock_timestamp() RETURNING true`, a.Key, a.Free, a.Window).Scan(&let)
			if errors.Is(err, pgx.ErrNoRows) {
				var seconds int64
				err := tx.QueryRow(ctx, `SELECT ceil(extract(epoch FROM until - clock_timestamp()))::bigint
					FROM attempts WHERE key = $1`, a.Key).Scan(&seconds)
				if err != nil {
					return err
				}
				wait = time.Duration(max(1, seconds)) * time.Second
				return errWait
			}
			if err != nil {
				return err
			}
		}
		return nil
	})
	if errors.Is(err, errWait) {
		err = nil
	}
	if err != nil {
		return 0, fmt.Errorf("store: attempts: %w", err)
	}
	return wait, nil
}

// errWait rolls the tries of other keys back.
var errWait = errors.New("store: wait")

// ForgiveAttempts takes a try that went well back: all of them under the first key, which
// are the person's own, and this one under the others. It forgets all that are long ago.
func (s *Store) ForgiveAttempts(ctx context.Context, of []Attempt) error {
	keys := make([]string, len(of))
	for i, a := range of {
		keys[i] = a.Key
	}
	_, err := s.pool.Exec(ctx, `WITH gone AS (DELETE FROM attempts WHERE key = $1 OR until < now() - interval '1 day')
		UPDATE attempts SET tries = greatest(0, tries - 1), until = least(until, clock_timestamp())
		WHERE key = ANY($2) AND key <> $1`, keys[0], keys)
	return err
}
