package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// Kept is what a view said at a moment, as one person sees that it is there.
type Kept struct {
	Key            string
	View, ViewName string
	// Person is who kept it, nil once she is not known any more; By is her name as it was.
	Person *int64
	By     string
	// Name is its keeper's word for it, or empty.
	Name    string
	Version int // of the view
	// At is when it was kept, AsOf the moment of its records.
	At, AsOf time.Time
	Sentence string
	Records  int64
	// About is JSON of the application's; Bytes is how large the content is.
	About []byte
	Bytes int64
	// Mine says that the person may let go of it: she kept it, owns the view, or is an administrator.
	Mine bool
}

const keptSQL = `
SELECT k.key, v.key, n.name, k.person_id, k.by_name, k.name, k.version, k.at, k.as_of, k.sentence, k.records, k.about, octet_length(k.content),
       k.person_id IS NOT DISTINCT FROM @person OR v.owner_id = @person OR ` + administers + `
FROM kept_results k JOIN views v ON v.id = k.view_id JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
WHERE v.binned_at IS NULL AND view_right(v.id, v.owner_id, @person) > 0`

// KeptOf lists what was kept of a view that a person may see, the newest first.
func (s *Store) KeptOf(ctx context.Context, person int64, view string) ([]Kept, error) {
	rows, _ := s.pool.Query(ctx, keptSQL+" AND v.key = @view ORDER BY k.as_of DESC, k.id DESC", pgx.NamedArgs{
		"person": person, "view": view,
	}) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Kept])
	if err != nil {
		return nil, fmt.Errorf("store: kept results: %w", err)
	}
	return out, nil
}

// Kept is one of those; ErrNotFound if there is none that the person may see.
func (s *Store) Kept(ctx context.Context, person int64, key string) (Kept, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, keptSQL+" AND k.key = @key", pgx.NamedArgs{"person": person, "key": key})
	k, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Kept])
	return k, notFound(err)
}

// KeptContent is the compressed content of a kept result.
func (s *Store) KeptContent(ctx context.Context, key string) ([]byte, error) {
	var content []byte
	err := s.pool.QueryRow(ctx, "SELECT content FROM kept_results WHERE key = $1", key).Scan(&content)
	return content, notFound(err)
}

// Keep keeps what a view of a key said, for a person who may see it, and returns its key.
func (s *Store) Keep(ctx context.Context, person Person, k Kept, content []byte) (string, error) {
	key := newKey()
	tag, err := s.pool.Exec(ctx, `INSERT INTO kept_results (key, view_id, person_id, by_name, name, version, at, as_of, sentence, records, about, content)
		SELECT $1, v.id, $2, $3, $4, v.version, $5, $6, $7, $8, $9, $10 FROM views v
		WHERE v.key = $11 AND v.binned_at IS NULL AND view_right(v.id, v.owner_id, $2) > 0`,
		key, person.ID, person.Name, k.Name, k.At, k.AsOf, k.Sentence, k.Records, k.About, content, k.View)
	if err == nil && tag.RowsAffected() == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return "", err
	}
	return key, nil
}

// LetGo takes a kept result away that the person may let go of.
func (s *Store) LetGo(ctx context.Context, person int64, key string) error {
	tag, err := s.pool.Exec(ctx, `DELETE FROM kept_results k USING views v WHERE v.id = k.view_id AND k.key = @key
		AND (k.person_id = @person OR v.owner_id = @person OR `+administers+`)`, pgx.NamedArgs{"key": key, "person": person})
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}
