// Package records brings records in: it learns a PostgreSQL database's tables,
// keys, links and comments, copies the records into columns, and imports files.
package records

import (
	"context"
	"fmt"

	"github.com/jackc/pgx/v5"
)

// FilesSchema holds the tables that import makes.
const FilesSchema = "gavrik_files"

// source is one table of the database, and how its columns are read.
type source struct {
	schema, name string
	// set is the key of its record set: its name or, where a table of another schema has
	// that, its schema and its name. It is empty for a table that is not offered.
	set     string
	comment string
	rows    int64 // the planner's estimate
	columns []sourceColumn
	key     []string // primary key columns
	unique  map[string]bool
	links   []sourceLink
}

type sourceColumn struct {
	Name    string
	Type    string // base type's name, domains resolved
	Mod     int32  // type modifier
	Kind    string // typtype of the base type: e for enumerations
	Comment string
	NotNull bool
}

type sourceLink struct {
	column, toColumn string
	to               *source
	// key is the link's key in the catalog; empty until describe has run, and
	// after it for a link that is not offered.
	key string
}

// full is the table's name with its schema's, for people.
func (s *source) full() string { return s.schema + "." + s.name }

func (s *source) identifier() string { return pgx.Identifier{s.schema, s.name}.Sanitize() }

// Domains are followed to their base type.
const tablesSQL = `
SELECT c.oid, n.nspname, c.relname, c.relkind::text, coalesce(obj_description(c.oid, 'pg_class'), ''),
       greatest(c.reltuples, 0)::bigint
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE n.nspname = ANY($1) AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
ORDER BY array_position($1, n.nspname::text), c.relname`

const columnsSQL = `
SELECT a.attrelid, a.attname, b.typname, CASE WHEN t.typtype = 'd' THEN t.typtypmod ELSE a.atttypmod END,
       b.typtype::text, coalesce(col_description(a.attrelid, a.attnum), ''), a.attnotnull
FROM pg_attribute a
JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
JOIN pg_type t ON t.oid = a.atttypid
JOIN pg_type b ON b.oid = CASE WHEN t.typtype = 'd' THEN t.typbasetype ELSE t.oid END
WHERE n.nspname = ANY($1) AND a.attnum > 0 AND NOT a.attisdropped
ORDER BY a.attrelid, a.attnum`

// Keys and links of several columns are told apart by their length.
const constraintsSQL = `
SELECT k.conrelid, k.contype::text,
       ARRAY(SELECT attname::text FROM unnest(k.conkey) WITH ORDINALITY u(n, i)
             JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = u.n ORDER BY u.i),
       coalesce(k.confrelid, 0),
       ARRAY(SELECT attname::text FROM unnest(k.confkey) WITH ORDINALITY u(n, i)
             JOIN pg_attribute a ON a.attrelid = k.confrelid AND a.attnum = u.n ORDER BY u.i)
FROM pg_constraint k JOIN pg_namespace n ON n.oid = k.connamespace
WHERE n.nspname = ANY($1) AND k.contype IN ('p', 'u', 'f')
ORDER BY k.conrelid, k.conkey`

// introspect reads the description of every table of the schemas, and notices
// about what cannot be offered.
func introspect(ctx context.Context, tx pgx.Tx, schemas []string) ([]*source, []string, error) {
	var notices []string
	byOID := map[uint32]*source{}
	var order []*source
	var oid uint32
	var schema, name, kind, comment string
	var estimate int64
	rows, _ := tx.Query(ctx, tablesSQL, schemas) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&oid, &schema, &name, &kind, &comment, &estimate}, func() error {
		if kind == "v" || kind == "m" || kind == "f" {
			notices = append(
				notices,
				fmt.Sprintf(
					"%s.%s is a view or a foreign table and has no key of its own, so it is not offered; the tables it reads are.",
					schema, name,
				),
			)
			return nil
		}
		s := &source{schema: schema, name: name, comment: comment, rows: estimate, unique: map[string]bool{}}
		byOID[oid] = s
		order = append(order, s)
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("records: tables: %w", err)
	}
	if err := readColumns(ctx, tx, schemas, byOID); err != nil {
		return nil, nil, err
	}
	skipped, err := readConstraints(ctx, tx, schemas, byOID)
	if err != nil {
		return nil, nil, err
	}
	notices = append(notices, skipped...)
	kept := order[:0]
	for _, s := range order {
		if len(s.key) == 0 {
			notices = append(
				notices,
				fmt.Sprintf(
					"%s.%s has no primary key, so one of its records could not be told from another and it is not offered. Add one: ALTER TABLE %s ADD PRIMARY KEY (…).",
					s.schema, s.name, s.identifier(),
				),
			)
			continue
		}
		kept = append(kept, s)
	}
	return kept, notices, nil
}

func readColumns(ctx context.Context, tx pgx.Tx, schemas []string, byOID map[uint32]*source) error {
	var oid uint32
	var c sourceColumn
	rows, _ := tx.Query(ctx, columnsSQL, schemas) // ForEachRow returns its error
	into := []any{&oid, &c.Name, &c.Type, &c.Mod, &c.Kind, &c.Comment, &c.NotNull}
	_, err := pgx.ForEachRow(rows, into, func() error {
		if s := byOID[oid]; s != nil {
			s.columns = append(s.columns, c)
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("records: columns: %w", err)
	}
	return nil
}

func readConstraints(
	ctx context.Context, tx pgx.Tx, schemas []string, byOID map[uint32]*source,
) ([]string, error) {
	var notices []string
	var oid, to uint32
	var kind string
	var from, into []string
	rows, _ := tx.Query(ctx, constraintsSQL, schemas) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&oid, &kind, &from, &to, &into}, func() error {
		s := byOID[oid]
		switch {
		case s == nil:
		case kind == "f" && len(from) > 1:
			notices = append(
				notices,
				fmt.Sprintf(
					"A link of %s.%s is made of several columns (%v) and is not offered; links of one column are.", s.schema,
					s.name, from,
				),
			)
		case kind == "f" && byOID[to] != nil:
			s.links = append(s.links, sourceLink{column: from[0], to: byOID[to], toColumn: into[0]})
		case kind == "p":
			s.key = append([]string(nil), from...)
			fallthrough
		case kind == "u":
			if len(from) == 1 {
				s.unique[from[0]] = true
			}
		}
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("records: keys: %w", err)
	}
	return notices, nil
}
