package witness

import (
	"context"
	"net/url"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/core/calendar"
	"gavrik/internal/core/plan"
	"gavrik/internal/core/result"
	"gavrik/internal/core/view"
	"gavrik/internal/localpg/pgtest"
	"gavrik/internal/pgreader"
	"gavrik/internal/records"
)

// What a database refuses, has changed or does not answer is told with what to do, and bounded; what it lets
// be read of a table is read.
func TestWhatKeepsADatabaseFromAnsweringIsTold(t *testing.T) {
	direct := pgtest.Database(t)
	conn, err := records.Connect(t.Context(), direct)
	require.NoError(t, err)
	t.Cleanup(func() { _ = conn.Close(context.Background()) })
	run := func(sql string) {
		t.Helper()
		_, err := conn.Exec(context.Background(), sql)
		require.NoError(t, err)
	}
	run(`CREATE SCHEMA quay; CREATE TABLE quay.calls (id int PRIMARY KEY, berth text, fee numeric(9,2), pilot text) PARTITION BY RANGE (id);
		CREATE TABLE quay.early PARTITION OF quay.calls FOR VALUES FROM (0) TO (100);
		INSERT INTO quay.calls SELECT g, 'B' || g % 3, g, 'secret' FROM generate_series(0, 99) g;
		CREATE ROLE narrow LOGIN PASSWORD 'narrow'; GRANT USAGE ON SCHEMA quay TO narrow;
		GRANT SELECT (id, berth, fee) ON quay.calls, quay.early TO narrow`)
	t.Cleanup(func() { run("DROP OWNED BY narrow; DROP ROLE narrow") })
	as, err := url.Parse(direct)
	require.NoError(t, err)
	as.User = url.UserPassword("narrow", "narrow")
	wire, through := pgtest.NewWire(t, as.String())
	away, err := records.Load(
		t.Context(), records.Database(through, "quay"), records.Settings{Zone: "UTC", Away: []string{"calls"}},
	)
	require.NoError(t, err)
	require.Nil(t, away.Catalog.Set("calls").Field("pilot"), "it may not be read")
	databases := pgreader.NewDatabases(2)
	defer databases.Close()
	reader := pgreader.New(pgreader.Seen{Loaded: away}, databases, pgreader.Options{Time: time.Second})
	doc, err := view.Parse([]byte(
		`{"gavrik":1,"records":"calls","columns":[{"field":"fee","totals":[{"fn":"sum"}]}],"groups":[{"field":"berth"}]}`,
	))
	require.NoError(t, err)
	p, err := plan.Check(doc, away.Catalog, calendar.Calendar{Zone: time.UTC, Now: time.Now()})
	require.NoError(t, err)
	ask := func() (result.Result, error) {
		databases.Forget()
		return reader.Run(t.Context(), p)
	}
	res, err := ask()
	require.NoError(t, err)
	require.Equal(t, 100, res.Summarize().Kept)

	// A part that is added is a part of the next answer.
	run(`CREATE TABLE quay.late PARTITION OF quay.calls FOR VALUES FROM (100) TO (200); GRANT SELECT (id, berth, fee) ON quay.late TO narrow;
		INSERT INTO quay.calls VALUES (150, 'B9', 1, '')`)
	res, err = ask()
	require.NoError(t, err)
	require.Equal(t, []int{101, 4}, []int{res.Summarize().Kept, res.Summarize().Levels[0]})

	var failed *pgreader.Failed
	run("REVOKE SELECT ON quay.calls, quay.early, quay.late FROM narrow; REVOKE SELECT (fee) ON quay.calls, quay.early, quay.late FROM narrow")
	_, err = ask()
	require.ErrorAs(t, err, &failed)
	require.ErrorContains(t, err, "grant SELECT")
	run("GRANT SELECT ON quay.calls, quay.early, quay.late TO narrow; ALTER TABLE quay.calls RENAME fee TO dues")
	_, err = ask()
	require.ErrorAs(t, err, &failed)
	require.ErrorContains(t, err, "load the records again")
	run("ALTER TABLE quay.calls RENAME dues TO fee")

	// A network that stalls ends the question in time; the next one finds another connection.
	wire.Hold()
	began := time.Now()
	_, err = ask()
	wire.GoOn()
	var silent *pgreader.Unreachable
	require.ErrorAs(t, err, &silent, "%v", err)
	require.Less(t, time.Since(began), time.Minute)
	require.Eventually(t, func() bool {
		res, err := ask()
		return err == nil && res.Summarize().Kept == 101
	}, 20*time.Second, 100*time.Millisecond)
}
