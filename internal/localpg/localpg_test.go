package localpg

import (
	"context"
	"os"
	"path/filepath"
	"syscall"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// folder is one that the server's user can reach, as the test's own may not be.
func folder(t *testing.T) string {
	dir, err := os.MkdirTemp("", "gavrik-localpg-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o711))
	return filepath.Join(dir, "pg")
}

func query(t *testing.T, s *Server, sql string) (out string) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), s.URL("postgres"))
	require.NoError(t, err)
	defer conn.Close(context.Background())
	require.NoError(t, conn.QueryRow(t.Context(), sql).Scan(&out))
	return out
}

func keep(t *testing.T, s *Server) {
	t.Helper()
	conn, err := pgx.Connect(t.Context(), s.URL("postgres"))
	require.NoError(t, err)
	defer conn.Close(context.Background())
	_, err = conn.Exec(t.Context(), "CREATE TABLE kept (x text); INSERT INTO kept VALUES ('here')")
	require.NoError(t, err)
}

func TestServerKeepsItsDataOverStopKillAndOrphan(t *testing.T) {
	dir := folder(t)
	o := Options{Dir: dir, Settings: []string{"work_mem=7MB"}}
	s, err := Start(t.Context(), o)
	require.NoError(t, err)
	require.Equal(t, "7MB", query(t, s, "SHOW work_mem"))
	require.Equal(t, "127.0.0.1", query(t, s, "SHOW listen_addresses"))
	keep(t, s)

	// While one program has it, another is told so.
	_, err = Start(t.Context(), o)
	require.ErrorContains(t, err, "another gavrik is using "+dir)

	require.NoError(t, s.Stop())
	require.NoFileExists(t, filepath.Join(dir, "data/postmaster.pid"))
	s, err = Start(t.Context(), o)
	require.NoError(t, err)
	require.Equal(t, "here", query(t, s, "SELECT x FROM kept"))

	// The server itself is killed: the next start recovers.
	require.NoError(t, syscall.Kill(s.pid, syscall.SIGKILL))
	require.NoError(t, s.Stop())
	s, err = Start(t.Context(), o)
	require.NoError(t, err)
	require.Equal(t, "here", query(t, s, "SELECT x FROM kept"))

	// The program is killed and its server lives on: only the lock is let go.
	orphan := s.pid
	require.NoError(t, s.lock.Close())
	next, err := Start(t.Context(), o)
	require.NoError(t, err)
	require.NotEqual(t, orphan, next.pid)
	require.Equal(t, "here", query(t, next, "SELECT x FROM kept"))
	require.Eventually(t, func() bool { return !runsIn(orphan, s.data()) }, 5*time.Second, 20*time.Millisecond)
	require.NoError(t, next.Stop())
}

func TestAHalfMadeClusterIsMadeAnew(t *testing.T) {
	dir := folder(t)
	require.NoError(t, os.MkdirAll(filepath.Join(dir, "data.new", "base"), 0o711))
	s, err := Start(t.Context(), Options{Dir: dir, Volatile: true})
	require.NoError(t, err)
	require.Equal(t, "off", query(t, s, "SHOW fsync"))
	require.NoError(t, s.Stop())
}
