package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

// Two who save the same view from one version see both, and choose; every version can be
// looked at and brought back; the bin gives back what was put there.
func TestTwoSaversVersionsAndTheBin(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	over := func(q *page, amount string) {
		q.do(
			click(`[data-phrase="filter.all[1]"]`), see(`[data-popover] [aria-label=Value]`),
			click(`[data-popover] [aria-label=Value]`),
			chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)), chromedp.KeyEvent(kb.Backspace),
			chromedp.KeyEvent(amount), browser.Painted(), keys(kb.Enter),
		)
		q.settled()
	}
	save := func(q *page) {
		q.do(chromedp.KeyEvent("s", chromedp.KeyModifiers(chromedp.ModifierCtrl)))
	}
	// The same person at another machine saves first.
	q := open(t)
	q.do(
		browser.SignIn(g.URL, demo.People[0].Email, demo.Password),
		chromedp.Click(`//b[text()='Open claims by route']`),
	)
	q.settled()
	over(q, "50")
	save(q)
	q.do(seeText("as saved"))
	over(p, "75")
	mine := p.text(`[data-brief]`)
	save(p)
	p.do(see(`[data-conflict] [data-theirs] p`), see(`[data-mine] p`))
	require.Contains(t, p.text(`[data-theirs]`), "claimed is over 25.00 became claimed is over 50.00")
	require.Contains(t, p.text(`[data-mine]`), "claimed is over 25.00 became claimed is over 75.00")
	p.axe("two have saved")
	require.Equal(
		t, "2", g.Ask(t, `SELECT max(version)::text FROM gavrik.view_versions WHERE name = 'Open claims by route'`),
		"nothing was written",
	)
	p.do(click(`[data-save-over]`), seeText("as saved"))
	require.Equal(t, mine, p.text(`[data-brief]`))
	require.Equal(
		t, "3", g.Ask(t, `SELECT max(version)::text FROM gavrik.view_versions WHERE name = 'Open claims by route'`),
	)

	// Versions in words; the first one comes back as a step, and is saved as the fourth.
	p.do(click(`[data-open-versions]`), see(`[data-versions] li:nth-child(3)`))
	require.Contains(t, p.texts(`[data-versions] li`)[0], "claimed is over 50.00 became claimed is over 75.00")
	p.axe("versions")
	p.do(click(`[data-version="1"]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "claimed is over 25.00")
	p.do(browser.Painted())
	save(p)
	p.do(seeText("as saved"))
	require.Equal(
		t, "25.00",
		g.Ask(
			t,
			`SELECT document #>> '{filter,all,1,value}' FROM gavrik.view_versions WHERE name = 'Open claims by route' AND version = 4`,
		),
	)

	// The library: what is chosen is labelled, and put into the bin; from there it comes back.
	p.do(
		chromedp.Navigate(g.URL+"/views"), chromedp.WaitVisible(`//a[normalize-space()='Open claims by age']`),
		chromedp.Click(`//input[@aria-label='Choose Open claims by age']`),
		chromedp.Click(`//input[@aria-label='Choose Prices by item']`), see(`[data-acts]`),
	)
	p.axe("views")
	p.do(
		clickText("label …"), see(`[data-acts] input`),
		chromedp.SendKeys(chromedp.CSS(`[data-acts] input`), "Monthly"+kb.Enter), seeText("Monthly"),
	)
	require.Equal(t, "2", g.Ask(t, `SELECT count(*)::text FROM gavrik.views WHERE label = 'Monthly'`))
	p.do(
		chromedp.Click(`//input[@aria-label='Choose Open claims by age']`), click(`[data-bin-chosen]`),
		see(`[data-bin] li`),
	)
	require.Contains(t, p.text(`[data-bin]`), "Open claims by age")
	p.do(chromedp.WaitNotPresent(`//a[normalize-space()='Open claims by age']`))
	p.do(click(`[data-back]`), chromedp.WaitVisible(`//a[normalize-space()='Open claims by age']`))
	require.Equal(t, "0", g.Ask(t, `SELECT count(*)::text FROM gavrik.views WHERE binned_at IS NOT NULL`))
}
