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

// An administrator mends a label; a view says it at once; she takes it back. Then she reads a number
// as a duration, adds a link, follows the map, and looks the records over.
func TestALabelMendedAndUndone(t *testing.T) {
	g, p := harness.Start(t), open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), clickText("Records"))
	p.do(click(`a[href="/records?set=vessels"]`), click(`[data-field-row="car_deck_m"] button[aria-expanded]`), see(`[data-field-form]`))
	p.axe("a field being described")
	p.do(
		p.put(`[data-field-form] [name=label]`, "Lane metres"+kb.Enter),
		see(`[data-undo]`),
	)
	p.says(`[data-field-row="car_deck_m"]`, "Lane metres")
	require.Equal(t, `{"fields": {"car_deck_m": {"label": "Lane metres"}}}`,
		g.Ask(t, "SELECT body::text FROM gavrik.descriptions WHERE record_set = 'vessels'"))
	p.do(clickText("Start a view"))
	p.until(`[...document.querySelectorAll('[role=columnheader]')].some(h => h.textContent.includes('Lane metres'))`)
	p.do(chromedp.NavigateBack(), click(`[data-field-row="car_deck_m"] button[aria-expanded]`), see(`[data-origin] .link`))
	p.says(`[data-field-form] [data-origin]`, "said by Tamsin Marlow")
	p.do(clickText("set back"), click(`[data-say]`), see(`[data-undo]`))
	p.says(`[data-field-row="car_deck_m"]`, "Car deck m")
	p.do(see(`[data-undo]:not(:disabled)`), click(`[data-undo]`))
	p.says(`[data-field-row="car_deck_m"]`, "Lane metres")

	// What would not hold is refused in words, and what was typed stays.
	p.do(click(`[data-field-row="passengers"] button[aria-expanded]`), see(`[data-field-form]`))
	// What was undone is read again meanwhile: typed until it stays.
	p.until(`(i => { if (i?.value === 'lane metres') return true
		if (i) { i.value = 'lane metres'; i.dispatchEvent(new Event('input')) } return false })(document.querySelector('[data-field-form] [name=label]'))`)
	p.do(click(`[data-say]`))
	p.says(`[data-field-form] [role=alert]`, "Two fields of Vessels would be called")
	p.do(
		p.put(`[data-field-form] [name=label]`, "Time to board"))
	p.until(`(s => { s.value = 'duration'; s.dispatchEvent(new Event('change')); return true })(document.querySelector('[data-field-form] [name=type]'))`)
	p.says(`[data-read-look]`, "All "+g.Ask(t, "SELECT count(*)::text FROM vessels")+" values can be read so")
	p.do(click(`[data-say]`))
	p.says(`[data-field-row="passengers"]`, "duration")

	// A link that no key declares, and the map that shows it.
	p.do(click(`[data-add-link]`), see(`[data-link-form]`))
	choose := func(css, value string) {
		p.until(`(s => { if (![...s.options].some(o => o.value === '` + value + `')) return false; s.value = '` + value +
			`'; s.dispatchEvent(new Event('change')); return true })(document.querySelector('` + css + `'))`)
	}
	choose(`[name=link-to]`, "routes")
	choose(`[data-link-here]`, "name")
	choose(`[data-link-there]`, "name")
	p.do(chromedp.SendKeys(chromedp.CSS(`[name=link-label]`), "Namesake"), click(`[data-link-form] [data-say]`), see(`[data-undo]`))
	p.says(`[data-links]`, "Namesake")
	p.do(click(`[data-map]`), see(`[data-spot="vessels"]`))
	p.axe("the map of the record sets")
	p.says(`[data-set-map]`, "Namesake")
	p.do(click(`[data-spot="claims"]`), see(`[data-field-row="claimed"]`), click(`[data-overview]`), see(`[data-over="category"]`))
	p.says(`[data-over="category"]`, g.Ask(t, "SELECT category FROM claims GROUP BY 1 ORDER BY count(*) DESC LIMIT 1"))
	p.axe("records looked over")

	// From a bench, what its filter keeps is looked over.
	p.do(chromedp.NavigateBack(), see(`[data-overview]`), clickText("Start a view"))
	p.settled()
	p.do(
		keys("f"), find("category"), see(`[data-popover] li input`), click(`[data-popover] li:first-child input`),
		browser.Painted(), keys(kb.Enter),
	)
	p.settled()
	p.do(more("look over"), see(`[data-over="status"]`))
	p.says(`[data-looked-at]`, "category is")
}

// put types words in the place of those that a field holds.
func (p *page) put(css, words string) browser.Step {
	return chromedp.Steps(
		click(css), chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.SendKeys(chromedp.CSS(css), words),
	)
}
