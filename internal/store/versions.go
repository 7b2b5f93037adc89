package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Version is a view as it was saved once.
type Version struct {
	Version     int
	Name        string
	Description string
	Document    []byte // as JSON
	SavedByName string
	SavedAt     time.Time
}

// Versions lists every version of a view that the person may see, the newest first;
// none if there is no such view.
func (s *Store) Versions(ctx context.Context, person int64, key string) ([]Version, error) {
	rows, _ := s.pool.Query(ctx, `SELECT n.version, n.name, n.description, n.document, b.name, n.saved_at
		FROM views v JOIN view_versions n ON n.view_id = v.id JOIN people b ON b.id = n.saved_by
		WHERE v.key = $1 AND v.binned_at IS NULL AND view_right(v.id, v.owner_id, $2) > 0 ORDER BY n.version DESC`, key, person) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Version])
	if err != nil {
		return nil, fmt.Errorf("store: versions of %s: %w", key, err)
	}
	return out, nil
}

// BinView puts a view that the person owns into the bin: nobody sees it any more, and
// nothing of it is lost.
func (s *Store) BinView(ctx context.Context, person int64, key string) error {
	return s.ofOwner(
		ctx, "UPDATE views SET binned_at = now() WHERE key = $1 AND owner_id = $2 AND binned_at IS NULL", key,
		person,
	)
}

// UnbinView takes a view back from the bin, as it was shared before.
func (s *Store) UnbinView(ctx context.Context, person int64, key string) error {
	return s.ofOwner(
		ctx, "UPDATE views SET binned_at = NULL WHERE key = $1 AND owner_id = $2 AND binned_at IS NOT NULL", key,
		person,
	)
}

// DeleteView removes a view, with every version of it, from the bin.
func (s *Store) DeleteView(ctx context.Context, person int64, key string) error {
	return s.ofOwner(
		ctx, "DELETE FROM views WHERE key = $1 AND owner_id = $2 AND binned_at IS NOT NULL", key, person,
	)
}

// ofOwner carries out a statement on a view of the person's; ErrNotFound if it is none.
func (s *Store) ofOwner(ctx context.Context, query, key string, person int64) error {
	return s.change(ctx, query, key, person)
}

// Binned is a view in its owner's bin.
type Binned struct {
	Key, Name string
	Kind      Kind
	BinnedAt  time.Time
}

// Bin lists a person's binned views, the last binned first.
func (s *Store) Bin(ctx context.Context, person int64) ([]Binned, error) {
	rows, _ := s.pool.Query(ctx, `SELECT v.key, n.name, v.kind, v.binned_at FROM views v JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
		WHERE v.owner_id = $1 AND v.binned_at IS NOT NULL ORDER BY v.binned_at DESC`, person) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Binned])
	if err != nil {
		return nil, fmt.Errorf("store: bin: %w", err)
	}
	return out, nil
}

// NoteOpening counts that a person opened a view.
func (s *Store) NoteOpening(ctx context.Context, person int64, key string) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO view_openings (view_id, person_id) SELECT id, $2 FROM views WHERE key = $1
		ON CONFLICT (view_id, person_id, day) DO UPDATE SET times = view_openings.times + 1, last_at = now()`, key, person)
	return err
}

// Mark gives a view that the person owns a label and the name of a colour, and says
// whether it is a template.
func (s *Store) Mark(ctx context.Context, person int64, key, label, mark string, template bool) error {
	// The label is among the parts that it is found by; they are told anew.
	return s.change(ctx, `WITH marked AS (UPDATE views SET label = $3, mark = $4, template = $5 WHERE key = $1 AND owner_id = $2 AND binned_at IS NULL RETURNING id),
		untold AS (DELETE FROM view_parts WHERE view_id IN (SELECT id FROM marked)) SELECT FROM marked`, key, person, label, mark, template)
}

// ReadView returns the document of a saved view, by its key or its name, from a database
// that no store is opened on: for somebody who may read all of it. ErrNotFound says that
// there is none, ErrTaken that several views have the name.
func ReadView(ctx context.Context, url, named string) (name string, document []byte, err error) {
	type row struct {
		Name     string
		Document []byte
	}
	docs, err := readApart(ctx, url, "views", pgx.RowToStructByPos[row], `SELECT n.name, n.document FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id AND n.version = v.version
		WHERE v.binned_at IS NULL AND v.kind = 'view' AND (v.key = $1 OR n.name = $1) ORDER BY v.key = $1 DESC`, named)
	switch {
	case err != nil:
		return "", nil, fmt.Errorf("store: %w", err)
	case len(docs) == 0:
		return "", nil, ErrNotFound
	case len(docs) > 1:
		return "", nil, ErrTaken
	}
	return docs[0].Name, docs[0].Document, nil
}
