package incoming

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/records/files"
)

// FilesSchema holds the tables of files that were brought in.
const FilesSchema = "gavrik_files"

// Differences are what a file that was read would change of the records that are there.
type Differences struct {
	New     int `json:"new" doc:"Records that are not there yet"`
	Changed int `json:"changed" doc:"Records that would be otherwise"`
	Same    int `json:"same"`
	Missing int `json:"missing" doc:"Records that are there and not in the file"`
	// The first of each, by key.
	NewOnes     []string      `json:"newOnes"`
	ChangedOnes []ValueChange `json:"changedOnes"`
	MissingOnes []string      `json:"missingOnes"`
}

// ValueChange is a value that would be another.
type ValueChange struct {
	Key    string `json:"key"`
	Field  string `json:"field"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// named is how many records of each kind are named.
const named = 10

// comparing is the SQL that sets what was read beside what is there.
type comparing struct {
	id, table string
	by        []string
	// shared are the fields that both have, apart from the key.
	shared []files.RecipeField
}

func newComparing(id, table string, before, after *files.Recipe) *comparing {
	c := &comparing{id: id, table: table, by: after.By}
	for _, f := range after.Taken() {
		if before.Field(f.Key) != nil && !slices.Contains(after.By, f.Key) {
			c.shared = append(c.shared, f)
		}
	}
	return c
}

func there(table string) string { return pgx.Identifier{FilesSchema, table}.Sanitize() }

// joined is "s.ref = o.ref AND …": s is what was read, o what is there.
func (c *comparing) joined() string {
	parts := make([]string, len(c.by))
	for i, key := range c.by {
		parts[i] = fmt.Sprintf("s.%s = o.%s", quote(key), quote(key))
	}
	return strings.Join(parts, " AND ")
}

// differ is the condition that some field is not the same. Types may have become wider meanwhile.
func (c *comparing) differ() string {
	parts := []string{"false"}
	for _, f := range c.shared {
		parts = append(parts, fmt.Sprintf("s.%s IS DISTINCT FROM o.%s::%s", quote(f.Key), quote(f.Key), sqlType(f.Type)))
	}
	return "(" + strings.Join(parts, " OR ") + ")"
}

// missing is the condition that a record is not in the file: not even in a row that was kept aside.
func (c *comparing) missing() string {
	return fmt.Sprintf("NOT EXISTS (SELECT FROM %s s WHERE %s) AND NOT EXISTS (SELECT FROM %s s WHERE %s)",
		staged(c.id), c.joined(), asideOf(c.id), c.joined())
}

// key is what a record is named by.
func (c *comparing) key(of string) string {
	return "concat_ws(', ', " + quoted(c.by, of) + ")"
}

// Compare counts what a file that was read would change of a table, whose records were made by the
// recipe before. Both have the same key.
func Compare(
	ctx context.Context, conn *pgx.Conn, id, table string, before, after *files.Recipe,
) (*Differences, error) {
	c := newComparing(id, table, before, after)
	d := &Differences{NewOnes: []string{}, ChangedOnes: []ValueChange{}, MissingOnes: []string{}}
	err := conn.QueryRow(ctx, fmt.Sprintf(`SELECT
		count(*) FILTER (WHERE o.%[1]s IS NULL), count(*) FILTER (WHERE o.%[1]s IS NOT NULL AND s.%[1]s IS NOT NULL AND %[2]s),
		count(*) FILTER (WHERE o.%[1]s IS NOT NULL AND s.%[1]s IS NOT NULL AND NOT %[2]s),
		(SELECT count(*) FROM %[4]s o WHERE %[6]s)
		FROM %[3]s s FULL JOIN %[4]s o ON %[5]s`, quote(c.by[0]), c.differ(), staged(id), there(table), c.joined(), c.missing(),
	)).Scan(&d.New, &d.Changed, &d.Same, &d.Missing)
	if err != nil {
		return nil, wrapped(err)
	}
	names := func(n int, from, of, where string, into *[]string) error {
		if n == 0 {
			return nil
		}
		rows, _ := conn.Query(ctx, fmt.Sprintf( // CollectRows returns its error
			"SELECT %s FROM %s %s WHERE %s ORDER BY %s LIMIT %d", c.key(of), from, of, where, quoted(c.by, of), named))
		list, err := pgx.CollectRows(rows, pgx.RowTo[string])
		*into = append(*into, list...)
		return wrapped(err)
	}
	fresh := fmt.Sprintf("NOT EXISTS (SELECT FROM %s o WHERE %s)", there(table), c.joined())
	if err := names(d.New, staged(id), "s", fresh, &d.NewOnes); err != nil {
		return nil, err
	}
	if err := names(d.Missing, there(table), "o", c.missing(), &d.MissingOnes); err != nil {
		return nil, err
	}
	return d, c.changes(ctx, conn, d)
}

// changes names the first values that would be others.
func (c *comparing) changes(ctx context.Context, conn *pgx.Conn, d *Differences) error {
	if len(c.shared) == 0 || d.Changed == 0 {
		return nil
	}
	var values []string
	for _, f := range c.shared {
		values = append(values, fmt.Sprintf("(%s, o.%s::text, s.%s::text, s.%s IS DISTINCT FROM o.%s::%s)",
			Literal(f.Label), quote(f.Key), quote(f.Key), quote(f.Key), quote(f.Key), sqlType(f.Type)))
	}
	rows, _ := conn.Query(ctx, fmt.Sprintf( // CollectRows returns its error
		`SELECT x.key, v.field, coalesce(v.before, ''), coalesce(v.after, '') FROM
		(SELECT %s AS key, s.ctid AS at, o.ctid AS was FROM %s s JOIN %s o ON %s WHERE %s ORDER BY %s LIMIT %d) x
		JOIN %s s ON s.ctid = x.at JOIN %s o ON o.ctid = x.was
		CROSS JOIN LATERAL (VALUES %s) v (field, before, after, differs) WHERE v.differs LIMIT %d`,
		c.key("s"), staged(c.id), there(c.table), c.joined(), c.differ(), quoted(c.by, "s"), named,
		staged(c.id), there(c.table), strings.Join(values, ", "), 2*named))
	list, err := pgx.CollectRows(rows, pgx.RowToStructByPos[ValueChange])
	d.ChangedOnes = append(d.ChangedOnes, list...)
	return wrapped(err)
}
