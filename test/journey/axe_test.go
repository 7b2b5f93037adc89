package journey

import (
	"os"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// axe checks the screen as it is for barriers, in both colour schemes.
func (p *page) axe(screen string) {
	p.t.Helper()
	source, err := os.ReadFile("../../web/node_modules/axe-core/axe.min.js")
	require.NoError(p.t, err, "axe-core comes with the front end's packages: make build")
	for _, dark := range []bool{false, true} {
		p.do(browser.Dark(dark))
		_, err = chromedp.Run(p.tab, chromedp.Evaluate[any](string(source)+"; 0"))
		require.NoError(p.t, err)
		found, err := chromedp.Run(p.tab, chromedp.Evaluate[[]string](
			`axe.run().then(r => r.violations.flatMap(v => v.nodes.map(n => v.id + ': ' + n.target.join(' ') + ' ' + n.failureSummary)))`, chromedp.EvalAwaitPromise))
		require.NoError(p.t, err)
		require.Empty(p.t, found, "%s, dark %v", screen, dark)
	}
	p.do(browser.Dark(false))
}
