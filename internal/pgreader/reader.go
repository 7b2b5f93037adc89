// Package pgreader is the second reader of plans: it carries them out over record sets whose records stay in
// their PostgreSQL database, on one machine or spread over several.
//
// The database reduces, and the engine finishes. Of a view, a query asks for the different records, as far as
// the view tells them apart, with how many there are of each and what their amounts come to: conditions are
// decided by the database, fields that nothing asks for are left out, moments that are grouped by days are
// asked for by days. What comes back is often some thousands of lines for many millions of records. Each line
// is put in the place of as many records as it stands for, and the engine works the result out of them as of
// any others. So there is one meaning of a view, one arithmetic and one order of texts, whichever reader
// carries it out.
//
// What cannot be said so exactly is refused by name.
package pgreader

import (
	"context"
	"errors"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/fault"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
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

// Reader answers plans over the record sets of a load that stay in one database. Any goroutine may use it.
type Reader struct {
	loaded *records.Loaded
	// memory answers of the records of the load that are in memory.
	memory *engine.Engine
	pool   *pgxpool.Pool
	opts   Options
}

// New is a reader of what a load left in a database, over connections of a pool, whose user should be one who
// may only read.
func New(loaded *records.Loaded, pool *pgxpool.Pool, opts Options) *Reader {
	opts = opts.withDefaults()
	return &Reader{loaded, engine.New(loaded.Snapshot, loaded.Catalog, opts.Engine), pool, opts}
}

// Loaded is the load that the reader is of, Pool its connections.
func (r *Reader) Loaded() *records.Loaded { return r.loaded }

// Pool is what the reader asks over.
func (r *Reader) Pool() *pgxpool.Pool { return r.pool }

// Unreachable says that a server is not reached on which a part of the records lies.
type Unreachable struct {
	Server, Part string
	err          error
}

func (e *Unreachable) Error() string {
	return fmt.Sprintf(
		"the server %s, on which the part %s of the records lies, does not answer: %s", e.Server, e.Part, e.err,
	)
}

func (e *Unreachable) Unwrap() error { return e.err }

// Run carries a plan out.
func (r *Reader) Run(ctx context.Context, p *plan.Plan) (out result.Result, err error) {
	err = fault.Caught(func() error {
		out, err = r.run(ctx, p)
		return err
	})
	return out, err
}

func (r *Reader) run(ctx context.Context, p *plan.Plan) (result.Result, error) {
	away := r.loaded.Away[p.Records]
	if away == nil {
		return nil, fmt.Errorf("pgreader: the records of %q are in memory", p.Records)
	}
	q := &question{Reader: r, plan: p, away: away, links: r.loaded.LinksOf(p.Records), uses: map[string]*use{}}
	// The most is decided by the database; what it cannot decide of a number too large to be added up there, it
	// is asked for one by one.
	for {
		res, err := q.answer(ctx)
		var beyond *records.BeyondError
		if !errors.As(err, &beyond) || q.oneByOne {
			if err != nil {
				return nil, err
			}
			return &answered{Result: res, of: q}, nil
		}
		q.oneByOne = true
	}
}

// reading carries work out in a transaction that sees one moment, and is bounded in time.
func (r *Reader) reading(ctx context.Context, do func(tx pgx.Tx) error) error {
	err := r.transaction(ctx, r.pool, "", do)
	var said *pgconn.PgError
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil: // the database says so in its own words
		return ctx.Err()
	case errors.As(err, &said) && said.Code == queryCanceled:
		return &result.LimitError{
			Step: fmt.Sprintf("the database would take longer than %s", r.opts.Time),
			Mend: "narrow the filter, or group by less",
		}
	}
	return err
}

// queryCanceled is PostgreSQL's code of a statement that took too long, or was stopped.
const queryCanceled = "57014"

// transaction carries work out in one that only reads, sees one moment, and whose statements are bounded in
// time. The moment is that of another one, which has told it, if it is not empty.
func (r *Reader) transaction(
	ctx context.Context, on interface {
		BeginTx(ctx context.Context, options pgx.TxOptions) (pgx.Tx, error)
	}, moment string, do func(tx pgx.Tx) error,
) error {
	options := pgx.TxOptions{IsoLevel: pgx.RepeatableRead, AccessMode: pgx.ReadOnly}
	return pgx.BeginTxFunc(ctx, on, options, func(tx pgx.Tx) error {
		settings := fmt.Sprintf("SET LOCAL statement_timeout = %d", r.opts.Time.Milliseconds())
		if moment != "" {
			settings = "SET TRANSACTION SNAPSHOT " + records.Literal(moment) + "; " + settings
		}
		if _, err := tx.Exec(ctx, settings); err != nil {
			return fmt.Errorf("pgreader: %w", err)
		}
		return do(tx)
	})
}
