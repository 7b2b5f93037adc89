package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// calculate opens a new calculated field and types a formula and a name.
func calculate(formula, name string) []browser.Step {
	return []browser.Step{
		chromedp.KeyEvent("="), see(`[data-formula]`), see(`[data-starter]`),
		chromedp.SendKeys(chromedp.CSS(`[data-formula]`), formula),
		see(`[data-look]`), chromedp.SendKeys(chromedp.CSS(`[data-name]`), name), answered(),
	}
}

// answered waits until what is typed into an editor is answered, and right.
func answered() browser.Step {
	return chromedp.Steps(browser.Painted(), see(`[data-settled="true"]`))
}

// shared saves what is being edited for all views; the editor closes once it is.
func shared() browser.Step {
	return chromedp.Steps(
		answered(), click(`[data-share]`), chromedp.WaitNotPresent(chromedp.CSS(`[data-popover]`)),
	)
}

// From a formula and buckets in one view to definitions that a second view uses, and a
// change of one whose effect is seen before it is saved.
func TestFormulasBucketsAndDefinitions(t *testing.T) {
	g, p := openAt(t, "Claims")

	// A fault is said in words as it is typed, and stays to be mended.
	p.do(
		chromedp.KeyEvent("="), see(`[data-starter]`), see(`[data-formula]`),
		chromedp.SendKeys(chromedp.CSS(`[data-formula]`), "'Claimd' * 2"),
	)
	p.says(`[data-fault]`, `There is no field 'Claimd'; did you mean "Claimed"?`)
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
	p.do(chromedp.Click(
		`//*[@role='columnheader']//button[contains(., 'Opened at')]`,
	), chromedp.KeyEvent("b"), see(`[data-age]`), click(`[data-age]`), see(`[data-propose=ageing]`), click(`[data-propose=ageing]`),
		seeText("up to 7 days"), chromedp.SendKeys(chromedp.CSS(`[data-name]`), "Age of claim"), answered())
	p.axe("bucket editor")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "grouped by age of claim")
	labels := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)
	require.Equal(t, "up to 7 days", labels[0], "the author's order, not the alphabet's")
	require.Equal(t, "8 to 14 days", labels[1])

	// The ratio of sums on a subtotal is PostgreSQL's.
	heads, cells := p.heads(), p.texts(`[role=rowgroup] [aria-rowindex="2"] [data-cell]`)
	require.Contains(t, heads[len(heads)-1], "Still owed")
	want := g.Ask(
		t,
		`SELECT round(sum(claimed - coalesce(paid, 0)) / sum(claimed), 2)::text FROM claims WHERE date '2026-11-23' - opened_at::date < 8`,
	)
	require.Equal(t, want, cells[len(cells)-1])

	// Both become definitions; the view goes on with them.
	p.do(click(`[data-phrase="calculated[0]"]`), see(`[data-look]`), shared())
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Outstanding is 'Claimed' - COALESCE('Paid'; 0) for all views.")
	p.do(click(`[data-phrase="buckets[0]"]`), see(`[data-count]`), shared())
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "into 8 bands for all views.")
	p.do(clickText("all of it"))
	require.Contains(t, p.text(`[data-brief]`), "over 365 days for all views.")
	p.do(
		clickText("Save …"), see(`[role=dialog] input[name=name]`),
		chromedp.SendKeys(chromedp.CSS(`[role=dialog] input[name=name]`), "What is owed by age"+kb.Enter),
		seeText("as saved"),
	)

	// A second view finds them like any field.
	p.do(chromedp.Navigate(g.URL + "/new/claims"))
	p.settled()
	p.do(group("age of claim"))
	p.settled()
	p.do(keys("/"), find("outstanding"), keys(kb.Escape, "/"), find("outstanding"), keys(kb.Enter))
	p.settled()
	require.Equal(t, labels, p.texts(`[role=rowgroup] [data-level="1"] button .truncate`))
	require.Contains(t, p.heads(), "Outstanding")

	// Changing one says first what it does to the views, then they are told.
	p.do(
		chromedp.Navigate(g.URL+"/definitions"), see(`[data-definitions] button`),
		chromedp.Click(`//*[@data-definitions]//button[contains(., 'Outstanding')]`), see(`[data-formula]`),
		see(`[data-look]`),
	)
	p.axe("definitions")
	p.do(chromedp.SendKeys(chromedp.CSS(`[data-formula]`), " + 1"), see(`[data-effects] td`))
	effects := p.text(`[data-effects]`)
	require.Contains(t, effects, "What is owed by age")
	was := g.Ask(t, `SELECT to_char(sum(claimed - coalesce(paid, 0)), 'FM999,999,990.00') FROM claims`)
	is := g.Ask(t, `SELECT to_char(sum(claimed - coalesce(paid, 0) + 1), 'FM999,999,990.00') FROM claims`)
	require.Contains(t, effects, was+" "+is)
	p.do(
		click(`[data-save]`), chromedp.WaitVisible(`//p[contains(., 'version 2')]`),
		chromedp.Navigate(g.URL+"/views"), chromedp.Click(`//a[text()='What is owed by age']`),
	)
	p.settled()
	require.Contains(t, p.text(`[data-since]`), "Outstanding was changed by")
	require.Contains(t, p.texts(`[data-grand] [data-cell]`), is)
}

// Values of a text are collected into bands with their counts; the bucket is taken out
// with all that goes by it, and undo brings all of it back. An average of prices that
// differ is marked, and split until each line has one price.
func TestBucketsOfTextAndMixedPrices(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[contains(., 'Category')]`), chromedp.KeyEvent("b"),
		see(`[data-values] input`),
	)
	values := p.texts(`[data-values] li label span:first-of-type`)
	tick := func(n string) browser.Step {
		return chromedp.Steps(click(`[data-values] li:nth-child(`+n+`) input`), answered())
	}
	p.do(
		tick("1"), tick("3"), click(`[data-add-band]`), click(`[data-bands] tbody tr:nth-child(2)`), tick("2"),
		answered(),
	)
	count := func(names ...string) string {
		return grouped(g.Ask(t, `SELECT count(*)::text FROM claims WHERE category = ANY($1)`, names))
	}
	require.Equal(t, []string{
		count(values[0], values[2]), count(values[1]),
	}, p.texts(`[data-bands] [data-count]`))
	// A value goes to the band at hand, and leaves the one it was in.
	p.do(tick("3"), answered())
	require.Equal(t, []string{
		count(values[0]), count(values[1], values[2]),
	}, p.texts(`[data-bands] [data-count]`))
	p.axe("bucket of text")
	p.do(
		chromedp.SendKeys(chromedp.CSS(`[data-bands] tbody tr:nth-child(2) input`), "Two kinds"), answered(),
		chromedp.KeyEvent(kb.Enter),
	)
	p.settled()
	labels := p.texts(`[role=rowgroup] [data-level="1"] button .truncate`)
	require.Equal(t, []string{values[0], "Two kinds", "Everything else"}, labels)

	p.do(click(`[data-phrase="buckets[0]"]`), see(`[data-count]`), clickText("Take out of this view"))
	p.settled()
	require.NotContains(t, p.text(`[data-brief]`), "Two kinds")
	require.Empty(t, p.texts(`[role=rowgroup] [data-level="1"] button .truncate`), "no group is left")
	p.do(ctrlZ(false))
	p.settled()
	require.Equal(t, labels, p.texts(`[role=rowgroup] [data-level="1"] button .truncate`))
	// It can be filtered by, too: Everything else alone.
	p.do(
		keys("f"), find("category bands"), see(`[data-popover] li input`),
		chromedp.Click(`//label[contains(.,"Everything else")]//input`),
	)
	p.settled()
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	require.Equal(t, []string{"Everything else"}, p.texts(`[role=rowgroup] [data-level="1"] button .truncate`))

	p.do(chromedp.Navigate(g.URL+"/views"), chromedp.Click(`//a[text()='Prices by item']`))
	p.settled()
	p.do(
		see(`[data-level="2"] [data-mix]`),
		chromedp.Click(`//*[@role='columnheader']//button[contains(., 'Unit price')]`), see(`[data-split]`),
	)
	require.Contains(t, p.text(`[data-explained]`), "It is no price: those that went in lie from ")
	p.axe("a mix of prices")
	p.do(click(`[data-split]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "then item then unit price")
	p.do(chromedp.Click(`//nav[@aria-label='Show down to']//button[contains(., 'Unit price')]`))
	p.settled()
	require.NotEmpty(t, p.texts(`[data-level="3"]`))
	require.Empty(t, p.texts(`[data-level="3"] [data-mix]`), "each line has one price")
	require.NotEmpty(t, p.texts(`[data-level="2"] [data-mix]`))
}
