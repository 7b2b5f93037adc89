package store

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/plan"
)

// Definition is a shared calculated field or bucket in its newest version.
type Definition struct {
	Records, Key string
	Version      int
	Body         []byte // as JSON
	OwnerID      int64
	OwnerName    string
	SavedAt      time.Time
	SavedByName  string
}

const definitionsSQL = `
SELECT d.record_set, d.key, d.version, n.body, d.owner_id, o.name, n.saved_at, b.name
FROM gavrik.definitions d
JOIN gavrik.definition_versions n ON n.definition_id = d.id AND n.version = d.version
JOIN gavrik.people o ON o.id = d.owner_id JOIN gavrik.people b ON b.id = n.saved_by
ORDER BY d.record_set, d.key`

// Definitions lists all, by record set and key.
func (s *Store) Definitions(ctx context.Context) ([]Definition, error) {
	rows, _ := s.pool.Query(ctx, definitionsSQL) // CollectRows returns its error
	all, err := pgx.CollectRows(rows, pgx.RowToStructByPos[Definition])
	if err != nil {
		return nil, fmt.Errorf("store: definitions: %w", err)
	}
	return all, nil
}

// ReadDefinitions lists those of a database that may hold no state of Gavrik's, and
// leaves it as it is.
func ReadDefinitions(ctx context.Context, url string) ([]Definition, error) {
	return readApart(ctx, url, "definitions", pgx.RowToStructByPos[Definition], definitionsSQL)
}

// readApart reads rows from a database that no store is opened on; none where it holds
// no such table.
func readApart[T any](
	ctx context.Context, url, table string, row pgx.RowToFunc[T], query string, args ...any,
) ([]T, error) {
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return nil, fmt.Errorf("store: %w", err)
	}
	defer conn.Close(context.WithoutCancel(ctx))
	var there bool
	if err := conn.QueryRow(
		ctx, "SELECT to_regclass($1) IS NOT NULL", Schema+"."+table,
	).Scan(&there); err != nil || !there {
		return nil, err
	}
	rows, _ := conn.Query(ctx, query, args...) // CollectRows returns its error
	return pgx.CollectRows(rows, row)
}

// Decoded are definitions as views are checked with them.
func Decoded(all []Definition) (plan.Definitions, error) {
	out := plan.Definitions{}
	for _, d := range all {
		var one plan.Definition
		if err := json.Unmarshal(d.Body, &one); err != nil {
			return nil, fmt.Errorf("store: the definition %s of %s cannot be read: %w", d.Key, d.Records, err)
		}
		out.Add(d.Records, one)
	}
	return out, nil
}

// AddDefinition saves a new one; ErrTaken says that the record set has one of that
// key.
func (s *Store) AddDefinition(ctx context.Context, person int64, records, key string, body []byte) error {
	err := s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		if err := tx.QueryRow(
			ctx, "INSERT INTO definitions (record_set, key, owner_id, version) VALUES ($1, $2, $3, 1) RETURNING id",
			records, key, person,
		).Scan(&id); err != nil {
			return err
		}
		return addDefinitionVersion(ctx, tx, id, 1, person, body)
	})
	if taken(err) {
		return ErrTaken
	}
	if err != nil {
		return fmt.Errorf("store: definition %s: %w", key, err)
	}
	return nil
}

// SaveDefinition saves a new version made from version base. ErrStale says that a
// newer one is there; nothing is written then.
func (s *Store) SaveDefinition(
	ctx context.Context, person int64, records, key string, base int, body []byte,
) error {
	return s.tx(ctx, func(ctx context.Context, tx pgx.Tx) error {
		var id int64
		var version int
		err := tx.QueryRow(
			ctx, "SELECT id, version FROM definitions WHERE record_set = $1 AND key = $2 FOR UPDATE", records, key,
		).Scan(&id, &version)
		if err != nil {
			return notFound(err)
		}
		if version != base {
			return ErrStale
		}
		if _, err := tx.Exec(ctx, "UPDATE definitions SET version = $2 WHERE id = $1", id, version+1); err != nil {
			return fmt.Errorf("store: definition %s: %w", key, err)
		}
		return addDefinitionVersion(ctx, tx, id, version+1, person, body)
	})
}

func addDefinitionVersion(
	ctx context.Context, tx pgx.Tx, id int64, version int, person int64, body []byte,
) error {
	_, err := tx.Exec(
		ctx, "INSERT INTO definition_versions (definition_id, version, body, saved_by) VALUES ($1, $2, $3, $4)", id,
		version, body, person,
	)
	return err
}

// DeleteDefinition removes one.
func (s *Store) DeleteDefinition(ctx context.Context, records, key string) error {
	return s.change(ctx, "DELETE FROM definitions WHERE record_set = $1 AND key = $2", records, key)
}
