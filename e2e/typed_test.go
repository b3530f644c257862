package e2e

import (
	"slices"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/internal/wire"
)

// editing opens the form of EW-R-00001 in a fresh library.
func editing(t *testing.T) (page, *client.Client) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", resistors("TYP", 3))
	require.NoError(t, err)
	takeIn(t, k, in)
	p := window(t, i, "maren")
	p.goTo("/parts/EW-R-00001")
	p.press("Edit")
	return p, k
}

// value is what a field holds.
func (p page) value(label string) string {
	p.t.Helper()
	v, err := p.b.Value(label)
	require.NoError(p.t, err)
	return v
}

func TestNothingTypedIsLostInTheConsole(t *testing.T) {
	p, k := editing(t)

	// The service is away while the page asks anew: the form stands, and says so.
	p.fill("Power rating", "125 mW")
	_, err := p.b.Eval(`window.kept = window.fetch; window.fetch = (r) => (r.method ?? 'GET') === 'GET' ? Promise.reject(new TypeError('away')) : window.kept(r); 'ok'`)
	require.NoError(t, err)
	now, err := k.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	e := now.Newest().Edit()
	e.Description = "by somebody else"
	now, err = k.SaveDraft(t.Context(), now.ID, now.Version, e)
	require.NoError(t, err)
	p.see("could not be asked for anew")
	assert.Equal(t, "125 mW", p.value("Power rating"))
	_, err = p.b.Eval(`window.fetch = window.kept; 'ok'`)
	require.NoError(t, err)

	// A colleague's save is shown beside, and replaces nothing.
	e.Description = "by somebody else again"
	_, err = k.SaveDraft(t.Context(), now.ID, now.Version, e)
	require.NoError(t, err)
	p.see("was changed by somebody else while you edit")
	assert.Equal(t, "125 mW", p.value("Power rating"))
	p.press("Show both")
	p.see("by somebody else again")
	p.press("Back to my edit")

	// Room links ask, and staying stays.
	p.press("BOMs")
	p.see("Leave without saving?")
	p.press("Stay")
	assert.Equal(t, "125 mW", p.value("Power rating"))

	// A reload, however it comes about, offers what was typed.
	p.goTo("/parts/EW-R-00001")
	p.press("Edit")
	p.see("You typed changes to EW-R-00001")
	p.press("Go on with them")
	assert.Equal(t, "125 mW", p.value("Power rating"))

	// The session ends: signing in again happens in place, and the save goes on by itself.
	require.NoError(t, p.b.ForgetCookies())
	p.press("Save the draft")
	p.see("Your session has ended")
	p.fill("Password", adminPassword)
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("the draft is saved")
	now, err = k.Part(t.Context(), "EW-R-00001")
	require.NoError(t, err)
	at := slices.IndexFunc(now.Newest().Values, func(v wire.Value) bool { return v.Key == "power" })
	require.GreaterOrEqual(t, at, 0)
	assert.Equal(t, "125 mW", now.Newest().Values[at].Text)

	// Saved is settled: nothing is offered any more.
	p.press("Edit")
	shown, err := p.b.Eval(`document.body.innerText.includes('You typed changes') ? 'offered' : 'no'`)
	require.NoError(t, err)
	assert.Equal(t, "no", shown)
	assert.Equal(t, "125 mW", p.value("Power rating"))
}

func TestADoubleClickMakesOnePart(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")
	p.goTo("/parts/new")
	p.chooseFrom("Drawer", "Crystals")
	p.fill("Frequency", "32.768 kHz")
	_, err := p.b.Eval(`(() => { const b = [...document.querySelectorAll('button')].find((b) => b.textContent === 'Save as a draft'); b.click(); b.click(); b.form.requestSubmit(); return 'ok'; })()`)
	require.NoError(t, err)
	p.see("Not released yet.") // the part's own page: each click took a number, and either may have been the quicker
	all, err := k.Parts(t.Context(), client.PartQuery{Limit: 10})
	require.NoError(t, err)
	require.Len(t, all.Items, 1)
	p.see(all.Items[0].Number)
}

func TestArrowKeysChooseNothing(t *testing.T) {
	path, supplier := jetty(t)
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn, "--allow-inside", supplier)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")
	p.goTo("/intakes")
	p.press("Bring in a file…")
	p.fill("Supplier", "Jetty workshop")
	p.upload("File", path)
	p.press("Open the intake")
	steps(t, p.b, p.b.Press(`nav[aria-label=Steps] button:nth-child(2)`))
	p.see("Kinds without a drawer")
	before, err := k.Intakes(t.Context(), 0, 1)
	require.NoError(t, err)
	for _, keys := range []string{kb.ArrowDown, kb.ArrowDown, kb.ArrowUp, "c"} { // arrows and a letter, on the closed choice and in the open one
		_, err = p.b.Eval(`document.querySelector('main button[aria-haspopup=menu]')?.focus(); 'ok'`)
		require.NoError(t, err)
		steps(t, p.b, p.b.Keys(keys))
	}
	steps(t, p.b, p.b.Keys(kb.Escape))
	after, err := k.Intakes(t.Context(), 0, 1)
	require.NoError(t, err)
	assert.Equal(t, before.Items[0].Version, after.Items[0].Version)
}
