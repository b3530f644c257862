package e2e

import (
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/e2e/browser"
	"jollydrawer/internal/wire"
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

func (p page) goTo(path string)        { p.t.Helper(); steps(p.t, p.b, p.b.Go(path)) }
func (p page) press(text string)       { p.t.Helper(); steps(p.t, p.b, p.b.PressText(text)) }
func (p page) fill(label, text string) { p.t.Helper(); steps(p.t, p.b, p.b.Fill(label, text)) }
func (p page) chooseFrom(label, text string) {
	p.t.Helper()
	steps(p.t, p.b, p.b.ChooseFrom(label, text))
}
func (p page) choose(label, value string) { p.t.Helper(); steps(p.t, p.b, p.b.Choose(label, value)) }
func (p page) upload(label string, paths ...string) {
	p.t.Helper()
	steps(p.t, p.b, p.b.Upload(label, paths...))
}
func (p page) see(text string) { p.t.Helper(); steps(p.t, p.b, p.b.See(text)) }

// freeze freezes the board of the page, and waits until that is said.
func (p page) freeze(note, said string) {
	p.t.Helper()
	p.press("Freeze…")
	p.fill("What it is for", note)
	require.NoError(p.t, p.b.Keys(kb.Enter))
	p.see(said)
}

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
	p.see("rows cannot be taken in. Leave them out.")
	steps(t, p.b, p.b.Press(`main form input[type=checkbox]`))
	p.press("Take in 198 parts")
	p.see("198 drafts were made")

	// Make a part by hand, release it.
	p.goTo("/parts/new")
	p.chooseFrom("Drawer", "Crystals")
	p.fill("Frequency", "32.768 kHz")
	p.fill("Load capacitance", "10 Ω")
	p.press("Save as a draft")
	p.see("it is a resistance, and a capacitance is wanted")
	p.fill("Load capacitance", "12.5p")
	p.press("Add a source")
	p.fill("Manufacturer", "Groyne Timing")
	p.fill("MPN", "GT3215-32K768")
	p.press("Save as a draft")
	p.see("EW-Y-00001 GT3215-32K768 XTAL 32.768kHz CL 12.5pF")
	p.press("Release…")
	p.fill("Note", "checked against the datasheet")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("Released revision 1")

	// Find it, with the keyboard.
	steps(t, p.b, p.b.Go("/parts"), p.b.Keys("/"))
	at, err := p.b.Eval(`document.activeElement.id`)
	require.NoError(t, err)
	assert.Equal(t, "find", at, "the slash leads to the search box")
	p.fill("Find parts", "32.768kHz")
	steps(t, p.b, p.b.Keys("\r"))
	p.see("read as 32.768 kHz")
	p.see("1 parts")
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

func TestASupplierWithoutACrosswalkInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	_, err := k.ApplyCabinet(t.Context(), 0, file(t, "cabinet.yaml"))
	require.NoError(t, err)
	p := window(t, i, "admin")
	p.goTo("/crosswalks")
	p.see("No crosswalk yet")
	p.goTo("/intakes")
	p.press("Bring in a file…")
	p.fill("Supplier", "Harbour & Finch")
	p.upload("File", demoFile(t, "suppliers/harbour-finch.txt"))
	p.press("Open the intake")
	p.see("There is no crosswalk for Harbour & Finch yet.")
	p.see("\"Inductance\" is a name of Inductance")
	p.press("Crosswalk")
	p.see("Harbour & Finch not applied yet")
	text, err := p.b.Eval(`document.getElementById('crosswalk').value`)
	require.NoError(t, err)
	assert.Contains(t, text, `manufacturer: "Brand"`)
	assert.Contains(t, text, `- { from: "DCR", to: dc-resistance }`)
	p.fill("Harbour & Finch not applied yet", "format: jolly-crosswalk/1\nsupplier: Harbour & Finch\nfields: [{from: DCR, to: nowhere}]\n")
	p.press("Apply")
	p.see("which the parameter dictionary lacks")
	p.fill("Harbour & Finch not applied yet", file(t, "crosswalks/harbour-finch.yaml"))
	p.press("Apply")
	p.see("What Harbour & Finch changes in open intakes") // the rows stand before it is applied
	p.see("IN-00001 harbour-finch.txt")
	p.press("Apply it")
	p.see("is applied as revision 1")
	p.press("Back to the intake")
	p.see("new 83")
	p.press("repeat 1")
	p.see("already says the same")
}

func TestModelsCopiesAndComparisonsInTheConsole(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	i.as(t, "maren", "librarian")
	i.as(t, "ulla", "reader")
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", resistors("CMP", 3))
	require.NoError(t, err)
	takeIn(t, k, in)
	p := window(t, i, "maren")

	// A model with its file, released.
	p.goTo("/models")
	p.see("No model fits")
	p.press("Add a model…")
	p.choose("Kind", "body")
	p.fill("Name", "Chip 0805")
	p.upload("File", demoFile(t, "models/chip-0805.step"))
	p.press("Save as a draft")
	p.see("chip-0805.step")
	p.press("Release…")
	p.fill("Note", "from the maker's drawing")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("Released revision 1")

	// A part takes it, is released, and is shown where the model is used.
	p.goTo("/parts/EW-R-00001")
	p.see("missing")
	p.press("Edit")
	p.choose("Body", "Chip 0805, revision 1")
	p.press("Save the draft")
	p.see("Chip 0805, revision 1")
	p.press("Release…")
	p.fill("Note", "with its body")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("Released revision 1")
	p.press("Chip 0805, revision 1")
	p.see("Used by 1")

	// A second revision, compared with the first.
	p.goTo("/parts/EW-R-00001")
	p.press("Edit")
	p.fill("Power rating", "1/10 W")
	p.press("Save the draft")
	p.see("beside it: Draft")
	p.press("Compare…")
	p.see("power blank 100 mW")
	steps(t, p.b, p.b.Press(`[role=dialog] [aria-label=Close]`))

	// A copy says that its twin is there, and is saved under a source of its own.
	p.press("Copy")
	p.see("Copy of EW-R-00001")
	p.fill("Resistance", "2k2")
	p.press("Add a source")
	p.fill("Manufacturer", "Tidewright")
	p.fill("MPN", "cmp 000001")
	p.press("Save as a draft")
	p.see("is in the library as EW-R-00002")
	p.fill("MPN", "CMP-2K2")
	p.press("Save as a draft")
	p.see("EW-R-00005 CMP-2K2 RES 2.2kΩ ±1% 100mW 0805") // the refused try used up a number: gaps are fine
	p.press("Obsolete…")
	p.fill("Note", "made for a test")
	steps(t, p.b, p.b.Press(`[role=dialog] button[type=submit]`))
	p.see("EW-R-00005 is Obsolete.")

	// A reader sees all of it and is offered nothing that would be refused.
	r := window(t, i, "ulla")
	r.goTo("/parts/EW-R-00005")
	r.see("RES 2.2kΩ")
	buttons, err := r.b.Eval(`[...document.querySelectorAll('main button, main a')].map((b) => b.textContent).join('|')`)
	require.NoError(t, err)
	for _, word := range []string{"Edit", "Release", "Standing", "Copy"} {
		assert.NotContains(t, buttons, word)
	}
}

// bringAmplifier brings an archive with the models of one part.
func bringAmplifier(t *testing.T, k *client.Client) wire.Delivery {
	t.Helper()
	f, err := k.Upload(t.Context(), "amplifier.zip", strings.NewReader(file(t, "deliveries/tidewater dual amplifier.zip")))
	require.NoError(t, err)
	d, err := k.Deliver(t.Context(), wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
	require.NoError(t, err)
	return d
}

// listed makes the demo's file of Marsh Lane its price list, and asks it for what it offers of one part.
func listed(t *testing.T, k *client.Client) {
	t.Helper()
	_, err := k.ApplyConnection(t.Context(), 0, "format: jolly-connection/1\nsupplier: Marsh Lane Components\ncurrency: EUR\ndecimalMark: comma\nread: {form: table, product: {manufacturer: Maker, mpn: Maker part no., kind: Category}, fields: {rest: true}, offers: {paths: {number: Order code, stock: Stock}}, breaks: {at: {\"100\": Price 100}}}\n")
	require.NoError(t, err)
	f, err := k.Upload(t.Context(), "prices.csv", strings.NewReader(file(t, "suppliers/marsh-lane.csv")))
	require.NoError(t, err)
	_, err = k.UploadPriceList(t.Context(), "Marsh Lane Components", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(t, err)
	j, err := k.RefreshOffers(t.Context(), wire.RefreshOffers{Parts: []string{"EW-R-00001"}})
	require.NoError(t, err)
	j, err = k.WaitJob(t.Context(), j.ID, nil)
	require.NoError(t, err)
	require.NotNil(t, j.Refreshed, j.Error)
	require.Equal(t, 1, j.Refreshed.Offers)
}

// pier is a board with a revision, of which a line has no record and a row is none.
func pier(t *testing.T, k *client.Client) {
	t.Helper()
	f, err := k.Upload(t.Context(), "pier.csv", strings.NewReader("Ref,Qty,MPN,Value,Package\nR1,2,TW-0805-1R-F,1R,0805\nR9,1,,999k,0402\nTotal,3,,,\n"))
	require.NoError(t, err)
	b, err := k.BringBOM(t.Context(), wire.NewBOM{Name: "Pier", FileHash: f.Hash, FileName: f.Name, Build: 10})
	require.NoError(t, err)
	_, err = k.FreezeBOM(t.Context(), b.ID, b.Version, wire.FreezeBOM{Note: "first", Anyway: "to be seen"})
	require.NoError(t, err)
}

// beyondTheEdge lists what has to be scrolled sideways to be read whole: tables, drawings and texts as they were written may, a page may not.
const beyondTheEdge = `[document.scrollingElement, ...document.querySelectorAll('main, main *')].filter((e) => e.scrollWidth > e.clientWidth + 1 &&
	(e === document.scrollingElement || /auto|scroll/.test(getComputedStyle(e).overflowX)) && !e.matches('textarea, input, pre, [role=grid], [role=treegrid]') && !e.querySelector('table, [role=grid], [role=table], svg, pre, iframe')).map((e) => e.tagName + '.' + e.className).join('\n')`

func TestTheConsoleIsAccessible(t *testing.T) {
	t.Parallel() // it waits more than it works
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
	d := bringAmplifier(t, k)
	d, err = k.UseDelivery(t.Context(), d.ID, d.Version, wire.UseDelivery{Part: "EW-R-00001", Models: []wire.UsedModel{{Key: "0.0"}, {Key: "1.0"}, {Key: "2.0"}}})
	require.NoError(t, err)
	reviewed, err := k.Part(t.Context(), "EW-R-00002")
	require.NoError(t, err)
	_, err = k.Move(t.Context(), wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: reviewed.ID, Version: reviewed.Version}}})
	require.NoError(t, err)
	kept, err := k.MakeSeries(t.Context(), wire.SeriesEdit{Manufacturer: "Tidewright", Name: "TW", Members: []string{"TW-0805-1R-F", "TW-9"}, Datasheets: []part.File{}})
	require.NoError(t, err)
	series := aSeries(t, i.as(t, "ines", "engineer"), "1k1", "2k2")
	listed(t, k)
	pier(t, k)
	b, stop, err := browser.Open(i.url, 1280)
	require.NoError(t, err)
	defer stop()
	steps(t, b, b.SignIn("admin", adminPassword, "light"))
	violations := func(run string) string {
		found, err := b.EvalAwait(`axe.run(document, {runOnly: ` + run + `}).then((r) => r.violations.map((v) => v.id + ': ' + v.nodes.slice(0, 2).map((n) => n.html.slice(0, 160)).join(' | ')).join('\n'))`)
		require.NoError(t, err)
		return found
	}
	for _, path := range []string{"/", "/parts", "/parts/EW-R-00001", "/parts/new?drawer=crystals", "/intakes", "/intakes/" + open.ID, "/intakes/" + open.ID + "?step=decided", "/decisions?withdrawn=yes", "/boms", "/boms/Pier", "/boms/Pier/cost", "/boms/Pier/revisions", "/boms/Pier/revisions/1", "/boms/Pier/learned?of=all", "/boms/Pier/compare?revision=1", "/where-used?part=EW-R-00001&instead=1", "/models", "/models/" + d.Models[0].Used.ID, "/models/twins", "/models/checks", "/models/make-symbol", "/models/make-land-pattern", "/models/draw?kind=symbol", "/models/" + d.Models[0].Used.ID + "/draw", "/deliveries", "/deliveries/" + d.ID, "/parts/EW-R-00001/pins", "/cabinet", "/cabinet?drawer=chip-resistors", "/crosswalks", "/queue?all", "/series", "/series/" + kept.ID, "/suppliers?q=1R%200805", "/offers", "/connections?of=Marsh%20Lane%20Components", "/notices?all", "/readout", "/trail", "/lifecycles", "/people", "/you", "/review/" + reviewed.ID, "/review/" + series[0].ID, "/review/" + series[0].ID + "/together", "/parts?beside=part", "/parts?q=4k7%20or%20nonsense&drawer=chip-resistors&group=case", "/compare?part=EW-R-00001&part=EW-R-00002"} {
		steps(t, b, b.Go(path))
		_, err := b.Eval(string(axe) + "; 'loaded'")
		require.NoError(t, err)
		assert.Empty(t, violations(`['wcag2a', 'wcag2aa', 'wcag21aa', 'wcag22aa']`), path)
		beyond, err := b.Eval(beyondTheEdge)
		require.NoError(t, err)
		assert.Empty(t, beyond, "%s goes beyond its right edge", path)
		_, err = b.Eval(`document.documentElement.dataset.theme = 'dark'`)
		require.NoError(t, err)
		assert.Empty(t, violations(`{type: 'rule', values: ['color-contrast', 'link-in-text-block']}`), "%s in dark colours", path)
	}
}

// Two hundred people have pages open all day: what one deed makes each of them ask must stay small.
func TestAnOpenPageAsksLittleAfterSomebodysDeed(t *testing.T) {
	i := serve2(t)
	k := i.admin(t)
	stocked(t, k)
	in, err := openIntake(t, k, "Marsh Lane Components", "a.csv", file(t, "suppliers/marsh-lane.csv"))
	require.NoError(t, err)
	takeIn(t, k, in)
	in, err = openIntake(t, k, "Marsh Lane Components", "many.csv", resistors("MANY", 500))
	require.NoError(t, err)
	takeIn(t, k, in)
	open, err := openIntake(t, k, "Harbour & Finch", "b.txt", file(t, "suppliers/harbour-finch.txt"))
	require.NoError(t, err)
	bringAmplifier(t, k)
	bomFile, err := k.Upload(t.Context(), "board.csv", strings.NewReader("Ref,Qty,Value,Package\nR1,1,2k2,0805\nR2,1,10k,0603\n"))
	require.NoError(t, err)
	bom, err := k.BringBOM(t.Context(), wire.NewBOM{Name: "Buoy", FileHash: bomFile.Hash, FileName: bomFile.Name})
	require.NoError(t, err)
	b, stop, err := browser.Open(i.url, 1280)
	require.NoError(t, err)
	defer stop()
	steps(t, b, b.SignIn("admin", adminPassword, "light"))
	n, total := 0, 0
	for _, path := range []string{"/parts", "/parts?q=0805&drawer=chip-resistors&group=case", "/parts/EW-R-00001", "/parts/EW-R-00002", "/parts/EW-R-00001/pins", "/compare?part=EW-R-00001&part=EW-R-00002",
		"/intakes", "/intakes/" + open.ID, "/boms", "/boms/" + bom.ID, "/models", "/deliveries", "/cabinet", "/crosswalks"} {
		steps(t, b, b.Go(path), b.Idle())
		asks := func() string {
			n, err := b.Eval(`performance.getEntriesByType('resource').filter((e) => e.name.includes('/api/')).length + ''`)
			require.NoError(t, err)
			return n
		}
		for before := ""; before != asks(); { // what is told of the deed before comes to an end
			before = asks()
			time.Sleep(600 * time.Millisecond)
		}
		_, err := b.Eval(`performance.clearResourceTimings(); 'cleared'`)
		require.NoError(t, err)
		n++
		p, err := k.Part(t.Context(), "EW-R-00001")
		require.NoError(t, err)
		_, err = k.AddFormer(t.Context(), p.ID, p.Version, fmt.Sprint("OLD-", n))
		require.NoError(t, err)
		time.Sleep(700 * time.Millisecond) // the instance hears, tells, and the page asks
		steps(t, b, b.Idle())
		asked, err := b.Eval(`(() => { const all = performance.getEntriesByType('resource').filter((e) => e.name.includes('/api/') && !e.name.endsWith('/events'));
			return JSON.stringify({ requests: all.length, bytes: all.reduce((n, e) => n + e.transferSize, 0), names: all.map((e) => e.name.replace(location.origin, '')) }); })()`)
		require.NoError(t, err)
		var got struct {
			Requests, Bytes int
			Names           []string
		}
		require.NoError(t, json.Unmarshal([]byte(asked), &got))
		t.Log(path, got.Requests, got.Bytes, got.Names)
		total += got.Requests
		assert.LessOrEqual(t, got.Requests, 2, "%s asked %v", path, got.Names)
		assert.LessOrEqual(t, got.Bytes, 10_000, "%s asked %v", path, got.Names)
	}
	assert.Positive(t, total, "some pages show what was changed")
}
