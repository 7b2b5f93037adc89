package journey

import (
	"context"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// Records are left in their database on the page of the records; a view of them says so, tells of a database
// that takes its time, and is stopped.
func TestRecordsThatStayAreAskedAndStopped(t *testing.T) {
	g, p := harness.Start(t), open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), clickText("Records"))
	p.do(click(`a[href="/records?set=claims"]`), see(`a[href="/records?set=claims"][aria-current=true]`))
	p.says(`[data-stay]`, "In memory.")
	p.do(click(`[data-stay] button`))
	p.says(`[data-stay]`, "These stay in their database")
	p.says(`a[href="/records?set=claims"]`, "about 2,000")
	p.axe("records that stay")
	p.do(clickText("Start a view"))
	p.settled()
	p.says(`[data-tally]`, "asked of the database")
	require.Equal(t, g.Ask(t, "SELECT to_char(count(*), 'FM999,999') FROM claims"), p.text(`[data-kept]`))

	// Somebody else has the table locked: the database takes as long as they do.
	tx, err := g.DB.Begin(t.Context())
	require.NoError(t, err)
	defer func() { _ = tx.Rollback(context.Background()) }()
	_, err = tx.Exec(t.Context(), "LOCK TABLE claims IN ACCESS EXCLUSIVE MODE")
	require.NoError(t, err)
	p.do(group("status"))
	p.says(`[data-asking]`, "The database looks through about 2,000 claims")
	p.axe("a database being asked")
	p.do(click(`[data-asking] button`))
	p.says(`[role=alert]`, "Stopped. What is below is the answer before.")
	require.Eventually(t, func() bool {
		g.Ask(t, "SELECT pg_stat_clear_snapshot()::text")
		return g.Ask(t, "SELECT count(*)::text FROM pg_stat_activity WHERE wait_event_type = 'Lock'") == "0"
	}, 20*time.Second, 50*time.Millisecond, "the database goes on")
	require.NoError(t, tx.Rollback(t.Context()))
	p.do(clickText("Try again"))
	p.settled()
	p.says(`[data-brief]`, "grouped by status")
	require.NotEmpty(t, p.texts(`[data-level="1"]`))

	// What changed meanwhile is told by asking again.
	_, err = g.DB.Exec(t.Context(), "DELETE FROM claims WHERE id = (SELECT max(id) FROM claims)")
	require.NoError(t, err)
	p.do(click(`[data-asked] button`))
	p.says(`[data-kept]`, g.Ask(t, "SELECT to_char(count(*), 'FM999,999') FROM claims"))
}
