package e2e

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// A board comes as a file for each of its variants; another board takes one of them. What it is made of counts, and when it goes on, the page that takes it says so at once.
// By keyboard in the console, and once more by the commands.
func TestABoardOfFilesOfVariantsIsTakenByAnotherByKeyboard(t *testing.T) {
	t.Parallel() // it waits more than it works
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	maren := i.as(t, "maren", "librarian")
	near, far := resistor(t, admin, "22k", "TW-22K"), resistor(t, admin, "47k", "TW-47K")
	dir := t.TempDir()
	file := func(name, text string) string {
		path := filepath.Join(dir, name)
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	pier := file("lamp-pier.csv", "Ref,Qty,Value,MPN\n\"R1,R2\",2,22k,TW-22K\nR3,1,47k,TW-47K\n")
	buoy := file("lamp-buoy.csv", "MPN,Ref,Qty,Value\nTW-22K,R1,1,22k\nTW-47K,R3,1,47k\n")
	station := file("station.csv", "Ref,Qty,Value,MPN,Description\nM1-M3,3,,,lamp of the mast\nR1,1,22k,TW-22K,\n")

	p := window(t, i, "maren")
	p.goTo("/boms")
	p.press("Bring in a BOM…")
	p.upload("File", pier, buoy)
	p.see("Variant of lamp-pier.csv")
	assert.Equal(t, "buoy", p.value("Variant of lamp-buoy.csv"), "what the names of the files have of their own")
	p.fill("Variant of lamp-buoy.csv", "Buoy 2")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("lamp-pier.csv + lamp-buoy.csv")
	p.freeze("first lot", "Revision 1 of lamp is frozen.")

	p.goTo("/boms")
	p.press("Bring in a BOM…")
	p.upload("File", station)
	p.see("Board and revision")
	p.fill("Board and revision", "Station")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("1 of 2 settled")
	p.keys("[role=grid]", kb.Enter)
	p.see("Row 2: M1-M3")
	require.NoError(t, p.b.Keys("b"))
	p.fill("BOM", "lamp")
	p.fill("Variant, if it has several", "pier")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("lamp, revision 1, variant pier")
	require.NoError(t, p.b.Keys(kb.Escape))
	p.see("2 of 2 settled")
	p.goTo("/boms/Station/cost?boards=10")
	p.see("70") // 10 × (3 × 2 + 1) of the 22k
	needs, err := admin.CostBOM(t.Context(), wire.BOMAt{BOM: "Station"}, 10, nil)
	require.NoError(t, err)
	takes := map[string]int64{}
	for _, u := range needs.Unbought {
		takes[u.Number] += u.Takes
	}
	assert.Equal(t, map[string]int64{near.Number: 70, far.Number: 30}, takes)
	p.goTo("/boms/Station")
	p.freeze("the harbour's", "Revision 1 of Station is frozen.")

	// The lamp goes on while the station's page is open.
	p.goTo("/boms/Station")
	p.see("lamp, revision 1, variant pier")
	b, err := maren.BOM(t.Context(), "lamp")
	require.NoError(t, err)
	_, err = maren.FreezeBOM(t.Context(), b.ID, b.Version, wire.FreezeBOM{Note: "second lot"})
	require.NoError(t, err)
	p.see("revision 2 is in use")
	p.goTo("/boms/Station/revisions/1")
	p.see("revision 2 is frozen")
	p.see("M1/R1")

	// The same by commands.
	run := person(t, i)
	_, stderr, code := run("bom", "open", "Mole", "--variant-file", "Pier="+pier, "--variant-file", "Buoy="+buoy)
	require.Zero(t, code, stderr)
	assert.Contains(t, stderr, "variants Pier, Buoy")
	_, stderr, code = run("bom", "freeze", "Mole", "for the mole")
	require.Zero(t, code, stderr)
	_, stderr, code = run("bom", "nest", "Station", "M1", "Mole", "--variant", "buoy")
	require.Zero(t, code, stderr)
	out, _, code := run("bom", "where", "--board", "Mole")
	require.Zero(t, code)
	assert.Contains(t, out, "Station")
	out, _, code = run("bom", "cost", "Station", "--boards", "10")
	require.Zero(t, code)
	assert.Regexp(t, near.Number+` +40 `, out, "10 × (3 × 1 + 1)")
}
