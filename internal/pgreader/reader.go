// Package pgreader is the second reader of plans: it carries them out over record sets whose records stay in
// their PostgreSQL database, on one machine or spread over several.
//
// The database reduces, and the engine finishes. Of a view, a query asks for the different records, as far
// as the view tells them apart, with how many there are of each and what their amounts come to: conditions
// are decided by the database, fields that nothing asks for are left out, moments that are grouped by days
// are asked for by days. What comes back is often some thousands of lines for many millions of records.
// Each line becomes a row or a few that stand for as many records as it does, and the engine works the
// result out of them as of any others. So there is one meaning of a view, one arithmetic and one order of
// texts, whichever reader carries it out.
//
// What cannot be said so exactly is refused by name.
package pgreader

import (
	"context"
	"fmt"
	"strings"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"

	"gavrik/internal/core/catalog"
	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/turn"
	"gavrik/internal/records"
)

// Options bound what one question may take.
type Options struct {
	// Engine are those of the engine that finishes.
	Engine engine.Options
	// Lines is how many lines an answer of the database may have; zero means 5,000,000.
	Lines int
	// Bytes is what the records may take that the lines stand for; zero means 4 GiB.
	Bytes int64
	// Time is how long the database may work on one statement; zero means ten minutes.
	Time time.Duration
	// Few is of how many records at most all lines are asked for at once; of more, those that somebody looks at
	// first. Zero means 100,000.
	Few int
	// Parts is how many parts of a table are asked for at once; zero means 8.
	Parts int
}

func (o Options) withDefaults() Options {
	if o.Lines == 0 {
		o.Lines = 5_000_000
	}
	if o.Bytes == 0 {
		o.Bytes = 4 << 30
	}
	if o.Time == 0 {
		o.Time = 10 * time.Minute
	}
	if o.Few == 0 {
		o.Few = 100_000
	}
	if o.Parts == 0 {
		o.Parts = 8
	}
	return o
}

// Refused says what of a view cannot be carried out where the records stay in their database, and how to mend
// it.
type Refused struct{ What, Mend string }

func (e *Refused) Error() string { return e.What + "; " + e.Mend }

// refused refuses something by name.
func refused(format string, args ...any) error {
	return &Refused{fmt.Sprintf(format, args...), "leave it out, or have the records in memory"}
}

// Seen are records as somebody sees them.
type Seen struct {
	Loaded *records.Loaded
	// Memory answers of those in memory, as she sees them; nil of all that was loaded.
	Memory *engine.Engine
	// Catalog is what she can ask for; nil for all.
	Catalog *catalog.Catalog
	// Links are those that people have declared, from or to records that stay, and Keys the fields, by record
	// sets that stay, of which they say that no two records share a value.
	Links []records.AwayLink
	Keys  map[string]string
	// All is nil for somebody who sees everything. Else it is what such a one reads by, Rows are the records in
	// memory that are seen of sets of which not all are, and Rules, by record sets that stay, the plans whose
	// filters their records have to meet; no record meets nil.
	All   *Reader
	Rows  map[string][]int32
	Rules map[string][]*plan.Plan
}

// Reader answers plans over a load, some record sets of which stay in their databases. Any goroutine may use
// it.
type Reader struct {
	Seen
	// id tells it from any other one.
	id        uint64
	databases *Databases
	opts      Options
	samples   samples
	cut       cuts
}

// readers counts those that were made.
var readers atomic.Uint64

// New is a reader of what a load left in its databases, and of what it did not.
func New(seen Seen, databases *Databases, opts Options) *Reader {
	if seen.Memory == nil {
		seen.Memory = engine.New(seen.Loaded.Snapshot, seen.Loaded.Catalog, opts.Engine)
	}
	if seen.Catalog == nil {
		seen.Catalog = seen.Loaded.Catalog
	}
	return &Reader{id: readers.Add(1), Seen: seen, databases: databases, opts: opts.withDefaults()}
}

// reading carries work out in a transaction that sees one moment, and what is to be seen of it, and is
// bounded in time.
func (d *deciding) reading(ctx context.Context, do func() error) (err error) {
	pool, err := d.databases.pool(d.away.URL())
	if err != nil {
		return err
	}
	d.pool = pool
	turns := turn.Of(ctx)
	turns.Rest() // the database works, not this machine
	leave, err := d.databases.place(ctx)
	if err != nil {
		return err
	}
	defer leave()
	whole := ctx
	// If nobody answers, not even that it took too long.
	ctx, cancel := context.WithTimeout(ctx, d.opts.Time+stopping)
	defer cancel()
	var end func(error)
	d.asked, end = d.databases.under.begin(ctx, d.away.Set, d.away.Rows)
	defer func() { end(err) }()
	err = d.transaction(ctx, pool, d.away.Dialect(), "", func(tx pgx.Tx) error {
		d.tx = tx
		if err := d.see(ctx); err != nil {
			return err
		}
		return do()
	})
	if err == nil {
		return turns.Wait(whole)
	}
	return d.toldOf(whole, err)
}

// transaction carries work out in one that only reads, sees one moment, and whose statements are bounded in
// time. The moment is that of another one, which has told it, if it is not empty.
func (r *Reader) transaction(
	ctx context.Context, on interface {
		BeginTx(ctx context.Context, options pgx.TxOptions) (pgx.Tx, error)
	}, can records.Dialect, moment string, do func(tx pgx.Tx) error,
) error {
	options := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
	return pgx.BeginTxFunc(ctx, on, options, func(tx pgx.Tx) error {
		var settings []string
		if moment != "" {
			settings = append(settings, "SET TRANSACTION SNAPSHOT "+records.Literal(moment))
		}
		if can.Timeouts {
			settings = append(settings, fmt.Sprintf("SET LOCAL statement_timeout = %d", r.opts.Time.Milliseconds()))
		}
		if len(settings) > 0 {
			if _, err := tx.Exec(ctx, strings.Join(settings, "; ")); err != nil {
				return fmt.Errorf("pgreader: %w", err)
			}
		}
		return do(tx)
	})
}
