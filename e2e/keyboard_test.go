package e2e

import (
	"fmt"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// keyboard is a window that is used without a mouse: whatever is acted on is first reached with Tab. It counts what a person does.
type keyboard struct {
	page
	acts *int // things that were decided and done
	tabs *int // presses of Tab between them
}

func byKeyboard(p page) keyboard { return keyboard{p, new(int), new(int)} }

// reach waits until something is there that fits, and goes to it.
func (k keyboard) reach(what, test string) {
	k.t.Helper()
	*k.acts++
	require.Eventually(k.t, func() bool {
		there, err := k.b.Eval(fmt.Sprintf(`String([...document.querySelectorAll('button, a, input, select, textarea, summary, [role=grid]')].some((e) => %s))`, test))
		return err == nil && there == "true"
	}, time.Minute, 50*time.Millisecond, "%s is not there", what)
	n, err := k.b.Reach(what, test)
	*k.tabs += n
	require.NoError(k.t, err)
}

func (k keyboard) enter(what, test string) {
	k.t.Helper()
	k.reach(what, test)
	require.NoError(k.t, k.b.Keys(kb.Enter))
	require.NoError(k.t, k.b.Idle())
}

// press activates a button or link that is named by a text, or else contains it.
func (k keyboard) press(text string) {
	k.t.Helper()
	const is, name = `!e.disabled && (e.tagName === 'BUTTON' || e.tagName === 'A')`, `e.innerText.replace(/\s+/g, ' ').trim()`
	exact := fmt.Sprintf(`%s && (%s === %q || e.ariaLabel === %q)`, is, name, text, text)
	if there, err := k.b.Eval(fmt.Sprintf(`String([...document.querySelectorAll('button, a')].some((e) => %s))`, exact)); err == nil && there == "true" {
		k.enter(text, exact)
		return
	}
	k.enter(text, fmt.Sprintf(`%s && %s.includes(%q)`, is, name, text))
}

func (k keyboard) labelled(label string) string {
	return fmt.Sprintf(`[...(e.labels ?? [])].some((l) => l.innerText.trim().replace(/ \*$/, '') === %q)`, label)
}

func (k keyboard) fill(label, text string) {
	k.t.Helper()
	k.reach(label, k.labelled(label))
	require.NoError(k.t, k.b.KeysWith(chromedp.ModifierCtrl, "a"))
	require.NoError(k.t, k.b.Keys(text))
}

// choose types the text of an option, as far as it tells it from the others.
func (k keyboard) choose(label, value string) {
	k.t.Helper()
	k.reach(label, k.labelled(label))
	text, err := k.b.Eval(fmt.Sprintf(`[...document.activeElement.options].find((o) => o.value === %q)?.text ?? ''`, value))
	require.NoError(k.t, err)
	require.NotEmpty(k.t, text, "%s has no option %s", label, value)
	require.NoError(k.t, k.b.Keys(text))
	require.NoError(k.t, k.b.Idle())
	now, err := k.b.Eval(`document.activeElement.value`)
	require.NoError(k.t, err)
	require.Equal(k.t, value, now)
}

// chooseFrom opens a menu and walks down to an entry.
func (k keyboard) chooseFrom(label, text string) {
	k.t.Helper()
	k.enter(label, fmt.Sprintf(`e.tagName === 'BUTTON' && e.ariaHasPopup === 'menu' && e.ariaLabel?.startsWith(%q)`, label+":"))
	for range 400 {
		now, err := k.b.Eval(`document.activeElement.innerText.replace(/\s+/g, ' ').trim()`)
		require.NoError(k.t, err)
		if now == text || len(now) > len(text) && now[:len(text)+2] == text+" (" {
			require.NoError(k.t, k.b.Keys(kb.Enter))
			require.NoError(k.t, k.b.Idle())
			return
		}
		require.NoError(k.t, k.b.Do(chromedp.KeyEvent(kb.ArrowDown)))
	}
	require.Fail(k.t, "the menu has no such entry", "%s: %s", label, text)
}

// agree does what the preview of a mend shows: the key that does it has the focus.
func (k keyboard) agree() {
	k.t.Helper()
	*k.acts++
	agree(k.t, k.page)
}
