package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

// A template asks; somebody else begins a view of her own from it, answers, and sends the
// run as a link. Optional questions without an answer filter nothing, required ones wait.
func TestATemplateAsksItsReader(t *testing.T) {
	g, p := openAt(t, "Claims")
	count := func(where string, args ...any) string {
		return g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE `+where, args...)
	}
	// Two questions: a status, optional, with a proposal; an amount, required, with none.
	p.do(
		keys("a"), find("status"), see(`[data-ask-form] [data-ask-label]`),
		chromedp.Click(`//label[contains(.,'Open')]//input`),
	)
	p.settled()
	p.do(keys(kb.Escape))
	p.settled()
	p.do(
		keys("a"), find("status"), see(`[data-popover] li input`),
		chromedp.Click(`//li//label[contains(.,'Refused')]//input`), browser.Painted(),
	)
	p.axe("leaving a condition open")
	p.do(chromedp.Click(`//button[normalize-space()='Enter keep']`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "(as answered) status is Refused")
	p.do(
		keys("a"), find("claimed"), see(`[data-ask-required]`), click(`[data-ask-required]`),
		browser.Painted(), chromedp.Click(`//button[normalize-space()='Enter keep']`),
		see(`[data-waits]`),
	)
	require.Contains(t, p.text(`[data-waits]`), "Answer “Claimed: how much?” to see the claims.")
	p.do(clickText("Save …"), see(`[role=dialog] input[name=name]`), chromedp.SendKeys(
		chromedp.CSS(`[role=dialog] input[name=name]`), "Claims over an amount",
	),
		click(`input[name=template]`), shareWith("everyone"), chromedp.Click(
			`//form//button[normalize-space()='Save']`,
		), chromedp.WaitVisible(`//h1[text()='Claims over an amount']`))

	// Somebody else begins from it; the original stays as it is.
	q := open(t)
	q.do(
		browser.SignIn(g.URL, demo.People[1].Email, demo.Password), chromedp.Navigate(g.URL+"/views"),
		chromedp.Click(`//a[normalize-space()='Claims over an amount']`), see(`[data-waits]`),
	)
	require.Contains(t, q.text(`main`), "from the template “Claims over an amount”")
	q.do(
		click(`[data-question="claimed"] button`), see(`[data-popover] [aria-label=Value]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label=Value]`), "40"),
		browser.Painted(),
	)
	q.settled()
	q.axe("answering")
	q.do(keys(kb.Enter))
	q.settled()
	require.Equal(t, count(`status = 'Refused' AND claimed > 40`), q.text(`[data-kept]`))
	require.Contains(t, q.text(`[data-brief]`), "where (as answered) status is Refused")
	// Esc in the phrase of a question takes nothing of its answer away.
	q.do(click(`[data-phrase="filter.all[1]"]`), see(`[data-popover]`), keys(kb.Escape))
	q.settled()
	require.Equal(t, count(`status = 'Refused' AND claimed > 40`), q.text(`[data-kept]`))
	// No answer filters nothing, and says so.
	q.do(
		click(`[data-question="status"] button`), see(`[data-no-answer]`), click(`[data-no-answer]`),
		keys(kb.Escape, kb.Escape), click(`[data-question="status"] button`), see(`[data-no-answer]`),
		click(`[data-no-answer]`), chromedp.Click(`//button[normalize-space()='Enter keep']`),
	)
	q.settled()
	require.Equal(t, count(`claimed > 40`), q.text(`[data-kept]`))
	require.Equal(t, "anything", q.texts(`[data-question="status"] button`)[0])
	require.Contains(t, q.text(`[data-brief]`), "status is anything")

	// On paper the answers stand apart from what is built in.
	_, err := chromedp.Run(q.tab, chromedp.Evaluate[bool](`window.dispatchEvent(new Event('beforeprint'))`))
	require.NoError(t, err)
	q.do(chromedp.WaitReady(chromedp.CSS(`[data-print] td`)))
	printed, err := chromedp.Run(
		q.tab, chromedp.Evaluate[string](`document.querySelector('[data-print-answers]').textContent`),
	)
	require.NoError(t, err)
	require.Equal(t, "Which status?no answer: filters nothingClaimed: how much?claimed is over 40.00", printed)
	_, err = chromedp.Run(q.tab, chromedp.Evaluate[bool](`window.dispatchEvent(new Event('afterprint'))`))
	require.NoError(t, err)

	// The run goes as a link, answers and all; the author has her own last answers.
	link, err := chromedp.Run(q.tab, chromedp.Evaluate[string](`location.href`))
	require.NoError(t, err)
	p.do(chromedp.Navigate(link), see(`[data-kept]`))
	p.settled()
	require.Equal(t, count(`claimed > 40`), p.text(`[data-kept]`))
	require.Equal(
		t, "1",
		g.Ask(t, `SELECT max(version)::text FROM gavrik.view_versions WHERE name = 'Claims over an amount'`),
		"the template is as it was",
	)

	// Answers are remembered at the next visit, and a copy is saved as one's own.
	q.do(
		clickText("Save …"), see(`[role=dialog] input[name=name]`),
		chromedp.SendKeys(chromedp.CSS(`[role=dialog] input[name=name]`), "My claims over an amount"+kb.Enter),
		chromedp.WaitVisible(`//h1[text()='My claims over an amount']`),
	)
	q.do(
		chromedp.Navigate(g.URL), browser.Painted(), chromedp.Navigate(g.URL+"/views"),
		chromedp.Click(`//a[normalize-space()='My claims over an amount']`), see(`[data-questions]`),
	)
	require.Equal(
		t, "Jory Hale",
		g.Ask(
			t,
			`SELECT p.name FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id JOIN gavrik.people p ON p.id = v.owner_id WHERE n.name = 'My claims over an amount'`,
		),
	)
}
