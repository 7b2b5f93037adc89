// Package browser drives the real interface in headless Chromium.
package browser

import (
	"context"
	"fmt"
	"os"

	cdpbrowser "github.com/chromedp/cdproto/browser"
	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Width and Height are the window's, in CSS pixels.
const (
	Width  = 1280
	Height = 800
)

// Start opens a browser with a profile of its own; stop ends it.
func Start(ctx context.Context) (tab context.Context, stop func(), err error) {
	profile, err := os.MkdirTemp("", "gavrik-chromium-")
	if err != nil {
		return nil, nil, fmt.Errorf("browser: %w", err)
	}
	opts := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.UserDataDir(profile), chromedp.WindowSize(Width, Height), chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.Flag("disable-quic", true), chromedp.Flag("no-first-run", true),
		chromedp.Flag(
			"disable-background-networking", true,
		), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true))
	alloc, stopAlloc := chromedp.NewExecAllocator(ctx, opts...)
	tab, stopTab := chromedp.NewContext(alloc)
	stop = func() {
		stopTab()
		stopAlloc()
		_ = os.RemoveAll(profile) // it lies in the system's folder for temporary files
	}
	if err := chromedp.Do(tab, chromedp.EmulateViewport(Width, Height)); err != nil {
		stop()
		return nil, nil, fmt.Errorf("browser: Chromium does not start: %w; install Debian's package chromium", err)
	}
	return tab, stop, nil
}

// Step is one act in the browser.
type Step = chromedp.Action[chromedp.Void]

// Dark chooses the colour scheme that pages are told of.
func Dark(on bool) Step {
	scheme := "light"
	if on {
		scheme = "dark"
	}
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{
			Features: []*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme}},
		})
		return chromedp.Void{}, err
	}
}

// SignIn goes through the sign-in screen.
func SignIn(base, email, password string) Step {
	return chromedp.Steps(
		chromedp.Navigate(base),
		chromedp.WaitVisible(chromedp.CSS(`input[name=email]`)),
		chromedp.SendKeys(chromedp.CSS(`input[name=email]`), email),
		chromedp.SendKeys(chromedp.CSS(`input[name=password]`), password+kb.Enter),
		chromedp.WaitVisible(`//h2[text()='Favorites']`),
	)
}

// Settled waits until the bench shows the answer to what was asked last.
func Settled() Step {
	return chromedp.Steps(
		chromedp.WaitVisible(chromedp.CSS(`[data-brief]`)),
		Painted(), // a change is sent after the next paint
		chromedp.WaitNotPresent(chromedp.CSS(`[data-popover][aria-busy=true]`)),
		chromedp.WaitVisible(chromedp.CSS(`[data-brief][aria-busy=false]`)),
	)
}

// Painted waits until what was done last is on the screen: two frames, and what waits behind them.
func Painted() Step {
	const frames = `new Promise(done => requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(done, 0, true))))`
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](frames, chromedp.EvalAwaitPromise)(ctx, t)
		return chromedp.Void{}, err
	}
}

// Still waits until the first element of a selector stands where it did a frame ago: what is loaded above it
// moves it, and a click would fall beside it.
func Still(css string) Step {
	script := fmt.Sprintf(`new Promise(done => {
		let before = ''
		const look = () => {
			const box = document.querySelector(%q)?.getBoundingClientRect()
			const now = box ? [box.x, box.y, box.width, box.height].join() : ''
			if (now && now === before) return done(true)
			before = now
			requestAnimationFrame(look)
		}
		look()
	})`, css)
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		_, err := chromedp.Evaluate[bool](script, chromedp.EvalAwaitPromise)(ctx, t)
		return chromedp.Void{}, err
	}
}

// Downloads lets the tab keep files in a folder, and use the clipboard.
func Downloads(folder string) Step {
	return func(ctx context.Context, t *chromedp.Target) (chromedp.Void, error) {
		if _, err := cdp.Call(ctx, t, cdpbrowser.SetDownloadBehavior, cdpbrowser.SetDownloadBehaviorParams{
			Behavior: cdpbrowser.SetDownloadBehaviorBehaviorAllow, DownloadPath: folder,
		}); err != nil {
			return chromedp.Void{}, err
		}
		var err error
		for _, name := range []string{"clipboard-read", "clipboard-write"} {
			if err == nil {
				_, err = cdp.Call(ctx, t, cdpbrowser.SetPermission, cdpbrowser.SetPermissionParams{
					Permission: &cdpbrowser.PermissionDescriptor{Name: name},
					Setting:    cdpbrowser.PermissionSettingGranted,
				})
			}
		}
		return chromedp.Void{}, err
	}
}
