package incoming

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/catalog"
	"gavrik/internal/records/files"
)

// Put makes a file that was read the records of a table that is new, or takes the place of all that
// is there.
func Put(ctx context.Context, tx pgx.Tx, id, table, file string, r *files.Recipe) error {
	sql := "DROP TABLE IF EXISTS " + asideOf(id)
	if len(r.By) > 0 {
		sql += fmt.Sprintf("; ALTER TABLE %s DROP COLUMN %s", staged(id), files.Line)
	}
	if _, err := tx.Exec(ctx, sql); err != nil {
		return wrapped(err)
	}
	return settle(ctx, tx, id, table, file, r)
}

// settle puts a table in the place of another. Only now do those who read it have to wait.
func settle(ctx context.Context, tx pgx.Tx, id, table, file string, r *files.Recipe) error {
	var sql strings.Builder
	fmt.Fprintf(&sql, `CREATE SCHEMA IF NOT EXISTS %s; DROP TABLE IF EXISTS %s; ALTER TABLE %s SET SCHEMA %s;
		ALTER TABLE %s RENAME TO %s; ALTER INDEX %s RENAME TO %s; `, FilesSchema, there(table), staged(id), FilesSchema,
		there(id), quote(table), there(id+"_pkey"), quote(table+"_pkey"))
	describe(&sql, table, file, r)
	_, err := tx.Exec(ctx, sql.String())
	return wrapped(err)
}

// describe writes comments, by which records are known when they are loaded.
func describe(sql *strings.Builder, table, file string, r *files.Recipe) {
	what := "One row per row of the file " + file + "."
	if len(r.By) > 0 {
		var labels []string
		for _, key := range r.By {
			labels = append(labels, catalog.LowerFirst(r.Field(key).Label))
		}
		what = fmt.Sprintf("One row per %s of the file %s.", strings.Join(labels, " and "), file)
	} else {
		fmt.Fprintf(sql, "COMMENT ON COLUMN %s.%s IS 'Line of the file.'; ", there(table), files.Line)
	}
	fmt.Fprintf(sql, "COMMENT ON TABLE %s IS %s; ", there(table), Literal(what))
	for _, f := range r.Taken() {
		fmt.Fprintf(sql, "COMMENT ON COLUMN %s.%s IS %s; ", there(table), quote(f.Key), Literal(hint(f)))
	}
}

// Update changes the records of a table by their key: new ones come behind the others, others become as the
// file has them, and those that are missing from it stay or go. Fields that the file does not have stay
// as they are; new ones are added, and types become wider where they can. All of it is made as a table
// beside, so that the old one can be read until the last moment. It returns how the records are made now.
func Update(
	ctx context.Context, tx pgx.Tx, id, table, file string, before, after *files.Recipe, removeMissing bool,
) (*files.Recipe, error) {
	c, merged := newComparing(id, table, before, after), Merged(before, after)
	first := quote(c.by[0])
	var columns []string
	for _, f := range merged.Taken() {
		name := quote(f.Key)
		switch old, fresh := before.Field(f.Key), after.Field(f.Key); {
		case slices.Contains(c.by, f.Key):
			columns = append(columns, fmt.Sprintf("coalesce(s.%s, o.%s) AS %s", name, name, name))
		case old == nil:
			columns = append(columns, "s."+name)
		case fresh == nil:
			columns = append(columns, "o."+name)
		default:
			columns = append(columns, fmt.Sprintf(
				"CASE WHEN s.%s IS NOT NULL THEN s.%s ELSE o.%s::%s END AS %s", first, name, name, sqlType(f.Type), name))
		}
	}
	kept := ""
	if removeMissing {
		kept = fmt.Sprintf("WHERE s.%s IS NOT NULL OR NOT (%s)", first, c.missing())
	}
	fresh := id + "_fresh"
	if _, err := tx.Exec(ctx, fmt.Sprintf(`CREATE TABLE %s AS SELECT %s FROM %s s FULL JOIN %s o ON %s %s ORDER BY o.ctid, s.line;
		SET LOCAL maintenance_work_mem = '256MB'; ALTER TABLE %s ADD PRIMARY KEY (%s); DROP TABLE %s; DROP TABLE %s`,
		staged(fresh), strings.Join(columns, ", "), staged(id), there(table), c.joined(), kept, staged(fresh), quoted(c.by, ""),
		staged(id), asideOf(id))); err != nil {
		return nil, wrapped(err)
	}
	return merged, settle(ctx, tx, fresh, table, file, merged)
}

// Fits says whether a file that is read by a recipe can update the records that another one made: by
// the same key, with types that are the same or wider.
func Fits(before, after *files.Recipe) error {
	if len(before.By) == 0 {
		return refuse("the records have no key by which a file could change them; replace all of them")
	}
	if !slices.Equal(before.By, after.By) {
		return refuse("the records are told apart by other fields; keep those, or replace all of them")
	}
	for _, f := range after.Taken() {
		old := before.Field(f.Key)
		if old == nil {
			continue
		}
		from, to := sqlType(old.Type), sqlType(f.Type)
		wider := to == "text" || from == "bigint" && to == "numeric"
		if from != to && (!wider || slices.Contains(before.By, f.Key)) {
			return refuse("“%s” is %s so far and cannot become %s; keep its type, or replace all of the records",
				f.Label, old.Type.Word(), f.Type.Word())
		}
	}
	return nil
}

// Merged is the recipe of records that were made by one, and changed by another.
func Merged(before, after *files.Recipe) *files.Recipe {
	out := *after
	out.Fields = slices.Clone(after.Fields)
	for _, f := range before.Taken() {
		i := slices.IndexFunc(out.Fields, func(o files.RecipeField) bool { return o.Key == f.Key })
		switch {
		case i < 0:
			out.Fields = append(out.Fields, f)
		case out.Fields[i].Out: // left as it was
			out.Fields[i] = f
		}
	}
	return &out
}

// Append adds rows that were mended to a table: by the key, they become as they are now.
func Append(ctx context.Context, tx pgx.Tx, table string, r *files.Recipe, rows []MendedRow) error {
	taken := r.Taken()
	keys := []string{}
	if len(r.By) == 0 {
		keys = append(keys, files.Line)
	}
	for _, f := range taken {
		keys = append(keys, f.Key)
	}
	if _, err := tx.Exec(ctx, fmt.Sprintf("CREATE TEMP TABLE mended ON COMMIT DROP AS SELECT 0::bigint AS gavrik_line, * FROM %s LIMIT 0", there(table))); err != nil {
		return wrapped(err)
	}
	columns := []string{"gavrik_line"}
	for _, f := range taken {
		columns = append(columns, f.Key)
	}
	piece := begin()
	for _, row := range rows {
		piece = appendRow(piece, int64(row.Line), row.Values, taken)
	}
	if err := sendAll(ctx, tx, pgx.Identifier{"pg_temp", "mended"}.Sanitize(), columns, piece); err != nil {
		return err
	}
	from := "SELECT " + strings.Replace(quoted(keys, "m"), "m."+quote(files.Line), "m.gavrik_line", 1) + " FROM mended m"
	conflict := "(" + quote(files.Line) + ") DO NOTHING"
	if len(r.By) > 0 {
		// Of two rows with one key, the later one is meant.
		by := quoted(r.By, "m")
		from = fmt.Sprintf("SELECT DISTINCT ON (%s) %s FROM mended m ORDER BY %s, m.ctid DESC", by, quoted(keys, "m"), by)
		conflict = fmt.Sprintf("(%s) DO NOTHING", quoted(r.By, ""))
		var sets []string
		for _, f := range taken {
			if !slices.Contains(r.By, f.Key) {
				sets = append(sets, fmt.Sprintf("%s = excluded.%s", quote(f.Key), quote(f.Key)))
			}
		}
		if len(sets) > 0 {
			conflict = fmt.Sprintf("(%s) DO UPDATE SET %s", quoted(r.By, ""), strings.Join(sets, ", "))
		}
	}
	_, err := tx.Exec(ctx, fmt.Sprintf("INSERT INTO %s (%s) %s ON CONFLICT %s",
		there(table), quoted(keys, ""), from, conflict))
	return wrapped(err)
}

// MendedRow is a row that was kept aside, and can be read now.
type MendedRow struct {
	Line   int
	Values []files.Value
}

// Drop takes away what was read of a file and not brought in.
func Drop(ctx context.Context, tx pgx.Tx, id string) error {
	_, err := tx.Exec(ctx, fmt.Sprintf("DROP TABLE IF EXISTS %s; DROP TABLE IF EXISTS %s; DELETE FROM gavrik.set_aside WHERE upload = %s",
		staged(id), asideOf(id), Literal(id)))
	return wrapped(err)
}

// Remove takes a table of a file away.
func Remove(ctx context.Context, tx pgx.Tx, table string) error {
	_, err := tx.Exec(ctx, "DROP TABLE IF EXISTS "+there(table))
	return wrapped(err)
}

// Table is the table of a file, as SQL names it.
func Table(table string) string { return there(table) }
