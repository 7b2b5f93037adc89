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
	// ByPlan says that it was kept by a plan, which lets go of the oldest.
	ByPlan bool
	// Mine says that the person may let go of it: she kept it, owns the view, or is an administrator.
	Mine bool
}

const keptSQL = `
SELECT k.key, v.key, n.name, k.person_id, k.by_name, k.name, k.version, k.at, k.as_of, k.sentence, k.records, k.about, octet_length(k.content), k.by_plan,
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
	err := s.change(ctx, `INSERT INTO kept_results (key, view_id, person_id, by_name, name, version, at, as_of, sentence, records, about, content, by_plan)
		SELECT $1, v.id, $2, $3, $4, v.version, $5, $6, $7, $8, $9, $10, $12 FROM views v
		WHERE v.key = $11 AND v.binned_at IS NULL AND view_right(v.id, v.owner_id, $2) > 0`,
		key, person.ID, person.Name, k.Name, k.At, k.AsOf, k.Sentence, k.Records, k.About, content, k.View, k.ByPlan)
	return key, err
}

// LetGo takes a kept result away that the person may let go of.
func (s *Store) LetGo(ctx context.Context, person int64, key string) error {
	return s.change(ctx, `DELETE FROM kept_results k USING views v WHERE v.id = k.view_id AND k.key = @key
		AND (k.person_id = @person OR v.owner_id = @person OR `+administers+`)`,
		pgx.NamedArgs{"key": key, "person": person})
}

// Keeping is a plan by which results of a view are kept again and again.
type Keeping struct {
	View    string
	OwnerID int64
	// Rule and Answers are JSON; Document is the view's newest version.
	Rule, Answers, Document []byte
	// Hold is how many of those kept by it are held on to.
	Hold   int
	NextAt *time.Time
	// PausedWhy says why it paused by itself, or is empty.
	PausedWhy string
	// Sees says that its owner may see the view; Left that she cannot sign in any more.
	Sees, Left bool
}

const keepingSQL = `
SELECT v.key, k.owner_id, k.rule, k.answers, n.document, k.hold, k.next_at, k.paused_why,
       view_right(v.id, v.owner_id, k.owner_id) > 0 AND v.binned_at IS NULL, o.left_at IS NOT NULL
FROM keepings k JOIN views v ON v.id = k.view_id JOIN view_versions n ON n.view_id = v.id AND n.version = v.version
JOIN people o ON o.id = k.owner_id`

// Keeping is a person's plan for a view; ErrNotFound if there is none.
func (s *Store) Keeping(ctx context.Context, person int64, view string) (Keeping, error) {
	// CollectOneRow returns its error
	rows, _ := s.pool.Query(ctx, keepingSQL+" WHERE k.owner_id = $1 AND v.key = $2", person, view)
	k, err := pgx.CollectOneRow(rows, pgx.RowToStructByPos[Keeping])
	return k, notFound(err)
}

// DueKeepings are the plans that are to be carried out by a moment.
func (s *Store) DueKeepings(ctx context.Context, now time.Time, most int) ([]Keeping, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, keepingSQL+" WHERE k.next_at <= $1 AND k.paused_why = '' ORDER BY k.next_at LIMIT $2", now, most)
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Keeping])
}

// SetKeeping writes a person's plan for a view that she may see.
func (s *Store) SetKeeping(ctx context.Context, k Keeping) error {
	return s.change(ctx, `INSERT INTO keepings (view_id, owner_id, rule, answers, hold, next_at)
		SELECT id, $2, $3, $4, $5, $6 FROM views WHERE key = $1 AND binned_at IS NULL AND view_right(id, owner_id, $2) > 0
		ON CONFLICT (view_id, owner_id) DO UPDATE SET rule = excluded.rule, answers = excluded.answers, hold = excluded.hold,
		next_at = excluded.next_at, paused_why = ''`, k.View, k.OwnerID, k.Rule, k.Answers, k.Hold, k.NextAt)
}

// EndKeeping takes a person's plan for a view away; what was kept stays.
func (s *Store) EndKeeping(ctx context.Context, person int64, view string) error {
	_, err := s.pool.Exec(ctx, "DELETE FROM keepings k USING views v WHERE v.id = k.view_id AND v.key = $1 AND k.owner_id = $2", view, person)
	return err
}

// ClaimKeeping moves a due plan on to its next moment. ok is false if another server did so before.
func (s *Store) ClaimKeeping(ctx context.Context, k Keeping, next *time.Time) (ok bool, err error) {
	tag, err := s.pool.Exec(ctx, `UPDATE keepings k SET next_at = $4 FROM views v WHERE v.id = k.view_id AND v.key = $1 AND k.owner_id = $2
		AND k.next_at = $3 AND k.paused_why = ''`, k.View, k.OwnerID, k.NextAt, next)
	return tag.RowsAffected() > 0, err
}

// PauseKeeping lets a plan rest that cannot be carried out.
func (s *Store) PauseKeeping(ctx context.Context, k Keeping, why string) error {
	_, err := s.pool.Exec(ctx, `UPDATE keepings k SET paused_why = $3 FROM views v
		WHERE v.id = k.view_id AND v.key = $1 AND k.owner_id = $2`, k.View, k.OwnerID, why)
	return err
}

// LetGoOfOldest lets go of what a plan has kept but for the newest ones.
func (s *Store) LetGoOfOldest(ctx context.Context, k Keeping) error {
	_, err := s.pool.Exec(ctx, `DELETE FROM kept_results WHERE id IN (
		SELECT r.id FROM kept_results r JOIN views v ON v.id = r.view_id WHERE v.key = $1 AND r.person_id = $2 AND r.by_plan
		ORDER BY r.as_of DESC, r.id DESC OFFSET $3)`, k.View, k.OwnerID, k.Hold)
	return err
}
