package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Event is one line of the audit trail.
type Event struct {
	ID      int64
	At      time.Time
	Who     string // name and e-mail address as they were
	What    string // one of the words below
	About   string // of what, in words
	Address string // where the request came from
}

// What the trail tells of.
const (
	SignedIn   = "signed in"
	NotSigned  = "sign-in refused"
	SignedOut  = "signed out everywhere"
	Password   = "password"
	Shared     = "shared"
	HandedOver = "handed over"
	Exported   = "exported"
	Permission = "permission"
	TokenMade  = "token"
	Standards  = "standard"
	Describing = "description"
	// BroughtRecords tells of records that came as a file, or went.
	BroughtRecords = "records"
	// Reshaped tells of record sets, fields and links that came, went or became others in a database.
	Reshaped = "database"
	// Delivering tells of deliveries that were made, changed, allowed or ended.
	Delivering = "delivery"
	Refused    = "refused"
)

// Note adds a line to the trail.
func (s *Store) Note(ctx context.Context, e Event) error {
	err := s.hurried(ctx, func(ctx context.Context) error {
		_, err := s.pool.Exec(
			ctx, "INSERT INTO audit (who, what, about, address) VALUES ($1, $2, $3, $4)", e.Who, e.What, e.About,
			e.Address,
		)
		return err
	})
	if err != nil {
		return fmt.Errorf("store: audit: %w", err)
	}
	return nil
}

// NoteOnce is Note of what every server comes to see, unless another has noted it since a moment.
func (s *Store) NoteOnce(ctx context.Context, e Event, since time.Time) error {
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		if _, err := tx.Exec(ctx, "SELECT pg_advisory_xact_lock($1)", noting); err != nil {
			return err
		}
		_, err := tx.Exec(ctx, `INSERT INTO audit (who, what, about, address) SELECT $1, $2, $3, $4
			WHERE NOT EXISTS (SELECT FROM audit WHERE what = $2 AND about = $3 AND at > $5)`,
			e.Who, e.What, e.About, e.Address, since)
		return err
	})
	if err != nil {
		return fmt.Errorf("store: audit: %w", err)
	}
	return nil
}

// noting is the advisory lock under which one server at a time notes what all come to see.
const noting = 0x6761767269636b

// Trail lists lines, the newest first: those older than before, if it is not 0, of one
// kind and holding some words, if they are given.
func (s *Store) Trail(ctx context.Context, before int64, what, words string, limit int) ([]Event, error) {
	rows, _ := s.pool.Query(ctx, `SELECT id, at, who, what, about, address FROM audit
		WHERE (@before = 0 OR id < @before) AND (@what = '' OR what = @what) AND position(lower(@words) IN lower(who || ' ' || about)) > 0
		ORDER BY id DESC LIMIT @limit`, pgx.NamedArgs{"before": before, "what": what, "words": words, "limit": limit}) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Event])
	if err != nil {
		return nil, fmt.Errorf("store: audit: %w", err)
	}
	return out, nil
}
