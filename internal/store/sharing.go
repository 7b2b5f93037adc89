package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// Right is what a person may do with a view.
type Right int

// The rights, each with all that is below it.
const (
	Nothing Right = iota
	See
	Edit // save new versions
	Own  // share it, hand it over, put it into the bin
)

// Share lets a role, a group or, if neither is named, everyone see a view.
type Share struct {
	Role  Role   `json:"role"`
	Group int64  `json:"group"`
	Name  string `json:"name"` // the group's
	// Edit lets them save over it, too; readers never.
	Edit bool `json:"edit"`
	// Totals, if not 0, shows them groups of so many records at least with their totals, and no record.
	Totals int `json:"totals"`
}

// WithEveryone is the share with everyone, to be seen.
var WithEveryone = Share{}

// ShareView says who sees a view of the person's beside her. Favorites of those who do
// not see it any more are dropped.
func (s *Store) ShareView(ctx context.Context, person int64, key string, shares []Share) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		err := tx.QueryRow(
			ctx, "SELECT id FROM views WHERE key = $1 AND owner_id = $2 AND binned_at IS NULL FOR UPDATE", key, person,
		).Scan(&id)
		if err != nil {
			return notFound(err)
		}
		if _, err := tx.Exec(ctx, "DELETE FROM view_shares WHERE view_id = $1", id); err != nil {
			return err
		}
		if err := addShares(ctx, tx, id, shares); err != nil {
			return err
		}
		_, err = tx.Exec(ctx, `DELETE FROM favorites f USING views v WHERE v.id = $1 AND f.view_id = v.id AND CASE
			WHEN f.person_id IS NOT NULL THEN view_right(v.id, v.owner_id, f.person_id) = 0
			WHEN f.group_id IS NOT NULL THEN NOT EXISTS (SELECT FROM view_shares s WHERE s.view_id = v.id AND s.role IS NULL AND (s.group_id IS NULL OR s.group_id = f.group_id))
			ELSE NOT EXISTS (SELECT FROM view_shares s WHERE s.view_id = v.id AND s.role IS NULL AND s.group_id IS NULL) END`, id)
		return err
	})
}

func addShares(ctx context.Context, tx pgx.Tx, view int64, shares []Share) error {
	for _, sh := range shares {
		tag, err := tx.Exec(ctx, `INSERT INTO view_shares (view_id, role, group_id, edit, totals)
			SELECT $1, nullif($2, ''), nullif($3::bigint, 0), $4, $5 WHERE $3 = 0 OR EXISTS (SELECT FROM groups WHERE id = $3 AND NOT rest)
			ON CONFLICT (view_id, coalesce(role, ''), coalesce(group_id, 0)) DO UPDATE SET edit = view_shares.edit OR excluded.edit, totals = least(view_shares.totals, excluded.totals)`,
			view, string(sh.Role), sh.Group, sh.Edit, sh.Totals)
		if err != nil {
			return fmt.Errorf("store: share: %w", err)
		}
		if tag.RowsAffected() == 0 {
			return ErrNotFound
		}
	}
	return nil
}

// HandOver makes a view of the person's another's. She goes on seeing it if it is
// shared with her.
func (s *Store) HandOver(ctx context.Context, person int64, key string, to int64) error {
	return s.change(ctx, `UPDATE views SET owner_id = $3 WHERE key = $1 AND owner_id = $2 AND binned_at IS NULL
		AND EXISTS (SELECT FROM people WHERE id = $3 AND role <> 'reader' AND left_at IS NULL)`, key, person, to)
}
