package pgreader

import (
	"context"
	"fmt"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/pgxpool"
)

const (
	// connecting is how long a connection may take to be made.
	connecting = 5 * time.Second
	// stopping is how long a database that was told to stop may take to say so.
	stopping = 5 * time.Second
)

// Connect is a pool of connections that only read. Who gives up waiting stops the work in the database, too.
func Connect(ctx context.Context, url string, connections int) (*pgxpool.Pool, error) {
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	cfg.MaxConns = int32(connections)
	cfg.ConnConfig.ConnectTimeout = connecting
	params := cfg.ConnConfig.RuntimeParams
	params["application_name"] = "gavrik"
	params["default_transaction_read_only"] = "on"
	params["timezone"] = "UTC"
	params["extra_float_digits"] = "1"
	params["jit"] = "off" // compiling takes longer than most questions
	cfg.ConnConfig.BuildContextWatcherHandler = func(conn *pgconn.PgConn) ctxwatch.Handler {
		return &pgconn.CancelRequestContextWatcherHandler{Conn: conn, DeadlineDelay: stopping}
	}
	pool, err := pgxpool.NewWithConfig(ctx, cfg)
	if err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	return pool, nil
}
