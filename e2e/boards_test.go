package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/wire"
)

// A word of the house is taught on one board and read on the next; then the part goes, its boards are found and told, and another part takes its place on both.
// By keyboard in the console, and once more by the commands.
func TestAWordIsTaughtAndAPartReplacedOnItsBoardsByKeyboard(t *testing.T) {
	t.Parallel() // it waits more than it works
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	i.as(t, "maren", "librarian")
	old, next := resistor(t, admin, "22k", "TW-22K"), resistor(t, admin, "22k", "TW-22K-N")
	dir := t.TempDir()
	board := func(name, text string) string {
		path := filepath.Join(dir, name+".csv")
		require.NoError(t, os.WriteFile(path, []byte(text), 0o600))
		return path
	}
	p := window(t, i, "maren")
	bring := func(name, text string) {
		p.goTo("/boms")
		p.press("Bring in a BOM…")
		p.upload("File", board(name, text))
		p.fill("Comes from", "Harbour office")
		require.NoError(t, p.b.Keys(kb.Enter))
		p.see(name + ".csv")
	}

	// The first board says it in the house's words: both lines are answered at once, and taught.
	bring("Gauge", "Ref,Qty,Value,Package\nR1,1,harbourlegs,0805\nR2,1,harbourlegs,0805\nR3,1,1k,0805\n")
	b, err := admin.BOM(t.Context(), "Gauge")
	require.NoError(t, err)
	assert.Equal(t, "Harbour office", b.Origin)
	require.Equal(t, 1, b.Lines[0].Alike)
	p.keys("[role=grid]", kb.Enter) // the first line
	p.see("also for the other open line that asks for the same")
	p.choose("In the next files from Harbour office with these headings", "link")
	p.fill("Another part", old.Number)
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("2 lines are linked.")
	p.see("Row 4: R3") // and it goes on to the next line that nobody answered
	require.NoError(t, p.b.Keys(kb.Escape))

	// The next file of the same people says it again.
	bring("Buoy", "Ref,Qty,Value,Package\nR7,1,harbourlegs,0805\nR8,1,harbourlegs,0603\n")
	p.see("1 of 2 settled")
	b, err = admin.BOM(t.Context(), "Buoy")
	require.NoError(t, err)
	assert.Equal(t, []string{"linked", "not in the library"}, []string{b.Lines[0].Verdict, b.Lines[1].Verdict}, "the other one says another package")
	p.press("Learned")
	p.see("R · harbourlegs · 0805")
	p.see("Its files come from Harbour office")

	// The part goes: who brought the boards in hears of it, sees where it is, and puts another one there.
	now, err := admin.Part(t.Context(), old.Number)
	require.NoError(t, err)
	_, err = admin.SetStanding(t.Context(), now.ID, now.Version, wire.Standing{Standing: "obsolete", Why: "its maker stops"})
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		p.goTo("/notices?all")
		text, err := p.b.Eval(`document.body.innerText`)
		return err == nil && strings.Contains(text, "It is on")
	}, time.Minute, 100*time.Millisecond)
	p.goTo("/where-used?instead=1")
	p.fill("Number", old.Number)
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("1 part on 2 boards as they stand now")
	p.see("equal in what identifies its kind of part")
	p.press("Replace…")
	p.see("Replace on 2 boards")
	p.fill("Why", "its maker stops")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see(next.Number + " is in the place of " + old.Number + " on 2 boards.")
	for _, name := range []string{"Gauge", "Buoy"} {
		b, err := admin.BOM(t.Context(), name)
		require.NoError(t, err)
		assert.Equal(t, []string{next.Number, "linked", "its maker stops"}, []string{b.Lines[0].Part.Number, b.Lines[0].Verdict, b.Lines[0].Reason})
	}

	// The same by commands, back again.
	run := person(t, i)
	out, _, code := run("bom", "where", next.Number)
	require.Zero(t, code)
	assert.Contains(t, out, "Gauge")
	_, stderr, code := run("bom", "replace", next.Number, old.Number, "Gauge")
	require.Zero(t, code, stderr)
	assert.Contains(t, stderr, "--yes does it")
	_, stderr, code = run("bom", "replace", next.Number, old.Number, "Gauge", "--yes", "--reason", "some are left")
	require.Zero(t, code, stderr)
	assert.Contains(t, stderr, "on 1 board")
	got, err := admin.WhereUsed(t.Context(), wire.UsedAsked{Part: old.Number})
	require.NoError(t, err)
	require.Len(t, got.Items[0].Boards, 1)
	assert.Equal(t, []string{"R1", "R2"}, got.Items[0].Boards[0].Designators)
}
