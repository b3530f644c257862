package intakes_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A crosswalk that changes says which rows of open intakes of its layout it changes, and changes none that somebody settled unless it is told:
// applied as a document, or by taking in another intake whose mapping was changed. Those of another layout and of another supplier are not its.
func TestACrosswalkLeavesAloneWhatIsSettledInOpenIntakes(t *testing.T) {
	h := housetest.Open(t)
	mended := h.Listed("R;Tidewright;C-1;4k7;1%;0805;\nR;Tidewright;C-2;8k2;5%;0805;\n")
	open := h.EditIntake(h.Listed("R;Tidewright;C-3;1k;?;0805;\nR;Tidewright;C-4;2k;5%;0805;\n"), wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Tol", Text: "5%"}}})
	other, _ := h.OpenIntake("X-1,Tidewright,A-1,4700,1%,0805,9\n")
	before := rowsOf(t, h, open)
	rule := crosswalk.Change{Rule: &crosswalk.Rule{From: "Tol", To: "tolerance", Words: map[string]string{"5%": "10%"}}}

	cw, err := h.Cabinets.Crosswalk(t.Context(), h.Me, "Pier stock")
	require.NoError(t, err)
	text := cw.Text + "decimalMark: point\n"
	same, err := h.Intakes.TryCrosswalk(t.Context(), h.Me, text)
	require.NoError(t, err)
	assert.Empty(t, same.Intakes, "what reads all rows as before touches none")
	parsed, err := crosswalk.Parse([]byte(cw.Text))
	require.NoError(t, err)
	changed, err := parsed.With([]crosswalk.Change{rule})
	require.NoError(t, err)
	raw, err := yaml.Marshal(changed)
	require.NoError(t, err)
	text = string(raw)
	wrote := written(t, h)
	tried, err := h.Intakes.TryCrosswalk(t.Context(), h.Me, text)
	require.NoError(t, err)
	assert.Equal(t, wrote, written(t, h), "a preview writes nothing")
	got := map[string][]int{}
	for _, i := range tried.Intakes {
		got[i.Number] = []int{i.Tried.Rows, i.Tried.Settled}
	}
	assert.Equal(t, map[string][]int{mended.Number: {1, 0}, open.Number: {2, 1}}, got, "and nothing of "+other.Number)
	_, err = h.Intakes.ApplyCrosswalk(t.Context(), h.Me, cw.Version, wire.CrosswalkEdit{Text: text})
	assert.Contains(t, housetest.Fails(t, err, "settled").Error(), "in "+open.Number+", which is open, the crosswalk would change 1 row that somebody settled: row 2, tolerance from ±5 % to ±10 %")
	assert.Equal(t, before, rowsOf(t, h, open))

	mended = h.EditIntake(mended, wire.IntakeEdit{Changes: []crosswalk.Change{rule}})
	_, err = h.Intakes.TakeIn(t.Context(), h.Me, housetest.ID(t, mended.ID), mended.Version, wire.TakeIn{Digest: mended.Digest})
	housetest.Fails(t, err, "settled")
	_, err = h.Intakes.TryCrosswalk(t.Context(), h.Me, "format: jolly-crosswalk/1\nsupplier: Pier stock\nfields: [{from: Value, to: nowhere}]\n")
	housetest.Fails(t, err, "crosswalk-wrong")

	j, err := h.Intakes.TakeIn(t.Context(), h.Me, housetest.ID(t, mended.ID), mended.Version, wire.TakeIn{Digest: mended.Digest, EvenSettled: true})
	require.NoError(t, err)
	require.Equal(t, "done", h.Wait(j).State)
	now, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, open.ID))
	require.NoError(t, err)
	assert.Equal(t, "±10 %", rowsOf(t, h, now)[2]["tolerance"], "it was said that it may")
}

// The first crosswalk of a supplier touches the intake that waits for it.
func TestTheFirstCrosswalkTouchesTheIntakeThatWaitsForIt(t *testing.T) {
	h := housetest.Open(t)
	i, _ := h.OpenIntake("X-1,Tidewright,A-1,4700,1%,0805,9\nX-2,Tidewright,A-2,100,1%,0805,9\n")
	tried, err := h.Intakes.TryCrosswalk(t.Context(), h.Me, housetest.CrosswalkText)
	require.NoError(t, err)
	require.Len(t, tried.Intakes, 1)
	assert.Equal(t, []any{i.Number, 2}, []any{tried.Intakes[0].Number, tried.Intakes[0].Tried.Rows})
}
