package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/e2e/browser"
)

// steps fails the test at the first step that does not work, and keeps a picture of what was seen then.
func steps(t *testing.T, b *browser.Browser, all ...error) {
	t.Helper()
	for _, err := range all {
		if err != nil {
			_ = b.Shot(filepath.Join(os.TempDir(), "jolly-"+t.Name()+".png"))
			require.NoError(t, err)
		}
	}
}

// page is a window in which each method stops the test when it fails.
type page struct {
	t *testing.T
	b *browser.Browser
}

func (p page) goTo(path string)           { p.t.Helper(); steps(p.t, p.b, p.b.Go(path)) }
func (p page) press(text string)          { p.t.Helper(); steps(p.t, p.b, p.b.PressText(text)) }
func (p page) fill(label, text string)    { p.t.Helper(); steps(p.t, p.b, p.b.Fill(label, text)) }
func (p page) choose(label, value string) { p.t.Helper(); steps(p.t, p.b, p.b.Choose(label, value)) }
func (p page) upload(label, path string)  { p.t.Helper(); steps(p.t, p.b, p.b.Upload(label, path)) }
func (p page) see(text string)            { p.t.Helper(); steps(p.t, p.b, p.b.See(text)) }

// window opens a browser and signs in.
func window(t *testing.T, i *instance, login string) page {
	t.Helper()
	b, stop, err := browser.Open(i.url, 1280)
	require.NoError(t, err)
	t.Cleanup(stop)
	steps(t, b, b.SignIn(login, adminPassword, "light"))
	return page{t, b}
}

func demoFile(t *testing.T, name string) string {
	path, err := filepath.Abs(filepath.Join("..", "demo", name))
	require.NoError(t, err)
	return path
}

func TestTheMainJobInTheConsole(t *testing.T) {
	i := serve2(t)
	stocked(t, i.admin(t))
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")

	// Take in a file.
	p.goTo("/intakes")
	p.see("No intake yet")
	p.press("Bring in a file…")
	p.fill("Supplier", "Marsh Lane Components")
	p.upload("File", demoFile(t, "suppliers/marsh-lane.csv"))
	p.press("Open the intake")
	p.see("IN-00001")
	p.see("there is no manufacturer part number")
	p.press("Take in…")
	p.see("4 rows cannot be taken in")
	steps(t, p.b, p.b.Press(`[role=dialog] input[type=checkbox]`))
	p.press("Take in 198 parts")
	p.see("198 drafts were made")

	// Make a part by hand, release it.
	p.goTo("/parts/new")
	p.choose("Drawer", "crystals")
	p.fill("Frequency", "32.768 kHz")
	p.fill("Load capacitance", "10 Ω")
	p.press("Save as a draft")
	p.see("it is a resistance, and a capacitance is wanted")
	p.fill("Load capacitance", "12.5p")
	p.press("Add a source")
	p.fill("Manufacturer", "Groyne Timing")
	p.fill("MPN", "GT3215-32K768")
	p.press("Save as a draft")
	p.see("EW-Y-00001 XTAL 32.768kHz CL 12.5pF")
	p.press("Release…")
	p.fill("Note", "checked against the datasheet")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("released revision 1")

	// Find it, with the keyboard.
	steps(t, p.b, p.b.Go("/parts"), p.b.Keys("/"))
	at, err := p.b.Eval(`document.activeElement.id`)
	require.NoError(t, err)
	assert.Equal(t, "find", at, "the slash leads to the search box")
	p.fill("Find parts", "32.768kHz")
	steps(t, p.b, p.b.Keys("\r"))
	p.see("1 parts for “32.768kHz” read as 32.768 kHz")
	steps(t, p.b, p.b.Press(`[role=grid] [role=row][id]`))
	p.see("EW-Y-00001")

	// Reconcile a BOM and accept what nothing contradicts.
	p.goTo("/boms")
	p.press("Bring in a BOM…")
	p.upload("File", demoFile(t, "boms/solar-charger.xlsx"))
	p.fill("Board and revision", "Solar charger rev C")
	p.press("Reconcile")
	p.see("47 lines")
	p.press("proposals that nothing contradicts")
	p.see("proposals accepted")
	p.press("not in the library")
	p.see("PV-BYP-15")
}

func TestTwoEditorsInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	i.as(t, "tove", "engineer")
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", resistors("TWO", 3))
	require.NoError(t, err)
	takeIn(t, k, in)
	maren, tove := window(t, i, "maren"), window(t, i, "tove")
	for _, p := range []page{maren, tove} {
		p.goTo("/parts/EW-R-00001")
		p.press("Edit")
	}
	maren.fill("Power rating", "125 mW")
	maren.press("Save the draft")
	maren.see("125 mW")
	tove.fill("Power rating", "250 mW")
	tove.press("Save the draft")
	tove.see("EW-R-00001 was changed by Maren meanwhile; nothing was saved.")
	tove.see("Power rating 125 mW 250 mW")
	tove.press("Back to my edit")
	tove.press("Save the draft")
	tove.see("the draft is saved")
	maren.see("250 mW") // her page hears of it by itself
}

func TestTheConsoleIsAccessible(t *testing.T) {
	axe, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(t, err)
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", file(t, "suppliers/marsh-lane.csv"))
	require.NoError(t, err)
	takeIn(t, k, in)
	open, err := openIntake(t, k, "Harbour & Finch", "b.txt", file(t, "suppliers/harbour-finch.txt"))
	require.NoError(t, err)
	for _, theme := range []string{"light", "dark"} {
		b, stop, err := browser.Open(i.url, 1280)
		require.NoError(t, err)
		defer stop()
		steps(t, b, b.SignIn("admin", adminPassword, theme))
		for _, path := range []string{"/parts", "/parts/EW-R-00001", "/parts/new?drawer=crystals", "/intakes", "/intakes/" + open.ID, "/boms", "/models", "/cabinet", "/crosswalks"} {
			steps(t, b, b.Go(path))
			_, err := b.Eval(string(axe) + "; 'loaded'")
			require.NoError(t, err)
			found, err := b.EvalAwait(`axe.run(document, {runOnly: ['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']}).then((r) => r.violations.map((v) => v.id + ': ' + v.nodes.slice(0, 2).map((n) => n.html.slice(0, 160)).join(' | ')).join('\n'))`)
			require.NoError(t, err)
			assert.Empty(t, found, "%s in %s colours", path, theme)
		}
	}
}
