package store

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// SetKey is the key of the record set of a table.
type SetKey struct{ Source, Schema, Table, Set string }

const setKeysSQL = "SELECT source, schema, table_name, record_set FROM gavrik.set_keys"

// SetKeys lists the keys that tables have.
func (s *Store) SetKeys(ctx context.Context) ([]SetKey, error) {
	rows, _ := s.pool.Query(ctx, setKeysSQL) // CollectRows returns its error
	out, err := pgx.CollectRows(rows, pgx.RowToStructByPos[SetKey])
	if err != nil {
		return nil, fmt.Errorf("store: keys of record sets: %w", err)
	}
	return out, nil
}

// ReadSetKeys is SetKeys of a database that no store is opened on.
func ReadSetKeys(ctx context.Context, url string) ([]SetKey, error) {
	return readApart(ctx, url, "set_keys", pgx.RowToStructByPos[SetKey], setKeysSQL)
}

// KeepSetKeys remembers the keys of tables that have none yet.
func (s *Store) KeepSetKeys(ctx context.Context, keys []SetKey) error {
	var sources, schemas, tables, sets []string
	for _, k := range keys {
		sources, schemas = append(sources, k.Source), append(schemas, k.Schema)
		tables, sets = append(tables, k.Table), append(sets, k.Set)
	}
	_, err := s.pool.Exec(ctx, `INSERT INTO set_keys (source, schema, table_name, record_set)
		SELECT * FROM unnest($1::text[], $2::text[], $3::text[], $4::text[]) ON CONFLICT DO NOTHING`, sources, schemas, tables, sets)
	if err != nil {
		return fmt.Errorf("store: keys of record sets: %w", err)
	}
	return nil
}
