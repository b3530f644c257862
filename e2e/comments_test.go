package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/wire"
)

// Two people talk about a value of a part, each on a page that stays open; one holds the part, and the other is told so before
// typing anything twice; all of it is on the trail.
func TestTwoPeopleTalkAboutAPartAndOneHoldsIt(t *testing.T) {
	i := serve2(t)
	admin := i.admin(t)
	stocked(t, admin)
	ines, tomas := i.as(t, "ines", "engineer"), i.as(t, "tomas", "engineer")
	made, err := ines.MakePart(t.Context(), wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4k7", "tolerance": "1%", "case": "0805"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "TK-1"}}})
	require.NoError(t, err)

	a, b := window(t, i, "ines"), window(t, i, "tomas")
	a.goTo("/parts/" + made.Number)
	b.goTo("/parts/" + made.Number)
	b.fill("Say something", "the datasheet says 5 %")
	b.choose("About", "values.tolerance")
	b.press("Say it")
	a.see("the datasheet says 5 %") // without loading anything anew
	a.see("Comments (1 open)")
	a.press("Answer")
	a.fill("Your answer", "page 3 says 1 %")
	require.NoError(t, a.b.Keys(kb.Tab+kb.Enter))
	b.see("page 3 says 1 %")
	b.press("Settle")
	a.see("Nothing is open.")

	a.press("Hold it…")
	a.fill("What you are at", "another case")
	require.NoError(t, a.b.Keys(kb.Enter))
	a.see("held by you")
	b.see("another case")
	_, err = tomas.SaveDraft(t.Context(), made.ID, made.Version, made.Draft.Edit())
	require.ErrorContains(t, err, "is held by Ines")
	_, err = ines.SaveDraft(t.Context(), made.ID, made.Version, made.Draft.Edit())
	require.NoError(t, err)
	a.press("Let go")
	b.see("nobody")

	b.goTo("/trail?by=ines&kind=part")
	b.see("Ines answered a comment on tolerance of " + made.Number + ": “page 3 says 1 %”.")
	b.see("Ines holds " + made.Number + " for editing: “another case”.")
	_, err = b.b.Eval(`document.querySelector('#main [role=grid] [role=row][id^="row-"]').click(); 'ok'`)
	require.NoError(t, err)
	b.see("Entry 7 of " + made.Number)
	b.press("Go to " + made.Number)
	b.see("Comments")
	at, err := b.b.Eval(`location.pathname`)
	require.NoError(t, err)
	assert.Equal(t, "/parts/"+made.Number, at)
}
