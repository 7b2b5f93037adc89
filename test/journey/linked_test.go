package journey

import (
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
