// Servers that do not describe their tables as PostgreSQL does: the standard's information schema (ISO/IEC
// 9075-11).

package records

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// standardTypes are PostgreSQL's names of the standard's types.
var standardTypes = map[string]string{
	"smallint": "int2", "integer": "int4", "bigint": "int8", "numeric": "numeric", "decimal": "numeric",
	"double precision": "float8", "real": "float4", "boolean": "bool", "date": "date", "interval": "interval",
	"timestamp with time zone": "timestamptz", "timestamp without time zone": "timestamp",
	"text": "text", "character varying": "varchar", "character": "bpchar", "uuid": "uuid",
}

const standardColumnsSQL = `
SELECT c.table_schema::text, c.table_name::text, t.table_type = 'VIEW',
       c.column_name::text, c.data_type::text, coalesce(c.numeric_precision, 0)::int8, coalesce(c.numeric_scale, -1)::int8, c.is_nullable = 'NO'
FROM information_schema.columns c
JOIN information_schema.tables t ON t.table_schema = c.table_schema AND t.table_name = c.table_name
WHERE c.table_schema IN (%s) ORDER BY 1, 2, c.ordinal_position`

// A foreign key's columns stand in the order of the key's that they lead to.
const standardKeysSQL = `
SELECT k.constraint_schema::text, k.constraint_name::text, t.constraint_type::text,
       k.table_schema::text, k.table_name::text, k.column_name::text,
       coalesce(u.table_schema, '')::text, coalesce(u.table_name, '')::text, coalesce(u.column_name, '')::text
FROM information_schema.key_column_usage k
JOIN information_schema.table_constraints t ON t.constraint_schema = k.constraint_schema
  AND t.constraint_name = k.constraint_name AND t.table_name = k.table_name
LEFT JOIN information_schema.referential_constraints r ON r.constraint_schema = k.constraint_schema
  AND r.constraint_name = k.constraint_name
LEFT JOIN information_schema.key_column_usage u ON u.constraint_schema = r.unique_constraint_schema
  AND u.constraint_name = r.unique_constraint_name AND u.ordinal_position = k.position_in_unique_constraint
WHERE k.table_schema IN (%s) AND t.constraint_type IN ('PRIMARY KEY', 'UNIQUE', 'FOREIGN KEY')
ORDER BY 4, 5, 1, 2, k.ordinal_position`

// introspectStandard is introspect of such a server. Of what it does not say of keys and links, people can.
func introspectStandard(ctx context.Context, from *snapshot) ([]*source, []string, error) {
	var schemas []string
	for _, schema := range from.schemas() {
		schemas = append(schemas, Literal(schema))
	}
	list := strings.Join(schemas, ", ")
	notices := []string{fmt.Sprintf(
		"%s speaks PostgreSQL's protocol, but is none: its record sets stay there, and their keys and links are "+
			"those that it declares or that people describe.", from.place(),
	)}
	byName := map[string]*source{}
	var order []*source
	var schema, table, column, kind string
	var view, filled bool
	var precision, scale int64
	rows, _ := from.tx.Query(ctx, fmt.Sprintf(standardColumnsSQL, list)) // ForEachRow returns its error
	into := []any{&schema, &table, &view, &column, &kind, &precision, &scale, &filled}
	_, err := pgx.ForEachRow(rows, into, func() error {
		name := schema + "." + table
		s := byName[name]
		if s == nil {
			s = &source{
				from: from, full: TableName{from.Name, schema, table}, name: table, kind: "r", unique: map[string]bool{},
				index: from.index,
			}
			if view {
				s.kind, s.computed = "v", true
			}
			byName[name], order = s, append(order, s)
		}
		c := sourceColumn{Name: column, Type: standardTypes[kind], Mod: -1, Kind: "b", NotNull: filled, cast: kind}
		switch {
		case c.Type == "":
			notices = append(notices, fmt.Sprintf(
				"The column %s of %s is not offered: its type is %s.", column, s, kind))
			return nil
		case c.Type == "numeric" && scale < 0:
			notices = append(notices, fmt.Sprintf(
				"The column %s of %s is not offered: it does not say how many decimals it has.", column, s))
			return nil
		case c.Type == "numeric":
			c.Mod = int32(precision<<16|scale) + 4
		}
		s.columns = append(s.columns, c)
		return nil
	})
	if err != nil {
		return nil, nil, fmt.Errorf("records: tables: %w", err)
	}
	if err := standardKeys(ctx, from, list, byName); err != nil {
		return nil, nil, err
	}
	offered := order[:0]
	for _, s := range order {
		if len(s.columns) > 0 {
			offered = append(offered, s)
		}
	}
	return offered, notices, nil
}

// standardKeys adds the keys and links that the server declares, if it does.
func standardKeys(ctx context.Context, from *snapshot, schemas string, byName map[string]*source) error {
	type key struct {
		of, to        *source
		kind          string
		columns, into []string
	}
	var keys []*key
	last := ""
	err := pgx.BeginFunc(ctx, from.tx, func(tx pgx.Tx) error {
		var in, name, kind, schema, table, column, toSchema, toTable, toColumn string
		rows, _ := tx.Query(ctx, fmt.Sprintf(standardKeysSQL, schemas)) // ForEachRow returns its error
		into := []any{&in, &name, &kind, &schema, &table, &column, &toSchema, &toTable, &toColumn}
		_, err := pgx.ForEachRow(rows, into, func() error {
			if this := strings.Join([]string{in, name, schema, table}, "\x00"); this != last {
				last = this
				keys = append(keys, &key{of: byName[schema+"."+table], to: byName[toSchema+"."+toTable], kind: kind})
			}
			k := keys[len(keys)-1]
			k.columns, k.into = append(k.columns, column), append(k.into, toColumn)
			return nil
		})
		return err
	})
	var said *pgconn.PgError
	if errors.As(err, &said) {
		return nil // it does not know
	}
	if err != nil {
		return fmt.Errorf("records: keys: %w", err)
	}
	for _, k := range keys {
		switch {
		case k.of == nil || !k.of.has(k.columns):
		case k.kind == "FOREIGN KEY" && k.to != nil && k.to.has(k.into):
			k.of.links = append(k.of.links, sourceLink{columns: k.columns, toColumns: k.into, to: k.to})
		case k.kind == "FOREIGN KEY":
		case len(k.columns) == 1:
			k.of.unique[k.columns[0]] = true
			fallthrough
		default:
			if k.kind == "PRIMARY KEY" {
				k.of.key = k.columns
			}
		}
	}
	return nil
}

// counted is how many records a table has, of which no planner tells.
func counted(ctx context.Context, tx pgx.Tx, s *source) (size, error) {
	var n int64
	if err := tx.QueryRow(ctx, "SELECT count(*) FROM "+s.identifier()).Scan(&n); err != nil {
		return size{}, fmt.Errorf("records: %s: %w", s, err)
	}
	return size{rows: n}, nil
}

// place is what a source is called for people.
func (s Source) place() string {
	if s.Name == "" {
		return "The server of the database"
	}
	return "The server of the source " + s.Name
}
