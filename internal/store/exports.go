package store

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// The states of an export.
const (
	Making       = "making"
	ExportReady  = "ready"
	ExportFailed = "failed"
	// ExportLost says that the server which made it has ended: it can be begun again.
	ExportLost = "lost"
)

// Export is a file that is made for a person to fetch.
type Export struct {
	ID          string
	Person      int64
	Name, Media string
	// Lines is how many it is to have, Done how many are worked through, Bytes how much is there.
	Lines, Done, Bytes int64
	// About says in the audit trail what is in it.
	About   []string
	State   string
	Failure string
}

// CrowdedError says that so many exports of a person are being made.
type CrowdedError struct{ Making int }

func (e *CrowdedError) Error() string {
	return fmt.Sprintf("store: %d exports are being made already", e.Making)
}

// ErrNoRoom says that all exports together have filled the room for them.
var ErrNoRoom = errors.New("store: the room for exports is full")

// endedSQL says of an export that it is not being made, or by a server that is not heard of any more.
const endedSQL = "(state <> 'making' OR beat_at < clock_timestamp() - interval '" + lost + "')"

// AddExport begins an export. What waits for longer than kept goes; of a person who has as many as each, the
// oldest that has ended makes room. It is a *CrowdedError if all of them are being made.
func (s *Store) AddExport(ctx context.Context, e Export, each int, kept time.Duration) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		// One of a person at a time, whichever server it falls to.
		if _, err := tx.Exec(ctx, "SELECT FROM people WHERE id = $1 FOR NO KEY UPDATE", e.Person); err != nil {
			return err
		}
		_, err := tx.Exec(
			ctx, "DELETE FROM exports WHERE beat_at < clock_timestamp() - $1::interval AND "+endedSQL, kept,
		)
		if err == nil {
			_, err = tx.Exec(ctx, `DELETE FROM exports WHERE id IN (
				SELECT id FROM exports WHERE person_id = $1 AND `+endedSQL+` ORDER BY begun_at
				LIMIT greatest(0, (SELECT count(*) FROM exports WHERE person_id = $1) - $2::int + 1))`, e.Person, each)
		}
		var making int
		if err == nil {
			err = tx.QueryRow(ctx, "SELECT count(*) FROM exports WHERE person_id = $1", e.Person).Scan(&making)
		}
		switch {
		case err != nil:
			return err
		case making >= each:
			return &CrowdedError{making}
		}
		_, err = tx.Exec(ctx, `INSERT INTO exports (id, person_id, name, media, lines, about)
			VALUES ($1, $2, $3, $4, $5, $6)`,
			e.ID, e.Person, e.Name, e.Media, e.Lines, e.About)
		return err
	})
}

// AddExportPart writes the next part of an export; all of all people may have so many bytes, else it is
// ErrNoRoom. ErrNotFound says that nobody waits for it any more.
func (s *Store) AddExportPart(ctx context.Context, id string, place int, content []byte, most int64) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, `UPDATE exports SET bytes = bytes + $2, beat_at = clock_timestamp()
			WHERE id = $1 AND state = 'making'`, id, len(content))
		if err == nil && tag.RowsAffected() == 0 {
			err = ErrNotFound
		}
		var all int64
		if err == nil {
			err = tx.QueryRow(ctx, "SELECT sum(bytes)::bigint FROM exports").Scan(&all)
		}
		switch {
		case err != nil:
			return err
		case all > most:
			return ErrNoRoom
		}
		_, err = tx.Exec(ctx, "INSERT INTO export_parts VALUES ($1, $2, $3)", id, place, content)
		return err
	})
}

// BeatExport says how far an export is. ErrNotFound says that nobody waits for it any more.
func (s *Store) BeatExport(ctx context.Context, id string, done int) error {
	return s.change(
		ctx, "UPDATE exports SET done = $2, beat_at = clock_timestamp() WHERE id = $1 AND state = 'making'", id,
		done,
	)
}

// EndExport says what came of an export. What is not ready takes no room.
func (s *Store) EndExport(ctx context.Context, id, state, failure string) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		_, err := tx.Exec(ctx, `UPDATE exports SET state = $2, failure = $3, beat_at = clock_timestamp(),
			bytes = CASE WHEN $2 = 'ready' THEN bytes ELSE 0 END WHERE id = $1 AND state = 'making'`, id, state, failure)
		if err == nil && state != ExportReady {
			_, err = tx.Exec(ctx, "DELETE FROM export_parts WHERE export = $1", id)
		}
		return err
	})
}

// Export finds one of a person's.
func (s *Store) Export(ctx context.Context, person int64, id string) (Export, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, `SELECT id, person_id, name, media, lines, done, bytes, about,
		CASE WHEN state = 'making' AND `+endedSQL+` THEN 'lost' ELSE state END, failure
		FROM exports WHERE person_id = $1 AND id = $2`, person, id)
	e, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Export])
	return e, notFound(err)
}

// ExportPart is a part of an export that is ready.
func (s *Store) ExportPart(ctx context.Context, id string, place int) (content []byte, err error) {
	err = s.pool.QueryRow(
		ctx, "SELECT content FROM export_parts WHERE export = $1 AND place = $2", id, place,
	).Scan(&content)
	return content, notFound(err)
}

// DropExport lets go of a person's export; the server that makes it hears of it.
func (s *Store) DropExport(ctx context.Context, person int64, id string) error {
	return s.change(ctx, "DELETE FROM exports WHERE person_id = $1 AND id = $2", person, id)
}
