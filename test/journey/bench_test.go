package journey

import (
	"context"
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	gavrik "gavrik/test/browser"
)

// spot is a place on the screen.
type spot struct{ X, Y float64 }

// spotOf is the middle of the element that an expression gives.
func (p *page) spotOf(js string) spot {
	p.t.Helper()
	at, err := chromedp.Run(
		p.tab,
		chromedp.Evaluate[spot](
			`(e => { const r = e.getBoundingClientRect(); return {X: r.x + r.width / 2, Y: r.y + r.height / 2} })(`+js+`)`,
		),
	)
	require.NoError(p.t, err, js)
	return at
}

// choose takes a choice of a list.
func choose(css, value string) gavrik.Step {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](fmt.Sprintf(
			`(e => { e.value = %q; e.dispatchEvent(new Event('change')); return true })(document.querySelector(%q))`,
			value, css,
		))(ctx, t)
		return chromedp.Void{}, err
	}
}

// drag presses the mouse at one spot and lets it go at another.
func drag(from, to spot) gavrik.Step {
	event := func(kind input.DispatchMouseEventType, at spot) gavrik.Step {
		return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
			_, err := cdp.Call(ctx, t, input.DispatchMouseEvent, input.DispatchMouseEventParams{
				Type: kind, X: at.X, Y: at.Y, Button: "left", Buttons: 1, ClickCount: 1,
			})
			return chromedp.Void{}, err
		}
	}
	half := spot{(from.X + to.X) / 2, (from.Y + to.Y) / 2}
	return chromedp.Steps(
		event("mouseMoved", from), event("mousePressed", from), event("mouseMoved", half), event("mouseMoved", to),
		event("mouseReleased", to),
	)
}

// A stretch is chosen by dragging over the distribution, in the lens and in a filter's
// editor, and the count follows.
func TestAStretchIsDragged(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Claimed')]`),
		see(`[data-spread] button`),
	)
	bar := func(n int) spot {
		return p.spotOf(fmt.Sprintf(`document.querySelectorAll('[data-spread] button')[%d]`, n))
	}
	label := func(n int) string {
		return p.texts(`[data-spread] button`)[n] + p.attribute(
			fmt.Sprintf(`[data-spread] button:nth-child(%d)`, n+1), "title",
		)
	}
	first, last := label(1), label(3)
	p.do(drag(bar(1), bar(3)))
	p.settled()
	from, _, _ := strings.Cut(first, " to under ")
	_, below, _ := strings.Cut(last, " to under ")
	below, _, _ = strings.Cut(below, ":")
	want := g.Ask(
		t,
		`SELECT to_char(count(*), 'FM999,999') FROM claims WHERE claimed >= $1::numeric AND claimed < $2::numeric`,
		strings.ReplaceAll(from, ",", ""), strings.ReplaceAll(below, ",", ""),
	)
	require.Equal(t, want, p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-brief]`), "claimed is at least "+from)
	p.axe("a column in the lens")

	// In the editor of a date, a drag turns the relative period into fixed days.
	p.do(
		keys("f"), find("closed"), see(`[data-popover] [data-dates]`), see(`[data-popover] [data-spread] button`),
	)
	inside := func(n int) spot {
		return p.spotOf(fmt.Sprintf(`document.querySelectorAll('[data-popover] [data-spread] button')[%d]`, n))
	}
	p.do(drag(inside(0), inside(2)))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "closed from ")
	days := [2]string{p.value(`[data-popover] [aria-label=From]`), p.value(`[data-popover] [aria-label=To]`)}
	p.do(keys(kb.Enter))
	p.settled()
	want = g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE claimed >= $1::numeric AND claimed < $2::numeric AND closed_at >= $3::date AND closed_at < $4::date + 1`,
		strings.ReplaceAll(from, ",", ""), strings.ReplaceAll(below, ",", ""), days[0], days[1])
	require.Equal(t, want, p.text(`[data-kept]`))
}

// attribute is that of the first element.
func (p *page) attribute(css, name string) string {
	p.t.Helper()
	s, err := chromedp.Run(
		p.tab,
		chromedp.Evaluate[string](fmt.Sprintf(`document.querySelector(%q).getAttribute(%q) ?? ''`, css, name)),
	)
	require.NoError(p.t, err, css)
	return s
}

// A mark of the chart is a figure of the ledger; a click on it leads to its records,
// and Back leads back.
func TestAChartLeadsToItsRecords(t *testing.T) {
	g, p := openAt(t, "Fares by route and month")
	p.do(keys("h"), see(`[data-drawn=stacked]`), gavrik.Painted())
	// The largest mark of the first route's colour.
	mark := p.spotOf(
		`[...document.querySelectorAll('[data-plot] path[fill="#1f5c4d"]')].sort((a, b) => b.getBBox().height * b.getBBox().width - a.getBBox().height * a.getBBox().width)[0]`,
	)
	p.do(drag(mark, mark), see(`[data-figure-value]`), seeText("went in"))
	p.until(`document.querySelector('[data-chart] canvas, [data-chart] svg').getBoundingClientRect().right
		<= document.querySelector('aside[aria-label=Lens]').getBoundingClientRect().left + 1`)
	title, figure := p.text(`[data-figure] h2`), p.text(`[data-figure-value]`)
	parts := strings.Split(title, " · ")
	require.Len(t, parts, 2, title)
	const from = ` FROM bookings b JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id
		WHERE r.name = $1 AND to_char(s.departs_at, 'Mon YYYY') = $2 AND b.status NOT IN ('Cancelled', 'Waiting list')`
	require.Equal(t, g.Ask(t, `SELECT to_char(sum(b.passengers), 'FM999,999')`+from, parts[0], parts[1]), figure)
	p.axe("a chart and one of its figures")
	before := p.text(`[data-brief]`)
	p.do(click(`[data-see-records]`))
	p.settled()
	require.Equal(
		t, g.Ask(t, `SELECT to_char(count(*), 'FM999,999')`+from, parts[0], parts[1]), p.text(`[data-kept]`),
	)
	require.Empty(t, p.texts(`[data-plot]`), "records stand alone")
	p.do(chromedp.NavigateBack())
	p.settled()
	require.Equal(t, before, p.text(`[data-brief]`))

	// Kinds that the figures do not allow say why, and what to choose.
	p.do(choose(`[data-drawn-total]`, "3"), gavrik.Painted())
	p.settled()
	p.do(click(`[data-kind=shares]`), see(`[data-chart-trouble]`))
	require.Contains(t, p.text(`[data-chart-trouble]`), "do not add up to a whole")
	p.do(click(`[data-kind=lines]`), see(`[data-drawn=lines]`))
}

// Ten steps back and forth, each with its name and its address.
func TestTenStepsBack(t *testing.T) {
	_, p := openAt(t, "Claims")
	p.do(chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Claimed')]`))
	said := []string{p.text(`[data-brief]`)}
	for _, press := range []gavrik.Step{
		keys("t"), keys("s"), keys("s"), clickText("Take out"),
		chromedp.Steps(clickText("Opened at"), clickText("← Move")),
		chromedp.Steps(group("category")),
		chromedp.Steps(group("status")),
		chromedp.Steps(
			keys("f"), find("category"), see(`[data-popover] li input`), click(`[data-popover] li:first-child input`),
			gavrik.Painted(), keys(kb.Enter),
		),
		keys("h"), clickText("Take out"),
	} {
		p.do(press)
		p.settled()
		said = append(said, p.text(`[data-brief]`))
	}
	last := len(said) - 1
	for i := last - 1; i >= 0; i-- {
		p.do(ctrlZ(false))
		p.settled()
		require.Equal(t, said[i], p.text(`[data-brief]`), "step %d", i)
	}
	require.Equal(t, "nothing changed yet", p.text(`[data-changed]`))
	for i := 1; i <= last; i++ {
		p.do(ctrlZ(true))
		p.settled()
		require.Equal(t, said[i], p.text(`[data-brief]`), "step %d again", i)
	}
	p.do(
		more("steps"), seeText("As it was opened"),
		chromedp.WaitVisible(`//*[@data-step][contains(., 'grouped by category')]`),
		chromedp.WaitNotPresent(`//*[@data-step][contains(., '…')]`),
	)
	steps := p.texts(`[data-step]`)
	require.Len(t, steps, last+1)
	require.Contains(t, steps, "grouped by category")
	require.Contains(t, strings.Join(steps, "\n"), "column Claimed taken out")
	p.do(chromedp.Click(`//*[@data-step][contains(., 'grouped by category')]`))
	p.settled()
	require.Equal(t, said[6], p.text(`[data-brief]`))
	p.do(chromedp.NavigateBack())
	p.settled()
	require.Equal(t, said[last], p.text(`[data-brief]`), "Back shows what was seen before")
}

// Unsaved work outlives the page, stands on the desk, and opens for others by its link;
// the server may be away for a while.
func TestUnsavedWorkIsKept(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	p.do(
		keys("f"), find("category"), see(`[data-popover] li input`), click(`[data-popover] li:first-child input`),
		gavrik.Painted(), keys(kb.Enter),
	)
	p.settled()
	p.do(chromedp.WaitVisible(chromedp.CSS(`[data-changed][title^="Kept on the server"]`)))
	mine, kept := p.text(`[data-brief]`), p.text(`[data-kept]`)
	p.do(click(`[data-changed]`), see(`[data-differs]`), seeText("only where category is "))
	link, err := chromedp.Run(p.tab, chromedp.Evaluate[string](`location.href`))
	require.NoError(t, err)
	require.Contains(t, link, "?at=")
	p.do(chromedp.Reload())
	p.settled()
	require.Equal(t, mine, p.text(`[data-brief]`))
	require.Equal(t, "changed since saved", p.text(`[data-changed]`))

	// On another machine, the desk has it.
	q := open(t)
	q.do(
		gavrik.SignIn(g.URL, demo.People[0].Email, demo.Password),
		chromedp.Click(`//*[@aria-labelledby='drafts']//a[text()='Open claims by route']`),
	)
	q.settled()
	require.Equal(t, mine, q.text(`[data-brief]`))
	// Both go on: neither overwrites the other.
	p.do(group("category"))
	p.settled()
	p.do(chromedp.WaitVisible(chromedp.CSS(`[data-changed][title^="Kept on the server"]`)))
	q.do(group("status"))
	q.settled()
	q.do(chromedp.WaitVisible(chromedp.CSS(`[data-changed][title^="Kept on the server"]`)))
	require.Equal(t, "2", g.Ask(t, `SELECT count(*)::text FROM gavrik.drafts`))

	// Somebody else opens the link, and nothing of the author's changes.
	r := open(t)
	r.do(gavrik.SignIn(g.URL, demo.People[1].Email, demo.Password), chromedp.Navigate(link))
	r.settled()
	require.Equal(t, kept, r.text(`[data-kept]`))
	require.Contains(t, r.text(`main`), "from a link by Tamsin Marlow")
	require.Equal(t, "2", g.Ask(t, `SELECT count(*)::text FROM gavrik.drafts`))
	// She goes on from it, and back to it.
	r.do(group("status"))
	r.settled()
	r.do(gavrik.Painted(), ctrlZ(false))
	r.settled()
	r.do(
		gavrik.Painted(),
		chromedp.WaitVisible(chromedp.CSS(`[data-changed][title^="Kept on the server"]`)),
	)
	require.Contains(
		t, link,
		g.Ask(
			t, `SELECT d.state FROM gavrik.drafts d JOIN gavrik.people p ON p.id = d.person_id WHERE p.email = $1`,
			demo.People[1].Email,
		),
	)
}

// In the ledger: a block of cells is copied for a spreadsheet, records are ticked and
// kept, a column is written in another way and stays in sight.
func TestCellsTicksAndColumns(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		for _, name := range []string{"clipboard-read", "clipboard-write"} {
			if _, err := cdp.Call(ctx, t, browser.SetPermission, browser.SetPermissionParams{
				Permission: &browser.PermissionDescriptor{Name: name}, Setting: "granted",
			}); err != nil {
				return chromedp.Void{}, err
			}
		}
		return chromedp.Void{}, nil
	})
	shift := func(key string) gavrik.Step {
		return chromedp.Steps(
			chromedp.KeyEvent(key, chromedp.KeyModifiers(chromedp.ModifierShift)), gavrik.Painted(),
		)
	}
	p.do(chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(
		kb.Home, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight, kb.ArrowRight,
	), shift(kb.ArrowRight), shift(kb.ArrowDown), shift(kb.ArrowDown),
		chromedp.KeyEvent("c", chromedp.KeyModifiers(chromedp.ModifierCtrl)), see(`[data-said]`))
	require.Equal(t, "3 lines of 2 columns copied.", p.text(`[data-said]`))
	copied, err := chromedp.Run(
		p.tab, chromedp.Evaluate[string](`navigator.clipboard.readText()`, chromedp.EvalAwaitPromise),
	)
	require.NoError(t, err)
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT string_agg(claimed || E'\t' || coalesce(paid::text, ''), E'\n' ORDER BY id) FROM (SELECT * FROM claims ORDER BY id LIMIT 3) x`,
		),
		copied,
	)

	p.do(keys(" "), see(`[data-ticked]`))
	require.Contains(t, p.text(`[data-ticked]`), "3 claims ticked")
	p.axe("ticked records")
	p.do(click(`[data-keep-ticked]`))
	p.settled()
	require.Equal(t, "3", p.text(`[data-kept]`))
	require.Equal(t, g.Ask(
		t, `SELECT to_char(sum(claimed), 'FM999,990.00') FROM (SELECT * FROM claims ORDER BY id LIMIT 3) x`,
	), func() string {
		p.do(
			chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Claimed')]`), keys("t"),
		)
		p.settled()
		return p.text(`[data-grand] [data-cell=sum]`)
	}())

	// Format, bars, freezing, from the list of columns; the first column is the ref.
	p.do(
		keys("c"), see(`[data-popover] [data-set-column]`), chromedp.Click(`//button[@aria-label='set: Claimed']`),
		see(`[data-decimals]`), chromedp.SendKeys(chromedp.CSS(`[data-decimals]`), "0"+kb.Tab),
		click(`[data-bars]`), click(`[data-frozen]`),
	)
	p.do(
		chromedp.Click(`//button[@aria-label='set: Opened at']`), see(`[data-date-format]`),
		choose(`[data-date-format]`, "month"),
	)
	p.settled()
	p.axe("the list of columns")
	p.do(chromedp.Click(`//button[normalize-space()='Enter keep']`))
	p.settled()
	require.Equal(
		t,
		g.Ask(
			t, `SELECT to_char(round(sum(claimed)), 'FM999,990') FROM (SELECT * FROM claims ORDER BY id LIMIT 3) x`,
		),
		p.text(`[data-grand] [data-cell=sum]`),
	)
	require.Contains(
		t, p.texts(`[role=rowgroup] [role=gridcell]`),
		g.Ask(t, `SELECT to_char(opened_at, 'Mon YYYY') FROM claims ORDER BY id LIMIT 1`),
	)
	require.Len(t, p.texts(`[role=rowgroup] [data-bar]`), 3)

	// A heading is dragged to another place, and its edge fits what is shown.
	p.dragOnto(`[role=columnheader]:nth-child(2) button`, `[role=columnheader]:nth-child(4) button`)
	p.settled()
	require.Equal(t, []string{"Ref", "Category", "Status", "Booking"}, p.texts(`[role=columnheader] button`)[:4])
	const heading = `document.querySelectorAll('[role=columnheader]')[1]`
	before := eval[float64](p, heading+`.getBoundingClientRect().width`)
	eval[bool](p, heading+`.querySelector('[data-edge]').dispatchEvent(new MouseEvent('dblclick', {bubbles: true}))`)
	p.until(fmt.Sprintf(heading+`.getBoundingClientRect().width !== %v`, before))
	require.LessOrEqual(t, eval[float64](p, `(c => c.scrollWidth - c.clientWidth)(
		document.querySelectorAll('[role=rowgroup] [role=row] [role=gridcell]')[1])`), 0.0, "nothing is cut")

	// Every field of a linked record is added, and taken back.
	p.do(keys("c"), see(`[data-add-all]`), choose(`[data-add-all]`, "Booking › Sailing › Route"))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "showing 1")
	p.do(keys(kb.Escape))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "showing 8 columns")
}

// The finder finds a field by what it holds, and a view can run over what another one
// keeps.
func TestFieldsByValueAndOtherViews(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(
		keys("f"), see(`[data-popover] [role=option]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [role=combobox]`), "tarn heron"), see(`[data-holds]`),
	)
	require.Contains(t, p.texts(`[data-popover] [role=option]`)[0], "Vessel in Booking › Sailing › Vessel")
	p.axe("fields found by value")
	p.do(
		keys(kb.Escape), keys("f"), see(`[data-other-views]`),
		chromedp.WaitReady(chromedp.CSS(`[data-other-views] option:nth-child(2)`)),
		chromedp.SendKeys(chromedp.CSS(`[data-other-views]`), "Open claims by route"),
		gavrik.Painted(),
	)
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "where the view “Open claims by route” keeps them")
	p.do(keys(kb.Escape), gavrik.Painted())
	p.settled()
	require.Equal(
		t, g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims`), p.text(`[data-kept]`), "taken back",
	)

	// A group's values in an order of one's own.
	p.do(keys("g"), find("status"), see(`[data-popover] select`))
	p.settled()
	p.do(
		chromedp.SendKeys(chromedp.CSS(`[data-popover] select`), "in an order of my own"),
		see(`[data-order-list] button`), gavrik.Painted(),
	)
	p.do(
		chromedp.Focus(chromedp.CSS(`[data-order-list] li:last-child button`)), keys(kb.Home),
		gavrik.Painted(),
	)
	top := p.text(`[data-order-list] li:first-child`)
	p.do(keys(kb.Escape))
	require.NotEmpty(t, top)
}
