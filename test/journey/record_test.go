package journey

import (
	"strings"
	"testing"
	"time"

	"gavrik/test/browser"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// From a line of the ledger to one record whole, on to the records linked with it,
// through the view's order, and back.
func TestARecordWhole(t *testing.T) {
	g, p := openAt(t, "Bookings")
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(), 'Booked at')]`), keys("s"),
	)
	p.settled()
	refs := p.texts(`[role=rowgroup] [data-level="1"] [data-cell]:first-of-type`)
	require.Greater(t, len(refs), 3)
	p.do(
		chromedp.DoubleClick(chromedp.CSS(`[role=rowgroup] [data-level="1"] [data-cell]:nth-child(3)`)),
		see(`[data-record]`), see(`[data-linked="claims"]`), see(`[data-linked="payments"] td`),
	)
	ref := p.text(`[data-record]`)
	require.Contains(t, refs[0], ref)
	require.Equal(
		t, g.Ask(t, `SELECT to_char(fare, 'FM999,990.00') FROM bookings WHERE ref = $1`, ref),
		p.text(`[data-field="fare"]`),
	)
	require.NotEmpty(t, p.text(`[data-field="fare_each"]`), "what is defined stands with what is stored")
	require.Contains(
		t, p.text(`[data-linked="booking_lines"] h2`),
		g.Ask(
			t, `SELECT count(*)::text FROM booking_lines l JOIN bookings b ON b.id = booking_id WHERE b.ref = $1`, ref,
		),
	)
	require.Equal(
		t, g.Ask(t, `SELECT s.ref FROM bookings b JOIN sailings s ON s.id = sailing_id WHERE b.ref = $1`, ref),
		p.texts(`dd a`)[1],
	)
	p.axe("a record")

	// Along the view's order by key, and into a linked record.
	p.do(keys(kb.ArrowRight))
	require.Eventually(t, func() bool {
		now := p.text(`[data-record]`)
		return now != ref && now != "" && strings.Contains(refs[1], now)
	}, 20*time.Second, 50*time.Millisecond)
	p.do(click(`[data-before]`))
	p.says(`[data-record]`, ref)
	p.do(see(`[data-linked="payments"] td a`))
	payment := p.texts(`[data-linked="payments"] td a`)[0]
	p.do(click(`[data-linked="payments"] td a`), see(`[data-field="method"]`))
	require.Equal(
		t, g.Ask(t, `SELECT method FROM payments WHERE ref = $1`, payment), p.text(`[data-field="method"]`),
	)
	p.do(chromedp.NavigateBack(), see(`[data-field="fare"]`), clickText("Back to the view"))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Bookings")

	// The order goes on past what the ledger has read: from the last record to the one before.
	p.do(
		chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.End), browser.Painted(),
		keys(kb.Enter), see(`[data-before]:not([disabled])`),
	)
	const nth = `SELECT ref FROM bookings ORDER BY booked_at NULLS LAST, id OFFSET (SELECT count(*) FROM bookings) - $1::int LIMIT 1`
	require.Equal(t, g.Ask(t, nth, 1), p.text(`[data-record]`))
	require.Equal(
		t, "of "+g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM bookings`)+" in the view",
		p.text(`[data-of]`),
	)
	p.do(keys(kb.ArrowLeft))
	p.says(`[data-record]`, g.Ask(t, nth, 2))

	p.do(
		chromedp.Navigate(g.URL+"/r/bookings/NO-SUCH"), seeText("There is no booking"),
		chromedp.Navigate(g.URL+"/r/nowhere/1"),
	)
	p.says(`main`, "nowhere")
}
