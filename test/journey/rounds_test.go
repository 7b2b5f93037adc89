package journey

import (
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"gavrik/internal/demo"
	"gavrik/internal/demo/mailbox"
	"gavrik/test/browser"
	"gavrik/test/harness"
)

// pick chooses in a select that may still be filled.
func (p *page) pick(css, text string) {
	p.t.Helper()
	p.until(`(s => { const o = s && [...s.options].find((o) => o.text.trim() === ` + "`" + text + "`" + `)
		if (!o) return false; s.value = o.value; s.dispatchEvent(new Event('change')); return true })(document.querySelector('` + css + `'))`)
}

// A view that is looked at every week: it stands on the desk once its time has come, goes when it was
// seen, and comes back a week later.
func TestAWeeklyRound(t *testing.T) {
	g, p := openAt(t, "Open claims by route")
	p.do(keys("r"), see(`[data-round-dialog] [data-rule-words]`))
	p.pick(`[data-every]`, "week")
	p.says(`[data-rule-words]`, "every Monday at 8:00: Mon 30 Nov, 08:00 · Mon 7 Dec, 08:00 · Mon 14 Dec, 08:00")
	p.pick(`[data-add-who]`, "Claims desk")
	p.do(click(`[name=each]`))
	p.pick(`[data-trigger-on]`, "a figure is past a bound")
	p.axe("a round being made")
	p.do(click(`[data-keep-round]`), seeText("It is to be looked at every Monday at 8:00, if the number of claims is over 0."))

	// Demo's own rounds are due; this one is not yet.
	p.do(clickText("Desk"), see(`[data-due="Open claims by age"]`), click(`[data-other-rounds]`))
	p.says(`[data-not-due="Open claims by route"]`, "every Monday at 8:00")
	p.axe("the desk with rounds")
	p.do(click(`[data-due="Late sailings, last 30 days"] [data-note-first]`), p.put(`[data-note]`, "All on time today."), click(`[data-keep-note]`))
	p.until(`!document.querySelector('[data-due="Late sailings, last 30 days"]')`)
	require.Equal(t, "All on time today.", g.Ask(t, "SELECT note FROM gavrik.looks ORDER BY id DESC LIMIT 1"))

	g.Clock.Turn(time.Date(2026, 11, 30, 8, 0, 0, 0, time.UTC))
	p.do(chromedp.Reload(), see(`[data-due="Open claims by route"]`))
	p.says(`[data-due="Open claims by route"]`, "since today 08:00")
	p.do(click(`[data-due="Open claims by route"] a`), see(`[data-round-strip]`))
	p.settled()
	p.axe("a view that is to be looked at")
	// It fits the screen, or is scrolled: either way it was seen.
	p.until(`(e => { e.scrollTop += 40; return true })(document.querySelector('[data-ledger-scroll]'))`)
	p.says(`[data-put-away]`, "You have seen it; next Mon 7 Dec, 08:00.")
	p.do(click(`[data-add-note]`), p.put(`[data-note]`, "Oxley waits."), click(`[data-keep-note]`))
	p.says(`[data-round-strip]`, "“Oxley waits.”")
	p.do(clickText("Desk"), see(`[data-other-rounds]`))
	p.until(`!document.querySelector('[data-due="Open claims by route"]')`)
	require.Equal(t, "true Oxley waits.", g.Ask(t, "SELECT by_seeing || ' ' || note FROM gavrik.looks ORDER BY id DESC LIMIT 1"))

	g.Clock.Turn(time.Date(2026, 12, 7, 9, 0, 0, 0, time.UTC))
	p.do(chromedp.Reload(), see(`[data-due="Open claims by route"]`))
	p.says(`[data-due="Open claims by route"]`, "Tamsin Marlow: “Oxley waits.”")
	p.do(click(`[data-due="Open claims by route"] [data-looked]`))
	p.until(`!document.querySelector('[data-due="Open claims by route"]')`)

	// Everyone of the claims desk has to look, too.
	jory := open(t)
	jory.do(browser.SignIn(g.URL, demo.People[1].Email, demo.Password), see(`[data-due="Open claims by route"]`))
	jory.do(click(`[data-due="Open claims by route"] [data-history]`), see(`[data-looks]`))
	jory.says(`[data-looks]`, "Oxley waits.")

	// Taken away, or looked at for a moment where all of it fits, it was seen.
	jory.do(clickText("Close"), click(`[data-due="Open claims by route"] a`), see(`[data-round-strip] [data-looked]`))
	jory.settled()
	jory.do(keys("e"), see(`[data-preview]`), click(`[data-what=clipboard]`), see(`[data-expected]`), click(`[data-take]:not(:disabled)`))
	jory.says(`[data-put-away]`, "You have seen it")
	jory.do(clickText("Desk"), see(`[data-to-look-at]`))

	// A calendar is given them by an address that is shown once.
	jory.do(clickText("in your calendar …"), click(`[data-make-calendar]`), see(`[data-calendar-address]`))
	jory.says(`[data-calendar-address]`, g.URL+"/api/calendar/")
	jory.axe("an address for a calendar")
}

// The age of claims goes to the claims desk every Monday: made at the view, looked over before,
// found among the deliveries, read in the mailbox, stopped by its link.
func TestAgesOfClaimsEveryMonday(t *testing.T) {
	var box *mailbox.Box
	g := harness.StartWith(t, func(at string, parts *harness.Parts) { box = parts.Mail(t, at) })
	require.NoError(t, g.Deliver.Start(t.Context()))
	p := open(t)
	view := g.Ask(t, "SELECT v.key FROM gavrik.views v JOIN gavrik.view_versions n ON n.view_id = v.id WHERE n.name = 'Open claims by age'")
	p.do(browser.SignIn(g.URL, demo.People[0].Email, demo.Password), see(`[data-due]`), chromedp.Navigate(g.URL+"/v/"+view))
	p.settled()
	p.do(keys("d"), see(`[data-delivery-dialog] [data-rule-words]`), see(`[data-subject]`))
	p.says(`[data-rule-words]`, "every Monday at 7:30")
	p.pick(`[data-add-who]`, "Claims desk")
	p.do(chromedp.Click(`//button[@aria-label='Without Tamsin Marlow (you)']`))
	p.pick(`[data-trigger-on]`, "there are claims")
	p.do(p.put(`[data-letter-subject]`, "Ansprüche nach Alter — à traiter"), p.put(`[data-letter-note]`, "Oldest first."))
	p.says(`[data-subject]`, "Ansprüche nach Alter — à traiter")
	p.says(`[data-letter-preview]`, "With Open claims by age.xlsx")
	p.axe("a delivery being made")
	p.do(click(`[data-keep-delivery]`), seeText("It is delivered every Monday at 7:30 to the Claims desk"))
	p.do(clickText("Deliveries"), see(`[data-delivery]`))
	p.says(`[data-delivery-words]`, "Every Monday at 7:30 to the Claims desk, with a spreadsheet, if there are claims.")
	p.says(`[data-delivery]`, "next Mon 30 Nov, 07:30")

	g.Clock.Turn(time.Date(2026, 11, 30, 7, 30, 0, 0, time.UTC))
	require.NoError(t, g.Deliver.Tick(t.Context()))
	p.do(chromedp.Reload(), click(`[data-what-was-sent]`), see(`[data-letter-state=sent]`))
	p.axe("what was delivered")
	p.do(click(`[data-send-me]`))
	p.until(`document.querySelectorAll('[data-letter-state=sent]').length === 2`)
	letters := box.Letters()
	require.Len(t, letters, 2)
	require.Equal(t, demo.People[1].Email, letters[1].To)

	p.do(chromedp.Navigate(g.URL+mailbox.Path), see(`iframe`))
	p.says(`main`, "Ansprüche nach Alter — à traiter")
	require.Contains(t, eval[string](p, `document.querySelector('iframe').srcdoc`), "Claims where status is not Settled, Refused or Withdrawn")
	p.axe("the letters of the demo")
	link := letters[1].Header.Get("List-Unsubscribe")
	stop := open(t) // somebody who is not signed in
	stop.do(chromedp.Navigate(link[1:len(link)-1]), see(`button`))
	stop.axe("a letter being stopped")
	stop.do(clickText("Do not send it to me any more"))
	stop.says(`h1`, "“Open claims by age” does not come to you any more")

	// Nothing of it is sent to who has stopped it; paused, it says so; ended, it goes.
	p.do(chromedp.Navigate(g.URL+"/deliveries"), click(`[data-pause]:not(:disabled)`), see(`[data-paused]`))
	p.do(click(`[data-pause]:not(:disabled)`))
	p.until(`!document.querySelector('[data-paused]')`)
	g.Clock.Turn(time.Date(2026, 12, 7, 7, 30, 0, 0, time.UTC))
	require.NoError(t, g.Deliver.Tick(t.Context()))
	p.do(chromedp.Reload(), see(`[data-what-was-sent]`))
	p.says(`[data-what-was-sent]`, "nothing to send today 07:30")
	require.Len(t, box.Letters(), 2)
	p.do(chromedp.Click(`//button[@aria-label='More of Open claims by age']`), click(`[data-act=end]`), click(`[data-end-now]`),
		seeText("Nothing is delivered yet."))
}
