package browser

import (
	"fmt"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// mostTabs is how often Tab is pressed before something is given up as out of reach.
const mostTabs = 400

// Reach presses Tab until what has the focus fits a test in JavaScript, of which e is the element, as somebody without a mouse does. It returns how
// often it pressed.
func (b *Browser) Reach(what, test string) (tabs int, err error) {
	js := fmt.Sprintf(`String(((e) => Boolean(%s))(document.activeElement))`, test)
	if there, err := b.Eval(js); err != nil || there == "true" {
		return 0, err
	}
	for tabs = 1; tabs <= mostTabs; tabs++ {
		if err := b.Do(chromedp.KeyEvent(kb.Tab)); err != nil {
			return tabs, fmt.Errorf("pressing Tab: %w", err)
		}
		if there, err := b.Eval(js); err != nil || there == "true" {
			return tabs, err
		}
	}
	return tabs, fmt.Errorf("pressing Tab does not lead to %s", what)
}
