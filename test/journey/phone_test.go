package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// On the smallest phone one reads: nothing is wider than the window, the lens is a sheet from below,
// questions are answered, and what cannot be done there says so.
func TestReadOnAPhone(t *testing.T) {
	g := harness.Start(t)
	p := open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password),
		chromedp.EmulateViewport(360, 640), chromedp.Navigate(g.URL), see(`[data-favorite]`))
	fits := func(screen string) {
		t.Helper()
		p.do(browser.Painted())
		require.LessOrEqual(t, eval[int](p, `document.documentElement.scrollWidth`), 360, screen)
		require.LessOrEqual(t, eval[int](p, `document.querySelector('main').scrollWidth`), 360, screen)
	}
	fits("desk")
	p.do(chromedp.Navigate(g.URL+"/views"), see(`[data-view]`))
	fits("views")
	p.do(chromedp.Click(`//a[normalize-space()='Open claims by route']`))
	p.settled()
	fits("group lines")
	before := p.text(`[data-brief]`)
	p.do(click(`[data-phrase="filter.all[0]"]`))
	p.says(`[data-said]`, "Change a view where the window is wider")
	require.Equal(t, before, p.text(`[data-brief]`))
	require.Empty(t, p.texts(`[data-popover]`))
	require.Empty(t, p.texts(`[data-add]`))

	// A figure is explained in a sheet from below, which leads to its records.
	p.do(click(`[data-level="1"] [data-cell=sum]`), see(`[data-why]`))
	sheet := eval[[]float64](p, `(r => [r.left, r.right, r.bottom])(document.querySelector('aside[aria-label=Lens]').getBoundingClientRect())`)
	require.Equal(t, []float64{0, 360, 640}, sheet)
	p.axe("the lens on a phone")
	p.do(chromedp.EmulateViewport(360, 640), see(`[data-see-records]`), click(`[data-see-records]`))
	p.settled()
	fits("records")
	require.NotEmpty(t, p.texts(`[role=rowgroup] [data-level="1"]`))

	// A template asks, and is answered.
	p.do(chromedp.Navigate(g.URL), see(`[aria-labelledby=templates]`),
		chromedp.Click(`//*[@aria-labelledby='templates']//b[text()='Claims of a route']`), see(`[data-waits]`),
		click(`[data-question=route] button`), see(`[data-popover] li input`), click(`[data-popover] li input`))
	popover := eval[[]float64](p, `(r => [r.left, r.right])(document.querySelector('[data-popover]').getBoundingClientRect())`)
	require.GreaterOrEqual(t, popover[0], 0.0)
	require.LessOrEqual(t, popover[1], 360.0)
	p.do(chromedp.Click(`//*[@data-popover]//button[contains(., 'keep')]`))
	p.settled()
	require.NotEmpty(t, p.text(`[data-kept]`))
	fits("a view with questions")
	p.do(chromedp.Navigate(g.URL+"/r/bookings/MB-000012"), see(`[data-linked] td`))
	fits("a record")
}
