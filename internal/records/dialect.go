package records

import (
	"context"
	"errors"
	"fmt"
	"io"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
)

// Dialect is what a server can do, beside answering queries, that speaks PostgreSQL's protocol. A
// PostgreSQL can do all of it. Of a server that cannot, the record sets stay where they are, and are asked
// for without.
type Dialect struct {
	// Catalogs says that it describes its tables as PostgreSQL does, and shares moments between connections;
	// else they are known by the standard's information schema, and each is asked as a whole.
	Catalogs bool
	// Copies says that it sends many rows as a binary copy; else they come as the rows of a query.
	Copies bool
	// Infinite says that its days and moments know infinite ones.
	Infinite bool
	// Stretches says that it finds a value's place among a list of bounds, and the quarter of an hour that a
	// moment lies in; else moments come as they are.
	Stretches bool
	// Timeouts says that it bounds the time of a statement; else it is told to stop.
	Timeouts bool
}

// abilities are the parts of a dialect and what only a server answers that has them.
var abilities = []struct {
	of    func(d *Dialect) *bool
	probe string
}{
	{func(d *Dialect) *bool { return &d.Catalogs }, `SELECT pg_export_snapshot(), pg_current_snapshot()::text,
		obj_description(c.oid, 'pg_class'), c.relispartition, i.inhparent
		FROM pg_class c LEFT JOIN pg_inherits i ON false LIMIT 1`},
	{func(d *Dialect) *bool { return &d.Copies }, "COPY (SELECT 1) TO STDOUT (FORMAT binary)"},
	{func(d *Dialect) *bool { return &d.Infinite }, "SELECT isfinite(date '2000-01-01')"},
	{func(d *Dialect) *bool { return &d.Stretches }, "SELECT width_bucket(2, ARRAY[1, 3]), date_bin('1 hour', now(), now())"},
	{func(d *Dialect) *bool { return &d.Timeouts }, "SHOW statement_timeout"},
}

// everyAbility is what only a server answers that has every one of them.
const everyAbility = `SELECT pg_export_snapshot(), pg_current_snapshot()::text, obj_description(c.oid, 'pg_class'),
	c.relispartition, i.inhparent, isfinite(date '2000-01-01'),
	width_bucket(2, ARRAY[1, 3]), date_bin('1 hour', now(), now()),
	current_setting('statement_timeout') FROM pg_class c LEFT JOIN pg_inherits i ON false LIMIT 1`

// dialectOf asks a server what it can do. That it answers something not, is no error.
func dialectOf(ctx context.Context, conn *pgx.Conn) (d Dialect, err error) {
	can := func(probe string) (bool, error) {
		_, err := conn.PgConn().CopyTo(ctx, io.Discard, probe) // reads the rows of a query, too
		var said *pgconn.PgError
		if err != nil && !errors.As(err, &said) {
			return false, fmt.Errorf("records: what the server can do: %w", err)
		}
		return err == nil, nil
	}
	every, err := can(everyAbility)
	for _, a := range abilities {
		if err != nil {
			return d, err
		}
		if *a.of(&d) = every; !every {
			*a.of(&d), err = can(a.probe)
		}
	}
	return d, err
}
