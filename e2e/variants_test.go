package e2e

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// A board with sub-assemblies that is built in two variants: two people settle its lines and see each other's decisions, one variant is costed and frozen, its boards
// are built, and what they were built of is proved. In the console, and once more by the commands, out as IPC-2581 and in again.
func TestABoardInVariantsIsSettledByTwoBuiltAndProved(t *testing.T) {
	t.Parallel() // it waits more than it works
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	maren, ines := i.as(t, "maren", "librarian"), i.as(t, "ines", "engineer")
	one, two := resistor(t, admin, "4.7k", "TW-4K7"), resistor(t, admin, "10k", "TW-10K")
	path := filepath.Join(t.TempDir(), "lamp.csv")
	require.NoError(t, os.WriteFile(path, []byte("Level,Ref,Qty,Value,Package,MPN,Fitted Harbour,Fitted Open sea\n"+
		"1,R1,1,4.7k,0805,TW-4K7,yes,yes\n1,R2,1,4.7k,0805,TW-4K7,yes,no\n1,R2,1,10k,0805,TW-10K,no,yes\n1,A1-A3,3,,,,yes,yes\n2,\"R1,R2\",2,10k,0805,,yes,yes\n"), 0o600))
	p := window(t, i, "maren")
	p.goTo("/boms")
	p.press("Bring in a BOM…")
	p.upload("File", path)
	p.press("Reconcile")
	p.see("lamp.csv")
	p.see("Open sea")
	p.see("sub-assembly 1")
	p.see("4 of 5 settled")

	// Somebody else settles the open line: it is seen at once, and what was open when it was looked at is not overwritten.
	b, err := ines.BOM(t.Context(), "lamp")
	require.NoError(t, err)
	assert.Equal(t, []string{"Harbour", "Open sea"}, b.Variants)
	assert.Equal(t, int64(3), b.Lines[4].Times)
	chosen, err := ines.ChooseBOM(t.Context(), b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 6, Part: two.ID}}})
	require.NoError(t, err)
	p.see("5 of 5 settled")
	_, err = maren.ChooseBOM(t.Context(), b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 6, Part: one.ID, Reason: "mine"}}})
	require.ErrorContains(t, err, "changed")
	assert.Equal(t, two.Number, chosen.Lines[4].Part.Number)

	// What only holds of one variant is asked for, and then worked out.
	p.choose("Lines of the variant", "Harbour")
	p.see("not fitted 1")
	p.press("Cost")
	p.see("Choose a variant")
	p.choose("Variant", "Open sea")
	p.see("variant Open sea")
	p.goTo("/boms/lamp")
	p.choose("Built as", "Harbour")
	p.see("lamp is built as Harbour.")
	p.freeze("first lot", "Revision 1 of lamp is frozen.")
	p.goTo("/boms/lamp/revisions/1")
	p.press("It was built…")
	p.fill("Boards that work", "12")
	p.fill("Which boards", "lot 1")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("12 boards of lamp revision 1, variant Harbour: lot 1.")
	p.press("Confirm that 2 worked")
	p.see("2 exact revisions are proved.")
	p.see("12 boards built as Harbour: lot 1")
	life, err := admin.Life(t.Context(), two.ID)
	require.NoError(t, err)
	assert.Equal(t, 12, life.Boards, "it is in the sub-assembly")

	// By the commands.
	run := person(t, i)
	do := func(args ...string) string {
		t.Helper()
		out, stderr, code := run(args...)
		require.Zero(t, code, "%v: %s", args, stderr)
		return out
	}
	var of wire.BOM
	require.NoError(t, json.Unmarshal([]byte(do("--json", "bom", "show", "lamp", "--variant", "open sea")), &of))
	assert.Equal(t, map[string]int{"linked": 3, "proposed": 0, "several": 0, "not in the library": 0, "no library part": 0, "another BOM": 0, "sub-assembly": 1, "not fitted": 1}, of.Counts)
	out := do("bom", "compare", "lamp", "--variant", "Harbour", "--with-variant", "Open sea")
	assert.Contains(t, out, "R2")
	assert.Contains(t, do("bom", "proof", "lamp@1"), "confirmed")
	do("bom", "built", "lamp@1", "3", "lot 2")
	assert.Contains(t, do("bom", "proof", "lamp@1", one.Number), "15")
	file := filepath.Join(t.TempDir(), "lamp.xml")
	do("bom", "export", "lamp", file, "--variant", "Open sea")
	require.NoError(t, json.Unmarshal([]byte(do("--json", "bom", "open", file, "lamp again")), &of))
	assert.Equal(t, 3, of.Counts["linked"])
	var where wire.WhereUsed
	require.NoError(t, json.Unmarshal([]byte(do("--json", "bom", "where", two.Number)), &where))
	assert.Equal(t, int64(6), where.Items[0].Boards[0].Pieces, "of Harbour, which is built")
	paper := filepath.Join(t.TempDir(), "lamp.pdf")
	do("bom", "export", "lamp@1", paper)
	raw, err := os.ReadFile(paper)
	require.NoError(t, err)
	assert.Equal(t, "%PDF-", string(raw[:5]))
}
