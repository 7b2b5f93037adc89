// Package pgtest gives tests a PostgreSQL of their own.
package pgtest

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
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
	server, err = localpg.Start(context.Background(), localpg.Options{Dir: filepath.Join(dir, "pg"), Volatile: true})
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
	conn, err := pgx.Connect(t.Context(), server.URL("postgres"))
	require.NoError(t, err)
	defer conn.Close(context.WithoutCancel(t.Context()))
	_, err = conn.Exec(t.Context(), "CREATE DATABASE "+name)
	require.NoError(t, err)
	return server.URL(name)
}
