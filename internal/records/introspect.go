// Package records brings records in: it learns a PostgreSQL database's tables,
// keys, links and comments, and copies the records into columns.
package records

import (
	"context"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
)

// source is one table or view of a database, and how its columns are read.
type source struct {
	from *snapshot
	full TableName
	name string
	// set is the key of its record set.
	set     string
	comment string
	// kind is pg_class.relkind. computed says that it is a view or lies elsewhere: reading it may fail by
	// itself.
	kind     string
	computed bool
	// definition is what a view is made by, and what the records lie in: it changes if all of them are
	// written anew. reads are the tables that a view reads from.
	definition string
	reads      []TableName
	rows       int64 // the planner's estimate
	columns    []sourceColumn
	key        []string // primary key columns
	unique     map[string]bool
	links      []sourceLink
	// scales are the decimals that numeric columns are kept with.
	scales map[string]int
	// waits says that it is a view that is not read again yet, away that its records stay where they are;
	// unasked, that nobody has said so, but they would take too much. size is what the planner believes.
	waits, away, unasked bool
	size                 size
	// index is the place of its source among all.
	index int
}

type sourceColumn struct {
	Name    string
	Type    string // base type's name, domains resolved
	Mod     int32  // type modifier
	Kind    string // typtype of the base type: e for enumerations
	Comment string
	NotNull bool
	cast    string // the type as a cast names it
}

// computed says of a pg_class.relkind that it is one of views, or of tables that lie elsewhere.
func computed(kind string) bool { return kind == "v" || kind == "m" || kind == "f" }

// readings say how the columns are fetched and kept.
func (s *source) readings(set Settings) []columnReading {
	var out []columnReading
	for _, c := range s.columns {
		out = append(out, read(c, set, func(string) int { return s.scales[c.Name] }))
	}
	return out
}

// sourceLink is a foreign key: of one column, which is the link then and no field beside it, or
// of several, which are fields, too.
type sourceLink struct {
	columns, toColumns []string
	to                 *source
	// checked says that the database has seen to it that every record leads somewhere.
	checked bool
	// key is the link's key in the catalog; empty until describe has run.
	key string
}

// name tells the links of a table apart.
func (l sourceLink) name() string {
	return strings.Join(l.columns, ",") + ">" + l.to.String() + ":" + strings.Join(l.toColumns, ",")
}

// inPlaceOf is the column that a link takes the place of; empty for a link of several columns.
func (l sourceLink) inPlaceOf() string {
	if len(l.columns) == 1 {
		return l.columns[0]
	}
	return ""
}

// String is the table's name with its schema's, for people.
func (s *source) String() string {
	if s.full.Source != "" {
		return s.full.Source + ": " + s.full.Schema + "." + s.full.Table
	}
	return s.full.Schema + "." + s.full.Table
}

func (s *source) identifier() string { return pgx.Identifier{s.full.Schema, s.full.Table}.Sanitize() }

// Domains are followed to their base type.
const tablesSQL = `
SELECT c.oid, n.nspname, c.relname, c.relkind::text, coalesce(obj_description(c.oid, 'pg_class'), ''),
       greatest(c.reltuples, 0)::bigint,
       has_schema_privilege(n.oid, 'USAGE') AND has_any_column_privilege(c.oid, 'SELECT'),
       c.relkind <> 'm' OR c.relispopulated,
       concat(c.relfilenode, parts.all, (SELECT string_agg(ev_action, ',') FROM pg_rewrite
                                         WHERE ev_class = c.oid AND c.relkind IN ('v', 'm')))
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
LEFT JOIN LATERAL (
  WITH RECURSIVE parts AS (
    SELECT inhrelid FROM pg_inherits WHERE inhparent = c.oid
    UNION ALL SELECT i.inhrelid FROM pg_inherits i JOIN parts ON i.inhparent = parts.inhrelid
  ) SELECT string_agg(concat(p.oid, ' ', p.relfilenode), ',' ORDER BY p.oid) AS all
    FROM parts JOIN pg_class p ON p.oid = inhrelid
) parts ON c.relkind = 'p'
WHERE n.nspname = ANY($1) AND c.relkind IN ('r', 'p', 'v', 'm', 'f') AND NOT c.relispartition
ORDER BY array_position($1, n.nspname::text), c.relname`

const columnsSQL = `
SELECT a.attrelid, a.attname, b.typname, CASE WHEN t.typtype = 'd' THEN t.typtypmod ELSE a.atttypmod END,
       b.typtype::text, coalesce(col_description(a.attrelid, a.attnum), ''), a.attnotnull,
       has_column_privilege(a.attrelid, a.attnum, 'SELECT'), format_type(a.atttypid, a.atttypmod)
FROM pg_attribute a
JOIN pg_class c ON c.oid = a.attrelid JOIN pg_namespace n ON n.oid = c.relnamespace
JOIN pg_type t ON t.oid = a.atttypid
JOIN pg_type b ON b.oid = CASE WHEN t.typtype = 'd' THEN t.typbasetype ELSE t.oid END
WHERE n.nspname = ANY($1) AND a.attnum > 0 AND NOT a.attisdropped
ORDER BY a.attrelid, a.attnum`

const constraintsSQL = `
SELECT k.conrelid, k.contype::text,
       ARRAY(SELECT attname::text FROM unnest(k.conkey) WITH ORDINALITY u(n, i)
             JOIN pg_attribute a ON a.attrelid = k.conrelid AND a.attnum = u.n ORDER BY u.i),
       coalesce(k.confrelid, 0),
       ARRAY(SELECT attname::text FROM unnest(k.confkey) WITH ORDINALITY u(n, i)
             JOIN pg_attribute a ON a.attrelid = k.confrelid AND a.attnum = u.n ORDER BY u.i),
       k.convalidated
FROM pg_constraint k JOIN pg_namespace n ON n.oid = k.connamespace
WHERE n.nspname = ANY($1) AND k.contype IN ('p', 'u', 'f')
ORDER BY k.conrelid, k.conkey`

// introspect reads the description of every table and view of the schemas, and notices
// about what cannot be offered.
func introspect(ctx context.Context, from *snapshot) ([]*source, []string, error) {
	if !from.dialect.Catalogs {
		return introspectStandard(ctx, from)
	}
	schemas := from.schemas()
	var notices []string
	byOID := map[uint32]*source{}
	var order []*source
	var oid uint32
	var schema, name, kind, comment, definition string
	var estimate int64
	var may, filled bool
	rows, _ := from.tx.Query(ctx, tablesSQL, schemas) // ForEachRow returns its error
	into := []any{&oid, &schema, &name, &kind, &comment, &estimate, &may, &filled, &definition}
	_, err := pgx.ForEachRow(rows, into, func() error {
		s := &source{
			from: from, full: TableName{from.Name, schema, name}, name: name, comment: comment, rows: estimate,
			unique: map[string]bool{}, index: from.index, definition: definition,
			kind: kind, computed: computed(kind),
		}
		switch {
		case !may:
			notices = append(notices, fmt.Sprintf(
				"%s may not be read by the user that Gavrik signs in to the database as. Allow it: GRANT USAGE ON SCHEMA %s TO …; GRANT SELECT ON %s TO …;",
				s, quote(schema), s.identifier()))
			return nil
		case !filled:
			notices = append(notices, fmt.Sprintf(
				"%s is a materialized view that was never filled. Fill it: REFRESH MATERIALIZED VIEW %s;", s, s.identifier()))
			return nil
		}
		byOID[oid] = s
		order = append(order, s)
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("records: tables: %w", err)
	}
	kept, err := readColumns(ctx, from.tx, schemas, byOID)
	if err != nil {
		return nil, nil, err
	}
	if err := readConstraints(ctx, from.tx, schemas, byOID); err != nil {
		return nil, nil, err
	}
	if err := readReads(ctx, from, schemas, byOID); err != nil {
		return nil, nil, err
	}
	offered := order[:0]
	for _, s := range order {
		if len(s.columns) == 0 {
			notices = append(notices, fmt.Sprintf("%s has no column that can be read, and is not offered.", s))
			continue
		}
		offered = append(offered, s)
	}
	return offered, append(notices, kept...), nil
}

// readColumns adds the columns that may be read; the notices tell of the others.
func readColumns(
	ctx context.Context, tx pgx.Tx, schemas []string, byOID map[uint32]*source,
) (notices []string, err error) {
	var oid uint32
	var c sourceColumn
	var may bool
	rows, _ := tx.Query(ctx, columnsSQL, schemas) // ForEachRow returns its error
	into := []any{&oid, &c.Name, &c.Type, &c.Mod, &c.Kind, &c.Comment, &c.NotNull, &may, &c.cast}
	_, err = pgx.ForEachRow(rows, into, func() error {
		switch s := byOID[oid]; {
		case s == nil:
		case !may:
			notices = append(notices, fmt.Sprintf(
				"The column %s of %s may not be read by the user that Gavrik signs in to the database as. Allow it: GRANT SELECT (%s) ON %s TO …;",
				c.Name, s, quote(c.Name), s.identifier()))
		default:
			s.columns = append(s.columns, c)
		}
		return nil
	})
	if err != nil {
		return nil, fmt.Errorf("records: columns: %w", err)
	}
	return notices, nil
}

func readConstraints(ctx context.Context, tx pgx.Tx, schemas []string, byOID map[uint32]*source) error {
	var oid, to uint32
	var kind string
	var from, into []string
	var checked bool
	rows, _ := tx.Query(ctx, constraintsSQL, schemas) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&oid, &kind, &from, &to, &into, &checked}, func() error {
		s := byOID[oid]
		switch {
		case s == nil || !s.has(from):
		case kind == "f" && byOID[to] != nil && byOID[to].has(into):
			s.links = append(s.links, sourceLink{
				columns: cloned(from), toColumns: cloned(into), to: byOID[to], checked: checked,
			})
		case kind == "p":
			s.key = cloned(from)
			fallthrough
		case kind == "u":
			if len(from) == 1 {
				s.unique[from[0]] = true
			}
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("records: keys: %w", err)
	}
	return nil
}

// Views that read from views read from what those read from.
const readsSQL = `
WITH RECURSIVE direct AS (
  SELECT r.ev_class AS view, d.refobjid AS rel FROM pg_rewrite r
  JOIN pg_depend d ON d.classid = 'pg_rewrite'::regclass AND d.objid = r.oid
                  AND d.refclassid = 'pg_class'::regclass AND d.refobjid <> r.ev_class
), reads AS (
  SELECT direct.view, direct.rel FROM direct
  JOIN pg_class c ON c.oid = direct.view JOIN pg_namespace n ON n.oid = c.relnamespace
  WHERE n.nspname = ANY($1) AND c.relkind = 'v'
  UNION
  SELECT reads.view, direct.rel FROM reads JOIN direct ON direct.view = reads.rel
  JOIN pg_class c ON c.oid = direct.view WHERE c.relkind = 'v'
)
SELECT reads.view, n.nspname, c.relname FROM reads JOIN pg_class c ON c.oid = reads.rel
JOIN pg_namespace n ON n.oid = c.relnamespace WHERE c.relkind <> 'v' ORDER BY 1, 2, 3`

func readReads(ctx context.Context, from *snapshot, schemas []string, byOID map[uint32]*source) error {
	var oid uint32
	var schema, name string
	rows, _ := from.tx.Query(ctx, readsSQL, schemas) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&oid, &schema, &name}, func() error {
		if s := byOID[oid]; s != nil {
			s.reads = append(s.reads, TableName{from.Name, schema, name})
		}
		return nil
	})
	if err != nil {
		return fmt.Errorf("records: views: %w", err)
	}
	return nil
}

// declares says whether a numeric column says itself how many decimals it has.
func (s *source) declares(name string) bool {
	_, declared := declaredScale(s.column(name).Mod)
	return declared
}

// cloned copies what the next row of a query overwrites.
func cloned(list []string) []string { return append([]string(nil), list...) }

// has says whether all of some columns may be read.
func (s *source) has(columns []string) bool {
	for _, name := range columns {
		if s.column(name).Name == "" {
			return false
		}
	}
	return true
}

// openScales returns the scale of every numeric column; of those without a
// declared one, it asks the records.
func openScales(ctx context.Context, s *source) (map[string]int, error) {
	out := map[string]int{}
	var asked, exprs []string
	for _, c := range s.columns {
		if c.Type != "numeric" {
			continue
		}
		scale, declared := declaredScale(c.Mod)
		if !declared {
			asked = append(asked, c.Name)
			exprs = append(exprs, "coalesce(max(scale("+quote(c.Name)+")), 0)")
			continue
		}
		out[c.Name] = min(scale, maxScale)
	}
	if len(asked) == 0 {
		return out, nil
	}
	scales := make([]int, len(asked))
	into := make([]any, len(asked))
	for i := range scales {
		into[i] = &scales[i]
	}
	// A view may fail by itself, and must not end the transaction then.
	err := pgx.BeginFunc(ctx, s.from.tx, func(tx pgx.Tx) error {
		if err := s.hurry(ctx, tx.Conn()); err != nil {
			return err
		}
		return tx.QueryRow(ctx, "SELECT "+strings.Join(exprs, ", ")+" FROM "+s.identifier()).Scan(into...)
	})
	if err != nil {
		return nil, fmt.Errorf("records: decimals of %s: %w", s, err)
	}
	for i, name := range asked {
		out[name] = min(scales[i], maxScale)
	}
	return out, nil
}

// hurry bounds, within a transaction, how long reading a view may take.
func (s *source) hurry(ctx context.Context, conn *pgx.Conn) error {
	if !s.computed {
		return nil
	}
	_, err := conn.Exec(ctx, "SET LOCAL statement_timeout = '"+viewTime+"'")
	return err
}

// viewTime is how long one view may take to read: a view that needs more should be a table.
const viewTime = "10min"
