package bench

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"

	"gavrik/internal/localpg"
	"gavrik/internal/localpg/pgtest"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// A small run asks all eleven questions; Run itself fails where the two answers
// differ. Nothing is said about times.
func TestEveryQuestionHasOneAnswer(t *testing.T) {
	var asked []string
	rep, err := Run(t.Context(), pgtest.Database(t), 6000, func(r Result) { asked = append(asked, r.Name) })
	require.NoError(t, err)
	require.Len(t, asked, 11)
	require.Len(t, rep.Questions, 11)
	require.Equal(t, 6000, rep.Rows)
	require.Positive(t, rep.GeometricMean)
	require.Positive(t, rep.LoadRowsPerSecond)
	require.Greater(t, rep.BytesPerRow, 100.0)
	_, err = Run(t.Context(), "postgres://nobody@127.0.0.1:1/none", 1000, func(Result) {})
	require.ErrorContains(t, err, "no database answers at 127.0.0.1:1")
}

// A wrong answer is not passed over.
func TestDifferencesAreNamed(t *testing.T) {
	require.EqualError(
		t, difference([]string{"a|1", "b|2"}, []string{"a|1", "b|3"}),
		`the answers differ: Gavrik says "b|2", PostgreSQL "b|3"`,
	)
	require.EqualError(
		t, difference([]string{"a|1"}, nil), "the answers differ: Gavrik has 1 lines, PostgreSQL 0",
	)
}

// Where the records stay, in one database or spread over workers, every question has the same answer.
func TestEveryQuestionHasOneAnswerWhereverTheRecordsAre(t *testing.T) {
	dir, err := os.MkdirTemp("", "gavrik-bench-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o711))
	o := localpg.Options{
		Dir: filepath.Join(dir, "one"), Volatile: true, Settings: []string{"shared_buffers=32MB"},
	}
	one, err := localpg.Start(t.Context(), o)
	require.NoError(t, err)
	t.Cleanup(func() { _ = one.Stop() })
	o.Dir = filepath.Join(dir, "several")
	cluster, err := localpg.StartCluster(t.Context(), 2, o)
	require.NoError(t, err)
	t.Cleanup(func() { _ = cluster.Stop() })
	asked := 0
	require.NoError(t, Distributed(t.Context(), one, cluster, 6000, true, func(r Three) {
		asked++
		require.Empty(t, r.Why, r.Name)
		require.Positive(t, min(r.MemoryMS, r.OneMS, r.SeveralMS), r.Name)
	}))
	require.Equal(t, 11, asked)
}
