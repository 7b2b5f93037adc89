package main

import (
	"context"
	"fmt"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"gavrik/test/browser"
)

// meter measures one record set in a tab.
type meter struct {
	tab  context.Context
	base string
}

func (m *meter) do(steps ...browser.Step) error {
	ctx, cancel := context.WithTimeout(m.tab, time.Minute)
	defer cancel()
	return chromedp.Do(ctx, chromedp.Steps(steps...))
}

func (m *meter) number(code string) (float64, error) {
	ctx, cancel := context.WithTimeout(m.tab, time.Minute)
	defer cancel()
	return chromedp.Run(ctx, chromedp.Evaluate[float64](code, chromedp.EvalAwaitPromise))
}

// fresh opens a new view of the set, grouped by route with a total of a column.
func (m *meter) fresh(set string) error {
	if err := m.do(chromedp.Navigate(m.base+"/"), chromedp.WaitVisible(`//h2[text()='Favorites']`)); err != nil {
		return err
	}
	// What an earlier run left unsaved is no part of this one.
	if _, err := m.number(
		`fetch('/api/drafts').then(r => r.json()).then(x => Promise.all(x.drafts.map(d => fetch('/api/drafts/' + d.id, {method: 'DELETE'})))).then(() => 0)`,
	); err != nil {
		return err
	}
	return m.do(chromedp.Navigate(m.base+"/new/"+set), browser.Settled())
}

// key presses a key and returns the time from its being pressed to the painted answer.
func (m *meter) key(press browser.Step) (float64, error) {
	_, err := m.number(
		`(performance.clearMarks('gavrik painted'), addEventListener('keydown', e => { window.pressed = e.timeStamp }, {capture: true, once: true}), 0)`,
	)
	if err != nil {
		return 0, err
	}
	if err := m.do(press); err != nil {
		return 0, err
	}
	return m.number(
		`new Promise((done, failed) => { const began = performance.now(); const look = () => { const [mark] = performance.getEntriesByName('gavrik painted'); if (mark) done(mark.startTime - window.pressed); else if (performance.now() - began > 20000) failed('no answer was painted'); else setTimeout(look, 5) }; look() })`,
	)
}

// times presses keys again and again.
func (m *meter) times(name string, presses ...browser.Step) error {
	var all []float64
	for i := range 40 {
		t, err := m.key(presses[i%len(presses)])
		if err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		if i >= 4 { // the first few warm the browser up
			all = append(all, t)
		}
	}
	fmt.Printf("  %-32s %10.1f %10.1f %8d\n", name, quantile(all, 0.5), quantile(all, 0.95), len(all))
	return nil
}

func (m *meter) all(set string) error {
	if err := m.firstPage(set); err != nil {
		return err
	}
	see := func(css string) browser.Step { return chromedp.WaitVisible(chromedp.CSS(css)) }
	find := func(words string) browser.Step {
		return chromedp.Steps(
			see(`[data-popover] [role=option]`),
			chromedp.SendKeys(chromedp.CSS(`[data-popover] [role=combobox]`), words),
			chromedp.Sleep(300*time.Millisecond), chromedp.KeyEvent(kb.Enter),
		)
	}
	value := chromedp.CSS(`[data-popover] [aria-label=Value]`)
	type script struct {
		name    string
		ready   []browser.Step
		presses []browser.Step
	}
	ctrl := func(key string, shift bool) browser.Step {
		mod := chromedp.ModifierCtrl
		if shift {
			return chromedp.KeyEvent(key, chromedp.KeyModifiers(mod, chromedp.ModifierShift))
		}
		return chromedp.KeyEvent(key, chromedp.KeyModifiers(mod))
	}
	scripts := []script{
		{
			"typing an amount in a filter",
			[]browser.Step{
				chromedp.KeyEvent("f"), find("fare"), see(`[data-popover] [aria-label=Value]`), chromedp.Click(value),
				chromedp.SendKeys(value, "1"),
			},
			[]browser.Step{chromedp.KeyEvent("5"), chromedp.KeyEvent(kb.Backspace)},
		},
		{
			"keeping it, undoing, redoing", []browser.Step{chromedp.KeyEvent(kb.Enter), browser.Settled()},
			[]browser.Step{ctrl("z", false), ctrl("Z", true)},
		},
		{
			"grouping by route, undoing, redoing",
			[]browser.Step{
				chromedp.KeyEvent("g"), find("route"), chromedp.Sleep(500 * time.Millisecond),
				chromedp.KeyEvent(kb.Enter), browser.Settled(),
			},
			[]browser.Step{ctrl("z", false), ctrl("Z", true)},
		},
		{
			"a total of passengers, on and off",
			[]browser.Step{
				chromedp.Click(`//*[@role='columnheader']//button[starts-with(normalize-space(),'Passengers')]`),
				chromedp.Sleep(500 * time.Millisecond),
			},
			[]browser.Step{chromedp.KeyEvent("t")},
		},
		{
			"sorting by it, both ways", []browser.Step{chromedp.KeyEvent("t"), browser.Settled()},
			[]browser.Step{chromedp.KeyEvent("s")},
		},
		{"opening and closing a level", nil, []browser.Step{chromedp.KeyEvent("]"), chromedp.KeyEvent("[")}},
	}
	for _, s := range scripts {
		if err := m.do(s.ready...); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		if err := m.times(s.name, s.presses...); err != nil {
			return err
		}
	}
	return m.scroll()
}

// firstPage opens the set with nothing of the page in memory.
func (m *meter) firstPage(set string) error {
	if err := m.fresh(set); err != nil {
		return err
	}
	painted, err := m.number(`performance.getEntriesByName('gavrik painted')[0].startTime`)
	if err != nil {
		return err
	}
	script, err := m.number(
		`performance.getEntriesByType('resource').filter(e => e.name.endsWith('.js')).reduce((sum, e) => sum + e.encodedBodySize, 0) / 1000`,
	)
	if err != nil {
		return err
	}
	records, err := m.number(`Number(document.querySelector('[data-kept]').innerText.replaceAll(',', ''))`)
	if err != nil {
		return err
	}
	fmt.Printf(
		"%s, %.0f records: first page after %.0f ms, with %.0f kB of script as sent\n", set, records, painted,
		script,
	)
	return nil
}

// scroll goes down the records at full depth and counts frames, and how many of them
// showed a line that was not there yet.
func (m *meter) scroll() error {
	if err := m.do(chromedp.KeyEvent("]"), chromedp.KeyEvent("]"), browser.Settled()); err != nil {
		return err
	}
	for _, lines := range []int{1, 10} { // for each frame, of 60 a second
		result, err := chromedp.Run(m.tab, chromedp.Evaluate[[]float64](fmt.Sprintf(`new Promise(done => {
			const grid = document.querySelector('[data-ledger]'); let y = grid.scrollTop = 0
			// Of very many lines each has less than its height of the scroll bar's way.
			const line = grid.querySelector('[role=rowgroup]').offsetHeight / (grid.getAttribute('aria-rowcount') - 2)
			let frames = 0, waiting = 0, worst = 0, last = performance.now(); const began = last
			const step = now => {
				frames++; worst = Math.max(worst, now - last); last = now
				if (grid.querySelector('[data-waiting]')) waiting++
				grid.scrollTop = y += %d * line
				if (now - began < 3000) requestAnimationFrame(step); else done([1000 * frames / (now - began), worst, waiting, frames])
			}
			requestAnimationFrame(step)
		})`, lines), chromedp.EvalAwaitPromise))
		if err != nil {
			return fmt.Errorf("scrolling: %w", err)
		}
		fmt.Printf(
			"  scrolling by %d lines a second: %.1f frames a second, the longest %.0f ms; lines still loading in %.0f of %.0f frames\n",
			lines*60, result[0], result[1], result[2], result[3],
		)
	}
	return nil
}
