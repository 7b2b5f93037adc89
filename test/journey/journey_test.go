// Package journey goes through the interface in a browser as people do.
package journey

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/localpg/pgtest"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

func TestMain(m *testing.M) { pgtest.Main(m) }

// page is a tab that a test looks at.
type page struct {
	t   *testing.T
	tab context.Context
}

func open(t *testing.T) *page {
	t.Helper()
	ctx, cancel := context.WithTimeout(t.Context(), 6*time.Minute)
	t.Cleanup(cancel)
	tab, stop, err := browser.Start(ctx)
	require.NoError(t, err)
	t.Cleanup(stop)
	p := &page{t, tab}
	p.do(holdable)
	return p
}

// openAt signs the first of the demo's people in and opens what the desk calls so.
func openAt(t *testing.T, title string) (*harness.Gavrik, *page) {
	g, p := harness.Start(t), open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), chromedp.Click(`//b[text()='`+title+`']`))
	p.settled()
	return g, p
}

// do takes steps; one that cannot be taken fails the test with a picture's path.
func (p *page) do(steps ...browser.Step) {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.tab, 40*time.Second)
	defer cancel()
	for i, s := range steps {
		if err := chromedp.Do(ctx, s); err != nil {
			p.t.Fatalf("step %d: %v; the screen is in %s", i+1, err, p.picture())
		}
	}
}

func (p *page) picture() string {
	shot, err := chromedp.Run(p.tab, chromedp.CaptureScreenshot())
	if err != nil {
		return err.Error()
	}
	path := filepath.Join(os.TempDir(), "gavrik-journey.png")
	if err := os.WriteFile(path, shot, 0o600); err != nil {
		return err.Error()
	}
	return path
}

func see(css string) browser.Step { return chromedp.WaitVisible(chromedp.CSS(css)) }
func click(css string) browser.Step {
	return chromedp.Steps(see(css), browser.Still(css), chromedp.Click(chromedp.CSS(css)))
}
func clickText(text string) browser.Step {
	return chromedp.Click(fmt.Sprintf(`//button[normalize-space()=%q] | //a[normalize-space()=%q]`, text, text))
}
func seeText(text string) browser.Step {
	return chromedp.WaitVisible(fmt.Sprintf(`//*[contains(text(),%q)]`, text))
}

// more chooses an act from the menu of the head.
func more(act string) browser.Step {
	item := fmt.Sprintf(`[data-act=%q]`, act)
	return chromedp.Steps(click(`[data-more]`), see(item), browser.Painted(), click(item))
}

// dragOnto moves something by the pointer onto something else.
func (p *page) dragOnto(from, to string) {
	p.t.Helper()
	middle := func(css string) spot { return p.spotOf(fmt.Sprintf(`document.querySelector(%q)`, css)) }
	p.do(drag(middle(from), middle(to)))
}

// keys sends keys one by one; what is between them settles.
func keys(list ...string) browser.Step {
	var steps []browser.Step
	for _, k := range list {
		steps = append(steps, chromedp.KeyEvent(k), browser.Painted())
	}
	return chromedp.Steps(steps...)
}

// shareWith shares in the dialog that is open: with "everyone", "role reader" or a group
// by its name.
func shareWith(whom string) browser.Step {
	return chromedp.Steps(chromedp.WaitReady(fmt.Sprintf(
		`//select[@data-share-with]/option[@value=%[1]q or text()=%[1]q]`, whom,
	)), func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](fmt.Sprintf(
			`(() => { const s = document.querySelector('[data-share-with]'); s.value = [...s.options].find((o) => [o.value, o.text].includes(%q)).value; return s.dispatchEvent(new Event('change')) })()`,
			whom,
		))(ctx, t)
		return chromedp.Void{}, err
	}, see(`[data-shares] li`))
}

// find types into the finder that is open and takes the first field.
func find(words string) browser.Step {
	return chromedp.Steps(
		see(`[data-popover] [role=option]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [role=combobox]`), words),
		browser.Painted(), chromedp.KeyEvent(kb.Enter),
	)
}

// group groups by a field, and keeps what is proposed once its editor is there: Enter before that
// would press the word that the finder hung from.
func group(words string) browser.Step {
	return chromedp.Steps(keys("g"), find(words), see(`[data-turn]`), keys(kb.Enter))
}

func ctrlZ(shift bool) browser.Step {
	if shift {
		return chromedp.KeyEvent("Z", chromedp.KeyModifiers(chromedp.ModifierCtrl, chromedp.ModifierShift))
	}
	return chromedp.KeyEvent("z", chromedp.KeyModifiers(chromedp.ModifierCtrl))
}

// text is the visible text of the first element, spaces made one.
func (p *page) text(css string) string {
	p.t.Helper()
	ctx, cancel := context.WithTimeout(p.tab, 40*time.Second)
	defer cancel()
	s, err := chromedp.Run(
		ctx, chromedp.Evaluate[string](fmt.Sprintf(`(document.querySelector(%q)?.innerText ?? '')`, css)),
	)
	require.NoError(p.t, err, css)
	return strings.Join(strings.Fields(s), " ")
}

// says waits until the first element says something.
func (p *page) says(css, words string) {
	p.t.Helper()
	said := func() bool { return strings.Contains(p.text(css), words) }
	require.Eventually(p.t, said, 20*time.Second, 50*time.Millisecond, "%s does not say %q", css, words)
}

// texts are the visible texts of all elements.
func (p *page) texts(css string) []string {
	p.t.Helper()
	out, err := chromedp.Run(
		p.tab,
		chromedp.Evaluate[[]string](fmt.Sprintf(
			`[...document.querySelectorAll(%q)].map(e => e.innerText.replace(/\s+/g, ' ').trim())`, css,
		)),
	)
	require.NoError(p.t, err, css)
	return out
}

// settled waits for the answer to what was asked last.
func (p *page) settled() {
	p.t.Helper()
	p.do(browser.Settled())
}

func TestFromRecordsToASharedFavorite(t *testing.T) {
	g := harness.Start(t)
	p := open(t)
	const counted = `to_char(count(*), 'FM999,999')`

	// A wrong password is refused in words; the right one leads to the desk.
	p.do(chromedp.Navigate(g.URL), see(`input[name=email]`),
		chromedp.SendKeys(chromedp.CSS(`input[name=email]`), demo.People[0].Email),
		chromedp.SendKeys(chromedp.CSS(`input[name=password]`), "not the one"+kb.Enter),
		seeText("is not right"))
	p.axe("sign-in")
	p.do(
		browser.SignIn(g.URL, demo.People[0].Email, demo.Password),
		seeText("One row per claim a customer has made."),
	)
	p.axe("desk")

	// Choose what a row is.
	p.do(chromedp.Click(`//b[text()='Claims']`))
	p.settled()
	require.Contains(
		t, p.text(`[data-brief]`), "Claims"+g.Ask(t, `SELECT `+counted+` FROM claims`)+", showing 8 columns",
	)

	// Filter by key: several values, the count at each step, a linked field.
	p.do(keys("f"), find("status"), clickText("is none of"), see(`[data-popover] li input`))
	for _, v := range []string{"Settled", "Withdrawn"} {
		p.do(chromedp.Click(fmt.Sprintf(`//label[contains(.,%q)]//input`, v)))
	}
	p.settled()
	left := g.Ask(
		t, `SELECT `+counted+` FROM claims WHERE status IS NULL OR status NOT IN ('Settled', 'Withdrawn')`,
	)
	require.Contains(t, p.text(`[data-effect]`), "leaves "+left)
	require.Equal(t, left, p.text(`[data-kept]`), "the tally follows while the editor is open")
	p.do(keys(kb.Enter), keys("f"), find("claimed"), see(`[data-popover] [aria-label=Value]`),
		chromedp.SendKeys(
			chromedp.CSS(`[data-popover] [aria-label=Value]`), "25.005",
		), browser.Painted(), keys(kb.Enter))
	p.settled()
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT `+counted+` FROM claims WHERE (status IS NULL OR status NOT IN ('Settled', 'Withdrawn')) AND claimed > 25.005`,
		),
		p.text(`[data-kept]`),
	)
	// What an editor tries out is taken back by Esc.
	before := p.text(`[data-brief]`)
	p.do(keys("f"), find("opened"), see(`[data-dates]`))
	require.Contains(t, p.text(`[data-dates]`), "25 Oct 2026 to 23 Nov 2026")
	p.do(keys(kb.Escape))
	p.settled()
	require.Equal(t, before, p.text(`[data-brief]`))

	// Any of several: an alternative beside a condition.
	p.do(click(
		`[data-phrase="filter.all[1]"]`,
	), clickText("or …"), find("category"), see(`[data-popover] li input`),
		chromedp.Click(`//label[contains(.,'Cabin fault')]//input`))
	p.settled()
	p.do(keys(kb.Enter))
	p.settled()
	const kept = ` FROM claims c JOIN bookings b ON b.id = booking_id JOIN sailings s ON s.id = sailing_id JOIN routes r ON r.id = route_id
		WHERE (c.status IS NULL OR c.status NOT IN ('Settled', 'Withdrawn')) AND (claimed > 25.005 OR category = 'Cabin fault')`
	require.Equal(t, g.Ask(t, `SELECT `+counted+kept), p.text(`[data-kept]`))
	require.Contains(t, p.text(`[data-brief]`), "(claimed is over 25.005")

	// Group by a linked field, then by month; total a column; order by the total.
	// Enter keeps what an editor opened with, at once or after a while.
	p.do(
		group("route"), keys("g"), find("opened"), browser.Painted(),
		keys(kb.Enter),
	)
	p.settled()
	p.do(
		chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Claimed')]`), keys("t"),
	)
	p.settled()
	p.do(keys("s"))
	p.settled()
	require.Contains(
		t, p.text(`[data-brief]`), "grouped by route then month opened, with total claimed, showing 8 columns",
	)
	total := g.Ask(t, `SELECT to_char(sum(claimed), 'FM999,999,990.00')`+kept)
	require.Contains(t, p.text(`[data-grand]`), total)
	require.Equal(t, g.Ask(
		t,
		`SELECT to_char(sum(claimed), 'FM999,999,990.00')`+kept+` GROUP BY r.name ORDER BY sum(claimed) DESC LIMIT 1`,
	),
		p.text(`[data-level="1"] [data-cell="sum"]`), "the group with the largest total comes first")
	require.Contains(t, p.text(`[data-tally]`), "subtotals add up to the total")

	// Levels open and close.
	require.NotEmpty(t, p.texts(`[data-level="2"]`))
	require.Empty(t, p.texts(`[role=rowgroup] [data-level="3"]`))
	p.do(keys("]"))
	p.settled()
	require.NotEmpty(t, p.texts(`[role=rowgroup] [data-level="3"]`))
	p.do(keys("[", "["))
	p.settled()
	require.Empty(t, p.texts(`[data-level="2"]`))
	p.axe("bench")

	// Columns: add a linked one, move it, take one out; undo and redo all of it.
	p.do(keys("/"), find("customer country"), keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "9 columns")
	headings := p.texts(`[role=columnheader] button`)
	require.Equal(t, "Customer country", headings[len(headings)-1])
	p.do(clickText("Customer country"), clickText("← Move"))
	p.settled()
	headings = p.texts(`[role=columnheader] button`)
	require.Equal(t, "Customer country", headings[len(headings)-2])
	p.do(clickText("Take out"))
	p.settled()
	p.do(ctrlZ(false), ctrlZ(false), ctrlZ(false))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "8 columns")
	p.do(ctrlZ(true))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "9 columns")

	// A draft outlives the page.
	brief := p.text(`[data-brief]`)
	p.do(chromedp.Reload())
	p.settled()
	require.Equal(t, brief, p.text(`[data-brief]`))
	require.Contains(t, p.text(`[data-changed]`), "not saved")

	// Save, share, and make it everybody's favorite.
	p.do(clickText("Save …"), see(`[role=dialog] input[name=name]`),
		chromedp.SendKeys(chromedp.CSS(`input[name=name]`), "Claims to chase"),
		chromedp.SendKeys(chromedp.CSS(`textarea[name=description]`), "For the Monday round"),
		shareWith("everyone"), chromedp.Click(`//form//button[@type='submit']`),
		chromedp.WaitVisible(`//h1[text()='Claims to chase']`))
	p.settled()
	require.Equal(t, "as saved", p.text(`[data-changed]`))
	require.Equal(t, brief, p.text(`[data-brief]`))
	p.do(
		more("desks"), see(`[data-favorite]`),
	)
	p.do(keys("["))
	p.settled()
	grand, groups := p.text(`[data-grand]`), p.texts(`[data-level="1"]`)

	// Somebody else finds it on the desk, opens it with one click, sees the same digits.
	second := open(t)
	second.do(browser.SignIn(g.URL, demo.People[1].Email, demo.Password), seeText("Claims to chase"))
	require.Contains(t, second.text(`[aria-labelledby=favorites]`), total)
	second.do(chromedp.Click(`//b[text()='Claims to chase']`))
	second.settled()
	require.Equal(t, brief, second.text(`[data-brief]`))
	require.Equal(t, grand, second.text(`[data-grand]`))
	second.do(keys("["))
	second.settled()
	require.Equal(t, groups, second.texts(`[data-level="1"]`))
	require.Equal(t, "as saved", second.text(`[data-changed]`))
	second.do(click(`[data-add=group]`), find("handler"), keys(kb.Enter))
	second.settled()
	require.Contains(t, second.text(`[data-changed]`), "changed since saved")
	require.Empty(t, buttonsNamed(second, "Save"), "what belongs to another is saved as a copy only")
}

// buttonsNamed are the buttons with exactly this text.
func buttonsNamed(p *page, name string) []string {
	p.t.Helper()
	var out []string
	for _, b := range p.texts(`button`) {
		if b == name {
			out = append(out, b)
		}
	}
	return out
}
