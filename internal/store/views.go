package store

import (
	"cmp"
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Kind is what a saved document is.
type Kind string

// The kinds. Both are saved, shared, found and binned alike; what a store calls a view may be either.
const (
	ViewKind  Kind = "view"
	BoardKind Kind = "board"
)

// View is a saved view or board in its newest version, as one person sees it.
type View struct {
	Key         string
	Version     int
	Name        string
	Description string
	Document    []byte // as JSON
	OwnerID     int64
	OwnerName   string
	Right       Right
	Shares      []Share
	SavedAt     time.Time
	SavedByName string
	// Mine and Everyones say whose favorite it is, Groups for which of the groups that
	// the person is in, or, if she owns the view, of all.
	Mine, Everyones bool
	Groups          []GroupName
	// Place is where the person has put it on her desk, 0 for nowhere yet; Away says
	// that she has put a shared favorite out of sight.
	Place int
	Away  bool
	// Label and Mark are its owner's word and colour for it.
	Label, Mark string
	// OpenedAt is when anybody opened it last, nil for never; Opened how often in the
	// last 30 days.
	OpenedAt *time.Time
	Opened   int
	// Template says that opening it makes a copy of one's own.
	Template bool
	Kind     Kind
	// Least, if not 0, says that the person sees no record of it, and groups of so many at least.
	Least int
}

// NewVersion is what somebody saves as the next version of a view, or the first.
type NewVersion struct {
	Name        string
	Description string
	Document    []byte
	// Kind is what a new one is; later versions are what the first was. Empty means a view.
	Kind Kind
	// Request is the key of the request that saves a new one, or empty: sent again, it
	// makes no second view.
	Request string
}

const viewSQL = `
SELECT v.key, v.version, n.name, n.description, n.document, v.owner_id, o.name, r.granted,
       (SELECT coalesce(json_agg(json_build_object('role', coalesce(s.role, ''), 'group', coalesce(s.group_id, 0), 'name', coalesce(g.name, ''), 'edit', s.edit, 'totals', s.totals) ORDER BY s.role, g.name), '[]')
        FROM view_shares s LEFT JOIN groups g ON g.id = s.group_id WHERE s.view_id = v.id),
       n.saved_at, b.name,
       EXISTS (SELECT FROM favorites f WHERE f.view_id = v.id AND f.person_id = @person),
       EXISTS (SELECT FROM favorites f WHERE f.view_id = v.id AND f.person_id IS NULL AND f.group_id IS NULL),
       (SELECT coalesce(json_agg(json_build_object('id', g.id, 'name', g.name) ORDER BY g.name), '[]') FROM favorites f JOIN groups g ON g.id = f.group_id
        WHERE f.view_id = v.id AND (v.owner_id = @person OR EXISTS (SELECT FROM memberships m WHERE m.group_id = g.id AND m.person_id = @person))),
       coalesce(l.place, 0), coalesce(l.hidden, false),
       v.label, v.mark, (SELECT max(last_at) FROM view_openings x WHERE x.view_id = v.id),
       (SELECT coalesce(sum(times), 0)::int FROM view_openings x WHERE x.view_id = v.id AND x.day > current_date - 30),
       v.template, v.kind, view_least(v.id, v.owner_id, @person)
FROM views v
JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
JOIN people o ON o.id = v.owner_id JOIN people b ON b.id = n.saved_by
LEFT JOIN favorite_places l ON l.view_id = v.id AND l.person_id = @person
CROSS JOIN view_right(v.id, v.owner_id, @person) AS r (granted)
WHERE r.granted > 0 AND v.binned_at IS NULL`

// Views lists what a person may see, the last saved first.
func (s *Store) Views(ctx context.Context, person int64) ([]View, error) {
	return s.views(ctx, " ORDER BY n.saved_at DESC", pgx.NamedArgs{"person": person})
}

// ViewsOf lists those of some keys that a person may see, in no order.
func (s *Store) ViewsOf(ctx context.Context, person int64, keys []string) ([]View, error) {
	return s.views(ctx, " AND v.key = ANY(@keys)", pgx.NamedArgs{"person": person, "keys": keys})
}

func (s *Store) views(ctx context.Context, which string, args pgx.NamedArgs) ([]View, error) {
	rows, _ := s.pool.Query(ctx, viewSQL+which, args) // CollectRows returns its error
	views, err := pgx.CollectRows(rows, pgx.RowToStructByPos[View])
	if err != nil {
		return nil, fmt.Errorf("store: views: %w", err)
	}
	return views, nil
}

// View returns one view, ErrNotFound if there is none that the person may see.
func (s *Store) View(ctx context.Context, person int64, key string) (View, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, viewSQL+" AND v.key = @key", pgx.NamedArgs{"person": person, "key": key})
	v, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[View])
	return v, notFound(err)
}

// AddView saves a new view of a person's, shared as given, and returns its key.
func (s *Store) AddView(ctx context.Context, person int64, d NewVersion, shares ...Share) (string, error) {
	if d.Request != "" {
		var key string
		err := s.pool.QueryRow(
			ctx, "SELECT key FROM views WHERE owner_id = $1 AND request = $2", person, d.Request,
		).Scan(&key)
		if notFound(err) != ErrNotFound { // it came before, and its answer was lost
			return key, err
		}
	}
	key := newKey()
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(
			ctx, "INSERT INTO views (key, owner_id, version, request, kind) VALUES ($1, $2, 1, nullif($3, ''), $4) RETURNING id",
			key, person, d.Request, cmp.Or(d.Kind, ViewKind),
		).Scan(&id)
		if err != nil {
			return err
		}
		if err := addShares(ctx, tx, id, shares); err != nil {
			return err
		}
		return addVersion(ctx, tx, id, 1, person, d)
	})
	if taken(err) && d.Request != "" { // at the same moment
		err = s.pool.QueryRow(
			ctx, "SELECT key FROM views WHERE owner_id = $1 AND request = $2", person, d.Request,
		).Scan(&key)
	}
	if err != nil {
		return "", fmt.Errorf("store: saving %q: %w", d.Name, err)
	}
	return key, nil
}

// SaveView saves a new version of a view that the person may edit, made from version
// base. ErrStale says that a newer one is there; nothing is written then.
func (s *Store) SaveView(ctx context.Context, person int64, key string, base int, d NewVersion) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		var version int
		err := tx.QueryRow(
			ctx,
			"SELECT id, version FROM views WHERE key = $1 AND view_right(id, owner_id, $2) >= $3 AND binned_at IS NULL FOR UPDATE",
			key, person, Edit,
		).Scan(&id, &version)
		if err != nil {
			return notFound(err)
		}
		if version != base {
			return ErrStale
		}
		if _, err := tx.Exec(ctx, "UPDATE views SET version = $2 WHERE id = $1", id, version+1); err != nil {
			return fmt.Errorf("store: saving %q: %w", d.Name, err)
		}
		return addVersion(ctx, tx, id, version+1, person, d)
	})
}

func addVersion(ctx context.Context, tx pgx.Tx, view int64, version int, person int64, d NewVersion) error {
	_, err := tx.Exec(ctx, `INSERT INTO view_versions (view_id, version, name, description, document, saved_by)
		VALUES ($1, $2, $3, $4, $5, $6)`, view, version, d.Name, d.Description, d.Document, person)
	return err
}

// HiddenViews are the documents of the views that a person may not see.
func (s *Store) HiddenViews(ctx context.Context, person int64) ([][]byte, error) {
	rows, _ := s.pool.Query(ctx, `SELECT n.document FROM views v JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
		WHERE view_right(v.id, v.owner_id, $1) = 0 AND v.binned_at IS NULL AND v.kind = 'view'`, person) // CollectRows returns its error
	docs, err := pgx.CollectRows(rows, pgx.RowTo[[]byte])
	if err != nil {
		return nil, fmt.Errorf("store: views: %w", err)
	}
	return docs, nil
}
