// Package pgtest gives tests a PostgreSQL of their own.
package pgtest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg"
)

var (
	server *localpg.Server
	count  atomic.Int64
)

// Main runs a package's tests beside one server; TestMain calls it.
func Main(m *testing.M) {
	code, err := run(m)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	os.Exit(code)
}

func run(m *testing.M) (code int, err error) {
	dir, err := os.MkdirTemp("", "gavrik-pg-")
	if err != nil {
		return 0, err
	}
	defer os.RemoveAll(dir)
	if err := os.Chmod(dir, 0o711); err != nil {
		return 0, err
	}
	server, err = localpg.Start(context.Background(), localpg.Options{
		Dir: filepath.Join(dir, "pg"), Volatile: true,
	})
	if err != nil {
		return 0, err
	}
	defer func() { err = server.Stop() }()
	return m.Run(), nil
}

// Database makes an empty database and returns its address.
func Database(t testing.TB) string {
	t.Helper()
	name := fmt.Sprintf("test_%d", count.Add(1))
	create(t, name, "")
	return server.URL(name)
}

// Model is a database that tests get copies of. Making one takes long, copying it does not.
type Model struct {
	// Make fills the empty database at an address. It leaves no connection open.
	Make func(ctx context.Context, url string) error

	once sync.Once
	name string
	err  error
}

// Copy makes a copy of the model and returns its address.
func (m *Model) Copy(t testing.TB) string {
	t.Helper()
	m.once.Do(func() {
		m.name = fmt.Sprintf("model_%d", count.Add(1))
		create(t, m.name, "")
		m.err = m.Make(context.WithoutCancel(t.Context()), server.URL(m.name))
	})
	require.NoError(t, m.err)
	name := fmt.Sprintf("test_%d", count.Add(1))
	create(t, name, " TEMPLATE "+m.name)
	return server.URL(name)
}

func create(t testing.TB, name, options string) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), server.URL("postgres"))
	require.NoError(t, err)
	defer conn.Close(context.WithoutCancel(t.Context()))
	_, err = conn.Exec(t.Context(), "CREATE DATABASE "+name+options)
	require.NoError(t, err)
}
