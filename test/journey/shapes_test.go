package journey

import (
	"slices"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// heads are the column headings of the ledger, from left to right.
func (p *page) heads() []string {
	p.t.Helper()
	return p.texts(`[role=columnheader] button`)
}

// A level of groups is turned across the top and back; its cells are PostgreSQL's.
func TestCrosstabInTheBrowser(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(group("category"))
	p.settled()
	p.do(keys("g"), find("status"))
	p.settled()
	p.do(click(`[data-turn]`))
	p.settled()
	require.Contains(
		t, p.text(`[data-brief]`), "grouped by category, across by status, with the number of claims",
	)
	heads := p.texts(`[data-across]`)
	require.Equal(t, "All", heads[len(heads)-1])
	require.Contains(t, heads, "blank")
	require.Contains(t, heads, "Open")
	p.axe("crosstab")
	category := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)[0]
	cells := p.texts(`[role=rowgroup] [aria-rowindex="2"] [data-cell]`)
	require.Len(t, cells, len(heads))
	open := g.Ask(t, `SELECT count(*)::text FROM claims WHERE category = $1 AND status = 'Open'`, category)
	require.Equal(t, open, cells[slices.Index(heads, "Open")])
	require.Equal(
		t, g.Ask(t, `SELECT count(*)::text FROM claims WHERE category = $1`, category), cells[len(cells)-1],
	)
	require.Empty(t, p.texts(`[role=rowgroup] [data-level="2"]`), "a cell has many records; none has a line")

	// The first groups alone, the rest as one.
	p.do(
		click(`[data-phrase="groups[0]"]`), see(`[data-top]`),
		chromedp.SendKeys(chromedp.CSS(`[data-top]`), "2"+kb.Tab),
	)
	p.settled()
	p.do(chromedp.Click(`//*[@data-popover]//button[contains(., 'keep')]`))
	p.settled()
	groups := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)
	require.Len(t, groups, 3)
	require.Contains(t, groups[2], "others")
	require.Contains(t, p.text(`[data-brief]`), "category (the first 2, the rest as one)")
}

// Totals beside those of the period before, and a stretch kept from the lens.
func TestComparisonAndTheLens(t *testing.T) {
	g, p := openAt(t, "Fares by route and month")
	p.do(keys("x"), see(`[data-with="before"]`))
	p.axe("compare editor")
	p.do(click(`[data-with="before"]`))
	p.settled()
	p.do(chromedp.Click(`//*[@data-popover]//button[contains(., 'keep')]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "compared with period before (")
	others := g.Ask(t, `SELECT count(*)::text FROM bookings b JOIN sailings s ON s.id = sailing_id WHERE b.status NOT IN ('Cancelled', 'Waiting list')
		AND departs_at >= date_trunc('month', now()) - interval '12 months' AND departs_at < date_trunc('month', now()) - interval '6 months'`)
	require.Contains(t, p.text(`[data-tally]`), "beside "+grouped(others)+" of period before")

	// The lens says how a total came about; a bar of the spread keeps its stretch.
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[contains(., 'Fare')]`), see(`[data-explained]`),
		see(`[data-spread] button`),
	)
	require.Regexp(t, `^Total fare of [\d,]+ bookings\. [\d,]+ values went in\.$`, p.text(`[data-explained]`))
	before := p.text(`[data-kept]`)
	p.do(click(`[data-spread] button:first-child`))
	p.settled()
	require.NotEqual(t, before, p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-brief]`), "fare is under")
	p.do(chromedp.Click(`//button[text()='share of all']`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "share of all total fare")
}

// grouped puts commas between the thousands of a number.
func grouped(digits string) string {
	for i := len(digits) - 3; i > 0; i -= 3 {
		digits = digits[:i] + "," + digits[i:]
	}
	return digits
}

// A percentile of one's own, the last value by a date, and a total that only some
// levels show: set in the lens, PostgreSQL's figures in the ledger.
func TestOptionsOfTotals(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(group("category"))
	p.settled()
	claimed := chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(), 'Claimed')]`)
	total := func(name string) browser.Step {
		return chromedp.Click(`//*[@data-totals]//button[normalize-space()='` + name + `']`)
	}
	p.do(claimed, see(`[data-totals]`), total("percentile"))
	p.settled()
	changed := func(css string) {
		t.Helper()
		_, err := chromedp.Run(
			p.tab,
			chromedp.Evaluate[any](
				`document.querySelector('`+css+`').dispatchEvent(new Event('change', {bubbles: true}))`,
			),
		)
		require.NoError(t, err)
		p.settled()
	}
	p.do(
		chromedp.Click(`//*[@data-total-options]//button[contains(., 'percentile')]`), see(`[data-percent]`),
		chromedp.SetValue(chromedp.CSS(`[data-percent]`), "75"),
	)
	changed(`[data-percent]`)
	category := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)[0]
	want := g.Ask(
		t,
		`SELECT to_char(round(percentile_cont(0.75) WITHIN GROUP (ORDER BY claimed)::numeric, 2), 'FM999,990.00') FROM claims WHERE category = $1`,
		category,
	)
	require.Contains(t, p.texts(`[role=rowgroup] [aria-rowindex="2"] [data-cell]`), want)
	require.Contains(t, p.text(`[data-brief]`), "75th percentile of claimed")

	// Only the groups show it, not the line of all.
	p.do(click(`[data-total-options] [data-on="0"]`))
	p.settled()
	require.Contains(t, p.texts(`[role=rowgroup] [aria-rowindex="2"] [data-cell]`), want)
	require.Empty(t, p.texts(`[data-grand] [data-cell="percentile"]`)[0])

	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(), 'Status')]`),
		total("last"),
	)
	p.settled()
	p.do(
		chromedp.Click(`//*[@data-total-options]//button[contains(., 'last')]`), see(`[data-by]`),
		chromedp.SetValue(chromedp.CSS(`[data-by]`), "opened_at"),
	)
	changed(`[data-by]`)
	last := g.Ask(
		t,
		`SELECT status FROM claims WHERE category = $1 AND status IS NOT NULL ORDER BY opened_at DESC, id DESC LIMIT 1`,
		category,
	)
	require.Contains(t, p.texts(`[role=rowgroup] [aria-rowindex="2"] [data-cell]`), last)
	p.axe("options of totals")
}
