package store

import (
	"context"
	"crypto/rand"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
)

// View is a saved view in its newest version, as one person sees it.
type View struct {
	Key         string
	Version     int
	Name        string
	Description string
	Document    []byte // as JSON
	OwnerID     int64
	OwnerName   string
	Shared      bool
	SavedAt     time.Time
	SavedByName string
	// Mine and Everyones say whose favorite it is.
	Mine, Everyones bool
	// Label and Mark are its owner's word and colour for it.
	Label, Mark string
	// OpenedAt is when anybody opened it last, nil for never; Opened how often in the
	// last 30 days.
	OpenedAt *time.Time
	Opened   int
	// Template says that opening it makes a copy of one's own.
	Template bool
}

// Draft is what somebody saves.
type Draft struct {
	Name        string
	Description string
	Document    []byte
	Shared      bool
}

const viewSQL = `
SELECT v.key, v.version, n.name, n.description, n.document, v.owner_id, o.name, v.shared, n.saved_at, b.name,
       EXISTS (SELECT FROM favorites f WHERE f.view_id = v.id AND f.person_id = @person),
       EXISTS (SELECT FROM favorites f WHERE f.view_id = v.id AND f.person_id IS NULL),
       v.label, v.mark, (SELECT max(last_at) FROM view_openings x WHERE x.view_id = v.id),
       (SELECT coalesce(sum(times), 0)::int FROM view_openings x WHERE x.view_id = v.id AND x.day > current_date - 30),
       v.template
FROM views v
JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
JOIN people o ON o.id = v.owner_id JOIN people b ON b.id = n.saved_by
WHERE (v.owner_id = @person OR v.shared) AND v.binned_at IS NULL`

// Views lists what a person may see, the last saved first.
func (s *Store) Views(ctx context.Context, person int64) ([]View, error) {
	rows, _ := s.pool.Query(ctx, viewSQL+" ORDER BY n.saved_at DESC", pgx.NamedArgs{"person": person}) // CollectRows returns its error
	views, err := pgx.CollectRows(rows, pgx.RowToStructByPos[View])
	if err != nil {
		return nil, fmt.Errorf("store: views: %w", err)
	}
	return views, nil
}

// View returns one view, ErrNotFound if there is none that the person may see.
func (s *Store) View(ctx context.Context, person int64, key string) (View, error) {
	rows, _ := s.pool.Query(ctx, viewSQL+" AND v.key = @key", pgx.NamedArgs{"person": person, "key": key}) // CollectOneRow returns its error
	v, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[View])
	return v, notFound(err)
}

// AddView saves a new view of a person's and returns its key.
func (s *Store) AddView(ctx context.Context, person int64, d Draft) (string, error) {
	key := strings.ToLower(rand.Text()[:12])
	err := pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(ctx, "INSERT INTO views (key, owner_id, shared, version) VALUES ($1, $2, $3, 1) RETURNING id", key, person, d.Shared).Scan(&id)
		if err != nil {
			return err
		}
		return addVersion(ctx, tx, id, 1, person, d)
	})
	if err != nil {
		return "", fmt.Errorf("store: saving %q: %w", d.Name, err)
	}
	return key, nil
}

// SaveView saves a new version of a view that the person owns, made from version
// base. ErrStale says that a newer one is there; nothing is written then.
func (s *Store) SaveView(ctx context.Context, person int64, key string, base int, d Draft) error {
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error {
		var id int64
		var version int
		err := tx.QueryRow(ctx, "SELECT id, version FROM views WHERE key = $1 AND owner_id = $2 AND binned_at IS NULL FOR UPDATE", key, person).Scan(&id, &version)
		if err != nil {
			return notFound(err)
		}
		if version != base {
			return ErrStale
		}
		if _, err := tx.Exec(ctx, "UPDATE views SET version = $2, shared = $3 WHERE id = $1", id, version+1, d.Shared); err != nil {
			return fmt.Errorf("store: saving %q: %w", d.Name, err)
		}
		if !d.Shared {
			// What nobody else may see cannot be everybody's favorite.
			if _, err := tx.Exec(ctx, "DELETE FROM favorites WHERE view_id = $1 AND person_id IS DISTINCT FROM $2", id, person); err != nil {
				return fmt.Errorf("store: favorites of %q: %w", d.Name, err)
			}
		}
		return addVersion(ctx, tx, id, version+1, person, d)
	})
}

func addVersion(ctx context.Context, tx pgx.Tx, view int64, version int, person int64, d Draft) error {
	_, err := tx.Exec(ctx, `INSERT INTO view_versions (view_id, version, name, description, document, saved_by)
		VALUES ($1, $2, $3, $4, $5, $6)`, view, version, d.Name, d.Description, d.Document, person)
	return err
}

// SetFavorite makes a view the person's favorite, or everyone's, or no longer.
func (s *Store) SetFavorite(ctx context.Context, person int64, key string, everyone, on bool) error {
	whose := &person
	if everyone {
		whose = nil
	}
	query := `INSERT INTO favorites (view_id, person_id) SELECT id, $2::bigint FROM views WHERE key = $1 ON CONFLICT DO NOTHING`
	if !on {
		query = `DELETE FROM favorites f USING views v WHERE f.view_id = v.id AND v.key = $1 AND f.person_id IS NOT DISTINCT FROM $2::bigint`
	}
	if _, err := s.pool.Exec(ctx, query, key, whose); err != nil {
		return fmt.Errorf("store: favorite %s: %w", key, err)
	}
	return nil
}

// HiddenViews are the documents of the views that a person may not see.
func (s *Store) HiddenViews(ctx context.Context, person int64) ([][]byte, error) {
	rows, _ := s.pool.Query(ctx, `SELECT n.document FROM views v JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
		WHERE v.owner_id <> $1 AND NOT v.shared AND v.binned_at IS NULL`, person) // CollectRows returns its error
	docs, err := pgx.CollectRows(rows, pgx.RowTo[[]byte])
	if err != nil {
		return nil, fmt.Errorf("store: views: %w", err)
	}
	return docs, nil
}
