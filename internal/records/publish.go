package records

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/jackc/pgx/v5"
)

// PublicationName is a name that a publication, and what follows it, may have.
var PublicationName = regexp.MustCompile(`^[a-z][a-z0-9_]{0,40}$`)

// Only what has a primary key is published: the database would refuse changes of other tables.
const publishableSQL = `
SELECT n.nspname, c.relname, k.oid IS NOT NULL AND c.relreplident IN ('d', 'f') AND c.relpersistence = 'p'
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
LEFT JOIN pg_constraint k ON k.conrelid = c.oid AND k.contype = 'p'
WHERE n.nspname = ANY($1) AND c.relkind IN ('r', 'p') AND NOT c.relispartition
ORDER BY 1, 2`

// publishable are the tables of some schemas that can be published, and those that cannot.
func publishable(ctx context.Context, conn *pgx.Conn, schemas []string) (can, cannot []string, err error) {
	var schema, name string
	var may bool
	rows, _ := conn.Query(ctx, publishableSQL, schemas) // ForEachRow returns its error
	_, err = pgx.ForEachRow(rows, []any{&schema, &name, &may}, func() error {
		if one := (pgx.Identifier{schema, name}).Sanitize(); may {
			can = append(can, one)
		} else {
			cannot = append(cannot, one)
		}
		return nil
	})
	return can, cannot, err
}

// Publish makes a publication of all tables of a source's schemas that have a primary key, or brings one up
// to date; it returns how many it has.
func Publish(ctx context.Context, from Source, name string) (int, error) {
	conn, err := Connect(ctx, from.URL)
	if err != nil {
		return 0, from.blamed(err)
	}
	defer hangUp(ctx, conn)
	can, _, err := publishable(ctx, conn, from.Schemas)
	if err != nil {
		return 0, from.blamed(fmt.Errorf("records: %w", err))
	}
	if len(can) == 0 {
		return 0, from.blamed(fmt.Errorf("no table of %s has a primary key", strings.Join(from.Schemas, ", ")))
	}
	var there bool
	err = conn.QueryRow(ctx, "SELECT EXISTS (SELECT FROM pg_publication WHERE pubname = $1)", name).Scan(&there)
	if err != nil {
		return 0, from.blamed(fmt.Errorf("records: %w", err))
	}
	statement := "CREATE PUBLICATION " + quote(name) + " FOR TABLE " + strings.Join(can, ", ") +
		" WITH (publish_via_partition_root = true)"
	if there {
		statement = "ALTER PUBLICATION " + quote(name) + " SET TABLE " + strings.Join(can, ", ")
	}
	if _, err := conn.Exec(ctx, statement); err != nil {
		return 0, from.blamed(fmt.Errorf("the publication cannot be made: %s; who makes it must own the tables, "+
			"and be allowed to create in the database", reasonOf(err)))
	}
	return len(can), nil
}

// Unpublish takes a publication away, and the slots that were left behind under its name.
func Unpublish(ctx context.Context, from Source, name string) error {
	conn, err := Connect(ctx, from.URL)
	if err != nil {
		return from.blamed(err)
	}
	defer hangUp(ctx, conn)
	_, err = conn.Exec(ctx, `SELECT pg_drop_replication_slot(slot_name) FROM pg_replication_slots
		WHERE database = current_database() AND NOT active AND starts_with(slot_name, $1)`, name+"_")
	if err == nil {
		_, err = conn.Exec(ctx, "DROP PUBLICATION IF EXISTS "+quote(name))
	}
	if err != nil {
		return from.blamed(fmt.Errorf("the publication cannot be taken away: %s", reasonOf(err)))
	}
	return nil
}

// Finding is one thing about a database that following its changes needs.
type Finding struct {
	Good bool
	// What was looked at and found; Mend is how to mend it, if it is not good.
	What, Mend string
}

// Examine looks at what following the changes of a source needs.
func Examine(ctx context.Context, from Source, publication string) (out []Finding, err error) {
	conn, err := Connect(ctx, from.URL)
	if err != nil {
		return nil, from.blamed(err)
	}
	defer hangUp(ctx, conn)
	var user, level, count, kept string
	var slots, used, senders, sending int
	var may, standby bool
	err = conn.QueryRow(ctx, `SELECT pg_is_in_recovery(), current_user, current_setting('wal_level'), current_setting('track_counts'),
			current_setting('max_slot_wal_keep_size'), current_setting('max_replication_slots')::int,
			current_setting('max_wal_senders')::int, (SELECT count(*) FROM pg_replication_slots),
			(SELECT count(*) FROM pg_stat_replication),
			(SELECT rolreplication OR rolsuper FROM pg_roles WHERE rolname = current_user)`).
		Scan(&standby, &user, &level, &count, &kept, &slots, &senders, &used, &sending, &may)
	if err != nil {
		return nil, from.blamed(fmt.Errorf("records: %w", err))
	}
	add := func(good bool, what, mend string) {
		if good {
			mend = ""
		}
		out = append(out, Finding{good, what, mend})
	}
	if standby {
		add(false, "this is a standby: it tells of no changes, and all is read again with --refresh alone",
			"name the primary with --database-url, or one that serves in its place")
	}
	add(level == "logical", "wal_level is "+level,
		"ALTER SYSTEM SET wal_level = logical; and start the server again. Until then, only statistics tell what has changed")
	add(may, user+" may follow changes", "ALTER ROLE "+quote(user)+" REPLICATION;")
	add(used < slots, fmt.Sprintf("%d of %d replication slots are in use", used, slots),
		fmt.Sprintf("ALTER SYSTEM SET max_replication_slots = %d; and start the server again", slots+10))
	add(sending < senders, fmt.Sprintf("%d of %d connections that follow are in use", sending, senders),
		fmt.Sprintf("ALTER SYSTEM SET max_wal_senders = %d; and start the server again", senders+10))
	add(strings.EqualFold(count, "on"), "track_counts is "+count,
		"ALTER SYSTEM SET track_counts = on; SELECT pg_reload_conf(); without it, changes of tables that are not followed are noticed by --refresh alone")
	can, cannot, err := publishable(ctx, conn, from.Schemas)
	if err != nil {
		return nil, from.blamed(fmt.Errorf("records: %w", err))
	}
	keys, err := publishedKeys(ctx, conn, from, publication)
	if err != nil {
		return nil, from.blamed(err)
	}
	var missing []string
	published := tablesOf(keys)
	for _, one := range can {
		if !slices.Contains(published, one) {
			missing = append(missing, one)
		}
	}
	what := fmt.Sprintf(
		"the publication %s has %d of %d tables with a primary key", publication, len(can)-len(missing), len(can),
	)
	if len(missing) > 0 && len(keys) > 0 {
		what += "; not " + strings.Join(missing, ", ")
	}
	add(len(missing) == 0, what, "gavrik follow publish, as the owner of the tables")
	if len(cannot) > 0 {
		add(
			true,
			"without a primary key, and so read whole when statistics say that they have changed: "+strings.Join(cannot, ", "),
			"",
		)
	}
	left, err := leftBehind(ctx, conn)
	if err != nil {
		return nil, from.blamed(fmt.Errorf("records: %w", err))
	}
	for _, slot := range left {
		add(
			false, slot,
			"SELECT pg_drop_replication_slot('…'); if nobody reads it any more: it keeps the log of the database, up to max_slot_wal_keep_size ("+kept+")",
		)
	}
	return out, nil
}

func tablesOf(keys map[TableName][]string) (out []string) {
	for name := range keys {
		out = append(out, pgx.Identifier{name.Schema, name.Table}.Sanitize())
	}
	return out
}

// leftBehind are slots that keep the log for a reader that is not there.
func leftBehind(ctx context.Context, conn *pgx.Conn) (out []string, err error) {
	rows, _ := conn.Query(ctx, `SELECT format('the slot %s keeps %s of the log, and nobody reads it', slot_name,
			pg_size_pretty(pg_wal_lsn_diff(pg_current_wal_lsn(), restart_lsn)))
		FROM pg_replication_slots WHERE NOT active AND restart_lsn IS NOT NULL AND NOT pg_is_in_recovery() ORDER BY slot_name`)
	return pgx.CollectRows(rows, pgx.RowTo[string])
}
