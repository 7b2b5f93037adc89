package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

// Enter right behind the last letter keeps all of what was typed: a formula, a number of an
// editor; and the next step drops none of it.
func TestEnterKeepsTheLastLetters(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(
		chromedp.KeyEvent("="), see(`[data-formula]`), see(`[data-starter]`),
		chromedp.SendKeys(chromedp.CSS(`[data-formula]`), "'Claimed' * 2"), see(`[data-look]`),
		chromedp.SendKeys(chromedp.CSS(`[data-formula]`), " + 1000"), chromedp.KeyEvent(kb.Enter),
	)
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "'Claimed' * 2 + 1000")
	p.do(
		keys("g"), find("category"), see(`[data-top]`),
		chromedp.SendKeys(chromedp.CSS(`[data-top]`), "3"), chromedp.KeyEvent(kb.Enter),
	)
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "the first 3")
	top := p.texts(`[data-level="1"]`)
	require.Len(t, top, 4, "three groups and the rest")
	p.do(
		keys("f"), find("status"), see(`[data-popover] li input`), click(`[data-popover] li:first-child input`),
		chromedp.KeyEvent(kb.Enter),
	)
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "the first 3", "the next step drops nothing")
	require.Equal(
		t, g.Ask(t, `SELECT to_char(max(n), 'FM999,999') FROM (SELECT count(*) AS n FROM claims GROUP BY status) x`),
		p.text(`[data-kept]`),
	)
}

// A click opens what was clicked, as it is saved; unsaved work of another time waits beside the
// title, and is gone on with or dropped.
func TestAClickOpensWhatWasClicked(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	asSaved := p.text(`[data-brief]`)
	work := func() {
		p.do(group("category"))
		p.settled()
		p.do(see(`[data-changed][title^="Kept on the server"]`))
	}
	work()
	mine := p.text(`[data-brief]`)
	require.NotEqual(t, asSaved, mine)
	again := func() {
		p.do(
			chromedp.Navigate(g.URL), see(`[data-favorite]`),
			chromedp.Click(`//*[@aria-labelledby='favorites']//a[contains(., 'Open claims by route')]`),
		)
		p.settled()
		require.Equal(t, asSaved, p.text(`[data-brief]`))
		p.do(see(`[data-earlier]`))
	}
	again()
	p.do(click(`[data-go-on]`), see(`[data-phrase="groups[2]"]`))
	p.settled()
	require.Equal(t, mine, p.text(`[data-brief]`))
	require.Empty(t, p.texts(`[data-earlier]`))
	again()
	p.do(click(`[data-drop-earlier]`), chromedp.WaitNotPresent(chromedp.CSS(`[data-earlier]`)))
	require.Equal(t, "0", g.Ask(t, `SELECT count(*)::text FROM gavrik.drafts`))
}

// What the browser remembers of one person the next one at the same browser does not see.
func TestTheBrowserRemembersForOnePersonOnly(t *testing.T) {
	g, p := openAt(t, "Claims")
	const remembered = `Object.keys(localStorage).filter(k => k.includes('unsent')).length`
	p.do(group("category"))
	p.settled()
	count := func() int {
		n, err := chromedp.Run(p.tab, chromedp.Evaluate[int](remembered))
		require.NoError(t, err)
		return n
	}
	require.Equal(t, 1, count())
	_, err := g.DB.Exec(t.Context(), "DELETE FROM gavrik.sign_ins")
	require.NoError(t, err)
	p.do(
		browser.SignIn(g.URL, demo.People[1].Email, demo.Password),
		chromedp.Click(`//b[text()='Claims']`),
	)
	p.settled()
	require.Equal(t, 2, count(), "a memory of one's own")
	require.NotContains(t, p.text(`[data-brief]`), "grouped by")
	require.Empty(t, p.texts(`[data-earlier]`))
}

// A view that cannot run any more says its sentence with the broken phrase, which is left out in
// place.
func TestABrokenViewIsMendedInPlace(t *testing.T) {
	g, p := openAt(t, "Claims")
	_, err := g.DB.Exec(t.Context(), "ALTER TABLE claims RENAME COLUMN status TO state")
	require.NoError(t, err)
	_, err = chromedp.Run(p.tab, chromedp.Evaluate[int](
		`fetch('/api/refresh', {method: 'POST'}).then(r => r.status)`, chromedp.EvalAwaitPromise,
	))
	require.NoError(t, err)
	p.do(
		chromedp.Navigate(g.URL), see(`[data-favorite]`),
		chromedp.Click(`//*[@aria-labelledby='favorites']//a[contains(., 'Open claims by route')]`),
		see(`[data-broken]`),
	)
	require.Contains(t, p.text(`[data-broken]`), "status none of Settled, Refused, Withdrawn")
	require.Contains(t, p.text(`[data-broken-brief]`), "grouped by")
	p.axe("a view that cannot run")
	// It is told by its new name, and the filter is what it was.
	p.do(click(`[data-lost=status]`), find("state"))
	p.settled()
	const open = `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE claimed > 25`
	require.Contains(t, p.text(`[data-brief]`), "state is not Settled, Refused or Withdrawn")
	require.Equal(t, g.Ask(t, open+` AND (state IS NULL OR state NOT IN ('Settled', 'Refused', 'Withdrawn'))`),
		p.text(`[data-kept]`))
	// Or it is left out.
	p.do(ctrlZ(false), click(`[data-broken] [data-leave-out]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "claimed is over 25.00")
	require.Equal(t, g.Ask(t, open), p.text(`[data-kept]`))
}
