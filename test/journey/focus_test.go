package journey

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/test/browser"
)

// eval gives what an expression gives in the page.
func eval[T any](p *page, js string) T {
	p.t.Helper()
	got, err := chromedp.Run(p.tab, chromedp.Evaluate[T](js, chromedp.EvalAwaitPromise))
	require.NoError(p.t, err, js)
	return got
}

func ctrl(key string) browser.Step {
	return chromedp.KeyEvent(key, chromedp.KeyModifiers(chromedp.ModifierCtrl))
}

// within waits until the focus is in an element.
func (p *page) within(css string) {
	p.t.Helper()
	p.until(fmt.Sprintf(`!!document.activeElement.closest(%q)`, css))
}

// until waits until an expression is true in the page.
func (p *page) until(js string) {
	p.t.Helper()
	require.Eventually(p.t, func() bool {
		is, err := chromedp.Run(p.tab, chromedp.Evaluate[bool](js, chromedp.EvalAwaitPromise))
		if err != nil && strings.Contains(err.Error(), "navigated or closed") {
			return false // another page comes
		}
		require.NoError(p.t, err, js)
		return is
	}, 20*time.Second, 50*time.Millisecond, js)
}

// An editor takes the keys and gives them back to what had them, also when its own act takes the
// focused element away; Ctrl S and Ctrl K reach through it once it is kept.
func TestEditorsGiveTheFocusBack(t *testing.T) {
	_, p := openAt(t, "Claims")
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)))
	p.do(keys("f"), see(`[data-popover]`), keys(kb.Escape))
	p.within(`[data-ledger]`)
	p.do(click(`[data-add=columns]`), see(`[data-popover] [data-grip]`))
	p.tabTo("Take out Ref")
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "7 columns")
	p.within(`[data-popover]`)
	p.do(keys("f"), browser.Painted())
	require.Len(t, p.texts(`[data-popover]`), 1, "a key of the bench does not reach through")
	p.do(keys(kb.Backspace, kb.Enter))
	p.within(`[data-add=columns]`)

	// The step is kept, and then the view is named, or something is found.
	p.do(keys("f"), find("claimed"), see(`[data-popover] [aria-label=Value]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label=Value]`), "25"), ctrl("s"),
		see(`[role=dialog] input[name=name]`))
	require.Contains(t, p.text(`[data-brief]`), "claimed is over 25.00")
	require.Empty(t, p.texts(`[data-popover]`))
	p.do(keys(kb.Escape), chromedp.WaitNotPresent(chromedp.CSS(`[role=dialog]`)))
	p.do(click(`[data-phrase="filter.all[0]"]`), see(`[data-popover] [aria-label=Value]`), ctrl("k"),
		see(`[data-find-anything]`))
	p.within(`[data-find-anything]`)
	p.do(chromedp.KeyEvent("steps that"), browser.Painted(), keys(kb.Enter),
		chromedp.WaitVisible(`//*[@data-step][contains(., 'only where claimed is over 25.00')]`))
	p.do(keys(kb.Escape), chromedp.WaitNotPresent(chromedp.CSS(`[role=dialog]`)))

	// Keys of one character can be turned off, and are then hinted at nowhere.
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys("?"), see(`[data-single-keys]`), click(`[data-single-keys]`),
		keys(kb.Escape), chromedp.WaitNotPresent(chromedp.CSS(`[role=dialog]`)),
		chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys("f", "g", "c"), browser.Painted())
	require.Empty(t, p.texts(`[data-popover]`))
	require.Empty(t, eval[string](p, `document.querySelector('[data-add=filter]').title`))
	p.do(ctrlZ(false))
	p.settled()
	require.NotContains(t, p.text(`[data-brief]`), "claimed is over")
}

// In the ledger the keys reach the grand total; a column that is made wider, and a group that is opened
// far down, keep the place, and nothing is blank meanwhile. Lines stand in their order for screen readers.
func TestTheLedgerKeepsItsPlace(t *testing.T) {
	_, p := openAt(t, "Claims")
	// A heading that was clicked does not take the arrows: they move in the ledger, and move no column.
	p.do(clickText("Category"), keys(kb.ArrowRight, kb.ArrowLeft), browser.Painted())
	p.settled()
	require.Equal(t, "nothing changed yet", p.text(`[data-changed]`))
	p.do(group("note"), browser.Painted())
	p.settled()
	p.do(group("customer name"))
	p.settled()
	const rows = `[...document.querySelectorAll('[data-ledger] [role=rowgroup] [role=row]')].map(r => Number(r.getAttribute('aria-rowindex')))`
	scrolled := func() float64 { return eval[float64](p, `document.querySelector('[data-ledger]').scrollTop`) }
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.End))
	count, err := strconv.Atoi(eval[string](p, `document.querySelector('[data-ledger]').getAttribute('aria-rowcount')`))
	require.NoError(t, err)
	require.Greater(t, count, 500, "far beyond the first page of lines")
	p.do(see(fmt.Sprintf(`[role=row][aria-rowindex="%d"]`, count-1)))
	far := scrolled()
	require.Greater(t, far, 6000.0)
	order := eval[[]int](p, rows)
	require.True(t, slices.IsSorted(order), "%v", order)

	p.do(keys(kb.End))
	require.Contains(t, eval[string](p,
		`document.getElementById(document.querySelector('[data-ledger]').getAttribute('aria-activedescendant')).closest('[role=row]').innerText`,
	), "All claims")
	p.do(keys(kb.ArrowUp))

	// A group of the innermost level, far down, is opened and closed.
	eval[bool](p, `(window.blank = 0, new MutationObserver(() => { if (document.querySelector('[data-waiting]')) window.blank++ })
		.observe(document.querySelector('[data-ledger]'), { childList: true, subtree: true }), true)`)
	p.do(keys(kb.Enter))
	p.settled()
	p.until(fmt.Sprintf(`Number(document.querySelector('[data-ledger]').getAttribute('aria-rowcount')) > %d`, count))
	require.InDelta(t, far, scrolled(), 31)
	require.Zero(t, eval[int](p, `window.blank`), "no line was blank for a moment")
	p.do(see(`[role=columnheader] [data-edge]`))
	edge := p.spotOf(`[...document.querySelectorAll('[role=columnheader] [data-edge]')].at(-1)`)
	p.do(drag(edge, spot{edge.X - 30, edge.Y}))
	p.settled()
	require.InDelta(t, far, scrolled(), 31, "another width leaves the place")
}

// From one record to the next, the focus stays on what leads there.
func TestRecordsOneAfterTheOther(t *testing.T) {
	_, p := openAt(t, "Claims")
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.ArrowDown, kb.Enter), see(`[data-record]`), see(`[data-after]`))
	first := p.text(`[data-record]`)
	p.tabTo("next")
	p.do(keys(kb.Enter))
	p.until(fmt.Sprintf(`document.querySelector('[data-record]').innerText.trim() !== %q`, first))
	require.Equal(t, "next", p.focused())
	p.do(keys(kb.ArrowLeft))
	p.says(`[data-record]`, first)
	p.do(keys(kb.Escape), see(`[data-brief]`))
}

// After a new version is served a piece of the old one is missing: the page comes anew, with what was
// being done.
func TestAMissingPieceReloadsThePage(t *testing.T) {
	_, p := openAt(t, "Claims")
	p.do(group("category"))
	p.settled()
	p.do(see(`[data-changed][title^="Kept on the server"]`))
	brief := p.text(`[data-brief]`)
	block := func(patterns ...*network.BlockPattern) browser.Step {
		return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
			_, err := cdp.Call(ctx, t, network.SetBlockedURLs, network.SetBlockedURLsParams{URLPatterns: patterns})
			return chromedp.Void{}, err
		}
	}
	eval[bool](p, `window.old = true`)
	p.do(block(&network.BlockPattern{URLPattern: "*://*:*/assets/DefinitionsPage*", Block: true}), clickText("Definitions"))
	p.until(`window.old === undefined`)
	p.do(block())
	p.settled()
	require.Equal(t, brief, p.text(`[data-brief]`))
	p.do(clickText("Definitions"), chromedp.WaitVisible(`//h1[text()='Definitions']`))
}
