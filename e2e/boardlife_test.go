package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lifecycle"
	"jollydrawer/internal/wire"
)

// A house in which a BOM is frozen by a second person: its author asks for a review, the second person goes from the queue through the list by keyboard, signs and
// freezes. A part of it is released anew, and the board holds on to what it was frozen with until it is moved on; a finding is accepted by its cause, and the house says
// how bad it takes another. The revision is withdrawn with a reason, which the commands name by its label.
func TestABoardIsFrozenByASecondPersonHeldOnToAndMovedOn(t *testing.T) {
	t.Parallel() // it waits more than it works
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	i.as(t, "ines", "engineer")
	i.as(t, "tomas", "engineer")
	text, _ := lifecycle.Shipped("boms")
	asked := strings.NewReplacer("from: [draft, in review], to: released, note: true, who: { role: engineer }", "from: [in review], to: released, note: true, who: { role: engineer, notAuthor: true }, gates: [{ gate: settled }, { gate: review }]",
		"counting: numbers", "counting: letters").Replace(string(text))
	require.NotEqual(t, string(text), asked)
	_, err := admin.ApplyLifecycle(t.Context(), 0, asked)
	require.NoError(t, err)
	one := resistor(t, admin, "4.7k", "TW-4K7")
	resistor(t, admin, "10k", "TW-10K")
	path := filepath.Join(t.TempDir(), "buoy.csv")
	require.NoError(t, os.WriteFile(path, []byte("Ref,Qty,Value,MPN\n\"R1,R2\",2,4.7k,TW-4K7\nR3,1,10k,TW-10K\n"), 0o600))

	// Its author brings it in and passes it on, and is offered no freezing.
	p := window(t, i, "ines")
	p.goTo("/boms")
	p.press("Bring in a BOM…")
	p.upload("File", path)
	p.press("Reconcile")
	p.see("2 of 2 settled")
	p.goTo("/boms/buoy/revisions")
	p.see("Nothing is frozen yet")
	p.press("Ask for a review…")
	require.NoError(t, p.b.Keys(kb.Enter)) // nothing has to be typed: the button of the dialog
	p.see("buoy is In review.")
	p.press("Freeze…")
	p.see("nobody has reviewed it")
	require.NoError(t, p.b.Keys(kb.Escape))

	// The second person goes through its list, signs, and freezes it.
	q := window(t, i, "tomas")
	q.goTo("/queue")
	q.see("1 thing waits")
	q.keys("[role=grid]", kb.Enter)
	q.see("Review of buoy")
	q.see(one.Number + " revision 1")
	q.keys("[role=listbox]", kb.Enter+kb.Enter)
	q.see("all 2 items are ticked by you")
	q.press("Sign…")
	q.fill("Laid beside", "drawing 4, sheet 2")
	require.NoError(t, q.b.Keys(kb.Enter))
	q.see("You signed buoy as it is.")
	q.freeze("first lot", "Revision A of buoy is frozen.")
	q.see("Revision A is the newest")

	// A part of it is released anew: the board holds on to the older one, shows what differs, and is moved on.
	now, err := admin.Part(t.Context(), one.Number)
	require.NoError(t, err)
	edit := now.Released.Edit()
	edit.Values["temperature-coefficient"] = "100 ppm/K"
	now, err = admin.SaveDraft(t.Context(), now.ID, now.Version, edit)
	require.NoError(t, err)
	_, err = admin.Release(t.Context(), now.ID, now.Version, "its temperature coefficient")
	require.NoError(t, err)
	p.goTo("/boms/buoy?cause=behind")
	p.see("behind 1")
	p.keys("[role=grid]", kb.Enter)
	p.see("the board holds on to revision 1")
	p.see("100 ppm/")
	p.press("Move it on")
	require.NoError(t, p.b.Keys(kb.Escape))
	p.goTo("/boms/buoy?cause=single-source")
	p.see("single source 2")
	p.press("Accept it in 2 lines…")
	p.fill("Why it is as it should be", "agreed with purchasing")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("single source 0 (2 accepted)")
	b, err := admin.BOM(t.Context(), "buoy")
	require.NoError(t, err)
	assert.Zero(t, b.Lines[0].Held)
	assert.Equal(t, "agreed with purchasing (Ines)", b.Lines[0].Findings[0].Waived)

	// By the commands: the revision by its label, what the house says of findings, and the withdrawal.
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Zero(t, code, "%q: %s %s", args, out, stderr)
		return out
	}
	assert.Contains(t, do("bom", "revision", "buoy@A"), "TW-4K7")
	assert.Contains(t, do("bom", "compare", "buoy@A"), "revision")
	do("bom", "move", "buoy", "withdraw", "--note", "R3 is wrong", "--revision", "A")
	assert.Contains(t, do("bom", "revisions", "buoy"), "Withdrawn: R3 is wrong")
	q.goTo("/boms/buoy/revisions/1")
	q.see("Withdrawn R3 is wrong")
	all, err := admin.BOMRevisions(t.Context(), b.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{1, "A", "withdrawn"}, []any{len(all.Items), all.Items[0].Label, all.Items[0].State.Key})
	_, err = admin.WaiveFindings(t.Context(), b.ID, b.Version, wire.WaiveFindings{Cause: "single-source"})
	require.ErrorContains(t, err, "changed")
}
