// Package browser drives the console in headless Chromium for the tests and for the screenshots. Every step waits for
// the mark that the console sets when it is idle, never for network silence: its event stream stays open.
package browser

import (
	"context"
	"fmt"
	"os"
	"os/exec"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
)

// Browser is one window with cookies of its own.
type Browser struct {
	Base string
	ctx  context.Context
}

// Two programs of Debian's that show the same page.
const (
	Shell    = "chromium-headless-shell" // Chromium without what stands around a page, which takes less of a machine
	Chromium = "chromium"                // shows PDFs as well
)

// Open starts the shell with a window of the given width, or Chromium itself where the shell is not installed; stop ends it.
func Open(base string, width int) (b *Browser, stop func(), err error) {
	if _, err := exec.LookPath(Shell); err != nil {
		return OpenIn(Chromium, base, width)
	}
	return OpenIn(Shell, base, width)
}

// OpenIn is Open with one of the programs.
func OpenIn(program, base string, width int) (b *Browser, stop func(), err error) {
	ctx, endAllocator := chromedp.NewExecAllocator(context.Background(), chromedp.ExecPath(program), chromedp.NoFirstRun, chromedp.NoDefaultBrowserCheck, chromedp.Headless, chromedp.NoSandbox, chromedp.DisableGPU,
		chromedp.WindowSize(width, 800), chromedp.Flag("disable-background-networking", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("disable-sync", true),
		chromedp.Flag("disable-quic", true), chromedp.Flag("force-prefers-reduced-motion", true), chromedp.Flag("hide-scrollbars", true), chromedp.Flag("disable-dev-shm-usage", true), chromedp.Flag("enable-unsafe-swiftshader", true))
	ctx, endContext := chromedp.NewContext(ctx)
	ctx, endTime := context.WithTimeout(ctx, 15*time.Minute)
	stop = func() {
		endTime()
		endContext()
		endAllocator()
	}
	b = &Browser{Base: base, ctx: ctx}
	if err := chromedp.Do(ctx, chromedp.Navigate("about:blank")); err != nil { // the browser lives as long as the context of its first step
		stop()
		return nil, nil, fmt.Errorf("starting %s: %w", program, err)
	}
	dialogs := chromedp.Events(ctx, page.JavascriptDialogOpening)
	go func() { // the browser's own question whether to leave a changed form is answered with yes
		for _, err := range dialogs {
			if err != nil {
				return
			}
			if _, err := chromedp.Call(ctx, page.HandleJavaScriptDialog, page.HandleJavaScriptDialogParams{Accept: true}); err != nil {
				return
			}
		}
	}()
	return b, stop, b.Do(chromedp.EmulateViewport(int64(width), 800))
}

// Do runs steps, each bounded in time.
func (b *Browser) Do(steps ...chromedp.Action[chromedp.Void]) error {
	for _, s := range steps {
		ctx, cancel := context.WithTimeout(b.ctx, time.Minute)
		err := chromedp.Do(ctx, s)
		cancel()
		if err != nil {
			return err
		}
	}
	return nil
}

// rested answers once the console has said that it is idle. What a step sets off has begun a few frames later.
const rested = `new Promise((done) => {
	const look = (frames) => frames > 0 || document.documentElement.dataset.idle !== 'yes' ? requestAnimationFrame(() => look(frames - 1)) : done('');
	look(3);
})`

// Idle waits until the console asks for nothing, changes nothing and pauses for nothing.
func (b *Browser) Idle() error {
	var err error
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		ctx, cancel := context.WithDeadline(b.ctx, end)
		_, err = chromedp.Run(ctx, chromedp.Evaluate[string](rested, chromedp.EvalAwaitPromise))
		cancel()
		if err == nil {
			return nil
		}
		// A page that is being left takes the question with it: the one that comes is asked.
	}
	now, _ := b.Eval(`location.href + ' idle=' + document.documentElement.dataset.idle + ' ' + document.readyState + ' ' + document.body.innerText.slice(0, 300)`)
	return fmt.Errorf("the page does not come to rest: %w: %s", err, now)
}

// SignIn signs in through the form; theme is light or dark.
func (b *Browser) SignIn(login, password, theme string) error {
	if err := b.Do(chromedp.Navigate(b.Base), chromedp.WaitVisible(chromedp.CSS(`input[name=login]`))); err != nil {
		return err
	}
	if _, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](`localStorage.setItem('theme','`+theme+`'); document.documentElement.dataset.theme='`+theme+`'`)); err != nil {
		return err
	}
	return b.Do(chromedp.SendKeys(chromedp.CSS(`input[name=login]`), login), chromedp.SendKeys(chromedp.CSS(`input[name=password]`), password),
		chromedp.Click(chromedp.CSS(`button[type=submit]`)), chromedp.WaitVisible(chromedp.CSS(`nav[aria-label=Rooms]`)))
}

// Go opens a page of the console and waits until it is idle.
func (b *Browser) Go(path string) error {
	if err := b.Do(chromedp.Navigate(b.Base + path)); err != nil {
		return fmt.Errorf("opening %s: %w", path, err)
	}
	return b.Idle()
}

// Press clicks what a CSS selector finds first.
func (b *Browser) Press(css string) error {
	if err := b.Do(chromedp.WaitVisible(chromedp.CSS(css)), chromedp.Click(chromedp.CSS(css))); err != nil {
		return fmt.Errorf("pressing %s: %w", css, err)
	}
	return b.Idle()
}

// PressText clicks the first button, link or row that is named by a text, or else contains it.
func (b *Browser) PressText(text string) error {
	const what = `//*[self::button or self::a or @role='row' or starts-with(@role, 'menuitem')]`
	quote := `"` // XPath has no escapes
	if strings.Contains(text, quote) {
		quote = "'"
	}
	x := fmt.Sprintf(`(%s[contains(normalize-space(.), %s)])[1]`, what, quote+text+quote)
	exact := fmt.Sprintf(`(%s[normalize-space(.) = %s])[1]`, what, quote+text+quote)
	if n, err := b.Eval(fmt.Sprintf(`String(document.evaluate(%q, document, null, XPathResult.BOOLEAN_TYPE).booleanValue)`, exact)); err == nil && n == "true" {
		x = exact
	}
	if err := b.Do(chromedp.WaitVisible(x), chromedp.Click(x)); err != nil {
		return fmt.Errorf("pressing %q: %w", text, err)
	}
	return b.Idle()
}

// Fill types into the field with a label, replacing what is there.
func (b *Browser) Fill(label, text string) error {
	id, err := b.fieldID(label)
	if err != nil {
		return err
	}
	sel := chromedp.CSS(`[id="` + id + `"]`)
	// Selecting what is there and typing over it is what a person does; clearing the field would pass the console by.
	if _, err := b.Eval(fmt.Sprintf(`(() => { const f = document.getElementById(%q); f.focus(); f.select(); return ''; })()`, id)); err != nil {
		return err
	}
	if len(text) > 100 { // a person pastes such a text
		_, err := b.Eval(fmt.Sprintf(`String(document.execCommand('insertText', false, %q))`, text))
		return err
	}
	if err := b.Do(chromedp.SendKeys(sel, text)); err != nil {
		return fmt.Errorf("filling %q: %w", label, err)
	}
	return nil
}

// Type types into what a CSS selector finds, replacing what is there.
func (b *Browser) Type(css, text string) error {
	if err := b.Do(chromedp.WaitVisible(chromedp.CSS(css))); err != nil {
		return fmt.Errorf("typing into %s: %w", css, err)
	}
	if _, err := b.Eval(fmt.Sprintf(`(() => { const f = document.querySelector(%q); f.focus(); f.select(); return ''; })()`, css)); err != nil {
		return err
	}
	return b.Do(chromedp.SendKeys(chromedp.CSS(css), text))
}

// ChooseFrom opens the menu with a label and chooses from it by text.
func (b *Browser) ChooseFrom(label, text string) error {
	if err := b.Press(fmt.Sprintf(`button[aria-haspopup=menu][aria-label^="%s:"]`, label)); err != nil {
		return err
	}
	x := fmt.Sprintf(`//*[@role='menuitemradio'][contains(concat(normalize-space(.), " ("), "%s (")]`, text)
	if err := b.Do(chromedp.WaitVisible(x), chromedp.Click(x)); err != nil {
		return fmt.Errorf("choosing %q from %q: %w", text, label, err)
	}
	return b.Idle()
}

// Choose selects an option of the field with a label.
func (b *Browser) Choose(label, value string) error {
	id, err := b.fieldID(label)
	if err != nil {
		return err
	}
	js := fmt.Sprintf(`(() => { const s = document.getElementById(%q); const o = [...s.options].find((o) => o.value === %q || o.text === %q); if (!o) return false;
		Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value').set.call(s, o.value); s.dispatchEvent(new Event('change', {bubbles: true})); return true; })()`, id, value, value)
	ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](js))
	if err == nil && !ok {
		err = fmt.Errorf("%q has no option %q", label, value)
	}
	if err != nil {
		return err
	}
	return b.Idle()
}

// Value is what the field with a label holds.
func (b *Browser) Value(label string) (string, error) {
	id, err := b.fieldID(label)
	if err != nil {
		return "", err
	}
	return b.Eval(fmt.Sprintf(`document.getElementById(%q).value`, id))
}

// Upload gives files to the field with a label.
func (b *Browser) Upload(label string, paths ...string) error {
	id, err := b.fieldID(label)
	if err != nil {
		return err
	}
	return b.Do(chromedp.SetUploadFiles(chromedp.CSS(`[id="`+id+`"]`), paths))
}

func (b *Browser) fieldID(label string) (string, error) {
	js := fmt.Sprintf(`(() => { const l = [...(document.querySelector('[role=dialog]') ?? document).querySelectorAll('label')].find((l) => l.textContent.trim().replace(/ \*$/, '') === %q); return l ? l.htmlFor : ''; })()`, label)
	for end := time.Now().Add(30 * time.Second); time.Now().Before(end); time.Sleep(100 * time.Millisecond) {
		id, err := chromedp.Run(b.ctx, chromedp.Evaluate[string](js))
		if err != nil || id != "" {
			return id, err
		}
	}
	return "", fmt.Errorf("there is no field labelled %q", label)
}

// See waits until the page shows a text.
func (b *Browser) See(text string) error {
	js := fmt.Sprintf(`document.body.innerText.replace(/\s+/g, ' ').includes(%q)`, text)
	for end := time.Now().Add(time.Minute); time.Now().Before(end); time.Sleep(20 * time.Millisecond) {
		if ok, err := chromedp.Run(b.ctx, chromedp.Evaluate[bool](js)); err == nil && ok {
			return b.Idle()
		}
	}
	now, _ := b.Eval(`document.body.innerText.slice(0, 1500)`)
	return fmt.Errorf("the page does not show %q; it shows: %s", text, now)
}

// Eval evaluates an expression that gives a string.
func (b *Browser) Eval(js string) (string, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[string](js))
}

// EvalAwait evaluates an expression whose promise gives a string.
func (b *Browser) EvalAwait(js string) (string, error) {
	return chromedp.Run(b.ctx, chromedp.Evaluate[string](js, chromedp.EvalAwaitPromise))
}

// Keys types keys into whatever has the focus.
func (b *Browser) Keys(keys string) error {
	if err := b.Do(chromedp.KeyEvent(keys)); err != nil {
		return err
	}
	return b.Idle()
}

// KeysWith types into whatever is focused while a key such as Shift or Alt is held.
func (b *Browser) KeysWith(held chromedp.Modifier, keys string) error {
	if err := b.Do(chromedp.KeyEvent(keys, chromedp.KeyModifiers(held))); err != nil {
		return fmt.Errorf("typing with a key held: %w", err)
	}
	return b.Idle()
}

// Drag takes what a CSS selector finds first by its middle and lets it go so many pixels further right and down.
func (b *Browser) Drag(css string, right, down float64) error {
	at, err := b.Eval(fmt.Sprintf(`(() => { const r = document.querySelector(%q).getBoundingClientRect(); return (r.x + r.width / 2) + ' ' + (r.y + r.height / 2); })()`, css))
	if err != nil {
		return fmt.Errorf("dragging %s: %w", css, err)
	}
	var x, y float64
	if _, err := fmt.Sscan(at, &x, &y); err != nil {
		return fmt.Errorf("dragging %s: %w", css, err)
	}
	steps := []chromedp.Action[chromedp.Void]{chromedp.MouseEvent(chromedp.MousePressed, x, y, chromedp.Button("left"), chromedp.ClickCount(1))}
	for n := range 5 {
		far := float64(n+1) / 5
		steps = append(steps, chromedp.MouseEvent(chromedp.MouseMoved, x+right*far, y+down*far, chromedp.Button("left")))
	}
	if err := b.Do(append(steps, chromedp.MouseEvent(chromedp.MouseReleased, x+right, y+down, chromedp.Button("left"), chromedp.ClickCount(1)))...); err != nil {
		return fmt.Errorf("dragging %s: %w", css, err)
	}
	return b.Idle()
}

// ForgetCookies ends what the window was signed in to, as an expired session does.
func (b *Browser) ForgetCookies() error {
	_, err := chromedp.Run(b.ctx, chromedp.Func(func(ctx context.Context, _ *chromedp.Target) error {
		_, err := chromedp.Call(ctx, network.ClearBrowserCookies, cdp.Empty{})
		return err
	}))
	return err
}

// Shot writes a picture of the window. A datasheet in a frame is drawn by the browser's own viewer, which says nothing when it is done.
func (b *Browser) Shot(path string) error {
	framed, err := b.Eval(`String(document.querySelector('iframe') !== null)`)
	if err != nil {
		return err
	}
	if framed == "true" {
		time.Sleep(4 * time.Second)
	}
	png, err := chromedp.Run(b.ctx, chromedp.CaptureScreenshot())
	if err != nil {
		return err
	}
	return os.WriteFile(path, png, 0o644)
}
