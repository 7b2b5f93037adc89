package pgreader

import (
	"context"
	"fmt"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgconn/ctxwatch"
	"github.com/jackc/pgx/v5/pgxpool"

	"gavrik/internal/core/cache"
)

const (
	// connecting is how long a connection may take to be made.
	connecting = 5 * time.Second
	// stopping is how long a database that was told to stop may take to say so.
	stopping = 5 * time.Second
	// idle is after how long without questions a connection is given up.
	idle = time.Minute
)

// Databases are the connections over which records are asked for that stay. Any goroutine may use them.
type Databases struct {
	connections int

	mu    sync.Mutex // protects following fields
	pools map[string]*pgxpool.Pool
	// places are those of each person who asks: half of the connections are left to others.
	places map[string]chan struct{}

	under underWay
	// lines are what databases brought a while ago.
	lines *cache.Cache
}

// NewDatabases readies them, with so many connections to each database at most.
func NewDatabases(connections int) *Databases {
	return &Databases{
		connections: connections, pools: map[string]*pgxpool.Pool{}, places: map[string]chan struct{}{},
		lines: cache.New(keptBytes),
	}
}

// Forget has all questions asked again.
func (d *Databases) Forget() { d.lines.Clear() }

// Close ends all connections, once nobody asks any more.
func (d *Databases) Close() {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, pool := range d.pools {
		pool.Close()
	}
	clear(d.pools)
}

// place waits until the one whose context it is may ask one question more at a time; leave says that it is
// answered.
func (d *Databases) place(ctx context.Context) (leave func(), err error) {
	by, ok := ctx.Value(byKey{}).(string)
	if !ok {
		return func() {}, nil
	}
	d.mu.Lock()
	places := d.places[by]
	if places == nil {
		places = make(chan struct{}, max(1, d.connections/2))
		d.places[by] = places
	}
	d.mu.Unlock()
	select {
	case places <- struct{}{}:
		return func() { <-places }, nil
	case <-ctx.Done():
		return nil, ctx.Err()
	}
}

// pool are the connections to one database. Whoever gives up waiting stops the work in the database, too.
func (d *Databases) pool(url string) (*pgxpool.Pool, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if pool := d.pools[url]; pool != nil {
		return pool, nil
	}
	cfg, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	cfg.MaxConns, cfg.MaxConnIdleTime = int32(d.connections), idle
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
	pool, err := pgxpool.NewWithConfig(context.Background(), cfg)
	if err != nil {
		return nil, fmt.Errorf("pgreader: %w", err)
	}
	d.pools[url] = pool
	return pool, nil
}
