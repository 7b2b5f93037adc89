package journey

import (
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/test/harness"
)

// A view says how old its records are. What the application commits is offered, without losing the place; or
// shown as it comes, and marked. What has nothing to do with the view only makes it younger.
func TestRecordsAreFresh(t *testing.T) {
	g := harness.StartFollowing(t)
	p := signedIn(t, g, 0)
	total := func() string {
		return g.Ask(
			t,
			`SELECT to_char(sum(claimed), 'FM999,999,990.00') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25`,
		)
	}
	does := func(statement string) {
		t.Helper()
		_, err := g.DB.Exec(t.Context(), statement)
		require.NoError(t, err)
	}
	p.do(
		chromedp.Navigate(g.URL), see(`[data-favorite]`), chromedp.Click(`//b[text()='Open claims by route']`),
		see(`[data-grand]`),
	)
	p.says(`[data-grand]`, total())
	p.until(`(document.querySelector("[data-ledger-scroll]").scrollTop = 300) > 0`)

	was := p.text(`[data-as-of]`)
	does("UPDATE vessels SET name = name || ' II' WHERE id = (SELECT min(id) FROM vessels)")
	p.until(`document.querySelector('[data-as-of]').innerText !== ` + strconv.Quote(was))
	require.Empty(t, p.texts(`[data-newer]`), "no vessel is in the view")

	before := total()
	does(
		"UPDATE claims SET claimed = claimed + 1000 WHERE id = (SELECT max(id) FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn'))",
	)
	p.do(see(`[data-newer]`))
	p.axe("newer records are offered")
	p.says(`[data-grand]`, before)
	p.do(click(`[data-newer]`))
	p.says(`[data-grand]`, total())
	p.until(`document.querySelector('[data-ledger-scroll]').scrollTop === 300`)
	p.until(`!document.querySelector('[data-newer]')`)

	p.do(click(`[data-keep-up]`))
	does(
		"INSERT INTO claims (id, ref, booking_id, opened_at, category, status, claimed) SELECT 999999, 'CL-99999', booking_id, opened_at, category, status, 555.55 FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') LIMIT 1",
	)
	p.do(see(`.cell-newer`))
	p.says(`[data-grand]`, total())
	p.axe("keeping up")
}

// A board follows its records by itself, and marks the parts that say something else.
func TestABoardKeepsUp(t *testing.T) {
	g := harness.StartFollowing(t)
	p := signedIn(t, g, 0)
	owed := func() string {
		return g.Ask(
			t,
			`SELECT to_char(sum(claimed), 'FM999,999,990.00') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn')`,
		)
	}
	key := g.Ask(
		t,
		"SELECT v.key FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id WHERE n.name = 'Start of the week'",
	)
	const part = `[data-part="owed"]`
	p.do(chromedp.Navigate(g.URL+"/b/"+key), see(part+` [data-figure] b`))
	p.says(part+` [data-figure] b`, owed())
	_, err := g.DB.Exec(
		t.Context(),
		"UPDATE claims SET claimed = claimed + 1000 WHERE id = (SELECT max(id) FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn'))",
	)
	require.NoError(t, err)
	p.do(see(part + ` [data-newer]`))
	p.says(part+` [data-figure] b`, owed())
	require.Empty(t, p.texts(`[data-part="late"] [data-newer]`), "no sailing has changed")
}
