package journey

import (
	"archive/zip"
	"encoding/csv"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

// fetched waits until a file has come, and gives it back.
func fetched(t *testing.T, folder, name string) string {
	t.Helper()
	path := filepath.Join(folder, name)
	require.Eventually(t, func() bool { _, err := os.Stat(path); return err == nil }, 20*time.Second, 50*time.Millisecond,
		"%s does not come", name)
	return path
}

// The two-level view is taken as it is laid out and as plain data, as a data file, over a link,
// by the clipboard, and with another one from the list.
func TestResultsAreTakenAway(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	folder := t.TempDir()
	p.do(browser.Downloads(folder), keys("e"), see(`[data-preview]`))
	p.axe("take away")
	groups := g.Ask(t, `SELECT (count(DISTINCT r.id) + count(DISTINCT (r.id, date_trunc('month', c.opened_at))) + 1)::text
		FROM claims c JOIN bookings b ON b.id = c.booking_id JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id
		WHERE coalesce(c.status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND c.claimed > 25`)
	p.says(`[data-expected]`, groups+" lines")
	open := g.Ask(t, `SELECT count(*)::text FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25`)

	// As laid out, down to the records: totals are formulas, lines fold.
	eval[bool](p, `(() => { const s = document.querySelector('[data-down-to]'); s.value = '2'; return s.dispatchEvent(new Event('change')) })()`)
	p.until(`!document.querySelector('[data-expected]').innerText.includes('` + groups + ` lines')`)
	p.do(click(`[data-take]`), chromedp.WaitNotPresent(chromedp.CSS(`[data-take-away]`)), see(`[data-making=taken]`))
	book, err := excelize.OpenFile(fetched(t, folder, "Open claims by route.xlsx"))
	require.NoError(t, err)
	require.Equal(t, []string{"Claims", "About"}, book.GetSheetList())
	formula, err := book.GetCellFormula("Claims", "G6")
	require.NoError(t, err)
	require.Contains(t, formula, "SUBTOTAL(9,G7:G")
	level, err := book.GetRowOutlineLevel("Claims", 8)
	require.NoError(t, err)
	require.Equal(t, uint8(2), level)
	require.NoError(t, book.Close())
	require.NoError(t, os.Remove(filepath.Join(folder, "Open claims by route.xlsx")))

	// Plain data without one of its columns.
	p.do(
		keys("e"), see(`[data-preview]`), click(`label:has(> input[value=records])`), see(`[data-column=status]`),
		click(`[data-column=status]`),
	)
	p.says(`[data-expected]`, open+" lines")
	p.until(`![...document.querySelectorAll('[data-preview] th')].some(h => h.innerText === 'Status')`)
	p.do(click(`[data-take]`))
	book, err = excelize.OpenFile(fetched(t, folder, "Open claims by route.xlsx"))
	require.NoError(t, err)
	rows, err := book.GetRows("Claims")
	require.NoError(t, err)
	require.Equal(t, []string{"Route", "Month opened", "Ref", "Opened", "Category", "Claimed", "Paid"}, rows[0])
	require.Equal(t, open, fmt.Sprint(len(rows)-1))
	tables, err := book.GetTables("Claims")
	require.NoError(t, err)
	require.Len(t, tables, 1)
	require.NoError(t, book.Close())

	// The choice is remembered; a program reads the same by a link of its own.
	p.do(keys("e"), see(`[data-column=status]`))
	require.False(t, eval[bool](p, `document.querySelector('[data-column=status]').checked`))
	p.do(click(`[data-what=file]`), see(`[data-format]`), click(`[data-column=status]`), click(`[data-make-link]`), see(`[data-link]`))
	answer, err := http.Get(p.text(`[data-link]`))
	require.NoError(t, err)
	defer answer.Body.Close()
	require.Equal(t, 200, answer.StatusCode)
	linked, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	p.do(click(`[data-take]`))
	taken, err := os.ReadFile(fetched(t, folder, "Open claims by route.csv"))
	require.NoError(t, err)
	require.Equal(t, string(linked), string(taken))
	require.True(t, strings.HasPrefix(string(taken), "\ufefflevel,Route,"), "marked, so that spreadsheets know its characters")

	p.do(
		keys("e"), see(`[data-preview]`), click(`[data-what=clipboard]`), see(`input[value=records]`), click(`label:has(> input[value=records])`),
	)
	p.says(`[data-expected]`, open+" lines")
	p.do(click(`[data-take]`), seeText("The lines are in the clipboard."))
	lines := eval[string](p, `navigator.clipboard.readText()`)
	r := csv.NewReader(strings.NewReader(lines))
	r.Comma = '\t'
	pasted, err := r.ReadAll()
	require.NoError(t, err)
	require.Equal(t, open, fmt.Sprint(len(pasted)-1))

	// Two of the list at once; a view that waits for an answer says so.
	p.do(
		chromedp.Navigate(g.URL+"/views"), see(`[data-view]`),
		chromedp.Click(`//tr[.//a[normalize-space()='Open claims by route']]//input`),
		chromedp.Click(`//tr[.//a[normalize-space()='Late sailings, last 30 days']]//input`),
		click(`[data-take-views]`), see(`[data-take-away]`), click(`[data-take]`),
	)
	archive, err := zip.OpenReader(fetched(t, folder, "2 views.zip"))
	require.NoError(t, err)
	defer archive.Close()
	require.Len(t, archive.File, 2)
	p.do(
		chromedp.Navigate(g.URL+"/views"), see(`[data-view]`),
		chromedp.Click(`//tr[.//a[normalize-space()='Claims of a route']]//input`),
		click(`[data-take-views]`), see(`[data-preview-trouble]`),
	)
	p.says(`[data-preview-trouble]`, "waits for an answer")
	require.True(t, eval[bool](p, `document.querySelector('[data-take]').disabled`))
	p.do(chromedp.KeyEvent(kb.Escape), chromedp.WaitNotPresent(chromedp.CSS(`[data-take-away]`)))
}

// Paper is set up where its pages are seen, stays with the view, and what prints is what was seen:
// another program reads every line of the ledger from it.
func TestPaperIsWhatWasSeen(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	folder := t.TempDir()
	logo := filepath.Join(folder, "logo.svg")
	require.NoError(t, os.WriteFile(logo, []byte(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 90 30"><path d="M0 15 L30 0 L30 30 Z" fill="#1f5c4d"/></svg>`), 0o600))
	p.do(
		click(`header [aria-label*="signed in as"]`), see(`[data-act=letterhead]`), browser.Painted(), click(`[data-act=letterhead]`),
		see(`[data-letterhead] input`), chromedp.SendKeys(chromedp.CSS(`[data-letterhead] input`), "Marrowby Sound Ferries"),
		chromedp.SendKeys(chromedp.CSS(`[data-letterhead] textarea`), "The Quay\nMarrowby"),
		chromedp.SetUploadFiles(chromedp.CSS(`[data-logo]`), []string{logo}), see(`[data-logo-shown]`),
	)
	p.axe("letterhead")
	p.do(click(`[data-save-letterhead]`), chromedp.WaitNotPresent(chromedp.CSS(`[data-letterhead]`)))
	p.do(browser.Downloads(folder), ctrl("p"), see(`[data-page]`))
	p.until(`document.querySelectorAll('[data-page] image').length === 1`)
	p.axe("paper")
	width := func() float64 {
		return eval[float64](p, `document.querySelector('[data-page]').viewBox.baseVal.width`)
	}
	require.InDelta(t, 595.3, width(), 0.1)
	choose := func(css, value string) {
		eval[bool](p, fmt.Sprintf(
			`(() => { const s = document.querySelector(%q); s.value = %q; return s.dispatchEvent(new Event('change')) })()`, css, value,
		))
	}
	choose(`[data-turned]`, "sideways")
	choose(`[data-size]`, "A3")
	choose(`[data-down-to]`, "2")
	p.until(`document.querySelector('[data-page]')?.viewBox.baseVal.width > 1190`)
	p.do(click(`summary`), see(`[data-paper-title]`), click(`[data-part=author]`))
	choose(`[data-paper-title]`, "Claims – Łódź & € 5")
	p.until(`[...document.querySelectorAll('[data-page] text')].some(t => t.textContent.trim() === 'Claims – Łódź & € 5')`)
	p.until(`![...document.querySelectorAll('[data-page] text')].some(t => t.textContent.includes('by ` + demo.People[0].Name + `'))`)
	seen := eval[string](p, `[...document.querySelectorAll('[data-page] text')].map(t => t.textContent.trim()).join(' ')`)
	p.do(click(`[data-take]`), chromedp.WaitNotPresent(chromedp.CSS(`[data-take-away]`)))
	file := fetched(t, folder, "Open claims by route.pdf")
	text, err := exec.CommandContext(t.Context(), "pdftotext", "-raw", file, "-").Output()
	require.NoError(t, err)
	read := strings.Join(strings.Fields(string(text)), " ")
	for _, word := range strings.Fields(seen) {
		require.Contains(t, read, word)
	}
	require.Contains(t, read, "Claims – Łódź & € 5")
	require.Contains(t, read, "Marrowby Sound Ferries The Quay Marrowby")
	records := strings.Split(g.Ask(t, `SELECT string_agg(c.ref, ' ') FROM claims c
		WHERE coalesce(c.status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND c.claimed > 25`), " ")
	for _, ref := range records {
		require.Equal(t, 1, strings.Count(read, ref), ref)
	}
	require.Contains(t, read, fmt.Sprintf("%d of ", len(records)))
	info, err := exec.CommandContext(t.Context(), "pdfinfo", file).Output()
	require.NoError(t, err)
	require.Regexp(t, `Title: +Open claims by route`, string(info))
	require.Regexp(t, `Page size: +1190.55 x 841.89 pts`, string(info))
	// It is a step of the view, which can be undone, and changes no number.
	p.settled()
	require.NotEqual(t, "as saved", p.text(`[data-changed]`))
	p.do(ctrlZ(false))
	p.says(`[data-changed]`, "as saved")
}
