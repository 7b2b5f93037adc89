package journey

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// focused says what has the focus, by its accessible name or its text.
func (p *page) focused() string {
	p.t.Helper()
	s, err := chromedp.Run(
		p.tab,
		chromedp.Evaluate[string](
			`(e => (e.getAttribute('aria-label') ?? e.innerText).replace(/\s+/g, " ").trim())(document.activeElement)`,
		),
	)
	require.NoError(p.t, err)
	return s
}

// tabTo presses Tab until something has the focus.
func (p *page) tabTo(name string) {
	p.t.Helper()
	for range 80 {
		if p.focused() == name {
			return
		}
		p.do(keys(kb.Tab))
	}
	p.t.Fatalf("Tab does not reach %q; the screen is in %s", name, p.picture())
}

// From signing in to a saved view without a mouse.
func TestKeyboardAlone(t *testing.T) {
	g := harness.Start(t)
	p := open(t)
	p.do(chromedp.Navigate(g.URL), see(`input[name=email]`))
	require.Equal(t, "", p.text(`[role=alert]`))
	p.do(
		chromedp.KeyEvent(demo.People[1].Email), keys(kb.Tab), chromedp.KeyEvent(demo.Password), keys(kb.Enter),
		seeText("Favorites"),
	)
	p.tabTo("Sailings 2,000 One row per sailing in the timetable, cancelled ones included.")
	p.do(keys(kb.Enter))
	p.settled()

	// Filter, group, total and sort by keys; the editors hold the focus.
	p.do(keys("f"), find("delay"), see(`[data-popover] [aria-label=Value]`))
	p.tabTo("Value")
	p.do(chromedp.KeyEvent("10 min"), browser.Painted(), keys(kb.Enter))
	p.settled()
	require.Equal(
		t, g.Ask(t, `SELECT count(*)::text FROM sailings WHERE delay > '10 minutes'`), p.text(`[data-kept]`),
	)
	p.do(group("vessel"))
	p.settled()
	// A group's editor traps Tab, and Esc takes back what it tried out.
	p.do(keys("g"), find("weather"))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "then weather")
	for range 8 {
		p.do(keys(kb.Tab))
	}
	inside, err := chromedp.Run(
		p.tab, chromedp.Evaluate[bool](`!!document.activeElement.closest('[data-popover]')`),
	)
	require.NoError(t, err)
	require.True(t, inside)
	p.do(keys(kb.Escape))
	p.settled()
	require.NotContains(t, p.text(`[data-brief]`), "weather")

	// Columns are put into order with the arrow keys.
	p.do(keys("c"), see(`[data-popover] [data-grip]`))
	p.tabTo("Route, column 2: move with the arrow keys")
	p.do(keys(kb.End))
	require.Equal(t, "Route, column 8: move with the arrow keys", p.focused())
	p.do(keys(kb.ArrowUp))
	require.Equal(t, "Route, column 7: move with the arrow keys", p.focused())
	p.tabTo("Enter keep")
	p.do(keys(kb.Enter))
	p.settled()

	// In the ledger: to the delay's column, total it, sort by it, open a group.
	p.do(
		chromedp.Focus(chromedp.CSS(`[data-ledger]`)),
		keys(kb.Home, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight),
	)
	const selected = `[role=columnheader][class*="border-mulberry"] button`
	column := p.text(selected)
	for range 8 {
		if column == "Delay" {
			break
		}
		p.do(keys(kb.ArrowRight))
		column = p.text(selected)
	}
	require.Equal(t, "Delay", column)
	require.Empty(t, p.texts(`aside[aria-label=Lens]`), "passing over cells opens nothing")
	p.do(keys("l"), see(`aside[aria-label=Lens] h2`))
	require.Contains(
		t, p.text(`[role=rowgroup] [aria-rowindex="2"] [role=gridcell]`), p.text(`aside[aria-label=Lens] h2`),
		"the lens looks at the line",
	)
	p.do(keys("t"))
	p.settled()
	p.do(keys("s"))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "with total delay")
	require.Contains(t, p.text(`[data-brief]`), "longest delay first")
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.Home, kb.Enter))
	p.settled()
	require.NotEmpty(t, p.texts(`[role=rowgroup] [data-level="2"]`))

	// Help, and saving.
	p.do(
		keys("?"), seeText("Find a field and add it as a column"), keys(kb.Escape),
		browser.Painted(),
	)
	p.do(chromedp.KeyEvent(
		"s", chromedp.KeyModifiers(chromedp.ModifierCtrl),
	), see(`[role=dialog] input[name=name]`),
		browser.Painted(), chromedp.KeyEvent("By keys alone"), keys(kb.Enter), chromedp.WaitVisible(`//h1[text()='By keys alone']`))
	p.settled()
	require.Equal(t, "as saved", p.text(`[data-changed]`))
	require.Equal(
		t, "1", g.Ask(t, `SELECT count(*)::text FROM gavrik.view_versions WHERE name = 'By keys alone'`),
	)
}

// Ctrl K finds a view, a record set and a definition from any screen, by keys alone.
func TestFindAnythingByKeys(t *testing.T) {
	g, p := openAt(t, "Claims")
	ctrlK := chromedp.KeyEvent("k", chromedp.KeyModifiers(chromedp.ModifierCtrl))
	look := func(words, first string) {
		t.Helper()
		p.do(
			ctrlK, see(`[data-find-anything]`), browser.Painted(), chromedp.KeyEvent(words),
			chromedp.WaitVisible(`(//*[@role='option'])[1][contains(., '`+first+`')]`),
		)
	}
	look("late", "Late sailings, last 30 days")
	p.axe("find anything")
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Sailings")

	look("vessels", "Vessels")
	require.Contains(t, p.texts(`[role=option]`)[0], "new view")
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Vessels"+g.Ask(t, `SELECT count(*)::text FROM vessels`))

	// What is only mentioned comes behind what is called so; arrows choose.
	look("days open", "Days open")
	require.Contains(t, p.texts(`[role=option]`)[1], "How long open")
	p.do(keys(kb.ArrowDown, kb.Enter), see(`[data-bands] [data-count]`))
	require.Equal(t, "How long open", p.value(`[data-name]`))

	p.do(
		ctrlK, see(`[data-find-anything]`), browser.Painted(),
		chromedp.KeyEvent("no such thing at all"), seeText("Nothing is called that."), keys(kb.Escape),
	)
	require.Empty(t, p.texts(`[data-find-anything]`))
}

// value is what a field holds.
func (p *page) value(css string) string {
	p.t.Helper()
	s, err := chromedp.Run(p.tab, chromedp.Evaluate[string](`document.querySelector('`+css+`').value`))
	require.NoError(p.t, err)
	return s
}
