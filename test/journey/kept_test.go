package journey

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"
)

// What a view says is kept; the records change; what was kept is shown as it was, compared with now and
// with another, and a total is followed through both.
func TestAResultKeptAndCompared(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	sum := func() string {
		return g.Ask(t, "SELECT to_char(sum(claimed), 'FM999,999,999.00') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25")
	}
	before := sum()
	p.do(keys("k"), see(`[data-keep-dialog]`), p.put(`[name=kept-name]`, "Before the audit"))
	p.axe("a result being kept")
	p.do(click(`[data-keep-now]`), seeText("It is kept, as of"))

	changed := g.Ask(t, "SELECT ref FROM claims WHERE status = 'Open' AND claimed > 25 ORDER BY ref LIMIT 1")
	_, err := g.DB.Exec(t.Context(), "UPDATE claims SET claimed = claimed + 500 WHERE ref = $1", changed)
	require.NoError(t, err)
	_, err = g.DB.Exec(t.Context(), "INSERT INTO claims (id, ref, booking_id, category, status, opened_at, claimed) SELECT max(id) + 1, 'CL-NEW', min(booking_id), 'Refund', 'Open', now(), 90 FROM claims")
	require.NoError(t, err)
	require.NoError(t, g.Workspace.Refresh(t.Context()))

	p.do(more("kept"), see(`[data-kept-list]`))
	p.says(`[data-kept-list]`, "Before the audit")
	p.axe("what was kept of a view")
	p.do(click(`[data-kept-list] a`), see(`[data-kept-result] [data-tally]`))
	p.says(`[data-as-it-was]`, "as it was on")
	p.until(`document.body.textContent.includes('` + before + `')`)
	p.axe("a kept result")
	p.do(click(`[data-depth="2"]`))
	p.until(`document.querySelectorAll('[role=rowgroup] [role=row]').length > 8`)
	p.do(clickText("What changed since"), see(`[data-changed]`))
	p.says(`[data-became=changed]`, "1 changed")
	p.says(`[data-changed]`, changed)
	p.says(`[data-totals]`, before)
	p.says(`[data-totals]`, sum())
	p.axe("what changed since")
	p.do(click(`[data-became=came]`), see(`[data-records=came]`))
	p.says(`[data-records=came]`, "CL-NEW")

	// Another one, a month later, by a plan: the line goes through both.
	g.Clock.Turn(time.Date(2026, 11, 30, 22, 0, 0, 0, time.UTC))
	p.do(chromedp.Click(`//a[normalize-space()='Open claims by route']`))
	p.settled()
	p.do(more("kept"), click(`[data-change-keeping]`), see(`[data-rule-words]`))
	p.says(`[data-rule-words]`, "the last day of the month at 23:00")
	p.axe("a plan to keep results")
	p.do(click(`[data-keep-plan]`))
	p.says(`[data-keeping]`, "You have it kept the last day of the month at 23:00, next today 23:00; the last 12 are held on to.")
	g.Clock.Turn(time.Date(2026, 11, 30, 23, 0, 0, 0, time.UTC))
	require.NoError(t, g.Deliver.Tick(t.Context()))
	p.do(chromedp.Reload(), see(`[data-trend]`))
	p.says(`[data-kept-list]`, "Tamsin Marlow, by plan")
	require.Len(t, p.texts(`[data-kept]`), 2)
	p.do(clickText("against the one before"), see(`[data-became]`))
	p.says(`[data-became=changed]`, "1 changed")
	p.do(chromedp.NavigateBack(), see(`[data-kept-list]`), chromedp.Click(`(//button[normalize-space()='let go …'])[1]`), click(`[data-let-go]`))
	p.until(`document.querySelectorAll('[data-kept]').length === 1`)
}
