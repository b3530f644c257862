package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/client"
	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// resistor makes a part that is released.
func resistor(t *testing.T, k *client.Client, ohms, mpn string) wire.Part {
	t.Helper()
	p, err := k.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": ohms, "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}}})
	require.NoError(t, err)
	p, err = k.Release(t.Context(), p.ID, p.Version, "checked")
	require.NoError(t, err)
	return p
}

func TestAWantIsAskedForSettledAndDoubtedByKeyboard(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	i.as(t, "ines", "engineer")
	near := resistor(t, admin, "22k", "TW-22K")

	// Who needs something says so, and sees first what would do.
	p := window(t, i, "ines")
	p.goTo("/wants")
	p.see("Nothing is wanted")
	p.press("Want something…")
	p.fill("Facts", "22k 0805")
	p.see(near.Number)
	p.fill("Facts", "33k 0805 1%")
	p.fill("For the board", "Tide gauge D")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("W-00001 is kept: librarians see it now.")
	p.keys("[role=grid]", kb.Enter)
	p.see("Tide gauge D")

	// A librarian finds it on the page that opens first, takes it on and answers it with a part.
	made := resistor(t, admin, "33k", "TW-33K")
	l := window(t, i, "admin")
	l.goTo("/")
	l.see("Wanted by others (1)")
	_, err := l.b.Eval(`[...document.querySelectorAll('a')].find((a) => a.textContent === 'W-00001').focus(); 'ok'`)
	require.NoError(t, err)
	require.NoError(t, l.b.Keys(kb.Enter))
	require.NoError(t, l.b.Idle())
	l.see("What would do")
	l.press("Take it on")
	l.see("by Administrator")
	l.press("Answer with a part…")
	l.fill("Part", made.Number)
	require.NoError(t, l.b.Keys(kb.Enter))
	l.see("W-00001 is answered.")

	// Who wanted it is told, and may say that it is not what was meant.
	p.goTo("/")
	p.see("Your wants that were settled (1)")
	p.see("answered with " + made.Number)
	p.goTo("/wants/W-00001")
	p.press("Not what was meant…")
	p.fill("Why", "it must be 0.1 %")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("W-00001 is open.")
	w, err := admin.Want(t.Context(), "W-00001")
	require.NoError(t, err)
	assert.Equal(t, []string{"open", ""}, []string{w.State, w.Part})
	assert.Contains(t, w.Trail[0].Says, "it must be 0.1 %")
}

func TestPartsAreComparedAndAGroupIsMadeByKeyboard(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	i.as(t, "ines", "engineer")
	a, b := resistor(t, admin, "1k", "TW-1K"), resistor(t, admin, "2k2", "TW-2K2")
	p := window(t, i, "admin")
	p.goTo("/parts?q=tidewright")
	p.see(a.Number)
	p.keys("[role=grid]", kb.ArrowDown+" "+kb.ArrowUp+" ")
	p.press("Compare 2")
	p.see("1 kΩ")
	p.see("2.2 kΩ")
	p.see(b.Number)

	p.goTo("/people")
	p.press("Make a group…")
	p.fill("Name", "Resistor desk")
	_, err := p.b.Eval(`[...document.querySelectorAll('[role=dialog] label')].find((l) => l.textContent.includes('Ines')).querySelector('input').focus(); 'ok'`)
	require.NoError(t, err)
	require.NoError(t, p.b.Keys(" "+kb.Enter))
	require.NoError(t, p.b.Idle())
	p.see("The group Resistor desk is saved.")
	groups, err := admin.Groups(t.Context())
	require.NoError(t, err)
	require.Len(t, groups.Items, 1)
	assert.Equal(t, "ines", groups.Items[0].Members[0].Login)
}
