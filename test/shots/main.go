// Shots takes the pictures of the main views that the README shows, from a
// running demo: go run ./test/shots [-base http://127.0.0.1:4280] [-only name].
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"gavrik/internal/demo"
	"gavrik/test/browser"
)

type shot struct {
	name string
	step browser.Step
}

func main() {
	base := flag.String("base", "http://127.0.0.1:4280", "address of a running demo")
	dir := flag.String("dir", "docs/screenshots", "folder for the pictures")
	only := flag.String("only", "", "take this one alone")
	dark := flag.Bool("dark", false, "in the dark scheme")
	flag.Parse()
	if err := run(*base, *dir, *only, *dark); err != nil {
		fmt.Fprintln(os.Stderr, "shots:", err)
		os.Exit(1)
	}
}

func run(base, dir, only string, dark bool) error {
	ctx, cancel := context.WithTimeout(context.Background(), 2*time.Minute)
	defer cancel()
	tab, stop, err := browser.Start(ctx)
	if err != nil {
		return err
	}
	defer stop()
	if err := chromedp.Do(tab, browser.Dark(dark)); err != nil {
		return err
	}
	for _, s := range shots(base) {
		if err := chromedp.Do(tab, s.step, chromedp.Sleep(300*time.Millisecond)); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if only != "" && only != s.name {
			continue
		}
		picture, err := chromedp.Run(tab, chromedp.CaptureScreenshot())
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := os.WriteFile(filepath.Join(dir, s.name+".png"), picture, 0o644); err != nil {
			return err
		}
	}
	return nil
}

// logo is the ferry company's.
const logo = `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 120 40"><path d="M4 28 H76 L68 36 H12 Z" fill="#1f5c4d"/>` +
	`<path d="M16 26 V16 H56 L62 26 Z" fill="#d9a441"/><path d="M80 30 q10 -8 20 0 t20 0" stroke="#3d5670" stroke-width="3" fill="none"/></svg>`

// dues are a file as a harbour office might keep it.
const dues = "Harbour dues of the summer\nPort;Berth;Dues EUR;Per passenger EUR;Valid from;Night\n" +
	"ANS;4;120,00;0,35;1/4/2026;yes\nVEN;3;95,50;0,30;1/4/2026;yes\nHAR;2;80,00;0,30;1/5/2026;no\nBRA;2;by agreement;0,25;1/5/2026;no\n" +
	"TAR;1;64,00;0,25;1/4/2026;no\nMUL;2;88,00;0,30;1/6/2026;yes\nOXL;3;104,00;0,35;1/4/2026;yes\nGAR;1;58,00;0,20;1/6/2026;no\n" +
	"PEN;1;61,50;0,20;1/6/2026;no\nLIN;1;55,00;0,20;1/6/2026;no\n"

// sendDues chooses that file.
func sendDues(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
	dir, err := os.MkdirTemp("", "gavrik-shots-")
	if err != nil {
		return chromedp.Void{}, err
	}
	path := filepath.Join(dir, "harbour dues.csv")
	if err := os.WriteFile(path, []byte(dues), 0o600); err != nil {
		return chromedp.Void{}, err
	}
	if _, err := chromedp.SetUploadFiles(chromedp.CSS(`[data-file]`), []string{path})(ctx, t); err != nil {
		return chromedp.Void{}, err
	}
	_, err = chromedp.WaitVisible(chromedp.CSS(`[data-file-fields]`))(ctx, t)
	return chromedp.Void{}, errors.Join(err, os.RemoveAll(dir))
}

// choose takes an option once it is offered.
func choose(name, value string) browser.Step {
	return chromedp.Steps(func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Poll[bool](fmt.Sprintf(`(s => { if (!s || ![...s.options].some(o => o.value === %q)) return false
			s.value = %[1]q; s.dispatchEvent(new Event('change')); return true })(document.querySelector('[name=%[2]s]'))`, value, name))(ctx, t)
		return chromedp.Void{}, err
	})
}

// shots are taken in this order; each goes on from where the one before stopped.
func shots(base string) []shot {
	p := demo.People[0]
	click := func(css string) browser.Step { return chromedp.Click(chromedp.CSS(css)) }
	see := func(css string) browser.Step { return chromedp.WaitVisible(chromedp.CSS(css)) }
	// Each picture starts from what is saved, not from what the one before left unsaved.
	forget := chromedp.Steps(chromedp.Sleep(
		500*time.Millisecond,
	), func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](
			`fetch('/api/drafts').then(r => r.json()).then(x => Promise.all(x.drafts.map(d => fetch('/api/drafts/' + d.id, {method: 'DELETE'})))).then(() => { localStorage.clear(); return true })`,
			chromedp.EvalAwaitPromise,
		)(ctx, t)
		return chromedp.Void{}, err
	})
	favorite := func(name string, then ...browser.Step) browser.Step {
		steps := []browser.Step{
			forget, chromedp.Navigate(base), chromedp.Click(`//b[text()='` + name + `']`), browser.Settled(),
		}
		return chromedp.Steps(append(steps, then...)...)
	}
	letterhead := func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](fmt.Sprintf(
			`fetch('/api/letterhead', {method: 'PUT', headers: {'Content-Type': 'application/json'}, body: JSON.stringify({
				name: 'Marrowby Sound Ferries', address: 'The Quay\nMarrowby', logo: 'data:image/svg+xml;base64,' + btoa(%q)})}).then(() => true)`,
			logo,
		), chromedp.EvalAwaitPromise)(ctx, t)
		return chromedp.Void{}, err
	}
	// sent has the ages of claims sent to the claims desk now.
	sent := func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](
			`fetch('/api/deliveries').then(r => r.json()).then(x => x.deliveries.find(d => d.name === 'Open claims by age').key)
				.then(key => fetch('/api/deliveries/' + key + '/send', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: '{"all": true}'})).then(() => true)`,
			chromedp.EvalAwaitPromise,
		)(ctx, t)
		return chromedp.Void{}, err
	}
	return []shot{
		{"desk", chromedp.Steps(browser.SignIn(base, p.Email, demo.Password), see(`[data-favorite]`))},
		{
			"board",
			chromedp.Steps(
				chromedp.Navigate(base+"/boards"), chromedp.Click(`//a[normalize-space()='Start of the week']`),
				see(`[data-part=sailings] [data-lines]`), see(`[data-part=fares] [data-drawn]`), browser.Painted(),
			),
		},
		{
			"bench",
			favorite(
				"Open claims by route", click(`[data-level="2"] button`),
				click(`[role=columnheader]:nth-child(5) button`), see(`[data-explained]`), see(`[data-spread]`),
			),
		},
		{
			"chart",
			favorite(
				"Fares by route and month", chromedp.KeyEvent("h"), see(`[data-drawn]`),
				click(`[data-level="1"] [data-cell="sum"]`), see(`[data-why]`),
			),
		},
		{"formula", favorite("Open claims by route", chromedp.KeyEvent("="), see(`[data-starter]`), see(`[data-formula]`),
			chromedp.SendKeys(chromedp.CSS(`[data-formula]`), "'Claimed' - COALESCE('Paid'; 0)"),
			chromedp.SendKeys(chromedp.CSS(`[data-name]`), "Outstanding"), see(`[data-look]`), browser.Settled())},
		{
			"deliveries",
			chromedp.Steps(
				sent, chromedp.Navigate(base+"/deliveries"),
				chromedp.Click(`//li[@data-delivery='Open claims by age']//button[@data-what-was-sent]`), see(`[data-letter-state=sent]`),
				func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
					_, err := chromedp.Poll[bool](`[...document.querySelectorAll('[data-what-was-sent]')].every(b => !b.textContent.includes('on the way'))`)(ctx, t)
					return chromedp.Void{}, err
				},
			),
		},
		{"trend", chromedp.Steps(keepPrices, see(`[data-trend]`), choose("measure", "list_price average"), browser.Painted())},
		{
			"differences",
			chromedp.Steps(
				chromedp.Click(`(//a[contains(., 'against the one before')])[1]`), see(`[data-became=changed]`), browser.Painted(),
			),
		},
		{
			"definitions",
			chromedp.Steps(
				chromedp.Navigate(base+"/definitions"),
				chromedp.Click(`//*[@data-definitions]//button[contains(., 'How long open')]`), see(`[data-count]`),
			),
		},
		{
			"crosstab",
			favorite(
				"Fares by route and month", click(`[data-phrase="groups[1]"]`), click(`[data-turn]`), browser.Settled(),
			),
		},
		{
			"record",
			chromedp.Steps(chromedp.Navigate(base+"/r/bookings/MB-000012"), see(`[data-linked="booking_lines"] td`)),
		},
		{
			"takeaway",
			favorite("Open claims by route", chromedp.KeyEvent("e"), see(`[data-preview]`)),
		},
		{
			"paper",
			favorite(
				"Fares by route and month", letterhead, chromedp.KeyEvent("h"), see(`[data-drawn]`),
				chromedp.KeyEvent("p", chromedp.KeyModifiers(chromedp.ModifierCtrl)), see(`[data-page]`), browser.Settled(),
			),
		},
		{"records", chromedp.Steps(
			chromedp.Navigate(base+"/records?set=routes"), click(`[data-field-row="distance_nm"] button[aria-expanded]`),
			see(`[data-field-form]`), browser.Painted(),
		)},
		{"map", chromedp.Steps(chromedp.Navigate(base+"/records?map"), see(`[data-spot="ports"]`), browser.Painted())},
		{"bringing-in", chromedp.Steps(
			chromedp.Navigate(base+"/bring-in"), see(`[data-drop]`), sendDues,
			see(`[data-field="Dues EUR"] [data-misfits]`), click(`[data-field="Port"] [name=key]`), browser.Painted(),
			click(`[data-field="Port"] button[aria-label$="to other records"]`), choose("link-to", "ports"), choose("link-into", "code"),
			see(`[data-unmatched]`), browser.Painted(),
		)},
		{"overview", chromedp.Steps(
			chromedp.Navigate(base+"/overview/inspections"), see(`[data-over="note"]`), browser.Painted(),
		)},
		{"fact", chromedp.Steps(
			chromedp.Navigate(base+"/views"), chromedp.Click(`//a[contains(., 'Dry docks within 45 days')]`), browser.Settled(),
			click(`[role=rowgroup] [aria-rowindex="3"] [role=gridcell]:nth-child(4)`), chromedp.KeyEvent(kb.F2),
			see(`[data-popover] [data-fill-history] li`), browser.Painted(),
		)},
		// The last, as it leaves the window small.
		{
			"phone",
			chromedp.Steps(
				chromedp.EmulateViewport(390, browser.Height),
				favorite("Open claims by route", click(`[data-level="1"] [data-cell="sum"]`), see(`[data-why]`)),
			),
		},
	}
}
