package journey

import (
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// signedIn is a page of one of the demo's people, at her desk.
func signedIn(t *testing.T, g *harness.Gavrik, n int) *page {
	p := open(t)
	p.do(browser.SignIn(g.URL, demo.People[n].Email, demo.Password))
	return p
}

// harrow keeps the claims of bookings from a port agent's port.
const harrow = `booking_id IN (SELECT b.id FROM bookings b JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id JOIN ports p ON p.id = r.from_port_id WHERE p.name = 'Harrow Strand')`

// From a template one makes a view, answers, saves, and shares it with a group; another
// keeps it at hand, and sees what the first changes, and how it came about. Who is not
// in the group sees none of it.
func TestATeamSharesAView(t *testing.T) {
	g := harness.Start(t)
	p, q := signedIn(t, g, 0), signedIn(t, g, 1)
	p.do(see(`#templates`), chromedp.Click(
		`//*[@aria-labelledby='templates']//a`,
	), see(`[data-waits]`), click(`[data-question="route"] button`), see(`[data-popover] li input`),
		chromedp.Click(
			`//li//label[contains(.,'Tarn Head')]//input`,
		), browser.Painted(), chromedp.Click(`//button[normalize-space()='Enter keep']`))
	p.settled()
	require.Equal(t, g.Ask(t, `SELECT count(*)::text FROM claims WHERE coalesce(status, '') <> 'Withdrawn' AND opened_at >= '2025-11-01' AND opened_at < '2026-11-01'
		AND booking_id IN (SELECT b.id FROM bookings b JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id WHERE r.name = 'Tarn Head – Venn Isle')`), p.text(`[data-kept]`))
	// The other questions' values follow the answer: only vessels of that route.
	p.do(
		click(`[data-question="vessel"] button`), see(`[data-popover] li input`),
		browser.Painted(),
	)
	p.axe("a question that follows another")
	p.do(keys(kb.Escape))
	p.do(
		clickText("Save …"), see(`[role=dialog] input[name=name]`),
		chromedp.SendKeys(chromedp.CSS(`[role=dialog] input[name=name]`), "Tarn Head claims"),
		shareWith("Claims desk"),
	)
	p.axe("sharing")
	p.do(
		chromedp.Click(`//form//button[normalize-space()='Save']`),
		chromedp.WaitVisible(`//h1[text()='Tarn Head claims']`),
	)
	require.Equal(t, "Claims desk", p.text(`[data-audience]`))

	q.do(
		chromedp.Navigate(g.URL+"/views"), chromedp.Click(`//a[normalize-space()='Tarn Head claims']`),
		more("desk"), see(`[data-title] [data-favorite]`),
	)
	require.Contains(t, q.text(`main`), "by Tamsin Marlow")
	q.do(click(`[data-more]`), see(`[data-act=versions]`))
	require.Empty(t, q.texts(`[data-act=name]`), "who only sees it cannot share it on")
	q.do(keys(kb.Escape))

	// The first goes on with it; the second sees that, and the history.
	p.do(group("status"))
	p.settled()
	p.do(chromedp.KeyEvent("s", chromedp.KeyModifiers(chromedp.ModifierCtrl)), seeText("as saved"))
	q.do(
		chromedp.Navigate(g.URL),
		chromedp.WaitVisible(`//*[@aria-labelledby='favorites']//b[text()='Tarn Head claims']`),
	)
	require.Contains(t, q.text(`[aria-labelledby=favorites]`), "asks 3")
	q.do(
		chromedp.Click(`//b[text()='Tarn Head claims']`), see(`[data-questions]`), click(`[data-open-versions]`),
		see(`[data-versions] li:nth-child(2)`),
	)
	require.Contains(t, q.texts(`[data-versions] li`)[0], "grouped by")
	require.Contains(t, q.texts(`[data-versions] li`)[0], "status")

	// Favorites are arranged by keys, and a shared one is put away and brought back.
	q.do(chromedp.Navigate(g.URL), see(`[data-favorite]`))
	names := func() (out []string) { return q.texts(`[data-favorite] b.heading`) }
	// shown waits until the desk shows so, and kept until the server has it.
	shown := func(want []string) {
		t.Helper()
		require.Eventually(
			t, func() bool { return slices.Equal(want, names()[:min(len(want), len(names()))]) }, 15*time.Second,
			100*time.Millisecond, "%v", want,
		)
	}
	kept := func(first string) {
		t.Helper()
		require.Eventually(t, func() bool {
			return g.Ask(
				t,
				`SELECT coalesce((SELECT n.name FROM gavrik.favorite_places f JOIN gavrik.views v ON v.id = f.view_id JOIN gavrik.view_versions n ON n.view_id = v.id AND n.version = v.version WHERE f.place > 0 ORDER BY f.place LIMIT 1), '')`,
			) == first
		}, 15*time.Second, 100*time.Millisecond, first)
	}
	before := names()
	turned := []string{before[1], before[0]}
	q.do(chromedp.Focus(chromedp.CSS(`[data-favorite]:nth-child(2) [data-grip]`)), keys(kb.ArrowUp))
	shown(turned)
	kept(before[1])
	q.do(chromedp.Reload(), see(`[data-favorite]`))
	shown(turned)
	// The same by dragging, there and back.
	q.dragOnto(`[data-favorite]:nth-child(1) [data-grip]`, `[data-favorite]:nth-child(2) b.heading`)
	shown(before[:2])
	kept(before[0])
	q.do(chromedp.Reload(), see(`[data-favorite]`))
	shown(before[:2])
	q.do(chromedp.Focus(chromedp.CSS(`[data-put-away]`)), chromedp.KeyEvent(kb.Enter), see(`[data-away]`))
	require.Eventually(
		t, func() bool { return len(names()) == len(before)-1 }, 15*time.Second, 100*time.Millisecond,
	)
	q.axe("the desk")
	q.do(click(`[data-away]`), clickText("bring back"))
	require.Eventually(
		t, func() bool { return len(names()) == len(before) }, 15*time.Second, 100*time.Millisecond,
	)

	// The owner hands it over, and sees it no longer, as it is not shared with her.
	p.do(
		more("name"), chromedp.WaitReady(`//select[@data-hand-to]/option[text()='Jory Hale']`),
		chromedp.SendKeys(chromedp.CSS(`[data-hand-to]`), "Jory"), click(`[data-hand]`),
		chromedp.WaitVisible(`//h2[text()='Favorites']`),
	)
	q.do(chromedp.Navigate(g.URL+"/views"), see(`table`))
	require.Contains(t, q.text(`main`), "Tarn Head claims")
	require.Equal(
		t, "Jory Hale",
		g.Ask(
			t,
			`SELECT DISTINCT p.name FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id JOIN gavrik.people p ON p.id = v.owner_id WHERE n.name = 'Tarn Head claims'`,
		),
	)
	q.do(chromedp.Navigate(g.URL), see(`[data-favorite]`))

	// The desk's question finds it, and says why; a guessed address shows nothing.
	q.do(chromedp.SendKeys(chromedp.CSS(`main input[type=search]`), "tarn hed claims"), see(`[data-why-found]`))
	require.Contains(t, q.text(`[data-nearest] li`), "Tarn Head claims")
	key := g.Ask(
		t,
		`SELECT v.key FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id WHERE n.name = 'Tarn Head claims' LIMIT 1`,
	)
	w := signedIn(t, g, 2)
	w.do(chromedp.Navigate(g.URL+"/v/"+key), seeText("There is no such view, or it is not shared with you."))
	w.do(chromedp.Navigate(g.URL+"/views"), see(`table`))
	require.NotContains(t, w.text(`main`), "Tarn Head claims")
}

// A reader tries a view out and saves nothing; what is kept from her is said where it is
// missing, and every number is of what she sees.
func TestAReaderSeesWhatIsHers(t *testing.T) {
	g := harness.Start(t)
	w := signedIn(t, g, 2)
	kept := g.Ask(
		t,
		`SELECT to_char(count(*), 'FM999,999') FROM claims WHERE coalesce(status, '') NOT IN ('Settled', 'Refused', 'Withdrawn') AND claimed > 25 AND `+harrow,
	)
	w.do(see(`[data-favorite]`), see(`[aria-labelledby=start] li`))
	require.Contains(t, w.text(`[aria-labelledby=favorites]`), "total claimed, "+kept+" claims")
	require.NotContains(t, w.text(`header`), "People")
	require.NotContains(t, w.text(`[aria-labelledby=start]`), "Staff")
	require.Contains(
		t, w.text(`[aria-labelledby=start]`),
		"Claims "+g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE `+harrow),
	)
	w.do(chromedp.Click(`//b[text()='Open claims by route']`))
	w.settled()
	require.Equal(t, kept, w.text(`[data-kept]`))
	require.Contains(t, w.text(`main`), "kept from you, and left out: Paid")
	require.Contains(t, w.text(`main`), "in all that you may see")
	require.Contains(t, w.text(`[data-brief]`), "showing 5 columns")
	require.NotContains(t, w.texts(`[role=columnheader]`), "Paid total")
	require.Empty(t, buttonsNamed(w, "Save as …"))
	// Trying out goes on; keys do not save either.
	w.do(group("category"))
	w.settled()
	w.do(
		chromedp.KeyEvent("s", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		seeText("to save needs the role of an analyst"),
	)
	require.Equal(t, "1", g.Ask(t, `SELECT max(version)::text FROM gavrik.view_versions`))
	w.do(chromedp.Navigate(g.URL+"/records"), see(`[data-withheld]`))
	require.Contains(t, w.text(`[data-withheld]`), "Kept from you: Staff.")
	w.do(click(`a[href="/records?set=claims"]`), seeText("Paid, Handler"))
	w.axe("records of a reader")
	w.do(chromedp.Navigate(g.URL+"/people"), seeText("Only an administrator can do this."))
	// An administrator gives her another port; the next number she sees is of that.
	p := signedIn(t, g, 0)
	p.do(
		chromedp.Navigate(g.URL+"/people"), click(`[data-person="wen@marrowby.example"]`), see(`[data-sees]`),
		see(`input[name=trait-port]`),
	)
	require.Contains(t, p.text(`[data-sees]`), "Staff none of them")
	p.axe("people")
	// Somebody new: what is wrong is said, and what was typed stays.
	p.do(click(`[data-add-person]`), see(`input[name=person-name]`), chromedp.SendKeys(
		chromedp.CSS(`input[name=person-name]`), "Ines Sable",
	), chromedp.SendKeys(chromedp.CSS(`input[name=person-email]`), "wen@marrowby.example"+kb.Enter),
		seeText(
			"Somebody with the e-mail address wen@marrowby.example can sign in already.",
		), click(`input[name=person-email]`), chromedp.KeyEvent(
			"a", chromedp.KeyModifiers(chromedp.ModifierCtrl),
		), chromedp.KeyEvent("ines@marrowby.example"), chromedp.KeyEvent(kb.Enter), see(`[data-fresh] code`))
	fresh := p.text(`[data-fresh] code`)
	i := open(t)
	i.do(chromedp.Navigate(g.URL), see(`input[name=email]`), chromedp.SendKeys(
		chromedp.CSS(`input[name=email]`), "ines@marrowby.example",
	), chromedp.SendKeys(chromedp.CSS(`input[name=password]`),
		fresh+kb.Enter), seeText(
		"Choose a password of your own",
	), chromedp.SendKeys(chromedp.CSS(`input[name=old]`),
		fresh),
		chromedp.SendKeys(chromedp.CSS(`input[name=new]`), "password123"+kb.Enter),
		seeText("one of those that are tried first"), click(`input[name=new]`),
		chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.KeyEvent("tide and lantern"), chromedp.KeyEvent(kb.Enter), see(`[data-favorite]`))
	require.Equal(t, "analyst", g.Ask(t, `SELECT role FROM gavrik.people WHERE name = 'Ines Sable'`))
	p.do(
		click(`[data-person="ines@marrowby.example"]`), chromedp.WaitVisible(`//section[@aria-label='Ines Sable']`),
		click(`[data-left]`), chromedp.WaitVisible(`//button[@data-left][contains(.,'Let in again')]`),
	)
	i.do(chromedp.Navigate(g.URL), see(`input[name=email]`))
	p.do(click(`[data-person="wen@marrowby.example"]`), see(`input[name=trait-port]`))
	p.do(
		click(`input[name=trait-port]`), chromedp.KeyEvent("a", chromedp.KeyModifiers(chromedp.ModifierCtrl)),
		chromedp.KeyEvent(kb.Backspace),
		chromedp.SendKeys(chromedp.CSS(`input[name=trait-port]`), "Oxley, Tarn Head"), click(`[data-save-person]`),
		seeText("it holds from now on"),
	)
	w.do(chromedp.Navigate(g.URL+"/new/bookings"), see(`[data-kept]`))
	w.settled()
	require.Equal(
		t,
		g.Ask(
			t,
			`SELECT to_char(count(*), 'FM999,999') FROM bookings b JOIN sailings s ON s.id = b.sailing_id JOIN routes r ON r.id = s.route_id JOIN ports p ON p.id = r.from_port_id WHERE p.name IN ('Oxley', 'Tarn Head')`,
		),
		w.text(`[data-kept]`),
	)

	// A group of one's own making, with a rule that is a view's filter.
	p.do(chromedp.Navigate(
		g.URL+"/people?show=groups",
	), click(`[data-add-group]`), see(`input[name=group-name]`), chromedp.SendKeys(chromedp.CSS(
		`input[name=group-name]`,
	),
		"Night watch"),
		chromedp.SendKeys(
			chromedp.CSS(`[data-limit=sailings] select`), "those that",
		), see(`[data-rule-view]`), chromedp.WaitReady(
			`//select[@data-rule-view]/option[text()='Late sailings, last 30 days']`,
		), chromedp.SendKeys(
			chromedp.CSS(`[data-rule-view]`), "Late",
		), see(`[data-rule]`), click(`[data-save-group]`), see(`[data-group="Night watch"]`))
	p.do(see(`[data-rule]`))
	p.says(`[data-rule]`, "Sailings where departs in the last 30 days and delay is over 0:15.")
	p.axe("groups")
	p.do(
		click(`[data-tab=sensitive]`), see(`[data-sensitive]`), click(`[data-tab=trail]`), see(`[data-trail] td`),
	)
	require.Contains(
		t, p.text(`[data-trail]`), "added the group “Night watch”: only sailings where departs in the last 30 days",
	)
	require.Contains(t, p.text(`[data-trail]`), "traits: was port Harrow Strand, now port Oxley, Tarn Head")
	p.axe("the audit trail")
	// A token is shown once, and runs a view.
	p.do(
		click(`header button[aria-label*="signed in as"]`), clickText("Tokens for programs …"),
		see(`input[name=token-name]`),
		chromedp.SendKeys(chromedp.CSS(`input[name=token-name]`), "nightly"+kb.Enter), see(`[data-token]`),
	)
	require.Regexp(t, `^gavrik_[a-z2-7]{52}$`, p.text(`[data-token]`))
	p.axe("tokens")
}

// What administrators set is what everybody's new views start with; a view from elsewhere
// is brought in once what it names is told by its name here.
func TestStandardsAndViewsFromElsewhere(t *testing.T) {
	g := harness.Start(t)
	p := signedIn(t, g, 0)
	p.do(chromedp.Navigate(g.URL+"/new/vessels"), see(`[data-kept]`))
	p.settled()
	require.Contains(t, p.texts(`[role=columnheader]`), "Picture", "the demo's own standard")
	p.do(
		more("standard-none"), seeText("start as the database suggests."),
		chromedp.Navigate(g.URL), chromedp.Navigate(g.URL+"/new/vessels"), see(`[data-kept]`),
	)
	p.settled()
	suggested := p.texts(`[role=columnheader]`)
	require.NotContains(t, suggested, "Picture")
	p.do(more("standard-columns"), seeText("New views of vessels have these columns."))
	p.do(group("in service"))
	p.settled()
	p.do(
		more("standard-view"),
		seeText("New views of vessels start as this one stands now."),
	)
	q := signedIn(t, g, 1)
	q.do(chromedp.Navigate(g.URL+"/new/vessels"), see(`[data-kept]`))
	q.settled()
	require.Contains(t, q.text(`[data-brief]`), "grouped by in service")
	require.Equal(t, "nothing changed yet", q.text(`[data-changed]`))
	q.do(click(`[data-more]`), see(`[data-act=keys]`))
	require.Empty(t, q.texts(`[data-act^=standard]`))
	q.do(keys(kb.Escape))
	p.do(
		more("standard-none"),
		seeText("start as the database suggests."),
	)
	q.do(chromedp.Navigate(g.URL), chromedp.Navigate(g.URL+"/new/vessels"), see(`[data-kept]`))
	q.settled()
	require.Equal(t, suggested, q.texts(`[role=columnheader]`))
	q.do(
		chromedp.Navigate(g.URL), chromedp.WaitReady(chromedp.CSS(`a[href="/new/vessels?blank"]`)),
		chromedp.Navigate(g.URL+"/new/vessels?blank"), see(`[data-kept]`),
	)
	q.settled()
	require.Contains(t, q.text(`[data-brief]`), ", showing no columns.")

	file := filepath.Join(t.TempDir(), "elsewhere.json")
	require.NoError(t, os.WriteFile(file, []byte(`{"name": "From elsewhere", "document": {"gavrik": 1, "records": "claims", "columns": [{"field": "state"}, {"field": "claimed", "totals": [{"fn": "sum"}]}],
		"filter": {"all": [{"field": "state", "op": "one_of", "values": ["Open"]}]}}}`), 0o600))
	q.do(
		chromedp.Navigate(g.URL+"/views"), chromedp.WaitReady(chromedp.CSS(`[data-bring-in]`)),
		chromedp.SetUploadFiles(chromedp.CSS(`[data-bring-in]`), []string{file}), see(`[data-unknown="state"]`),
	)
	require.Contains(
		t, q.text(`[data-refused]`), "From elsewhere was not brought in. It names what is not here.",
	)
	q.axe("a file that names what is not here")
	q.do(
		chromedp.WaitReady(`//select[@data-unknown='state']/option[text()='Status']`),
		chromedp.SendKeys(chromedp.CSS(`[data-unknown="state"]`), "Status"), browser.Painted(),
		click(`[data-bring-again]`), chromedp.WaitVisible(`//a[normalize-space()='From elsewhere']`),
	)
	q.do(chromedp.Click(`//a[normalize-space()='From elsewhere']`), see(`[data-kept]`))
	q.settled()
	require.Equal(
		t, g.Ask(t, `SELECT to_char(count(*), 'FM999,999') FROM claims WHERE status = 'Open'`),
		q.text(`[data-kept]`),
	)
	require.NoError(t, os.WriteFile(file, []byte(`{"name": `), 0o600))
	q.do(
		chromedp.Navigate(g.URL+"/views"), chromedp.WaitReady(chromedp.CSS(`[data-bring-in]`)),
		chromedp.SetUploadFiles(chromedp.CSS(`[data-bring-in]`), []string{file}),
		seeText("elsewhere.json is no view: it is not JSON. Nothing was saved."),
	)
}
