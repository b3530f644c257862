package e2e

import (
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
)

// A land pattern with four rows is drawn by keyboard in the table beside it: the first pad is written into its cells, a row is added, the other
// rows are copies turned about the origin. What was wrong is taken back, and what is kept is a draft like any other.
func TestALandPatternIsDrawnByKeyboard(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")
	p.goTo("/models/draw?kind=land+pattern")
	p.see("Nothing to check yet")
	p.fill("Name of the land pattern", "Quad by hand")
	p.enter("Add…")
	p.fill("How many", "12")
	p.fill("Each further up by, mm", "-0.5")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("pads 12")
	// What is written goes into all that are chosen: x, then width and height.
	p.keys("[role=grid]", kb.ArrowRight+kb.ArrowRight+"-4.2"+kb.Tab+kb.ArrowRight+"1.5"+kb.Tab+"0.3"+kb.Enter)
	p.choose("Step, mm", "0.25")
	_, err := p.b.Eval(`document.querySelector('[role=grid]').focus(); 'ok'`)
	require.NoError(t, err)
	require.NoError(t, p.b.KeysWith(chromedp.ModifierAlt, strings.Repeat(kb.ArrowUp, 11)))
	p.see("-2.75")
	for _, pads := range []string{"24", "36", "48"} { // each a quarter turn further than the one before
		p.enter("Copy…")
		p.choose("Turned about the origin by", "90")
		p.enter("Copy")
		p.see("pads " + pads)
	}
	p.enter("↶ Back")
	p.see("pads 36")
	p.enter("↷ Again")
	p.see("pads 48")

	// What cannot be is refused with its place, and nothing is changed.
	p.keys("[role=grid]", "wide"+kb.Enter)
	p.see(`"wide" is no length`)
	p.enter("Keep the draft")
	p.see("Quad by hand is kept as a draft.")
	m, err := k.Model(t.Context(), "land pattern: Quad by hand")
	require.NoError(t, err)
	assert.Equal(t, []any{0, 48}, []any{m.Revision, len(m.Draft.LandPattern.Pads)})
	at := map[string]model.Point{}
	for _, pad := range m.Draft.LandPattern.Pads {
		at[pad.Number] = pad.At
	}
	mm := model.MustLength
	for n, where := range map[string]model.Point{"2": {X: -mm("4.2"), Y: mm("2.25")}, "12": {X: -mm("4.2"), Y: -mm("2.75")}, "13": {X: -mm("2.75"), Y: -mm("4.2")}, "25": {X: mm("4.2"), Y: -mm("2.75")}, "48": {X: -mm("2.75"), Y: mm("4.2")}} {
		assert.Equal(t, where, at[n], n)
	}
}

// A connector is drawn, a pin of it dragged, its body made of graphics, and what is kept comes back the same from the other form. A copy of
// it is changed and the first stays as it is.
func TestASymbolIsDrawnAndCopied(t *testing.T) {
	owner, dsn := freshSchema(t, shared)
	i := serve(t, owner, dsn)
	k := i.admin(t)
	i.as(t, "maren", "librarian")
	p := window(t, i, "maren")
	run := person(t, i)
	p.goTo("/models/draw?kind=symbol")
	p.fill("Name of the symbol", "Screw terminal 4")
	p.enter("Add…")
	p.fill("How many", "4")
	p.fill("Each further up by, mm", "-2.54")
	require.NoError(t, p.b.Keys(kb.Enter))
	p.see("pins 4")
	p.press("graphics")
	p.enter("Add…")
	p.enter("Add")
	p.see("graphics 1")
	p.press("pins")
	before, err := p.b.Eval(`document.querySelector('svg [data-row="3"]').getAttribute('y')`)
	require.NoError(t, err)
	require.NoError(t, p.b.Drag(`svg [data-row="3"]`, 0, 60))
	after, err := p.b.Eval(`document.querySelector('svg [data-row="3"]').getAttribute('y')`)
	require.NoError(t, err)
	assert.NotEqual(t, before, after)
	p.enter("Keep the draft")
	p.see("Screw terminal 4 is kept as a draft.")
	m, err := k.Model(t.Context(), "symbol: Screw terminal 4")
	require.NoError(t, err)
	pins := m.Draft.Symbol.Pins
	require.Len(t, pins, 4)
	grid := model.MustLength("1.27")
	assert.Less(t, pins[3].At.Y, -6*grid, "it lies lower than it was added")
	assert.Zero(t, pins[3].At.Y%grid, "on the grid")
	assert.Equal(t, []any{model.Length(0), "4"}, []any{pins[3].At.X, pins[3].Number})

	comesBack(t, k, run, "Screw terminal 4", "edif")

	p.goTo("/models/" + m.ID)
	p.press("Draw ▾")
	p.press("Draw a copy")
	p.see("A copy of Screw terminal 4")
	p.keys("[role=grid]", kb.ArrowDown+kb.Delete)
	p.see("pins 3")
	p.fill("Name of the symbol", "Screw terminal 3")
	p.enter("Keep the draft")
	p.see("Screw terminal 3 is kept as a draft.")
	was, err := k.Model(t.Context(), m.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{m.Version, 4}, []any{was.Version, len(was.Draft.Symbol.Pins)})

	// What was begun and left is offered again.
	p.goTo("/models/" + m.ID + "/draw")
	p.keys("[role=grid]", kb.ArrowDown+kb.Delete)
	p.see("pins 3")
	require.NoError(t, p.b.Do(chromedp.Sleep(500*time.Millisecond)))
	p.goTo("/models/" + m.ID + "/draw")
	p.see("did not save them")
	p.press("Go on with them")
	p.see("pins 3")
}
