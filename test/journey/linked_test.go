package journey

import (
	"slices"
	"strings"
	"testing"

	"gavrik/test/browser"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// A condition on the records that link here: how many of some kind, then the latest of
// them; each gives PostgreSQL's count while the editor is open.
func TestConditionsOnLinkedRecords(t *testing.T) {
	g, p := openAt(t, "Vessels")
	left := func() string {
		p.settled()
		return p.text(`[data-effect] b`)
	}
	// Their name finds them like a field.
	p.do(keys("f"), see(`[data-linked-by]`), find("inspctions"), see(`[data-test="any"]`))
	require.Equal(t, g.Ask(t, `SELECT count(DISTINCT vessel_id)::text FROM inspections`), left())
	p.do(
		click(`[data-test="at_least"]`), see(`[aria-label="How many"]`),
		chromedp.SendKeys(chromedp.CSS(`[aria-label="How many"]`), kb.ArrowUp),
	)
	require.Contains(t, p.text(`[data-brief]`), "they have")
	p.do(
		click(`[data-where]`), find("passed"), browser.Painted(),
		chromedp.Click(`//label[contains(., 'no')]//input[@type='radio']`),
	)
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT count(*)::text FROM vessels v WHERE (SELECT count(*) FROM inspections WHERE vessel_id = v.id AND NOT passed) >= 2`,
		),
		left(),
	)
	require.Contains(t, p.text(`[data-brief]`), "they have at least 2 inspections where passed is no")
	p.axe("linked condition")
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()

	p.do(click(
		`[data-phrase="filter.all[0]"]`,
	), see(`[data-test="latest"]`), click(
		`[data-test="latest"]`,
	), clickText("what must it meet?"), find("score"), see(`[data-popover] [aria-label="Value"]`),
		chromedp.SendKeys(
			chromedp.CSS(`[data-popover] [aria-label="Value"]`), "80",
		), browser.Painted())
	op := p.text(`[data-popover] [aria-pressed="true"]:not([data-test])`)
	compare := map[string]string{
		"is over": ">", "is at least": ">=", "is": "=", "is under": "<", "is at most": "<=",
	}[op]
	require.NotEmpty(t, compare, op)
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT count(*)::text FROM (SELECT DISTINCT ON (vessel_id) score FROM inspections WHERE NOT passed ORDER BY vessel_id, inspected_on DESC, id) x WHERE score `+compare+` 80`,
		),
		left(),
	)
	require.Contains(t, p.text(`[data-brief]`), "for the latest of their inspections where passed is no")
	p.do(chromedp.KeyEvent(kb.Escape))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "at least 2 inspections", "Esc takes back what was tried")

	// Two links away, and removed again.
	p.do(
		chromedp.Click(`//*[@data-brief]//button[contains(., 'inspections')]`), see(`[data-test]`),
		clickText("Remove"),
	)
	p.settled()
	require.NotContains(t, p.text(`[data-brief]`), "where")
	p.do(
		keys("f"), see(`[data-linked-by]`), chromedp.Click(`//*[@data-linked-by]//button[contains(., 'Bookings')]`),
		click(`[data-test="none"]`),
	)
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT count(*)::text FROM vessels v WHERE NOT EXISTS (SELECT FROM bookings b JOIN sailings s ON s.id = b.sailing_id WHERE s.vessel_id = v.id)`,
		),
		left(),
	)
}

// The latest inspection's score is found by typing, wherever a field is looked for: as a column,
// as a condition, as groups; then it is defined for all views, and a view of sailings has it through
// its vessel.
func TestLatestScoreAsColumnConditionAndGroup(t *testing.T) {
	g, p := openAt(t, "Vessels")
	const latest = `(SELECT score FROM inspections WHERE vessel_id = v.id ORDER BY inspected_on DESC, id DESC LIMIT 1)`
	p.do(keys("c"), find("latest score"), browser.Painted(), keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`),
		"Latest inspection’s score is the score of a vessel’s latest inspection by inspected on (blank if there is none).")
	heads := p.heads()
	require.Equal(t, "Latest inspection’s score", heads[len(heads)-1])

	// Finding it again finds the field that the view has now.
	p.do(keys("f"), find("latest score"), see(`[data-popover] [aria-label="Value"]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label="Value"]`), "80"))
	p.settled()
	want := g.Ask(t, `SELECT count(*)::text FROM vessels v WHERE `+latest+` > 80`)
	require.Equal(t, want, p.text(`[data-effect] b`))
	p.do(keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "latest inspection’s score is over 80")

	// One that no column shows: how many passed, as groups.
	p.do(keys("g"), find("number of inspections"), see(`[data-turn]`), keys(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "grouped by number of inspections")
	p.do(click(`[data-phrase="linked[1]"]`), see(`[data-take="any"]`), click(`[data-where]`), find("passed"),
		browser.Painted())
	p.says(`[data-linked-preview]`, "where passed is yes")
	p.axe("linked value")
	p.do(keys(kb.Enter))
	p.settled()
	require.Equal(t,
		g.Ask(t, `SELECT string_agg(DISTINCT n::text, ' ' ORDER BY n::text) FROM (SELECT (SELECT count(*) FROM inspections WHERE vessel_id = v.id AND passed) AS n FROM vessels v WHERE `+latest+` > 80) x`),
		strings.Join(slices.Sorted(slices.Values(p.texts(`[role=rowgroup] [data-level="1"] button .truncate`))), " "))

	// Defined for all views, the latest score is there for whatever links to a vessel.
	p.do(click(`[data-phrase="linked[0]"]`), see(`[data-linked-preview] table`), click(`[data-share]`),
		chromedp.WaitNotPresent(chromedp.CSS(`[data-popover]`)))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "(blank if there is none) for all views.")
	p.do(chromedp.Navigate(g.URL + "/new/sailings"))
	p.settled()
	p.do(keys("f"), find("vessel latest score"), see(`[data-popover] [aria-label="Value"]`),
		chromedp.SendKeys(chromedp.CSS(`[data-popover] [aria-label="Value"]`), "80"))
	p.settled()
	require.Equal(t,
		g.Ask(t, `SELECT trim(to_char(count(*), '999,999')) FROM sailings s JOIN vessels v ON v.id = vessel_id WHERE `+latest+` > 80`),
		p.text(`[data-effect] b`))
	p.do(chromedp.Navigate(g.URL+"/definitions"), see(`[data-definitions] button`),
		chromedp.Click(`//*[@data-definitions]//button[contains(., 'Latest inspection')]`), see(`[data-linked-preview] table`))
	p.axe("definition of a linked value")
}

// What a condition on linked records looks at is shown as a column from the same editor.
func TestConditionOnLinkedRecordsIsShown(t *testing.T) {
	g, p := openAt(t, "Vessels")
	p.do(keys("f"), see(`[data-linked-by]`), find("inspections"), see(`[data-test="at_least"]`),
		click(`[data-test="at_least"]`), see(`[aria-label="How many"]`), click(`[data-show]`))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "they have at least 1 inspections")
	heads := p.heads()
	require.Equal(t, "Number of inspections", heads[len(heads)-1])
	require.Contains(t, p.text(`[data-grand]`), g.Ask(t, `SELECT count(*)::text FROM inspections WHERE vessel_id IS NOT NULL`))
}

// A formula names a value of linked records that no view has made yet: the view makes it.
func TestAFormulaNamesALinkedValue(t *testing.T) {
	g, p := openAt(t, "Bookings")
	p.do(calculate("'Fare' - 'Total amount of payments'", "Still owed")...)
	p.do(chromedp.KeyEvent(kb.Enter))
	p.settled()
	require.Contains(t, p.text(`[data-brief]`), "Still owed is 'Fare' - 'Total amount of payments'.")
	require.Contains(t, p.text(`[data-brief]`),
		"Total amount of payments is the total amount of a booking’s payments (0 if there are none).")
	require.Contains(t, p.text(`[data-grand]`), g.Ask(t,
		`SELECT to_char((SELECT sum(fare) FROM bookings) - (SELECT sum(amount) FROM payments), 'FM999,999,990.00')`))
}
