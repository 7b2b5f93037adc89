package store

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// GroupName is a group as lists name it.
type GroupName struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Group is people who see the same, and with whom views are shared.
type Group struct {
	ID          int64
	Name        string
	Description string
	// Sensitive says that its members see fields that are marked as sensitive.
	Sensitive bool
	// Rest says that it stands for the people who are in no other group.
	Rest   bool
	Limits []Limit
	// Version counts the changes.
	Version int
	// Members counts those who have not left.
	Members int
}

// Limit is what a group's members do not see of a record set.
type Limit struct {
	Set string `json:"set"`
	// Hidden keeps all of it from them.
	Hidden bool `json:"hidden,omitempty"`
	// Totals, if not 0, keeps its records from them: of views that are shared with them they see groups of so
	// many records at least, with their totals.
	Totals int `json:"totals,omitempty"`
	// Fields are the keys of those that are kept from them.
	Fields []string `json:"fields,omitempty"`
	// Rule is a view document, as JSON: they see the records that its filter keeps. Its
	// questions are answered by a person's traits.
	Rule json.RawMessage `json:"rule,omitempty"`
}

// SensitiveField is marked: only groups that may see sensitive fields see it.
type SensitiveField struct{ Set, Field string }

// Groups lists all by name, the one of people in no group last.
func (s *Store) Groups(ctx context.Context) ([]Group, error) {
	rows, _ := s.pool.Query(ctx, `SELECT id, name, description, sensitive, rest, limits, version,
		(SELECT count(*) FROM people p WHERE left_at IS NULL AND CASE WHEN groups.rest THEN NOT EXISTS (SELECT FROM memberships m WHERE m.person_id = p.id)
			ELSE EXISTS (SELECT FROM memberships m WHERE m.person_id = p.id AND m.group_id = groups.id) END)
		FROM groups ORDER BY rest, name`) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Group])
	if err != nil {
		return nil, fmt.Errorf("store: groups: %w", err)
	}
	return out, nil
}

// AddGroup adds a group without members; ErrTaken says that there is one of that name.
func (s *Store) AddGroup(ctx context.Context, g Group) (int64, error) {
	var id int64
	err := s.pool.QueryRow(
		ctx, "INSERT INTO groups (name, description, sensitive, limits) VALUES ($1, $2, $3, $4) RETURNING id",
		g.Name, g.Description, g.Sensitive, limits(g),
	).Scan(&id)
	if taken(err) {
		return 0, ErrTaken
	}
	return id, err
}

// ChangeGroup writes a group, made from its version. ErrStale says that somebody else
// has changed it since, ErrTaken that another has its name, ErrNotFound that there is
// no such group; nothing is written then.
func (s *Store) ChangeGroup(ctx context.Context, g Group) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var version int
		if err := tx.QueryRow(
			ctx, "SELECT version FROM groups WHERE id = $1 FOR UPDATE", g.ID,
		).Scan(&version); err != nil {
			return notFound(err)
		}
		if version != g.Version {
			return ErrStale
		}
		_, err := tx.Exec(ctx, "UPDATE groups SET name = CASE WHEN rest THEN name ELSE $2 END, description = $3, sensitive = $4, limits = $5, version = version + 1 WHERE id = $1",
			g.ID, g.Name, g.Description, g.Sensitive, limits(g))
		if taken(err) {
			return ErrTaken
		}
		return err
	})
}

func limits(g Group) []Limit { return append([]Limit{}, g.Limits...) }

// RemoveGroup removes a group, and with it the shares with it.
func (s *Store) RemoveGroup(ctx context.Context, id int64) error {
	return s.change(ctx, "DELETE FROM groups WHERE id = $1 AND NOT rest", id)
}

// SensitiveFields lists the marked ones.
func (s *Store) SensitiveFields(ctx context.Context) ([]SensitiveField, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, "SELECT record_set, field FROM sensitive_fields ORDER BY 1, 2")
	return pgx.CollectRows(rows, pgx.RowToStructByPos[SensitiveField])
}

// MarkSensitive marks a field, or takes the mark away.
func (s *Store) MarkSensitive(ctx context.Context, f SensitiveField, on bool) error {
	query := "INSERT INTO sensitive_fields (record_set, field) VALUES ($1, $2) ON CONFLICT DO NOTHING"
	if !on {
		query = "DELETE FROM sensitive_fields WHERE record_set = $1 AND field = $2"
	}
	_, err := s.pool.Exec(ctx, query, f.Set, f.Field)
	return err
}

// Standard is what new views of a record set start with, where administrators have
// said so.
type Standard struct {
	Records string
	// Columns are paths, nil for those that the database suggests.
	Columns []string
	// Document is the standard view, as JSON, or nil.
	Document []byte
}

// Standards lists those that are set.
func (s *Store) Standards(ctx context.Context) ([]Standard, error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(ctx, "SELECT record_set, columns, document FROM standards ORDER BY 1")
	return pgx.CollectRows(rows, pgx.RowToStructByPos[Standard])
}

// SetStandard says what new views of a record set start with.
func (s *Store) SetStandard(ctx context.Context, person int64, st Standard) error {
	_, err := s.pool.Exec(ctx, `INSERT INTO standards (record_set, columns, document, set_by) VALUES ($1, $2, $3, $4)
		ON CONFLICT (record_set) DO UPDATE SET columns = excluded.columns, document = excluded.document, set_by = excluded.set_by, set_at = now()`, st.Records, st.Columns, st.Document, person)
	return err
}

// Stamps tell whether what is remembered still holds.
type Stamps struct {
	// Agreed changes with every change of what anybody starts with or may see.
	Agreed string
	// Facts changes with every change of a fact or of a value; LastFilling is the newest of
	// those.
	Facts       string
	LastFilling int64
}

// Stamps are those of this moment.
func (s *Store) Stamps(ctx context.Context) (out Stamps, err error) {
	err = s.hurried(ctx, func(ctx context.Context) error {
		return s.pool.QueryRow(ctx, `SELECT
			concat_ws(' ', d.stamp, g.stamp, f.stamp, t.stamp, k.stamp, o.stamp, s.stamp, b.stamp), concat_ws(' ', a.stamp, c.last), c.last
		FROM (SELECT concat_ws(' ', count(*), sum(version), max(id)) AS stamp FROM definitions) d,
		(SELECT concat_ws(' ', count(*), sum(version), max(id)) AS stamp FROM groups) g,
		(SELECT concat_ws(' ', count(*), max(marked_at)) AS stamp FROM sensitive_fields) f,
		(SELECT concat_ws(' ', count(*), max(set_at)) AS stamp FROM standards) t,
		(SELECT concat_ws(' ', count(*), count(*) FILTER (WHERE shown)) AS stamp FROM known_fields) k,
		(SELECT concat_ws(' ', count(*), max(set_at)) AS stamp FROM settings) o,
		(SELECT concat_ws(' ', count(*), sum(version)) AS stamp FROM descriptions) s,
		(SELECT concat_ws(' ', count(*), sum(version), max(at)) AS stamp FROM brought_in) b,
		(SELECT concat_ws(' ', count(*), sum(version), count(removed_at)) AS stamp FROM facts) a,
		(SELECT coalesce(max(id), 0) AS last FROM fact_changes) c`).Scan(&out.Agreed, &out.Facts, &out.LastFilling)
	})
	if err != nil {
		return Stamps{}, fmt.Errorf("store: stamps: %w", err)
	}
	return out, nil
}

// Names are the people and groups that a view can be shared with or handed to.
func (s *Store) Names(ctx context.Context) (people, groups []GroupName, err error) {
	// CollectRows returns its error
	rows, _ := s.pool.Query(
		ctx, "SELECT id, name FROM people WHERE left_at IS NULL AND role <> 'reader' ORDER BY name",
	)
	people, err = pgx.CollectRows(rows, pgx.RowToStructByPos[GroupName])
	// CollectRows returns its error
	rows, _ = s.pool.Query(ctx, "SELECT id, name FROM groups WHERE NOT rest ORDER BY name")
	groups, errG := pgx.CollectRows(rows, pgx.RowToStructByPos[GroupName])
	return people, groups, errors.Join(err, errG)
}
