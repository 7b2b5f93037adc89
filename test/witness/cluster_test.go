package witness

import (
	"context"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"gavrik/internal/core/engine"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/view"
	"gavrik/internal/demo"
	"gavrik/internal/localpg"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// What claims say of themselves: a table that is spread over servers declares no links.
var ownFields = vocabulary{
	tested:  []string{"status", "category", "claimed", "paid", "opened_at", "closed_at"},
	grouped: []string{"status", "category", "opened_at", "closed_at"},
}

// spread makes claims of a coordinator and two workers, with the records of another database.
func spread(t *testing.T, from *pgx.Conn) (*localpg.Cluster, string) {
	t.Helper()
	dir, err := os.MkdirTemp("", "gavrik-cluster-")
	require.NoError(t, err)
	t.Cleanup(func() { _ = os.RemoveAll(dir) })
	require.NoError(t, os.Chmod(dir, 0o711))
	c, err := localpg.StartCluster(
		t.Context(), 2,
		localpg.Options{Dir: filepath.Join(dir, "pg"), Volatile: true, Settings: []string{"shared_buffers=32MB"}},
	)
	require.NoError(t, err)
	t.Cleanup(func() { _ = c.Stop() })
	const columns = `id int NOT NULL, ref text NOT NULL, opened_at timestamptz NOT NULL, closed_at timestamptz, category text, status text, claimed numeric(10,2), paid numeric(10,2)`
	require.NoError(t, c.Spread(t.Context(), "ferry", "claims", columns, "HASH (id)",
		[]string{"WITH (MODULUS 2, REMAINDER 0)", "WITH (MODULUS 2, REMAINDER 1)"}))
	url := c.Coordinator.URL("postgres")
	to, err := records.Connect(t.Context(), url)
	require.NoError(t, err)
	defer to.Close(context.Background())
	rows, err := from.Query(
		t.Context(),
		"SELECT id, ref, opened_at, closed_at, category, status, claimed, paid FROM ferry.claims ORDER BY id",
	)
	require.NoError(t, err)
	n, err := to.CopyFrom(t.Context(), pgx.Identifier{"ferry", "claims"},
		[]string{"id", "ref", "opened_at", "closed_at", "category", "status", "claimed", "paid"}, rows)
	require.NoError(t, err)
	require.EqualValues(t, 2500, n)
	_, err = to.Exec(
		t.Context(),
		`COMMENT ON COLUMN ferry.claims.claimed IS '(money, EUR)'; COMMENT ON COLUMN ferry.claims.paid IS '(money, EUR)'`,
	)
	require.NoError(t, err)
	return c, url
}

// Views of records that are spread over several servers say what they say of the same records on one, and in
// memory.
func TestViewsAreTheSameOverSeveralServers(t *testing.T) {
	conn, _, cal := ferry(t)
	c, url := spread(t, conn)
	set := records.Settings{Zone: "Europe/Lisbon"}
	loaded, err := records.Load(t.Context(), records.Database(url, demo.Schema), set)
	require.NoError(t, err)
	reader := staying(t, url, demo.Schema, "claims")
	b := &both{
		memory: engine.New(loaded.Snapshot, loaded.Catalog, engine.Options{}).Reader(), database: reader,
		loaded: loaded, cal: cal, refused: map[string]int{}, keyless: true,
	}
	rapid.Check(t, func(rt *rapid.T) {
		d := ownFields.drawDocument(rt, loaded.Catalog)
		if _, err := plan.Check(d, loaded.Catalog, cal); err != nil {
			rt.Skip("a range the wrong way round")
		}
		b.compare(rt, d)
	})
	require.Empty(t, b.refused)

	// A worker that is gone is told of by name; nothing is said without its records. Once it is back, all is.
	doc, err := view.Parse([]byte(
		`{"gavrik":1,"records":"claims","columns":[{"field":"claimed","totals":[{"fn":"sum"}]}],"groups":[{"field":"status"}]}`,
	))
	require.NoError(t, err)
	p, err := plan.Check(doc, loaded.Catalog, cal)
	require.NoError(t, err)
	worker := c.Workers[1]
	require.NoError(t, worker.Stop())
	_, err = reader.Run(pgreader.Anew(t.Context()), p)
	require.ErrorContains(t, err, "worker2")
	var away *pgreader.Unreachable
	require.ErrorAs(t, err, &away)
	require.Equal(t, "worker2", away.Server)
	require.NoError(t, c.Restart(t.Context(), 1))
	b.compare(t, doc)

	// What takes too long ends, and says what to do; what is given up ends in the database, too.
	databases := pgreader.NewDatabases(2)
	defer databases.Close()
	slow := pgreader.New(pgreader.Seen{Loaded: reader.Loaded}, databases, pgreader.Options{Time: time.Millisecond})
	_, err = slow.Run(t.Context(), p)
	require.ErrorContains(t, err, "narrow the filter")
}

// How long a question may take is told before it has an answer, also the first one; whoever gives up
// waiting stops the work in the database.
func TestGivingUpReachesTheDatabase(t *testing.T) {
	conn, _, cal := ferry(t)
	_, err := conn.Exec(
		t.Context(),
		`CREATE VIEW ferry.slow AS SELECT g AS id, pg_sleep(0.05)::text AS note FROM generate_series(1, 2000) g`,
	)
	require.NoError(t, err)
	url := conn.Config().ConnString()
	databases := pgreader.NewDatabases(2)
	t.Cleanup(databases.Close)
	reader := pgreader.New(
		pgreader.Seen{Loaded: staying(t, url, demo.Schema, "slow").Loaded}, databases, pgreader.Options{Few: 20},
	)
	doc, err := view.Parse(
		[]byte(`{"gavrik":1,"records":"slow","columns":[{"field":"note","totals":[{"fn":"distinct"}]}]}`),
	)
	require.NoError(t, err)
	p, err := plan.Check(doc, reader.Catalog, cal)
	require.NoError(t, err)
	working := func() (n int) {
		require.NoError(t, conn.QueryRow(t.Context(), `SELECT count(*) FROM pg_stat_activity
			WHERE application_name = 'gavrik' AND state = 'active' AND query LIKE 'COPY%slow%'`).Scan(&n))
		return n
	}
	ctx, stop := context.WithCancel(pgreader.By(t.Context(), "who asks"))
	ended := make(chan error, 1)
	go func() {
		_, err := reader.Run(ctx, p)
		ended <- err
	}()
	require.Eventually(t, func() bool { return working() == 1 }, 20*time.Second, 10*time.Millisecond)
	asking := databases.Asking(ctx)
	require.Len(t, asking, 1)
	require.InDelta(t, 100, asking[0].Expected.Seconds(), 40, "2,000 records at a twentieth of a second")
	stop()
	require.ErrorIs(t, <-ended, context.Canceled)
	require.Eventually(
		t, func() bool { return working() == 0 }, 5*time.Second, 10*time.Millisecond,
		"long before it would have ended",
	)
}
