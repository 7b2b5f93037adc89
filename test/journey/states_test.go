package journey

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

// paste puts text on an element as the clipboard would.
func paste(css, text string) browser.Step {
	return chromedp.Steps(see(css), func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](fmt.Sprintf(`(() => { const data = new DataTransfer(); data.setData('text', %q);
			return document.querySelector(%q).dispatchEvent(new ClipboardEvent('paste', { clipboardData: data, bubbles: true, cancelable: true })) })()`, text, css))(ctx, t)
		return chromedp.Void{}, err
	})
}

// A list of references is pasted; what matched nothing is said, and the number
// stays right.
func TestPasteAListOfReferences(t *testing.T) {
	g, p := openAt(t, "Bookings")
	var list []string
	for i := range 300 {
		list = append(list, fmt.Sprintf("mb-%06d", 10*i+1))
	}
	list = append(list, "MB-999999", "not a booking")
	p.do(keys("f"), find("ref"), paste(`[data-popover] input`, strings.Join(list, "\r\n")))
	p.settled()
	want := g.Ask(t, `SELECT count(*)::text FROM bookings WHERE lower(ref) = ANY($1)`, list)
	require.Equal(t, want, p.text(`[data-kept]`))
	p.do(seeText("matched nothing: MB-999999, not a booking"))
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "ref is mb-000001, mb-000011, mb-000021 or 299 more")
}

// What is typed wrong is said in place and kept; a valid operand goes on from it.
func TestMistakesAreMendedInPlace(t *testing.T) {
	g, p := openAt(t, "Sailings")
	const value = `[data-popover] [aria-label=Value]`
	all := p.text(`[data-kept]`)
	p.do(
		keys("f"), find("delay"), chromedp.SendKeys(chromedp.CSS(value), "soon"),
		seeText("is not a duration; write it as 1:30 or 90 min"),
	)
	require.Equal(t, all, p.text(`[data-kept]`), "the last good answer stays")
	p.do(keys(kb.Enter), see(value))
	require.NotEmpty(t, p.texts(`[data-popover]`), "a condition that cannot run is not kept")
	p.do(chromedp.SendKeys(chromedp.CSS(value), strings.Repeat(kb.Backspace, len("soon"))+"20 min"))
	p.settled()
	want := g.Ask(t, `SELECT count(*)::text FROM sailings WHERE delay > '20 minutes'`)
	require.Equal(t, want, p.text(`[data-kept]`))
	p.do(keys(kb.Enter))
	p.settled()
	// A condition that leaves nothing: the counts show where the last ones went.
	p.do(
		keys("f"), find("status"), see(`[data-popover] li input`), clickText("is"),
		chromedp.SendKeys(chromedp.CSS(value), "Sunk"), see(`[data-nothing-left]`), keys(kb.Enter),
	)
	p.settled()
	require.Equal(t, "0", p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-brief]`), "delay is over 0:20"+want)
	require.Contains(t, p.text(`[data-brief]`), "status is Sunk0")
}

// The session ends in the middle of work: signing in again goes on from there.
func TestWorkOutlivesTheSession(t *testing.T) {
	g, p := openAt(t, "Claims")
	p.do(group("category"))
	p.settled()
	_, err := g.DB.Exec(t.Context(), "DELETE FROM gavrik.sign_ins")
	require.NoError(t, err)
	p.do(keys("h"), see(`input[name=email]`)) // a step, whose run is refused
	p.do(
		chromedp.SendKeys(chromedp.CSS(`input[name=email]`), demo.People[0].Email),
		chromedp.SendKeys(chromedp.CSS(`input[name=password]`), demo.Password+kb.Enter),
	)
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "grouped by category")
	require.Contains(t, p.text(`[data-changed]`), "not saved")
}

// The order of groups and of records, changed in their own editors.
func TestOrders(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	p.do(click(`[data-phrase="groups[0]"]`), see(`[data-popover] select`), chromedp.SetValue(
		chromedp.CSS(`[data-popover] select`), "2",
	),
		chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
			_, err := chromedp.Evaluate[bool](
				`document.querySelector('[data-popover] select').dispatchEvent(new Event('change'))`,
			)(ctx, t)
			return err
		}))
	p.settled()
	p.do(keys(kb.Enter), keys("["))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "route with the most claims first")
	first := p.texts(`[data-level="1"]`)[0]
	require.Contains(t, first, g.Ask(t, `SELECT r.name || ' ' || count(*) FROM claims c JOIN bookings b ON b.id = booking_id JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id
		WHERE (c.status IS NULL OR c.status NOT IN ('Settled', 'Refused', 'Withdrawn')) AND claimed > 25 GROUP BY r.name ORDER BY count(*) DESC, r.name LIMIT 1`))
	// Records: another key, turned round, down to the record.
	p.do(keys("]", "]"), click(`[data-phrase="sort"]`), clickText("largest first"))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "smallest claimed first")
	p.do(clickText("then by …"), find("ref"), keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "smallest claimed first then ref from A to Z")
	var amounts []string
	for _, cell := range p.texts(`[data-level="3"] [data-cell=sum]`) {
		amounts = append(amounts, fmt.Sprintf("%12s", cell))
	}
	require.NotEmpty(t, amounts)
	n := len(p.texts(`[data-level="2"]`))
	require.GreaterOrEqual(t, n, 1)
	// Moving with the keys in the ledger opens and closes a group.
	p.do(keys("[", "["), chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.Home, kb.Enter))
	p.settled()
	require.NotEmpty(t, p.texts(`[data-level="2"]`))
	p.do(keys(kb.Enter))
	p.settled()
	require.Empty(t, p.texts(`[data-level="2"]`))
}

// Far down a long ledger the lines are there, and their groups stay in sight.
func TestScrollingALongLedger(t *testing.T) {
	g, p := openAt(t, "Bookings")
	p.do(group("channel"))
	p.settled()
	p.do(keys("]"))
	p.settled()
	lines, err := strconv.Atoi(g.Ask(t, `SELECT (count(*) + count(DISTINCT channel))::text FROM bookings`))
	require.NoError(t, err)
	rows, err := chromedp.Run(
		p.tab, chromedp.Evaluate[string](`document.querySelector('[data-ledger]').getAttribute('aria-rowcount')`),
	)
	require.NoError(t, err)
	require.Equal(t, strconv.Itoa(lines+2), rows, "the heading and the grand total are rows too")
	p.do(
		chromedp.Focus(chromedp.CSS(`[data-ledger]`)), keys(kb.End),
		see(fmt.Sprintf(`[aria-rowindex="%d"]`, lines+1)),
	)
	require.Greater(t, len(p.texts(`[role=rowgroup] [data-level="2"]`)), 15)
	require.Contains(
		t, p.text(fmt.Sprintf(`[aria-rowindex="%d"]`, lines+1)),
		g.Ask(t, `SELECT ref FROM bookings WHERE channel = 'Web' ORDER BY id DESC LIMIT 1`),
	)
	require.Contains(
		t, p.texts(`[data-level="1"]`)[0], "Web", "the group of the first line in sight stands above it",
	)
}

// A column's edge is dragged: it stays as wide as it was made, and undo takes it
// back.
func TestColumnWidths(t *testing.T) {
	_, p := openAt(t, "Claims")
	width := func() (box [2]float64) {
		got, err := chromedp.Run(
			p.tab,
			chromedp.Evaluate[[]float64](
				`(b => [b.right - 2, b.width])(document.querySelectorAll('[role=columnheader]')[2].getBoundingClientRect())`,
			),
		)
		require.NoError(t, err)
		return [2]float64{got[0], got[1]}
	}
	before := width()
	p.do(chromedp.DragAndDropXY(before[0], 140, before[0]+70, 140))
	p.settled()
	require.InDelta(t, before[1]+70, width()[1], 3)
	require.Contains(t, p.text(`[data-changed]`), "not saved")
	p.do(ctrlZ(false))
	p.settled()
	require.InDelta(t, before[1], width()[1], 1)
}

// Where nothing is left, the condition that took the last records away is named, and
// leaving it out brings them back.
func TestNothingLeftNamesTheCondition(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	p.do(
		keys("f"), find("category"), see(`[data-popover] li input`), click(`[data-popover] li:first-child input`),
	)
	p.settled()
	p.do(keys(kb.Enter))
	p.settled()
	left := p.text(`[data-kept]`)
	p.do(
		keys("f"), find("claimed"), see(`[data-popover] [aria-label=Value]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label=Value]`), "99999999"),
		browser.Painted(),
	)
	p.settled()
	p.do(keys(kb.Enter), see(`[data-nothing-left]`))
	require.Regexp(
		t, `^No claims are left\. “claimed is over 99,999,999\.00” took the last [\d,]+ away\. Leave it out$`,
		p.text(`[data-nothing-left]`),
	)
	require.Equal(t, "0", g.Ask(t, `SELECT count(*)::text FROM claims WHERE claimed > 99999999`))
	p.axe("nothing left")
	p.do(clickText("Leave it out"))
	p.settled()
	require.Equal(t, left, p.text(`[data-kept]`))
	require.Empty(t, p.texts(`[data-nothing-left]`))
}
