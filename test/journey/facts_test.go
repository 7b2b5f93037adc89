package journey

import (
	"net/url"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// The dry dock that a vessel is booked into is not in the application: it is added, filled in where
// one is, pasted, undone, and is a field of a saved view; two people do not write over each other.
func TestAFactFromDefinitionToView(t *testing.T) {
	g, p := harness.Start(t), open(t)
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), clickText("Records"))
	p.do(click(`a[href="/records?set=staff"]`), see(`a[href="/records?set=staff"][aria-current=true]`),
		browser.Painted(), click(`[data-add-fact]`), see(`[data-fact-form]`),
		p.put(`[name=fact-label]`, "First aid until"))
	p.until(`(s => { s.value = 'date'; s.dispatchEvent(new Event('change')); return true })(document.querySelector('[name=fact-type]'))`)
	p.axe("a new fact")
	p.do(click(`[data-save-fact]`), see(`[data-fact="first_aid_until"]`), see(`[data-field-row="first_aid_until"]`))

	// Pasted: what matches nothing is named before anything is written.
	name := func(n int) string { return g.Ask(t, "SELECT name FROM staff ORDER BY name OFFSET $1 LIMIT 1", n) }
	p.do(click(`[data-fact="first_aid_until"] [data-paste-open]`), see(`[name=paste]`))
	p.until(`(e => { e.value = ` + "`" + name(0) + "\t2026-12-31\n" + name(1) + "\t2027-06-30\nNobody\t2027-01-01" + "`" +
		`; e.dispatchEvent(new Event('input')); return true })(document.querySelector('[name=paste]'))`)
	p.says(`[data-paste-look]`, "2 filled in for the first time; found by name.")
	p.says(`[data-paste-look]`, "no staff is known by this")
	p.axe("values being pasted")
	p.do(click(`[data-paste-write]`), see(`[data-undo-fill]`))
	p.says(`[data-filled]`, "First aid until of 2 staff is filled in.")

	// In a cell of the ledger, beginning to type; in the lens; for ticked records.
	p.do(clickText("Start a view"))
	p.settled()
	p.do(keys("c"), find("first aid"), keys(kb.Enter))
	p.settled()
	place := eval[int](p, `1 + [...document.querySelectorAll('[role=columnheader]')].findIndex(h => h.textContent.includes('First aid until'))`)
	require.Positive(t, place)
	cell := func(row string) string {
		return `[role=rowgroup] [aria-rowindex="` + row + `"] [role=gridcell]:nth-child(` + string(rune('0'+place)) + `)`
	}
	record := func(row string) string {
		return eval[string](p, `document.querySelector('[role=rowgroup] [aria-rowindex="`+row+`"] [role=gridcell] .truncate, [role=rowgroup] [aria-rowindex="`+row+`"] [role=gridcell]').textContent.trim()`)
	}
	p.do(click(cell("5")), see(`[data-fact-fields]`), keys("2"), see(`[data-popover] [data-fill]`))
	p.axe("a cell being filled in")
	p.do(chromedp.SendKeys(chromedp.CSS(`[name=fill]`), "027-03-01"+kb.Enter), see(`[data-filled]`))
	p.says(cell("5"), "1 Mar 2027")
	require.Equal(t, "2027-03-01", g.Ask(t, "SELECT value FROM gavrik.fact_values ORDER BY set_at DESC LIMIT 1"))
	p.do(click(`[data-undo-fill]`))
	p.until(`!document.querySelector('` + cell("5") + `').textContent.trim()`)

	p.do(click(cell("6")), click(`[data-fill-field="first_aid_until"]`), see(`[data-fact-fields] [name=fill]`))
	// Meanwhile somebody else fills it in.
	_, err := g.DB.Exec(t.Context(), `INSERT INTO gavrik.fact_values (fact_id, record_key, value, set_by, set_at)
		SELECT id, $1, '2027-09-09', 'Jory Pell', now() FROM gavrik.facts WHERE key = 'first_aid_until'`, p.text(`[data-record-lens] h2`))
	require.NoError(t, err)
	p.until(`(e => { e.value = '2027-04-01'; e.dispatchEvent(new Event('input')); return true })(document.querySelector('[data-fact-fields] [name=fill]'))`)
	p.do(click(`[data-fill-in]`))
	p.says(`[data-held]`, "Jory Pell filled in “2027-09-09” meanwhile")
	p.do(click(`[data-over]`), see(`[data-filled]`))
	p.says(cell("6"), "1 Apr 2027")

	first := record("7")
	p.do(click(cell("7")), keys(" ", kb.ArrowDown, " "), see(`[data-ticked] [data-fill-field]`), click(`[data-ticked] [data-fill-field]`), see(`[data-ticked] [name=fill]`))
	p.until(`(e => { e.value = '2028-01-01'; e.dispatchEvent(new Event('input')); return true })(document.querySelector('[data-ticked] [name=fill]'))`)
	p.do(click(`[data-ticked] [data-fill-in]`))
	p.says(`[data-filled]`, "First aid until of 2 staff is filled in.")
	p.says(cell("8"), "1 Jan 2028")

	// On the record's own page, with who filled it in.
	p.do(chromedp.Navigate(g.URL+"/r/staff/"+url.PathEscape(first)), see(`[data-fill-field]`))
	p.says(`[data-field="first_aid_until"]`, "1 Jan 2028")
	p.do(click(`[data-fill-field]`), see(`[data-fill-history] li`))
	p.says(`[data-fill-history]`, "Tamsin Marlow: nothing → 1 Jan 2028")
	p.axe("a fact on a record")
}
