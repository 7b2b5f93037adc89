package pgreader

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"golang.org/x/sync/errgroup"

	"gavrik/internal/core/fault"
	"gavrik/internal/core/result"
	"gavrik/internal/core/table"
	"gavrik/internal/records"
)

// part is one of the tables that the records of a partitioned one lie in.
type part struct {
	table string
	// server is where it lies, if that is another one.
	server string
}

// The parts that hold the records of a table, however deep; not of others.
const partsSQL = `
WITH RECURSIVE parts AS (
  SELECT $1::regclass::oid AS part
  UNION ALL SELECT i.inhrelid
  FROM pg_inherits i JOIN parts ON i.inhparent = part JOIN pg_class p ON p.oid = part WHERE p.relkind = 'p'
)
SELECT part::regclass::text, coalesce(s.srvname, ''), has_table_privilege(part, 'SELECT')
FROM parts JOIN pg_class c ON c.oid = part
LEFT JOIN pg_foreign_table f ON f.ftrelid = part LEFT JOIN pg_foreign_server s ON s.oid = f.ftserver
WHERE c.relkind <> 'p' ORDER BY 1`

// parts are those that can be asked one by one; the whole table, where not all of them may be.
func (d *deciding) parts(ctx context.Context) ([]part, error) {
	if d.known != nil {
		return d.known, nil
	}
	if !d.away.Dialect().Catalogs {
		d.known = []part{{table: d.away.Table()}}
		return d.known, nil
	}
	rows, _ := d.tx.Query(ctx, partsSQL, d.away.Table()) // CollectRows returns its error
	all := true
	out, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (p part, err error) {
		var may bool
		err = row.Scan(&p.table, &p.server, &may)
		all = all && may
		return p, err
	})
	if err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	if !all || len(out) == 0 {
		out = []part{{table: d.away.Table()}}
	}
	d.known = out
	return out, nil
}

// eachPart asks every part in its turn, and hands on all rows.
func (d *deciding) eachPart(
	ctx context.Context, query func(table string) string, do func(row pgx.CollectableRow) error,
) error {
	parts, err := d.parts(ctx)
	if err != nil {
		return err
	}
	for _, p := range parts {
		rows, _ := d.tx.Query(ctx, query(d.of(p.table))) // CollectRows returns its error
		_, err := pgx.CollectRows(rows, func(row pgx.CollectableRow) (none struct{}, err error) {
			return none, do(row)
		})
		if err != nil {
			return d.failed(ctx, p, err)
		}
	}
	return nil
}

// fetch carries a query out over each part of the table, several at a time. Records that are not told apart
// come as a line of each part, which is as good. So whatever a part lies on does all of its work by itself,
// and nothing but lines goes over the network.
func (d *deciding) fetch(
	ctx context.Context, as []records.Reading, of func(table string) string,
) ([]table.Column, error) {
	parts, err := d.parts(ctx)
	if err != nil {
		return nil, err
	}
	var moment string
	if len(parts) > 1 {
		if err := d.tx.QueryRow(ctx, "SELECT pg_export_snapshot()").Scan(&moment); err != nil {
			return nil, fmt.Errorf("pgreader: %w", err)
		}
	}
	d.databases.under.parts(d.asked, len(parts))
	into := records.NewFetching(as, d.opts.Lines)
	left := make(chan part, len(parts))
	for _, p := range parts {
		left <- p
	}
	close(left)
	group, working := errgroup.WithContext(ctx)
	work := func(tx pgx.Tx) error {
		for p := range left {
			if d.anyOrder && into.Lines() >= d.sample {
				return nil // whichever they are, they are enough
			}
			if err := into.Fetch(working, tx, of(d.of(p.table)), d.away.Dialect().Copies); err != nil {
				return d.failed(working, p, err)
			}
			d.databases.under.part(d.asked)
		}
		return nil
	}
	group.Go(func() error { return fault.Caught(func() error { return work(d.tx) }) })
	for range min(len(parts), d.opts.Parts) - 1 {
		if stat := d.pool.Stat(); stat.AcquiredConns() >= stat.MaxConns()-1 {
			break // others work, too: what there is must do
		}
		group.Go(func() error {
			return fault.Caught(func() error {
				return d.pool.AcquireFunc(working, func(conn *pgxpool.Conn) error {
					return d.transaction(working, conn, d.away.Dialect(), moment, work)
				})
			})
		})
	}
	err = group.Wait()
	if errors.Is(err, records.ErrManyLines) {
		err = &result.LimitError{
			Step: fmt.Sprintf("the view tells more than %d records of the database apart", d.opts.Lines),
			Mend: "narrow the filter, or take out fields that differ from record to record",
		}
	}
	if err != nil {
		return nil, err
	}
	columns, _, err := into.Columns()
	return columns, err
}

// failed says which part failed, and where it lies.
func (d *deciding) failed(ctx context.Context, p part, err error) error {
	var said *pgconn.PgError
	switch {
	case ctx.Err() != nil, errors.Is(err, records.ErrManyLines):
		return err
	case errors.As(err, &said) && strings.HasPrefix(said.Code, connectionClass) && p.server != "":
		return &Unreachable{Server: p.server, Part: p.table, err: err}
	}
	return fmt.Errorf("pgreader: %s: %w", p.table, err)
}

// estimate has the first question of all be answered of the first records of a part, to tell how long it
// may take.
func (d *deciding) estimate(ctx context.Context, q *query) error {
	first := int64(d.opts.Few / 2)
	if d.away.Rows < 10*first || !d.databases.under.unknown(d.asked) {
		return nil
	}
	parts, err := d.parts(ctx)
	if err != nil {
		return err
	}
	servers := map[string]bool{} // which work at the same time
	for _, p := range parts {
		servers[p.server] = true
	}
	some := fmt.Sprintf(
		"(SELECT %s FROM %s LIMIT %d) s", strings.Join(d.away.Selectable(), ", "), d.of(parts[0].table), first,
	)
	began := time.Now()
	if _, err := d.tx.Exec(ctx, "SELECT count(*) FROM ("+q.of(some)+") e"); err != nil {
		return d.failed(ctx, parts[0], err)
	}
	all := float64(time.Since(began)) * float64(d.away.Rows) / float64(first) / float64(len(servers))
	d.databases.under.expect(d.asked, time.Duration(all))
	return nil
}
