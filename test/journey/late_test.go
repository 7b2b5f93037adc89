package journey

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	cdppage "github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// holdable makes a page's requests ones that hold can keep waiting, from its first script on.
func holdable(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
	_, err := cdp.Call(ctx, t, cdppage.AddScriptToEvaluateOnNewDocument, cdppage.AddScriptToEvaluateOnNewDocumentParams{Source: `
		const ask = window.fetch
		window.fetch = async (request, more) => {
			const answer = await ask(request, more)
			const { method, url } = request
			if (window.holding === method + ' ' + new URL(url ?? request, location).pathname.replace(/^(\/api\/\w+).*/, '$1')) {
				window.held++
				await window.gate
			}
			return answer
		}`})
	return chromedp.Void{}, err
}

// hold lets the answers to a request wait until they are let go; they are counted.
func (p *page) hold(request string) (letGo func()) {
	p.t.Helper()
	eval[bool](p, fmt.Sprintf(
		`(window.held = 0, window.holding = %q, window.gate = new Promise(done => window.letGo = done), true)`, request))
	return func() { eval[bool](p, `(window.holding = '', window.letGo(), true)`) }
}

// What is shown of a figure, and every act on it, is of the one that is chosen now.
func TestActsWaitForWhatIsChosen(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(group("category"))
	p.settled()
	choose := func(i int) string {
		line := fmt.Sprintf(`[role=rowgroup] [aria-rowindex="%d"]`, i+1)
		p.do(click(line + ` [role=gridcell]:first-child .quiet`)) // the count, beside the label
		return p.text(line + ` button .truncate`)
	}
	first := choose(1)
	p.says(`[data-figure] h2`, first)
	p.do(chromedp.WaitEnabled(chromedp.CSS(`[data-keep-group]`)))
	letGo := p.hold("POST /api/behind")
	second := choose(2)
	p.says(`[data-figure] h2`, second)
	p.until(`window.held > 0`)
	require.True(t, eval[bool](p, `document.querySelector('[data-see-records]').disabled`), "its path is not here yet")
	require.Empty(t, p.texts(`[data-keep-group]:enabled`))
	letGo()
	p.do(chromedp.WaitEnabled(chromedp.CSS(`[data-keep-group]`)), click(`[data-keep-group]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "category is "+second)
	require.Equal(t, g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE category = $1`, second),
		p.text(`[data-kept]`))
}

// Bounds that are proposed for one field do not land on another that was chosen meanwhile.
func TestALateProposalIsOfNoUse(t *testing.T) {
	_, p := openAt(t, "Claims")
	p.do(keys("b"), see(`[data-popover] [role=option]`))
	letGo := p.hold("POST /api/split")
	p.do(find("claimed"), see(`[data-proposals]`))
	p.until(`window.held > 0`)
	p.do(clickText("another field"), find("opened at"), see(`[data-age]`))
	letGo()
	p.says(`[data-popover]`, "Opened at")
	p.until(`[...document.querySelectorAll('[aria-label="Band 2 from"]')].some(e => /^\d{4}-\d{2}-\d{2}/.test(e.value))`)
}

// A save that takes long is made once, however often Ctrl S is pressed, and meets no conflict with itself;
// what is changed meanwhile goes on as unsaved work.
func TestASlowSave(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	p.do(group("category"))
	p.settled()
	letGo := p.hold("PUT /api/views")
	p.do(ctrl("s"), ctrl("s"))
	p.until(`window.held === 1`)
	p.do(ctrl("s"), group("handler"))
	p.settled()
	later := p.text(`[data-brief]`)
	letGo()
	p.do(see(`[data-changed][title^="Kept on the server"]`))
	p.says(`[data-changed]`, "changed since saved")
	require.Empty(t, p.texts(`[data-conflict]`))
	require.Equal(t, "2", g.Ask(t, `SELECT max(version)::text FROM gavrik.view_versions`))
	p.do(chromedp.Reload())
	p.settled()
	require.Equal(t, later, p.text(`[data-brief]`))
	require.Contains(t, p.text(`[data-changed]`), "changed since saved")
}

// Keeping somebody out saves nothing else of what was tried.
func TestKeepingOutSavesNothingElse(t *testing.T) {
	g := harness.Start(t)
	p := signedIn(t, g, 0)
	p.do(chromedp.Navigate(g.URL+"/people"), click(`[data-person="wen@marrowby.example"]`), see(`[data-sees]`),
		chromedp.Click(`//label[contains(., 'Administrator')]//input`), browser.Painted(),
		chromedp.Click(`//button[contains(., 'Keep out')]`))
	require.Eventually(t, func() bool {
		return g.Ask(t, `SELECT (left_at IS NOT NULL)::text FROM gavrik.people WHERE email = $1`, demo.People[2].Email) == "true"
	}, 20*time.Second, 50*time.Millisecond)
	require.Equal(t, "reader", g.Ask(t, `SELECT role FROM gavrik.people WHERE email = $1`, demo.People[2].Email))
}
