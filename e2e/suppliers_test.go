package e2e

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/demo"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// trading starts the four simulated suppliers and a service that is connected to them. Its secrets are in a file that nobody else reads.
func trading(t *testing.T) (*instance, *market.Market, *client.Client) {
	i, m, admin, _ := tradingAgain(t)
	return i, m, admin
}

// tradingAgain is trading with a way to start the service once more.
func tradingAgain(t *testing.T) (*instance, *market.Market, *client.Client, func() *instance) {
	t.Helper()
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = m.Close() })
	var secrets strings.Builder
	for name, s := range market.Secrets {
		secrets.WriteString(name + ": " + s + "\n")
	}
	path := filepath.Join(t.TempDir(), "secrets.yaml")
	require.NoError(t, os.WriteFile(path, []byte(secrets.String()), 0o600))
	owner, dsn := freshSchema(t, shared)
	start := func() *instance {
		return serve(t, owner, dsn, "--allow-inside", m.Host(), "--secret-file", path, "--log-level", "debug")
	}
	i := start()
	admin := i.admin(t)
	stocked(t, admin)
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		_, err := admin.ApplyConnection(t.Context(), 0, strings.ReplaceAll(file(t, "connections/"+name+".yaml"), "http://suppliers.invalid", m.URL))
		require.NoError(t, err)
		_, err = admin.ApplyCrosswalk(t.Context(), 0, file(t, "crosswalks/"+name+"-answers.yaml"))
		require.NoError(t, err)
	}
	_, err = admin.ApplyRates(t.Context(), 0, file(t, "rates.yaml"))
	require.NoError(t, err)
	return i, m, admin, start
}

// board costs a board, freezes it, lays another file in its place and beside what was frozen.
func board(t *testing.T, p keyboard, admin *client.Client) {
	t.Helper()
	p.fill("Boards in a build", "10"+kb.Enter)
	p.see("A build of Sluice gate is 10 boards.")
	p.enter("what it costs", `e.matches("nav a") && e.innerText === "Cost"`)
	p.see("a board, from")
	p.see("Ready, of 3 lines that are fitted")
	p.fill("Boards", "900000"+kb.Enter)
	p.see("3 short")
	p.press("How it is bought…")
	p.fill("Spare parts", "passives 10%")
	p.press("Keep")
	p.see("90,000 spare")
	p.enter("the revisions", `e.matches("nav a") && e.innerText === "Revisions"`)
	p.press("Freeze…")
	p.fill("What it is for", "first build")
	p.fill("Why it is frozen all the same", "the parts are looked at by hand")
	p.press("Freeze")
	p.see("Revision 1 of Sluice gate is frozen.")
	b, err := admin.BOM(t.Context(), "Sluice gate")
	require.NoError(t, err)
	frozen, err := admin.BOMRevision(t.Context(), b.ID, 1)
	require.NoError(t, err)
	require.NotNil(t, frozen.Cost)
	assert.EqualValues(t, 10, frozen.Cost.Boards)
	f, err := admin.Upload(t.Context(), "gate-b.csv", strings.NewReader("Ref,Qty,MPN,Value,Package\nC1,1,,100n,0603\nR11,1,,1k,0603\nR2,1,,15k,1206\nD1,1,,,\n"))
	require.NoError(t, err)
	_, err = admin.ReplaceBOMFile(t.Context(), b.ID, b.Version, wire.BOMFile{FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	p.press("Compare")
	p.see("Sluice gate revision 1 beside Sluice gate as it is now")
	p.see("2 designators are as before")
	p.see("added 2")
	p.see("removed 1")
}

// From a question without an own answer to a draft with its datasheet, a second source, a board's missing lines, and a maker's notice that a part
// ends with the move that it leads to: without a mouse.
func TestSuppliersAreAskedAndTakenFromByKeyboard(t *testing.T) {
	t.Parallel() // it waits more than it works
	i, m, admin := trading(t)
	_, err := admin.RefreshOffers(t.Context(), wire.RefreshOffers{})
	require.ErrorContains(t, err, "None of the parts has a source")
	p := byKeyboard(window(t, i, "admin"))

	// Nothing own: the same question goes to the suppliers.
	p.goTo("/parts")
	p.reach("the search box", `e.matches("header input")`)
	require.NoError(t, p.b.Keys("4k7 0805 1%"+kb.Enter))
	p.see("Nothing fits")
	p.enter("the same question", `e.innerText === "Ask the suppliers the same"`)
	p.see("products fit")
	p.see("GR08054K7F")
	p.see("The price list of Marsh Lane Components was not fetched yet.")
	p.fill("Pieces", "250")
	p.press("Ask")
	p.see("For 250")
	p.reach("the products", `e.matches("[role=grid]")`)
	require.NoError(t, p.b.Keys(" "+kb.ArrowDown+" "))
	p.press("Compare 2")
	p.see("side by side")
	require.NoError(t, p.b.Keys(kb.Escape))
	p.reach("the products", `e.matches("[role=grid]")`)
	require.NoError(t, p.b.Keys(kb.Home+kb.Enter))
	p.see("as a draft")
	p.choose("Sea rating (by hand)", "splash")
	p.press("Make the draft")
	p.see("RES 4.7kΩ ±1% 125mW 0805")
	p.see("splash")
	made, err := admin.Parts(t.Context(), client.PartQuery{Text: "4k7 0805 1%"})
	require.NoError(t, err)
	require.Len(t, made.Items, 1)
	number := made.Items[0].Number
	require.Eventually(t, func() bool {
		now, err := admin.Part(t.Context(), number)
		return err == nil && len(now.Draft.Datasheets) == 1
	}, time.Minute, 50*time.Millisecond, "the datasheet comes beside")

	// The other maker's becomes a source of it.
	p.goTo("/suppliers?q=4k7%200805%201%25")
	p.see("products fit")
	p.reach("the products", `e.matches("[role=grid]")`)
	require.NoError(t, p.b.Keys(kb.ArrowDown))
	p.press("As a source of a part…")
	p.see("as another source")
	p.press("Make it a source")
	p.see("Offers")
	now, err := admin.Part(t.Context(), number)
	require.NoError(t, err)
	require.Len(t, now.Draft.Sources, 2)

	// Three lines of a board that the library lacks: each is asked for, taken, and seen on the board again.
	f, err := admin.Upload(t.Context(), "gate.csv", strings.NewReader("Ref,Qty,MPN,Value,Package\nC1,1,,100n,0603\nR1,1,,1k,0603\nR2,1,,15k,1206\n"))
	require.NoError(t, err)
	_, err = admin.BringBOM(t.Context(), wire.NewBOM{Name: "Sluice gate", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	for n := range 3 {
		p.goTo("/boms/Sluice%20gate")
		p.reach("the lines", `e.matches("[role=grid]")`)
		require.NoError(t, p.b.Keys(strings.Repeat(kb.ArrowDown, n)+kb.Enter))
		p.see("Ask the suppliers")
		p.press("Ask the suppliers")
		p.see("Marsh Lane Components")
		p.reach("the products", `e.matches("[role=grid]")`)
		require.NoError(t, p.b.Keys(kb.Home+kb.Enter))
		p.press("Make the draft")
		p.see("Sluice gate")
		b, err := admin.BOM(t.Context(), "Sluice gate")
		require.NoError(t, err)
		assert.NotEqual(t, "not in the library", b.Lines[n].Verdict, "%s: %v", b.Lines[n].Value, b.Lines[n].Evidence)
	}

	// A build of more boards than there is stock for is said on its lines, and the suppliers are asked for all of its parts at once.
	p.goTo("/boms/Sluice%20gate")
	p.press("Accept 3 proposals that nothing contradicts")
	p.see("linked 3")
	p.fill("Boards in a build", "900000"+kb.Enter)
	p.see("A build of Sluice gate is 900000 boards.")
	p.press("Ask the suppliers for its parts")
	p.see("3 sources asked for")
	p.see("stock for less than a build: 3 lines")
	board(t, p, admin)

	// A product that comes with models: they lie beside the library's, and are taken for the part.
	p.goTo("/suppliers?q=SM0420-4U7")
	p.see("product fits")
	p.reach("the products", `e.matches("[role=grid]")`)
	require.NoError(t, p.b.Keys(kb.Home+kb.Enter))
	p.press("Make the draft")
	p.see("lie beside the library’s")
	p.enter("the delivery", `e.matches("a") && e.innerText.startsWith("DL-")`)
	p.see("SM0420-4U7.symbol.json")
	p.press("Take and link to the part")
	require.Eventually(t, func() bool {
		coil, err := admin.Parts(t.Context(), client.PartQuery{Text: "SM0420-4U7"})
		if err != nil || len(coil.Items) != 1 {
			return false
		}
		drawn, err := admin.Part(t.Context(), coil.Items[0].Number)
		return err == nil && drawn.Draft.Symbol != nil && drawn.Draft.LandPattern != nil
	}, time.Minute, 50*time.Millisecond, "the models are the part's")

	// Parts are looked up by what is on offer, the cheapest first.
	p.goTo("/parts")
	p.enter("what is on offer", `e.matches("summary") && e.innerText.trim() === "On offer"`)
	p.fill("In stock at least", "100"+kb.Enter)
	p.see("Price of 100")
	p.see(number)

	// A maker ends a product: the refresh brings the news, the news proposes the move.
	m.End(now.Draft.Sources[0].MPN)
	p.goTo("/parts/" + number)
	p.press("Refresh")
	p.see("Move it to obsolete…")
	p.press("Move it to obsolete…")
	p.see("1 can be moved")
	noted, err := p.b.Value("Note")
	require.NoError(t, err)
	assert.Contains(t, noted, "the supplier sa", "the supplier's own words are the note")
	p.enter("the move", `e.type === "submit" && e.closest("[role=dialog]") !== null`)
	require.Eventually(t, func() bool {
		now, err := admin.Part(t.Context(), number)
		return err == nil && now.Standing == "obsolete"
	}, time.Minute, 50*time.Millisecond)
	t.Logf("%d acts and %d times Tab", *p.acts, *p.tabs)

	// No secret is in what the service wrote to its log.
	for name, secret := range market.Secrets {
		assert.NotContains(t, i.log.String(), secret, name)
	}
}

// The same by the command line alone.
func TestSuppliersOnTheCommandLine(t *testing.T) {
	i, m, admin := trading(t)
	token, err := admin.AddToken(t.Context(), wire.NewToken{Name: "cli", Days: 1})
	require.NoError(t, err)
	env := []string{"JOLLY_SERVER=" + i.url, "JOLLY_TOKEN=" + token.Secret}
	run := func(code int, args ...string) string {
		out, stderr, got := command(t, env, args...)
		require.Equal(t, code, got, "%v: %s%s", args, out, stderr)
		return out + stderr
	}
	assert.Contains(t, run(0, "offers", "refresh", "--help"), "jolly offers refresh")
	assert.Contains(t, run(0, "supplier", "ask", "4k7", "0805", "1%", "--pieces", "250"), "GR08054K7F")
	taken := run(0, "supplier", "take", "4k7 0805 1%", "GR08054K7F", "--set", "sea-rating=deck", "--as", "json")
	var got wire.SupplierTaken
	require.NoError(t, json.Unmarshal([]byte(taken), &got))
	assert.Len(t, got.Part.Draft.Datasheets, 1, "the datasheet was fetched")
	run(0, "supplier", "take", "4k7 0805 1%", "TW-0805-4K7-F", "--into", got.Part.Number)
	assert.Contains(t, run(0, "part", "offers", got.Part.Number, "--pieces", "250"), "Cheapest for 250")
	coil := run(0, "supplier", "take", "SM0420-4U7", "SM0420-4U7")
	assert.Contains(t, coil, "1 file lies beside the library's: jolly delivery show DL-")
	assert.Contains(t, run(0, "part", "find", "--stock", "100", "--pieces", "250", "--sort", "offer.price"), got.Part.Number)
	assert.Contains(t, run(0, "supplier", "intake", "resistor 0805 1% 10k"), "IN-0000")
	list := filepath.Join(t.TempDir(), "offers.csv")
	run(0, "offers", "export", list, "--pieces", "250")
	said, err := os.ReadFile(list)
	require.NoError(t, err)
	assert.Contains(t, string(said), got.Part.Number+",Grebe Resistive,GR08054K7F,")
	m.End("GR08054K7F")
	assert.Contains(t, run(0, "offers", "refresh", "--lists", got.Part.Number), "news")
	news := run(0, "offers", "news", "--as", "json")
	assert.Contains(t, news, `"propose": "obsolete"`)
	run(0, "part", "standing", got.Part.Number, "obsolete", "the maker ends it")
	assert.Contains(t, run(0, "part", "show", got.Part.Number), "obsolete")
	board := filepath.Join(t.TempDir(), "gate.csv")
	require.NoError(t, os.WriteFile(board, []byte("Ref,Qty,MPN\nR1,1,GR08054K7F\n"), 0o600))
	run(0, "bom", "open", board, "Gate")
	assert.Contains(t, run(0, "bom", "build", "Gate", "900000"), "build of 900000 boards takes 900000")
	assert.Contains(t, run(0, "offers", "refresh", "--bom", "Gate"), "sources asked for")
	run(2, "bom", "build", "Gate", "")
	check := filepath.Join(t.TempDir(), "sandbar.yaml")
	require.NoError(t, os.WriteFile(check, []byte(strings.ReplaceAll(file(t, "connections/sandbar.yaml"), "http://suppliers.invalid", m.URL)), 0o600))
	assert.Contains(t, run(0, "connection", "check", check, "100n 0603"), "capacitance")
	m.Happen(market.Sandbar, market.Faults{Garbled: 9})
	assert.Contains(t, run(3, "connection", "check", check, "100n 0603"), "cannot be read")
	assert.Contains(t, run(0, "connection", "list"), "of 2000")
}

// A service that is killed in the middle of a refresh goes on when it is there again: what was answered is not asked again.
func TestARefreshThatIsKilledGoesOn(t *testing.T) {
	t.Parallel() // it waits more than it works
	i, m, admin, again := tradingAgain(t)
	var mpns []string
	for _, k := range market.Products() {
		if k.Kind == "resistor" && k.Maker == "Tidewright" && k.Facts["tolerance"] == "1" && len(mpns) < 40 {
			mpns = append(mpns, k.MPN)
			_, err := admin.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": strings.ReplaceAll(k.Facts["resistance"], " ", ""), "tolerance": "1%", "case": k.Facts["case"]},
				Sources: []part.Source{{Manufacturer: k.Maker, MPN: k.MPN}}})
			require.NoError(t, err)
		}
	}
	m.Happen(market.Sandbar, market.Faults{Slow: 100 * time.Millisecond})
	j, err := admin.RefreshOffers(t.Context(), wire.RefreshOffers{})
	require.NoError(t, err)
	require.Eventually(t, func() bool { return m.Asked(market.Sandbar) >= 8 }, time.Minute, 10*time.Millisecond)
	i.kill()
	before := m.Asked(market.Sandbar)
	i = again()
	admin = i.admin(t)
	done, err := admin.WaitJob(t.Context(), j.ID, nil)
	require.NoError(t, err)
	require.Equal(t, "done", done.State, done.Error)
	assert.GreaterOrEqual(t, m.Asked(market.Sandbar), len(mpns))
	assert.LessOrEqual(t, m.Asked(market.Sandbar), len(mpns)+1, "%d had been asked for; the one in the middle is asked for again", before)
	have := 0
	l, err := admin.Parts(t.Context(), client.PartQuery{Limit: 100})
	require.NoError(t, err)
	for _, p := range l.Items {
		o, err := admin.PartOffers(t.Context(), p.Number, 1)
		require.NoError(t, err)
		for _, x := range o.Sources[0].Offers {
			if x.Supplier == market.Sandbar {
				have++
			}
		}
	}
	listed := 0
	for _, k := range market.Products() {
		if _, ok := k.Listed[market.Sandbar]; ok && slices.Contains(mpns, k.MPN) {
			if listed++; k.Listed[market.Sandbar] == "twice" {
				listed++
			}
		}
	}
	assert.Equal(t, listed, have, "all that Sandbar lists is there")
}
