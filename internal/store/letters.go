package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// RunOf says why letters of a delivery are written.
type RunOf string

// The reasons.
const (
	RunDue    RunOf = "due"    // its time has come
	RunNow    RunOf = "now"    // somebody wanted it sent to all, now
	RunToMe   RunOf = "me"     // somebody wanted to see it
	RunNotice RunOf = "notice" // its people are told that it has stopped
)

// LetterState says how far a letter is.
type LetterState string

// The states. Those from Sent on are final.
const (
	LetterWaiting LetterState = "waiting"
	LetterSending LetterState = "sending" // a server that stopped then may have sent it
	LetterSent    LetterState = "sent"
	LetterIdle    LetterState = "idle"   // what it waits for was not so
	LetterKept    LetterState = "kept"   // it must not be sent to whom it was for
	LetterFailed  LetterState = "failed" // for good
)

// Letter is what one recipient gets of one run of a delivery.
type Letter struct {
	ID       int64
	Delivery string // key
	Run      int64
	Of       RunOf
	// Hook says that it is posted to an address on the web, and not mailed.
	Hook bool
	// Person is who it is for, nil for an address outside; Name and Address are as they were.
	Person        *int64
	Name, Address string
	// Notice is what its reader is told in place of the view, or empty.
	Notice string
	State  LetterState
	Tries  int
	Why    string
	Bytes  int64
	// Records is how many the view kept.
	Records int64
	Digest  string
	At      time.Time
}

const letterSQL = `
SELECT l.id, d.key, r.id, r.what, l.channel = 'hook', l.person_id, l.name, l.address, l.notice, l.state, l.tries, l.why, l.bytes, l.records, l.digest, l.at
FROM letters l JOIN delivery_runs r ON r.id = l.run_id JOIN deliveries d ON d.id = r.delivery_id`

// Letter is one by its number; ErrNotFound if its delivery was ended.
func (s *Store) Letter(ctx context.Context, id int64) (Letter, error) {
	rows, _ := s.pool.Query(ctx, letterSQL+" WHERE l.id = $1", id) // CollectOneRow returns its error
	l, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Letter])
	return l, notFound(err)
}

// Letters are the newest of a delivery.
func (s *Store) Letters(ctx context.Context, delivery string, limit int) ([]Letter, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, letterSQL+" WHERE d.key = $1 ORDER BY r.at DESC, r.id DESC, l.name, l.id LIMIT $2", delivery, limit)
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Letter])
	if err != nil {
		return nil, fmt.Errorf("store: letters: %w", err)
	}
	return out, nil
}

// LastDigest tells what an address was sent last of a delivery, or is empty.
func (s *Store) LastDigest(ctx context.Context, delivery, address string) (string, error) {
	var digest string
	err := s.pool.QueryRow(ctx, `SELECT l.digest FROM letters l JOIN delivery_runs r ON r.id = l.run_id JOIN deliveries d ON d.id = r.delivery_id
		WHERE d.key = $1 AND l.address = $2 AND l.state = 'sent' AND r.what IN ('due', 'now') ORDER BY l.id DESC LIMIT 1`, delivery, address).Scan(&digest)
	if errors.Is(err, pgx.ErrNoRows) {
		err = nil
	}
	return digest, err
}

// NewRun is letters to be written.
type NewRun struct {
	Delivery string
	Of       RunOf
	At       time.Time
	// DueAt is the moment that is carried out, of RunDue, and NextAt the one after it.
	DueAt, NextAt *time.Time
	// Known is how long it is known what was sent; older runs are let go of, of RunDue.
	Known time.Duration
	// Only, if not 0, is the one person who gets it.
	Only int64
	// Notice is what all are told in place of the view; administrators are told, too, if Bosses is set.
	Notice string
	Bosses bool
	// Most is how many letters it may have.
	Most int
}

// TooManyError says that a delivery would go to more people than it may.
type TooManyError struct{ Letters, Most int }

func (e *TooManyError) Error() string {
	return fmt.Sprintf("it would go to %d people; a delivery goes to %d at most, so choose smaller groups", e.Letters, e.Most)
}

// Queue takes the numbers of letters that are to be sent, within the transaction that writes them down.
type Queue func(ctx context.Context, tx pgx.Tx, letters []int64) error

// BeginRun writes down the letters of a run and hands them to the queue. If another server did so before,
// or it is not due any more, there is nothing to do.
func (s *Store) BeginRun(ctx context.Context, n NewRun, queue Queue) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, `SELECT id FROM deliveries WHERE key = $1 AND ($2::timestamptz IS NULL OR next_at = $2 AND paused_at IS NULL) FOR UPDATE`,
			n.Delivery, n.DueAt).Scan(&id)
		switch {
		case errors.Is(err, pgx.ErrNoRows) && n.DueAt != nil:
			return nil
		case err != nil:
			return notFound(err)
		}
		if n.Of == RunDue {
			_, err := tx.Exec(ctx, `WITH gone AS (DELETE FROM delivery_runs WHERE delivery_id = $1 AND at < $3)
				UPDATE deliveries SET next_at = $2 WHERE id = $1`, id, n.NextAt, n.At.Add(-n.Known))
			if err != nil {
				return err
			}
		}
		var run int64
		err = tx.QueryRow(ctx, `INSERT INTO delivery_runs (delivery_id, due_at, at, what) VALUES ($1, $2, $3, $4)
			ON CONFLICT (delivery_id, due_at) DO NOTHING RETURNING id`, id, n.DueAt, n.At, n.Of).Scan(&run)
		if errors.Is(err, pgx.ErrNoRows) {
			return nil // that moment was carried out; the next one stands
		}
		if err != nil {
			return err
		}
		rows, _ := tx.Query(ctx, lettersSQL, pgx.NamedArgs{ // CollectRows returns its error
			"run": run, "delivery": id, "only": n.Only, "notice": n.Notice, "bosses": n.Bosses, "at": n.At,
		})
		letters, err := pgx.CollectRows(rows, pgx.RowTo[int64])
		if err != nil {
			return err
		}
		if len(letters) > n.Most {
			return &TooManyError{len(letters), n.Most}
		}
		return queue(ctx, tx, letters)
	})
}

// lettersSQL writes a letter for everybody who is to get one: people by name, people of groups,
// addresses outside, the address on the web. Notices go to who owns the delivery as well, and neither
// to addresses outside nor to who may not see the view: they name it.
const lettersSQL = `
INSERT INTO letters (run_id, channel, person_id, name, address, notice, at)
SELECT @run::bigint, 'mail', p.id, p.name, p.email, @notice::text, @at::timestamptz FROM people p
WHERE p.left_at IS NULL AND CASE WHEN @only::bigint <> 0 THEN p.id = @only ELSE
  (EXISTS (SELECT FROM delivery_people w WHERE w.delivery_id = @delivery AND (w.person_id = p.id
     OR EXISTS (SELECT FROM memberships m WHERE m.group_id = w.group_id AND m.person_id = p.id)))
   AND NOT EXISTS (SELECT FROM delivery_stops s WHERE s.delivery_id = @delivery AND s.address = p.email)
   AND (@notice = '' OR EXISTS (SELECT FROM deliveries d JOIN views v ON v.id = d.view_id WHERE d.id = @delivery AND view_right(v.id, v.owner_id, p.id) > 0)))
  OR @notice <> '' AND p.id = (SELECT owner_id FROM deliveries WHERE id = @delivery)
  OR @bosses AND p.role = 'administrator' END
UNION ALL
SELECT @run, 'mail', NULL, a.address, a.address, '', @at FROM deliveries d CROSS JOIN unnest(d.addresses) AS a (address)
WHERE d.id = @delivery AND @only = 0 AND @notice = '' AND NOT EXISTS (SELECT FROM people p WHERE p.email = a.address)
  AND NOT EXISTS (SELECT FROM delivery_stops s WHERE s.delivery_id = @delivery AND s.address = a.address)
UNION ALL
SELECT @run, 'hook', NULL, d.hook, d.hook, '', @at FROM deliveries d WHERE d.id = @delivery AND d.hook <> '' AND @only = 0 AND @notice = ''
ON CONFLICT (run_id, channel, address) DO NOTHING
RETURNING id`

// TryLetter says that a letter is about to be sent. again is true if that was said before: a
// server stopped then, or lost the line, and it may have been sent. ok is false if it need not be any more.
func (s *Store) TryLetter(ctx context.Context, id int64) (again, ok bool, err error) {
	var before LetterState
	err = s.pool.QueryRow(ctx, `WITH was AS (SELECT id, state FROM letters WHERE id = $1 FOR UPDATE)
		UPDATE letters l SET state = 'sending', tries = l.tries + 1 FROM was
		WHERE l.id = was.id AND was.state IN ('waiting', 'sending') RETURNING was.state`, id).Scan(&before)
	if errors.Is(err, pgx.ErrNoRows) {
		return false, false, nil
	}
	return before == LetterSending, err == nil, err
}

// SetLetter writes how far a letter is.
func (s *Store) SetLetter(ctx context.Context, l Letter) error {
	_, err := s.pool.Exec(ctx, `UPDATE letters SET state = $2, why = $3, bytes = $4, records = $5, digest = $6, at = $7
		WHERE id = $1 AND state IN ('waiting', 'sending')`, l.ID, l.State, l.Why, l.Bytes, l.Records, l.Digest, l.At)
	return err
}

// RetryLetter lets a letter that failed be sent after all, and hands its number to queue.
func (s *Store) RetryLetter(ctx context.Context, delivery string, id int64, queue Queue) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `UPDATE letters l SET state = 'waiting', why = '' FROM delivery_runs r JOIN deliveries d ON d.id = r.delivery_id
			WHERE l.id = $2 AND r.id = l.run_id AND d.key = $1 AND l.state = 'failed'`, delivery, id)
		if err != nil {
			return err
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		return queue(ctx, tx, []int64{id})
	})
}
