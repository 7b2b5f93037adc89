package records

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
)

// counters tell by the statistics of a database which of its tables have changed: how many rows were ever
// added, changed and removed, and what they lie in. What is rolled back counts, too; a session that goes on
// working tells within a second, one that rests within ten.
type counters struct {
	source Source
	conn   *pgx.Conn
	// seen are those of the load that was taken last, now those read since.
	seen, now map[TableName]string
	// shape tells what the tables, views and columns are from what they were; seenShape is that of the load
	// that was taken last.
	seenShape, shape string
	// last is where transactions stood when it was asked. Once they have moved, statistics may tell of it until
	// late.
	last string
	late time.Time
}

// Partitions count for the table that they are parts of.
const countersSQL = `
WITH RECURSIVE parts AS (
  SELECT oid AS root, oid AS part FROM pg_class WHERE relkind = 'p' AND NOT relispartition
  UNION ALL SELECT parts.root, i.inhrelid FROM pg_inherits i JOIN parts ON i.inhparent = parts.part
)
SELECT n.nspname, c.relname,
       (SELECT concat_ws(' ', sum(s.n_tup_ins), sum(s.n_tup_upd), sum(s.n_tup_del), string_agg(
          (SELECT relfilenode FROM pg_class WHERE oid = s.relid)::text, ',' ORDER BY s.relid))
        FROM pg_stat_all_tables s
        WHERE s.relid = c.oid OR c.relkind = 'p' AND s.relid IN (SELECT part FROM parts WHERE root = c.oid))
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'm') AND NOT c.relispartition
  AND n.nspname NOT IN ('pg_catalog', 'information_schema', 'gavrik') AND n.nspname !~ '^pg_'`

// What records are made of: columns, comments, keys, views, who may read them.
const shapeSQL = `
SELECT coalesce(md5(string_agg(concat(
         n.nspname, '.', c.relname, c.relkind, c.relfilenode, c.relispopulated, c.relacl,
         (SELECT string_agg(
            concat(attnum, attname, atttypid, atttypmod, attisdropped, attnotnull, attacl), ',' ORDER BY attnum)
          FROM pg_attribute WHERE attrelid = c.oid AND attnum > 0),
         (SELECT string_agg(concat(objsubid, description), ',' ORDER BY objsubid)
          FROM pg_description WHERE objoid = c.oid AND classoid = 'pg_class'::regclass),
         (SELECT string_agg(concat(oid, contype, conkey, confrelid, confkey, convalidated), ',' ORDER BY oid)
          FROM pg_constraint WHERE conrelid = c.oid),
         (SELECT string_agg(ev_action, ',' ORDER BY oid) FROM pg_rewrite WHERE ev_class = c.oid)
       ), '|' ORDER BY c.oid)), '')
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE n.nspname = ANY($1) AND c.relkind IN ('r', 'p', 'v', 'm', 'f')`

// read reads the counters.
func (c *counters) read(ctx context.Context) error {
	if err := c.connect(ctx); err != nil {
		return err
	}
	var schema, name, count string
	now := map[TableName]string{}
	rows, _ := c.conn.Query(ctx, countersSQL) // ForEachRow returns its error
	_, err := pgx.ForEachRow(rows, []any{&schema, &name, &count}, func() error {
		now[TableName{c.source.Name, schema, name}] = count
		return nil
	})
	if err != nil {
		c.close(ctx)
		return fmt.Errorf("records: statistics: %w", err)
	}
	c.now = now
	if err := c.conn.QueryRow(ctx, shapeSQL, c.source.schemas()).Scan(&c.shape); err != nil {
		c.close(ctx)
		return fmt.Errorf("records: tables: %w", err)
	}
	return nil
}

// statisticsLate is how late the statistics of a database may tell of a change: a session that rests after it
// tells within ten seconds.
const statisticsLate = 12 * time.Second

// moved says whether the counters may be others than when it was asked last: it is a cheaper question.
func (c *counters) moved(ctx context.Context) (bool, error) {
	if err := c.connect(ctx); err != nil {
		return false, err
	}
	var at string
	if err := c.conn.QueryRow(ctx, "SELECT pg_current_snapshot()::text").Scan(&at); err != nil {
		c.close(ctx)
		return false, fmt.Errorf("records: %w", err)
	}
	if at != c.last {
		c.last, c.late = at, time.Now().Add(statisticsLate)
	}
	return time.Now().Before(c.late), nil
}

// changed are the tables whose counters are others than those of the load that was taken last.
func (c *counters) changed() []TableName {
	var out []TableName
	for name, count := range c.now {
		if was, known := c.seen[name]; !known || was != count {
			out = append(out, name)
		}
	}
	return out
}

func (c *counters) connect(ctx context.Context) (err error) {
	if c.conn == nil || c.conn.IsClosed() {
		c.conn, err = Connect(ctx, c.source.URL)
	}
	return err
}

func (c *counters) close(ctx context.Context) {
	if c.conn != nil {
		hangUp(ctx, c.conn) // it only reads
		c.conn = nil
	}
}

// counts says whether the database keeps such statistics at all: a standby does not count what it repeats.
func counts(ctx context.Context, conn *pgx.Conn) (on bool, err error) {
	err = conn.QueryRow(
		ctx, "SELECT current_setting('track_counts')::bool AND NOT pg_is_in_recovery()",
	).Scan(&on)
	return on, err
}
