package store

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
)

// patience is how long one statement may take, waiting for a connection included. A
// database that has frozen says nothing, so it must not be waited for without end.
const patience = 10 * time.Second

// pool is a pool of connections whose statements are not waited for without end.
type pool struct{ *pgxpool.Pool }

func (p pool) Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return p.Pool.Exec(ctx, sql, args...)
}

func (p pool) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	ctx, cancel := context.WithTimeout(ctx, patience)
	rows, err := p.Pool.Query(ctx, sql, args...)
	return boundedRows{rows, cancel}, err
}

// boundedRows let their time-out go when they are closed, as CollectRows does.
type boundedRows struct {
	pgx.Rows
	cancel context.CancelFunc
}

func (r boundedRows) Close() {
	r.Rows.Close()
	r.cancel()
}

func (p pool) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	ctx, cancel := context.WithTimeout(ctx, patience)
	return boundedRow{p.Pool.QueryRow(ctx, sql, args...), cancel}
}

type boundedRow struct {
	pgx.Row
	cancel context.CancelFunc
}

func (r boundedRow) Scan(into ...any) error {
	defer r.cancel()
	return r.Row.Scan(into...)
}

// change carries out a statement that changes something which is there; ErrNotFound says that it is not.
func (s *Store) change(ctx context.Context, sql string, args ...any) error {
	tag, err := s.pool.Exec(ctx, sql, args...)
	if err == nil && tag.RowsAffected() == 0 {
		return ErrNotFound
	}
	return err
}

// tx carries work out as one transaction, within the time of a statement; ctx of do is
// bounded so.
func (s *Store) tx(ctx context.Context, do func(ctx context.Context, tx pgx.Tx) error) error {
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	return pgx.BeginFunc(ctx, s.pool, func(tx pgx.Tx) error { return do(ctx, tx) })
}

const (
	// hurry is how long what every request asks first is waited for: who asks, and what is
	// agreed on. Both are remembered, and the memory serves where the database does not.
	hurry = 2 * time.Second
	// resting is how long a database that was silent is not asked for these again.
	resting = 2 * time.Second
)

// errSilent says that the database was silent a moment ago.
var errSilent = fmt.Errorf("store: the database was silent a moment ago: %w", context.DeadlineExceeded)

// hurried asks what every request asks first. A database that is silent is waited for by
// one request every few seconds, not by each.
func (s *Store) hurried(ctx context.Context, ask func(ctx context.Context) error) error {
	if time.Now().UnixNano() < s.silentUntil.Load() {
		return errSilent
	}
	bounded, cancel := context.WithTimeout(ctx, hurry)
	defer cancel()
	err := ask(bounded)
	if err != nil && ctx.Err() == nil && TroubleOf(err) == Silent {
		s.silentUntil.Store(time.Now().Add(resting).UnixNano())
	}
	return err
}
