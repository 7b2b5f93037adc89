package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// Each claim against the one before of the same customer, from the column's lens: as a column, then
// as a condition that sees the records which the others keep. The rank of each comes from there, too.
func TestEachRecordBesideTheOneBefore(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[contains(., 'Opened at')]`),
		see(`[data-beside-take="since"]`), click(`[data-beside-take="since"]`), see(`[data-same]`),
		click(`[data-same]`), find("customer name"), browser.Painted(),
	)
	p.says(`[data-linked-preview]`, "The time from the opened at of the claim before of the same")
	p.axe("beside the one before")
	p.do(chromedp.SendKeys(chromedp.CSS(`[data-popover] [data-name]`), "Since their last"+kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Since their last is the time from the opened at of the claim before of the same customer")
	heads := p.heads()
	require.Equal(t, "Since their last", heads[len(heads)-1])

	const before = `(SELECT c.status, opened_at - lag(opened_at) OVER (PARTITION BY customer_id ORDER BY opened_at, c.id) AS since FROM claims c JOIN bookings b ON b.id = booking_id WHERE `
	p.do(keys("f"), find("since their last"), see(`[data-popover] [aria-label="Value"]`),
		chromedp.Click(`//*[@data-popover]//button[normalize-space(.)="is under"]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label="Value"]`), "240 h"))
	p.settled()
	want := g.Ask(t, `SELECT trim(to_char(count(*), '999,999')) FROM `+before+`true) x WHERE since < interval '240 hours'`)
	require.Equal(t, want, p.text(`[data-effect] b`))
	p.do(keys(kb.Enter))
	p.settled()

	// A condition that comes later decides all the same among which records each stands.
	p.do(keys("f"), find("status"), browser.Painted(),
		chromedp.Click(`//*[@data-popover]//label[contains(., 'Settled')]`), keys(kb.Enter))
	p.settled()
	require.Equal(t,
		g.Ask(t, `SELECT trim(to_char(count(*), '999,999')) FROM `+before+`c.status = 'Settled') x WHERE since < interval '240 hours'`),
		p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-brief]`), "among those that the other conditions keep")
}

// Routes over a bound, from the group's own editor and from a figure.
func TestRoutesOverABound(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(group("route"))
	p.settled()
	p.do(click(`[data-phrase="groups[0]"]`), see(`[data-how]`))
	p.until(`(() => { const s = document.querySelector('[data-how]'); s.value = 'test'; s.dispatchEvent(new Event('change')); return !!document.querySelector('[aria-label="Bound"]') })()`)
	const routes = `(SELECT count(*) AS n FROM claims c JOIN bookings b ON b.id = booking_id JOIN sailings s ON s.id = sailing_id GROUP BY route_id) x`
	bound := g.Ask(t, `SELECT percentile_disc(0.5) WITHIN GROUP (ORDER BY n)::text FROM `+routes)
	p.do(chromedp.SendKeys(chromedp.CSS(`[aria-label="Bound"]`), bound))
	p.settled()
	p.axe("groups kept by their total")
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "only those whose number of claims is over "+bound+", the others left out")
	require.Equal(t, g.Ask(t, `SELECT trim(to_char(sum(n), '999,999')) FROM `+routes+` WHERE n > `+bound), p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-tally]`),
		g.Ask(t, `SELECT count(*) || ' groups of route with ' || sum(n) || ' claims left out by their total' FROM `+routes+` WHERE n <= `+bound))
}
