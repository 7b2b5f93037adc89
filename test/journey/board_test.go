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

// A board answers one question for views of different records, leads from a mark to its view and back, and
// fills a wall.
func TestABoardAnswersForAllOfItsViews(t *testing.T) {
	g := harness.Start(t)
	p := open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), chromedp.Navigate(g.URL+"/boards"), see(`[data-view]`))
	p.axe("the list of boards")
	p.do(chromedp.Click(`//a[normalize-space()='Start of the week']`), see(`[data-part=sailings] [data-lines]`))
	p.until(`document.querySelectorAll('[data-plot][data-drawn]').length === 2`)
	p.axe("a board")
	const month = "departs_at >= '2026-10-01' AND departs_at < '2026-11-01'"
	carried := func(where string) string {
		return g.Ask(t, "SELECT to_char(sum(passengers), 'FM999,999,999') FROM sailings s JOIN routes r ON r.id = s.route_id WHERE "+month+where)
	}
	p.says(`[data-part=passengers] [data-figure]`, carried(""))
	p.says(`[data-part=vessels] tbody tr:last-child`, carried(""))
	p.says(`[data-part=owed] [data-figure]`, g.Ask(t, "SELECT to_char(sum(claimed), 'FM999,999,999.00') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn')"))

	p.do(click(`[data-question=route] button`), see(`[data-popover] li input`),
		chromedp.Click(`//li//label[contains(.,'Tarn Head')]//input`), browser.Painted(), keys(kb.Enter))
	p.says(`[data-part=passengers] [data-figure]`, carried(" AND r.name LIKE 'Tarn Head%'"))
	vessel := p.text(`[data-part=vessels] tbody tr:first-child a`)
	p.do(click(`[data-part=vessels] tbody tr:first-child a`))
	p.settled()
	p.says(`[data-question=route] button`, "Tarn Head")
	p.says(`[data-level="1"][aria-expanded=true]`, vessel)
	require.Equal(t, carried(" AND r.name LIKE 'Tarn Head%'"), p.text(`[role=row][data-level="0"] [data-cell=sum]`))
	p.do(chromedp.NavigateBack(), see(`[data-part=passengers] [data-figure]`))
	p.says(`[data-question=route] button`, "Tarn Head")
	p.says(`[data-part=passengers] [data-figure]`, carried(" AND r.name LIKE 'Tarn Head%'"))

	// A mark leads to the group that it stands for, and back.
	mark := p.spotOf(
		`[...document.querySelectorAll('[data-part=fares] [data-plot] path[fill="#1f5c4d"]')].sort((a, b) => b.getBBox().height * b.getBBox().width - a.getBBox().height * a.getBBox().width)[0]`,
	)
	p.do(drag(mark, mark), see(`[role=row][data-level="2"][aria-expanded=true]`))
	p.settled()
	require.Equal(t, "Fares by route and month", p.text(`[data-title]`)[len("★ "):])
	p.do(chromedp.NavigateBack(), see(`[data-sheet]`), keys("w"), see(`[data-wall] [data-figure]`))
	p.says(`[data-wall-page]`, "1 of 2")
	p.axe("a board on the wall")
	p.do(keys(kb.ArrowRight), see(`[data-wall] [data-part=sailings]`))
	p.says(`[data-wall-page]`, "2 of 2")
	p.do(keys(kb.Escape))
	p.until(`!document.querySelector('[data-wall]')`)
}

// A board is made of saved views and words, arranged by keys, undone and saved; what is on it is found by its
// words, its versions say what each changed.
func TestABoardIsMade(t *testing.T) {
	g := harness.Start(t)
	p := open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), chromedp.Navigate(g.URL+"/boards"), see(`[data-new-board]`),
		click(`[data-new-board]`), seeText("An empty sheet"))
	put := func(words string) {
		p.do(keys("p"), see(`[data-find-view]`), p.put(`[data-find-view]`, words), browser.Painted(), keys(kb.Enter), see(`[data-part-heading]`))
	}
	put("claims by route")
	p.do(chromedp.Click(`//label[contains(., 'a figure')]//input`), see(`[data-part=part_1] [data-figure]`))
	p.axe("a part being edited")
	p.do(p.put(`[data-part-heading]`, "Still asked of us"))
	p.pick(`[data-part-total]`, "average claimed")
	p.do(keys(kb.Enter))
	mean := g.Ask(t, "SELECT to_char(round(avg(claimed), 2), 'FM999,999.00') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25")
	p.says(`[data-part=part_1]`, "Still asked of us")
	p.says(`[data-part=part_1] [data-figure]`, mean)
	put("fares by route")
	p.do(keys(kb.Enter))
	p.do(see(`[data-part=part_2] [data-lines]`))
	p.do(keys("p"), see(`[data-add-text]`), click(`[data-add-text]`), see(`[data-part-text]`),
		p.put(`[data-part-text]`, "# Mondays <script>x</script>"))
	p.says(`[data-part=part_3] h1`, "Mondays")
	p.do(chromedp.Click(`//*[@data-popover]//button[contains(., 'keep')]`))
	p.until(`!document.querySelector('[data-popover]')`)

	// The text goes to the front, the figure grows, and a step back takes that back.
	order := func() []string {
		return eval[[]string](p, `[...document.querySelectorAll('[data-part]')].map(e => e.dataset.part)`)
	}
	p.do(chromedp.Focus(chromedp.CSS(`[data-part=part_3] [data-grip]`)), keys(kb.Home))
	p.until(`document.querySelector('[data-part]').dataset.part === 'part_3'`)
	require.Equal(t, []string{"part_3", "part_1", "part_2"}, order())
	p.do(chromedp.Focus(chromedp.CSS(`[data-part=part_1] [data-stretch]`)), keys(kb.ArrowRight, kb.ArrowDown))
	p.until(`document.querySelector('[data-part=part_1]').style.getPropertyValue('--wide') === '4'`)
	p.do(ctrlZ(false))
	p.until(`document.querySelector('[data-part=part_1]').style.getPropertyValue('--high') === '3'`)
	p.do(ctrlZ(true))
	p.until(`document.querySelector('[data-part=part_1]').style.getPropertyValue('--high') === '4'`)

	p.dragOnto(`[data-part=part_1] [data-grip]`, `[data-part=part_2]`)
	p.until(`[...document.querySelectorAll('[data-part]')].at(-1).dataset.part === 'part_1'`)
	p.do(ctrlZ(false))
	p.until(`[...document.querySelectorAll('[data-part]')].at(-1).dataset.part === 'part_2'`)

	p.do(clickText("Save …"), see(`[role=dialog] input[name=name]`), p.put(`[role=dialog] input[name=name]`, "Mondays"),
		chromedp.Click(`//form//button[normalize-space()='Save']`), chromedp.WaitVisible(`//h1[text()='Mondays']`))
	p.says(`[data-changed]`, "as saved")
	p.do(click(`[data-part=part_2] [data-edit-part]`), see(`[data-take-off]`), click(`[data-take-off]`))
	p.until(`!document.querySelector('[data-part=part_2]')`)
	p.says(`[data-changed]`, "changed since saved")
	p.until(`!!new URLSearchParams(location.search).get('at')`)
	p.do(chromedp.Reload(), see(`[data-part=part_1] [data-figure]`))
	require.Equal(t, []string{"part_3", "part_1"}, order(), "unsaved work is there again")
	p.do(click(`button.button-act`))
	p.says(`[data-changed]`, "as saved")
	p.do(click(`[data-open-versions]`), see(`[data-versions]`))
	p.says(`[data-versions]`, "list of groups of “Fares by route and month” taken off")
	p.axe("versions of a board")
	p.do(keys(kb.Escape), chromedp.Navigate(g.URL), see(`[data-favorite]`))
}
