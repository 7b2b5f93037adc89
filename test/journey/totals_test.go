package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// An administrator keeps records from a group but for totals; its reader opens a view that is shared with all
// and sees its groups, those of enough records, with nothing beneath them, and takes them away. An owner shares
// for totals, too.
func TestTotalsWithoutRecords(t *testing.T) {
	g := harness.Start(t)
	p, q := signedIn(t, g, 0), signedIn(t, g, 2)
	p.do(chromedp.Navigate(g.URL+"/people?show=groups"), click(`[data-group="Port agents"]`),
		see(`[data-limit=claims] select`))
	p.pick(`[data-limit=claims] select`, "none, but totals of shared views")
	p.do(see(`[data-limit=claims] [data-least]`))
	p.axe("a limit to totals")
	p.do(click(`[data-save-group]`), seeText("it holds from now on"))

	q.do(chromedp.Navigate(g.URL), see(`[data-favorite]`), chromedp.Click(`//b[text()='Open claims by route']`), see(`[data-totals-view] [data-tally]`))
	q.says(`[data-totals-only]`, "groups of fewer than 5 are held back")
	largest := g.Ask(t, `SELECT r.name FROM claims c JOIN bookings b ON b.id = c.booking_id JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id
		WHERE coalesce(c.status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25 AND c.`+harrow+` GROUP BY r.name HAVING count(*) >= 5 ORDER BY sum(claimed) DESC LIMIT 1`)
	q.says(`[role=rowgroup] [data-level="1"]`, largest)
	q.axe("a view that is shown by its totals")
	q.do(click(`[data-depth="1"]`))
	q.until(`document.querySelectorAll('[role=row][data-level="2"]').length > 0`)
	require.Empty(t, q.texts(`[role=row][data-level="3"]`))
	require.NotContains(t, q.text(`[data-totals-view]`), "CL-0")
	q.do(click(`[data-take-totals]`), see(`[role=dialog]`))
	q.says(`[role=dialog]`, "Take away")
	require.NotContains(t, q.text(`[role=dialog]`), "CL-0")

	// On a board its parts are its totals.
	q.do(chromedp.Navigate(g.URL+"/boards"), chromedp.Click(`//a[normalize-space()='Start of the week']`), see(`[data-part=months] [data-drawn]`))
	q.do(click(`[data-part=months] [data-to-view]`), see(`[data-totals-view] [data-tally]`))

	// An owner shares a view of hers for its totals.
	p.do(chromedp.Navigate(g.URL+"/views"), chromedp.Click(`//a[normalize-space()='Late sailings, last 30 days']`), see(`[data-kept]`))
	p.do(more("name"), see(`[data-shares] select`))
	p.pick(`[data-shares] select`, "may see its totals, no records")
	p.do(see(`[data-shares] [data-least]`))
	p.axe("sharing for totals")
	p.do(chromedp.Click(`//form//button[normalize-space()='Save']`))
	p.says(`[data-audience]`, "everyone (totals only)")
	q.do(chromedp.Navigate(g.URL), see(`[data-favorite]`), chromedp.Click(`//b[text()='Late sailings, last 30 days']`), see(`[data-totals-view]`))
}
