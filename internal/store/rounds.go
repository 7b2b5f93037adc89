package store

import (
	"context"
	"crypto/rand"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// Round is a view that is to be looked at again and again, as one person sees it.
type Round struct {
	Key       string
	OwnerID   int64
	OwnerName string
	// View is its view, Document that view's newest version, as JSON.
	View, ViewName string
	Document       []byte
	// Sees says that the person may see the view; Binned that nobody can at present.
	Sees, Binned bool
	// Looks says that the person is one of those who look.
	Looks bool
	RoundTerms
	People  []PersonName
	Groups  []GroupName
	BegunAt time.Time
	// Last is when it was last put away for the person, and what the view said then; nil, "" for never.
	Last       *time.Time
	LastDigest string
	// LastName, LastAt and LastNote are of whoever looked last.
	LastName string
	LastAt   *time.Time
	LastNote string
}

// RoundTerms are what its owner says of a round.
type RoundTerms struct {
	// Rule, Answers and Trigger are JSON.
	Rule, Answers, Trigger []byte
	// Each says that everyone has to look; else the look of one puts it away for all.
	Each bool
	// Seeing says that having seen the view puts it away.
	Seeing bool
}

// PersonName names a person.
type PersonName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Look is one look of a round.
type Look struct {
	ID     int64
	Person PersonName
	At     time.Time
	// DueAt is since when it had been due, nil for a look before it was.
	DueAt  *time.Time
	Seeing bool
	Note   string
}

// administers says that the person @person is an administrator, who takes over what is left behind.
const administers = "EXISTS (SELECT FROM people WHERE id = @person AND role = 'administrator')"

const roundSQL = `
SELECT r.key, r.owner_id, o.name, v.key, n.name, n.document, g.granted > 0, v.binned_at IS NOT NULL, among.looks, r.rule, r.answers, r.trigger, r.each_looks, r.by_seeing,
       (SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name) ORDER BY p.name), '[]') FROM round_people w JOIN people p ON p.id = w.person_id WHERE w.round_id = r.id),
       (SELECT coalesce(json_agg(json_build_object('id', p.id, 'name', p.name) ORDER BY p.name), '[]') FROM round_people w JOIN groups p ON p.id = w.group_id WHERE w.round_id = r.id),
       r.begun_at, mine.at, coalesce(mine.digest, ''), coalesce(lp.name, ''), anybody.at, coalesce(anybody.note, '')
FROM rounds r
JOIN views v ON v.id = r.view_id JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
JOIN people o ON o.id = r.owner_id
CROSS JOIN view_right(v.id, v.owner_id, @person) AS g (granted)
CROSS JOIN LATERAL (SELECT EXISTS (SELECT FROM round_people w WHERE w.round_id = r.id AND (w.person_id = @person
  OR EXISTS (SELECT FROM memberships m WHERE m.group_id = w.group_id AND m.person_id = @person)))) AS among (looks)
LEFT JOIN LATERAL (SELECT l.at, l.digest FROM looks l WHERE l.round_id = r.id AND (NOT r.each_looks OR l.person_id = @person) ORDER BY l.at DESC, l.id DESC LIMIT 1) mine ON true
LEFT JOIN LATERAL (SELECT l.at, l.person_id, l.note FROM looks l WHERE l.round_id = r.id ORDER BY l.at DESC, l.id DESC LIMIT 1) anybody ON true
LEFT JOIN people lp ON lp.id = anybody.person_id
WHERE (among.looks AND g.granted > 0 AND v.binned_at IS NULL OR r.owner_id = @person OR o.left_at IS NOT NULL AND ` + administers + `)`

// Rounds lists those that a person looks at or owns, the oldest first.
func (s *Store) Rounds(ctx context.Context, person int64) ([]Round, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, roundSQL+" ORDER BY r.id", pgx.NamedArgs{"person": person})
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Round])
	if err != nil {
		return nil, fmt.Errorf("store: rounds: %w", err)
	}
	return out, nil
}

// Round is one of those; ErrNotFound if there is none for the person.
func (s *Store) Round(ctx context.Context, person int64, key string) (Round, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, roundSQL+" AND r.key = @key", pgx.NamedArgs{"person": person, "key": key})
	r, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Round])
	return r, notFound(err)
}

// AddRound keeps a person's round of a view that she may see, for people and groups, and returns
// its key. People who do not see the view are not among those who look until they do.
func (s *Store) AddRound(
	ctx context.Context, person int64, view string, t RoundTerms, people, groups []int64, begun time.Time,
) (string, error) {
	key := newKey()
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, `INSERT INTO rounds (key, view_id, owner_id, rule, answers, trigger, each_looks, by_seeing, begun_at)
			SELECT $1, v.id, $2, $4, $5, $6, $7, $8, $9 FROM views v
			WHERE v.key = $3 AND v.binned_at IS NULL AND view_right(v.id, v.owner_id, $2) > 0 RETURNING id`,
			key, person, view, t.Rule, t.Answers, t.Trigger, t.Each, t.Seeing, begun).Scan(&id)
		if err != nil {
			return notFound(err)
		}
		return roundFor(ctx, tx, id, people, groups)
	})
	return key, err
}

// newKey names something to people's programs and addresses.
func newKey() string { return strings.ToLower(rand.Text()[:12]) }

// SetRound writes the terms of a round that is the person's, or any of an administrator's, and who
// looks. What was due before begun does not count any more if the rule is another one.
func (s *Store) SetRound(
	ctx context.Context, person int64, key string, t RoundTerms, people, groups []int64, begun time.Time,
) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, `UPDATE rounds SET begun_at = CASE WHEN rule = @rule THEN begun_at ELSE @begun END,
			rule = @rule, answers = @answers, trigger = @trigger, each_looks = @each, by_seeing = @seeing
			WHERE key = @key AND (owner_id = @person OR `+administers+`) RETURNING id`, pgx.NamedArgs{
			"key": key, "person": person, "rule": t.Rule, "answers": t.Answers, "trigger": t.Trigger, "each": t.Each,
			"seeing": t.Seeing, "begun": begun,
		}).Scan(&id)
		if err != nil {
			return notFound(err)
		}
		if _, err := tx.Exec(ctx, "DELETE FROM round_people WHERE round_id = $1", id); err != nil {
			return err
		}
		return roundFor(ctx, tx, id, people, groups)
	})
}

func roundFor(ctx context.Context, tx pgx.Tx, round int64, people, groups []int64) error {
	return nameAll(ctx, tx, "round_people", round, people, groups)
}

// nameAll writes into a table whom the thing of a number is for: people who have not left, and groups.
func nameAll(ctx context.Context, tx pgx.Tx, table string, of int64, people, groups []int64) error {
	_, err := tx.Exec(ctx, "INSERT INTO "+table+` SELECT $1::bigint, id, NULL::bigint FROM people WHERE id = ANY($2) AND left_at IS NULL
		UNION ALL SELECT $1::bigint, NULL, id FROM groups WHERE id = ANY($3) AND NOT rest`, of, people, groups)
	return err
}

// EndRound takes a round that is the person's away, with its looks; an administrator any.
func (s *Store) EndRound(ctx context.Context, person int64, key string) error {
	return s.change(ctx, "DELETE FROM rounds WHERE key = @key AND (owner_id = @person OR "+administers+")",
		pgx.NamedArgs{"key": key, "person": person})
}

// LookAt notes a look of a person's. A second one at what was due once changes nothing but a note
// that is not empty.
func (s *Store) LookAt(ctx context.Context, person int64, key string, l Look, digest string) error {
	return s.change(ctx, `INSERT INTO looks (round_id, person_id, at, due_at, by_seeing, note, digest)
		SELECT r.id, $2, $3, $4, $5, $6, $7 FROM rounds r WHERE r.key = $1
		ON CONFLICT (round_id, person_id, due_at) DO UPDATE SET note = CASE WHEN excluded.note = '' THEN looks.note ELSE excluded.note END`,
		key, person, l.At, l.DueAt, l.Seeing, l.Note, digest)
}

// NoteLook writes the note of a person's latest look at a round.
func (s *Store) NoteLook(ctx context.Context, person int64, key, note string) error {
	return s.change(ctx, `UPDATE looks SET note = $3 WHERE id = (SELECT l.id FROM looks l JOIN rounds r ON r.id = l.round_id
		WHERE r.key = $1 AND l.person_id = $2 ORDER BY l.at DESC, l.id DESC LIMIT 1)`, key, person, note)
}

// LooksAt are the newest looks at a round.
func (s *Store) LooksAt(ctx context.Context, key string, limit int) ([]Look, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, `SELECT l.id, json_build_object('id', p.id, 'name', p.name), l.at, l.due_at, l.by_seeing, l.note
		FROM looks l JOIN rounds r ON r.id = l.round_id JOIN people p ON p.id = l.person_id
		WHERE r.key = $1 ORDER BY l.at DESC, l.id DESC LIMIT $2`, key, limit)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Look])
}

// MembersOf are the people of groups, and people by their numbers, who have not left and may see a
// view: each once, by name.
func (s *Store) MembersOf(ctx context.Context, view string, people, groups []int64) ([]PersonName, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, `SELECT p.id, p.name FROM people p JOIN views v ON v.key = $1
		WHERE p.left_at IS NULL AND view_right(v.id, v.owner_id, p.id) > 0
		AND (p.id = ANY($2) OR EXISTS (SELECT FROM memberships m WHERE m.person_id = p.id AND m.group_id = ANY($3)))
		ORDER BY p.name, p.id`, view, people, groups)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[PersonName])
}

// SetCalendarFeed keeps the hash of the private address of a person's calendar; any one before
// ends. Without a hash there is none any more.
func (s *Store) SetCalendarFeed(ctx context.Context, person int64, hash []byte) error {
	query := "INSERT INTO calendar_feeds (person_id, hash) VALUES ($1, $2) ON CONFLICT (person_id) DO UPDATE SET hash = excluded.hash, made_at = now()"
	args := []any{person, hash}
	if hash == nil {
		query, args = "DELETE FROM calendar_feeds WHERE person_id = $1", args[:1]
	}
	_, err := s.pool.Exec(ctx, query, args...)
	return err
}

// CalendarFeedMade is when a person's private address was made, nil if there is none.
func (s *Store) CalendarFeedMade(ctx context.Context, person int64) (*time.Time, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, "SELECT made_at FROM calendar_feeds WHERE person_id = $1", person)
	all, err := pgx.CollectRows(rows, pgx.RowTo[time.Time])
	if err != nil || len(all) == 0 {
		return nil, err
	}
	return &all[0], nil
}

// PersonByFeed is whose calendar has an address with a hash; ErrNotFound for nobody's, or who has left.
func (s *Store) PersonByFeed(ctx context.Context, hash []byte) (Person, error) {
	return s.person(ctx, "left_at IS NULL AND id = (SELECT person_id FROM calendar_feeds WHERE hash = $1)", hash)
}
