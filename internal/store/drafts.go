package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Draft is work on a view that nobody has saved yet: where it is done, and its newest state.
type Draft struct {
	ID       string
	Place    string
	Title    string
	Base     int
	State    string // key of its newest state
	Revision int
	At       time.Time
	Document []byte // as JSON
}

// State is a view as it stood at one moment of somebody's work.
type State struct {
	Document []byte
	ByName   string
	At       time.Time
}

// stateDays is how long a state is kept that no draft holds any more, and no link was
// copied to.
const stateDays = 90

const unsavedSQL = `SELECT d.id, d.place, d.title, d.base, d.state, d.revision, d.updated_at, s.document
FROM drafts d JOIN states s ON s.key = d.state WHERE d.person_id = @person`

// Drafts lists a person's unsaved work, the newest first; with a place, that of one
// bench.
func (s *Store) Drafts(ctx context.Context, person int64, place string) ([]Draft, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(
		ctx, unsavedSQL+" AND (@place = '' OR d.place = @place) ORDER BY d.updated_at DESC LIMIT 100",
		pgx.NamedArgs{"person": person, "place": place},
	)
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Draft])
	if err != nil {
		return nil, fmt.Errorf("store: drafts: %w", err)
	}
	return out, nil
}

// PutDraft writes a person's draft and the state it is in, made from revision
// d.Revision, 0 for a new draft. It returns the new revision; ErrStale says that
// another tab has written since, and ErrTaken that the state's key is another's.
func (s *Store) PutDraft(ctx context.Context, person int64, d Draft) (int, error) {
	revision := 0
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		_, err := tx.Exec(
			ctx, "INSERT INTO states (key, document, made_by) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING", d.State,
			d.Document, person,
		)
		if err != nil {
			return fmt.Errorf("store: state: %w", err)
		}
		// A key stands for one document for ever; only the same one may come again, as when
		// somebody goes back to what a link led to.
		same := false
		if err := tx.QueryRow(
			ctx, "SELECT document = $2::jsonb FROM states WHERE key = $1", d.State, d.Document,
		).Scan(&same); err != nil {
			return fmt.Errorf("store: state: %w", err)
		}
		if !same {
			return ErrTaken
		}
		query := `UPDATE drafts SET title = $3, base = $4, state = $5, revision = revision + 1, updated_at = now()
			WHERE person_id = $1 AND id = $2 AND revision = $6 RETURNING revision`
		args := []any{person, d.ID, d.Title, d.Base, d.State, d.Revision}
		if d.Revision == 0 {
			query = "INSERT INTO drafts (person_id, id, title, base, state, place, revision) VALUES ($1, $2, $3, $4, $5, $6, 1) RETURNING revision"
			args[5] = d.Place
		}
		err = tx.QueryRow(ctx, query, args...).Scan(&revision)
		if errors.Is(err, pgx.ErrNoRows) || taken(err) {
			return ErrStale
		}
		return err
	})
	if err != nil {
		return 0, err
	}
	_, err = s.pool.Exec(
		ctx,
		`DELETE FROM states s WHERE made_at < now() - make_interval(days => $1) AND NOT lasting AND NOT EXISTS (SELECT FROM drafts d WHERE d.state = s.key)`,
		stateDays,
	)
	return revision, err
}

// DropDraft forgets a draft; links to its states go on leading to them.
func (s *Store) DropDraft(ctx context.Context, person int64, id string) error {
	_, err := s.pool.Exec(ctx, "DELETE FROM drafts WHERE person_id = $1 AND id = $2", person, id)
	return err
}

// KeepState keeps a state for good, as a link to it was copied.
func (s *Store) KeepState(ctx context.Context, key string) error {
	return s.change(ctx, "UPDATE states SET lasting = true WHERE key = $1", key)
}

// State returns what a link to an unsaved view leads to.
func (s *Store) State(ctx context.Context, key string) (State, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(
		ctx,
		"SELECT s.document, p.name, s.made_at FROM states s JOIN people p ON p.id = s.made_by WHERE s.key = $1",
		key,
	)
	out, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[State])
	return out, notFound(err)
}
