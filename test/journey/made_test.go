package journey

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// calculate opens a new calculated field and types a formula and a name.
func calculate(formula, name string) []browser.Step {
	return []browser.Step{
		chromedp.KeyEvent("="), see(`[data-formula]`), see(`[data-starter]`), chromedp.SendKeys(chromedp.CSS(`[data-formula]`), formula),
		see(`[data-look]`), chromedp.SendKeys(chromedp.CSS(`[data-name]`), name), chromedp.Sleep(600 * time.Millisecond),
	}
}

// From a formula and buckets in one view to definitions that a second view uses, and a
// change of one whose effect is seen before it is saved.
func TestFormulasBucketsAndDefinitions(t *testing.T) {
	g, p := openAt(t, "Claims")

	// A fault is said in words as it is typed, and stays to be mended.
	p.do(chromedp.KeyEvent("="), see(`[data-starter]`), see(`[data-formula]`), chromedp.SendKeys(chromedp.CSS(`[data-formula]`), "'Claimd' * 2"), see(`[data-fault]`))
	require.Equal(t, `There is no field 'Claimd'; did you mean "Claimed"?`, p.text(`[data-fault]`))
	p.axe("formula editor")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.settled()

	p.do(calculate("'Claimed' - COALESCE('Paid'; 0)", "Outstanding")...)
	require.Contains(t, p.text(`[data-kind]`), "Worked out for each record")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	p.do(calculate("SUM('Outstanding') / SUM('Claimed')", "Still owed")...)
	require.Contains(t, p.text(`[data-kind]`), "Worked out for each group")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Outstanding is 'Claimed' - COALESCE('Paid'; 0).")

	// Buckets of a date go by its age.
	p.do(chromedp.Click(`//*[@role='columnheader']//button[contains(., 'Opened at')]`), chromedp.KeyEvent("b"), see(`[data-age]`), click(`[data-age]`), see(`[data-ageing]`), click(`[data-ageing]`),
		seeText("up to 7 days"), chromedp.SendKeys(chromedp.CSS(`[data-name]`), "Age of claim"), chromedp.Sleep(600*time.Millisecond))
	p.axe("bucket editor")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "grouped by age of claim")
	labels := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)
	require.Equal(t, "up to 7 days", labels[0], "the author's order, not the alphabet's")
	require.Equal(t, "8 to 14 days", labels[1])

	// The ratio of sums on a subtotal is PostgreSQL's.
	heads, cells := p.heads(), p.texts(`[role=rowgroup] [data-level="1"]:first-child [data-cell]`)
	require.Contains(t, heads[len(heads)-1], "Still owed")
	want := g.Ask(t, `SELECT round(sum(claimed - coalesce(paid, 0)) / sum(claimed), 2)::text FROM claims WHERE date '2026-11-23' - opened_at::date < 8`)
	require.Equal(t, want, cells[len(cells)-1])

	// Both become definitions; the view goes on with them.
	p.do(click(`[data-phrase="calculated[0]"]`), see(`[data-look]`), chromedp.Sleep(600*time.Millisecond), click(`[data-share]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Outstanding is 'Claimed' - COALESCE('Paid'; 0) for all views.")
	p.do(click(`[data-phrase="buckets[0]"]`), see(`[data-count]`), chromedp.Sleep(600*time.Millisecond), click(`[data-share]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "over 365 days for all views.")
	p.do(clickText("Save …"), see(`[role=dialog] input[name=name]`), chromedp.SendKeys(chromedp.CSS(`[role=dialog] input[name=name]`), "What is owed by age"+kb.Enter), seeText("as saved"))

	// A second view finds them like any field.
	p.do(chromedp.Navigate(g.URL + "/new/claims"))
	p.settled()
	p.do(keys("g"), find("age of claim"), keys(kb.Enter))
	p.settled()
	p.do(keys("/"), find("outstanding"), keys(kb.Escape, "/"), find("outstanding"), keys(kb.Enter))
	p.settled()
	require.Equal(t, labels, p.texts(`[role=rowgroup] [data-level="1"] button .truncate`))
	require.Contains(t, p.heads(), "Outstanding")

	// Changing one says first what it does to the views, then they are told.
	p.do(chromedp.Navigate(g.URL+"/definitions"), see(`[data-definitions] button`), chromedp.Click(`//*[@data-definitions]//button[contains(., 'Outstanding')]`), see(`[data-formula]`), see(`[data-look]`))
	p.axe("definitions")
	p.do(chromedp.SendKeys(chromedp.CSS(`[data-formula]`), " + 1"), see(`[data-effects] td`))
	effects := p.text(`[data-effects]`)
	require.Contains(t, effects, "What is owed by age")
	was := g.Ask(t, `SELECT to_char(sum(claimed - coalesce(paid, 0)), 'FM999,999,990.00') FROM claims`)
	is := g.Ask(t, `SELECT to_char(sum(claimed - coalesce(paid, 0) + 1), 'FM999,999,990.00') FROM claims`)
	require.Contains(t, effects, was+" "+is)
	p.do(click(`[data-save]`), chromedp.WaitVisible(`//p[contains(., 'version 2')]`), chromedp.Navigate(g.URL+"/views"), chromedp.Click(`//a[text()='What is owed by age']`))
	p.settled()
	require.Contains(t, p.text(`[data-since]`), "Outstanding was changed by")
	require.Contains(t, p.texts(`[data-grand] [data-cell]`), is)
}
