package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgtype"
)

// BroughtIn is a record set that somebody brought in as a file.
type BroughtIn struct {
	Set, Table string
	// Owner is 0 if nobody owns it: it came by the command line, or its owner is not there any more.
	Owner     int64
	OwnerName string
	Recipe    []byte
	Headings  []string // of the last file
	File      string
	Rows      int64
	Version   int
	By        string
	At        time.Time
	Aside     int
	Shares    []Share
}

const broughtInSQL = `SELECT b.record_set, b.table_name, coalesce(b.owner_id, 0), coalesce(p.name, ''), b.recipe, b.headings, b.file, b.rows,
	b.version, b.by_name, b.at, (SELECT count(*) FROM gavrik.set_aside a WHERE a.record_set = b.record_set AND a.upload IS NULL),
	coalesce((SELECT jsonb_agg(jsonb_build_object('role', coalesce(s.role, ''), 'group', coalesce(s.group_id, 0), 'name', coalesce(g.name, '')))
		FROM gavrik.brought_in_shares s LEFT JOIN gavrik.groups g ON g.id = s.group_id WHERE s.record_set = b.record_set), '[]')
	FROM gavrik.brought_in b LEFT JOIN gavrik.people p ON p.id = b.owner_id`

func broughtIn(rows pgx.Rows) ([]BroughtIn, error) {
	return pgx.CollectRows(rows, func(row pgx.CollectableRow) (b BroughtIn, err error) {
		var shares, headings []byte
		err = row.Scan(&b.Set, &b.Table, &b.Owner, &b.OwnerName, &b.Recipe, &headings, &b.File, &b.Rows, &b.Version, &b.By, &b.At, &b.Aside, &shares)
		if err == nil {
			err = errors.Join(json.Unmarshal(shares, &b.Shares), json.Unmarshal(headings, &b.Headings))
		}
		return b, err
	})
}

// BroughtIn lists all record sets that were brought in.
func (s *Store) BroughtIn(ctx context.Context) ([]BroughtIn, error) {
	rows, _ := s.pool.Query(ctx, broughtInSQL+" ORDER BY b.record_set") // broughtIn returns its error
	out, err := broughtIn(rows)
	if err != nil {
		return nil, fmt.Errorf("store: files brought in: %w", err)
	}
	return out, nil
}

// LockBroughtIn finds one within a transaction, and keeps others from changing it meanwhile.
func LockBroughtIn(ctx context.Context, tx pgx.Tx, set string) (BroughtIn, error) {
	rows, _ := tx.Query(ctx, broughtInSQL+" WHERE b.record_set = $1 FOR UPDATE OF b", set) // broughtIn returns its error
	list, err := broughtIn(rows)
	if err == nil && len(list) == 0 {
		return BroughtIn{}, ErrNotFound
	}
	if err != nil {
		return BroughtIn{}, err
	}
	return list[0], nil
}

// FreeSet is a key for a record set, and the name of a table for it, that nothing goes by.
func FreeSet(
	ctx context.Context, tx pgx.Tx, stem string, taken func(key string) bool,
) (set, table string, err error) {
	if _, err := tx.Exec(ctx, "SELECT pg_advisory_xact_lock($1)", namingSets); err != nil {
		return "", "", err
	}
	for n := 1; ; n++ {
		key := stem
		if n > 1 {
			key = fmt.Sprintf("%s_%d", stem, n)
		}
		var used bool
		err := tx.QueryRow(ctx, `SELECT EXISTS (SELECT FROM gavrik.set_keys WHERE record_set = $1 OR source = '' AND schema = 'gavrik_files' AND table_name = $1)
			OR EXISTS (SELECT FROM gavrik.brought_in WHERE record_set = $1 OR table_name = $1) OR to_regclass('gavrik_files.' || quote_ident($1)) IS NOT NULL`, key).Scan(&used)
		if err != nil {
			return "", "", err
		}
		if used || taken(key) {
			continue
		}
		_, err = tx.Exec(ctx, "INSERT INTO gavrik.set_keys (source, schema, table_name, record_set) VALUES ('', 'gavrik_files', $1, $1)", key)
		return key, key, err
	}
}

// namingSets is the advisory lock under which one record set at a time gets its key.
const namingSets = 0x67617673

// KeepBroughtIn writes within a transaction what a file became: a new record set of its owner, or a
// changed one. Rows of the upload that were kept aside take the place of those before.
func KeepBroughtIn(ctx context.Context, tx pgx.Tx, b BroughtIn, upload string) error {
	headings, err := json.Marshal(b.Headings)
	if err != nil {
		return err
	}
	_, err = tx.Exec(ctx, `INSERT INTO gavrik.brought_in (record_set, table_name, owner_id, recipe, headings, file, rows, by_name)
		VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (record_set) DO UPDATE SET recipe = excluded.recipe, headings = excluded.headings,
		file = excluded.file, rows = excluded.rows, by_name = excluded.by_name, version = brought_in.version + 1, at = clock_timestamp()`,
		b.Set, b.Table, pgtype.Int8{Int64: b.Owner, Valid: b.Owner != 0}, b.Recipe, headings, b.File, b.Rows, b.By)
	if err == nil {
		err = addBroughtInShares(ctx, tx, b.Set, b.Shares)
	}
	if err != nil || upload == "" {
		return err
	}
	_, err = tx.Exec(ctx, "DELETE FROM gavrik.set_aside WHERE record_set = $1", b.Set)
	if err == nil {
		_, err = tx.Exec(ctx, "UPDATE gavrik.set_aside SET record_set = $1, upload = NULL WHERE upload = $2", b.Set, upload)
	}
	if err == nil {
		_, err = tx.Exec(ctx, "DELETE FROM gavrik.uploads WHERE id = $1", upload)
	}
	return err
}

// ForgetBroughtIn takes a record set away within a transaction. Its key stays its own: should a file
// of that name come again, views over it go on.
func ForgetBroughtIn(ctx context.Context, tx pgx.Tx, set string) error {
	_, err := tx.Exec(ctx, "DELETE FROM gavrik.set_aside WHERE record_set = $1", set)
	if err == nil {
		_, err = tx.Exec(ctx, "DELETE FROM gavrik.brought_in WHERE record_set = $1", set)
	}
	return err
}

// ShareBroughtIn says who sees a record set beside its owner, in place of who did.
func (s *Store) ShareBroughtIn(ctx context.Context, set string, shares []Share) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		tag, err := tx.Exec(ctx, "UPDATE brought_in SET version = version + 1, at = clock_timestamp() WHERE record_set = $1", set)
		if err != nil {
			return err
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
		if _, err := tx.Exec(ctx, "DELETE FROM brought_in_shares WHERE record_set = $1", set); err != nil {
			return err
		}
		return addBroughtInShares(ctx, tx, set, shares)
	})
}

// addBroughtInShares fails with ErrNotFound if a group is not there any more.
func addBroughtInShares(ctx context.Context, tx pgx.Tx, set string, shares []Share) error {
	for _, sh := range shares {
		tag, err := tx.Exec(ctx, `INSERT INTO gavrik.brought_in_shares (record_set, role, group_id)
			SELECT $1, nullif($2, ''), nullif($3::bigint, 0) WHERE $3 = 0 OR EXISTS (SELECT FROM gavrik.groups WHERE id = $3 AND NOT rest)
			ON CONFLICT (record_set, coalesce(role, ''), coalesce(group_id, 0)) DO UPDATE SET role = brought_in_shares.role`,
			set, string(sh.Role), sh.Group)
		if err != nil {
			return err
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
	}
	return nil
}

// HandOverBroughtIn makes a record set another's, who may own views as well.
func (s *Store) HandOverBroughtIn(ctx context.Context, set string, to int64) error {
	return s.change(ctx, `UPDATE brought_in SET owner_id = $2, version = version + 1, at = clock_timestamp() WHERE record_set = $1
		AND EXISTS (SELECT FROM people WHERE id = $2 AND role <> 'reader' AND left_at IS NULL)`, set, to)
}

// Aside is a row that was kept aside.
type Aside struct {
	ID, Line        int64
	Reason, Content string
}

// Asides lists the rows of a record set, or of a file that is not brought in yet, that were kept
// aside, in the order of the file; with a limit of 0, all of them.
func (s *Store) Asides(ctx context.Context, set, upload string, limit int) ([]Aside, error) {
	rows, _ := s.pool.Query(ctx, `SELECT id, line, reason, content FROM set_aside WHERE record_set = $1 AND upload IS NOT DISTINCT FROM nullif($2, '')
		ORDER BY line, id LIMIT nullif($3, 0)`, set, upload, limit) // CollectRows returns its error
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Aside])
}

// DropAsides takes rows away that were kept aside, within a transaction.
func DropAsides(ctx context.Context, tx pgx.Tx, set string, ids []int64) (int64, error) {
	tag, err := tx.Exec(ctx, "DELETE FROM gavrik.set_aside WHERE record_set = $1 AND upload IS NULL AND id = ANY($2)", set, ids)
	return tag.RowsAffected(), err
}

// ReasonAside writes another reason, and the text as somebody has mended it so far.
func ReasonAside(ctx context.Context, tx pgx.Tx, set string, a Aside) error {
	_, err := tx.Exec(ctx, "UPDATE gavrik.set_aside SET reason = $3, content = $4 WHERE record_set = $1 AND id = $2 AND upload IS NULL",
		set, a.ID, a.Reason, a.Content)
	return err
}

// FileBytes is what the tables of an owner's files take on the disk, and those of all files.
func FileBytes(ctx context.Context, tx pgx.Tx, owner int64) (mine, all int64, err error) {
	err = tx.QueryRow(ctx, `SELECT coalesce(sum(size) FILTER (WHERE owner_id = $1), 0)::bigint, coalesce(sum(size), 0)::bigint FROM
		(SELECT owner_id, pg_table_size(('gavrik_files.' || quote_ident(table_name))::regclass) AS size FROM gavrik.brought_in
			WHERE to_regclass('gavrik_files.' || quote_ident(table_name)) IS NOT NULL) x`, owner).Scan(&mine, &all)
	return mine, all, err
}
