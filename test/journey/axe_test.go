package journey

import (
	"os"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// phone is a small phone's window, in CSS pixels.
const phone = 390

// axe checks the screen as it is for barriers, in both colour schemes, at its width and a phone's.
func (p *page) axe(screen string) {
	p.t.Helper()
	source, err := os.ReadFile("../../web/node_modules/axe-core/axe.min.js")
	require.NoError(p.t, err, "axe-core comes with the front end's packages: make build")
	for _, width := range []int64{browser.Width, phone} {
		p.do(chromedp.EmulateViewport(width, browser.Height), browser.Painted())
		for _, dark := range []bool{false, true} {
			p.do(browser.Dark(dark))
			_, err = chromedp.Run(p.tab, chromedp.Evaluate[any](string(source)+"; 0"))
			require.NoError(p.t, err)
			found, err := chromedp.Run(p.tab, chromedp.Evaluate[[]string](
				`axe.run().then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.failureSummary)))`, chromedp.EvalAwaitPromise))
			require.NoError(p.t, err)
			require.Empty(p.t, found, "%s, %d wide, dark %v", screen, width, dark)
		}
	}
	p.do(chromedp.EmulateViewport(browser.Width, browser.Height), browser.Painted())
	p.do(browser.Dark(false))
}
