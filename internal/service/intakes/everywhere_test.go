package intakes_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A correction holds for its row; told to hold everywhere it holds wherever the field says that, in this file and the others of the layout. The
// preview says how many rows and files that are, and a corrected row among them stays.
func TestACorrectionHoldsEverywhereOnlyWhereSomebodySaysSo(t *testing.T) {
	h := housetest.Open(t)
	d := &measuretest.Draws{State: 5}
	rows, files := 0, 0
	var open wire.Intake
	for f := range 5 {
		var b strings.Builder
		here := 0
		for n := range 12 {
			value := []string{"4k7", "blue", "10k"}[d.IntN(3)]
			if f == 3 {
				value = "10k" // one file does not say it
			}
			if f == 4 && n < 3 {
				value = "blue"
			}
			if value == "blue" {
				here++
			}
			fmt.Fprintf(&b, "R;Tidewright;E%d-%d;%s;1%%;0805;\n", f, n, value)
		}
		open = h.Listed(b.String())
		if f < 4 && here > 0 {
			rows, files = rows+here, files+1
		}
		if f == 0 {
			h.EditIntake(open, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Tol", Text: "5%"}}})
		}
	}
	id := housetest.ID(t, open.ID)
	open = h.EditIntake(open, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 3, Field: "Value", Text: "2k2"}}})
	before := rowsOf(t, h, open)
	assert.Equal(t, "2.2 kΩ", before[3]["resistance"])
	one := wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Value", Text: "4k7", Everywhere: true}}}
	wrote := written(t, h)
	tried, err := h.Intakes.Try(t.Context(), h.Me, id, wire.IntakeTry{IntakeEdit: one, Limit: 100})
	require.NoError(t, err)
	require.NotNil(t, tried.Elsewhere)
	assert.Equal(t, []int{rows, files, 4}, []int{tried.Elsewhere.Rows, tried.Elsewhere.Files, tried.Elsewhere.Of})
	assert.Len(t, tried.Elsewhere.Named, files)
	assert.Equal(t, wrote, written(t, h), "a preview writes nothing")
	open = h.EditIntake(open, one)
	after := rowsOf(t, h, open)
	assert.Equal(t, differing(before, after), movedOf(tried.Moved))
	assert.Equal(t, []string{"4.7 kΩ", "2.2 kΩ", "4.7 kΩ"}, []string{after[2]["resistance"], after[3]["resistance"], after[4]["resistance"]})
	require.Len(t, open.Changes, 1)
	assert.Contains(t, open.Changes[0], "(Administrator on ")
	_, err = h.Intakes.Edit(t.Context(), h.Me, id, open.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Order no", Text: "x", Everywhere: true}}})
	housetest.Fails(t, err, "no-cell")
	_, err = h.Intakes.Edit(t.Context(), h.Me, id, open.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "MPN", Text: "x", Everywhere: true}}})
	housetest.Fails(t, err, "everywhere-unmapped")
	_, err = h.Intakes.Edit(t.Context(), h.Me, id, open.Version, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Value", Text: " ", Everywhere: true}}})
	housetest.Fails(t, err, "everywhere-blank")
}

// Rows that are left out or sorted everywhere are so by their part numbers, in this file and the next one of the layout; a row that nothing tells
// elsewhere, or that goes by its kind, is refused with why.
func TestRowsAreLeftOutAndSortedEverywhere(t *testing.T) {
	h := housetest.Open(t)
	h.Listed("R;Tidewright;N-1;4k7;1%;0805;\nR;Tidewright;N-9;4k7;1%;0805;\n")
	i := h.Listed("R;Tidewright;N-1;4k7;1%;0805;\nR;Kelpline;N-1;8k2;1%;0805;\nR;Tidewright;N-2;1k;1%;0805;\n;Tidewright;N-3;2k;1%;0805;\n;Tidewright;;3k;1%;0805;\n")
	id := housetest.ID(t, i.ID)
	edit := wire.IntakeEdit{LeaveOut: []int{2}, Everywhere: true}
	tried, err := h.Intakes.Try(t.Context(), h.Me, id, wire.IntakeTry{IntakeEdit: edit})
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1, 1, 1}, []int{tried.LeftOut, tried.Elsewhere.Rows, tried.Elsewhere.Files, tried.Elsewhere.Of})
	i = h.EditIntake(i, edit)
	assert.Equal(t, 2, i.Counts["left out"])
	i = h.EditIntake(i, wire.IntakeEdit{Rows: []int{5}, Drawer: "thermistors", Everywhere: true})
	assert.Equal(t, "thermistors", rowsOf(t, h, i)[5]["drawer"])
	for _, x := range []struct {
		says string
		edit wire.IntakeEdit
	}{
		{"everywhere-kind", wire.IntakeEdit{Rows: []int{4}, Drawer: "thermistors", Everywhere: true}}, {"everywhere-blank", wire.IntakeEdit{LeaveOut: []int{6}, Everywhere: true}}, {"no-row", wire.IntakeEdit{LeaveOut: []int{99}, Everywhere: true}},
	} {
		_, err := h.Intakes.Edit(t.Context(), h.Me, id, i.Version, x.edit)
		housetest.Fails(t, err, x.says)
	}
	made, err := h.Intakes.TakeIn(t.Context(), h.Me, id, i.Version, wire.TakeIn{Digest: i.Digest, LeaveBlocked: true})
	require.NoError(t, err)
	require.Equal(t, "done", h.Wait(made).State)
	h.Level()
	next := h.Listed(";Tidewright;N-3;2k;1%;0805;\nR;Tidewright;n-1;4k7;1%;0805;\nR;Tidewright;N-7;4k7;1%;0805;\n")
	rows := rowsOf(t, h, next)
	assert.Equal(t, []string{"thermistors", "left out", "new"}, []string{rows[2]["drawer"], rows[3]["state"], rows[4]["state"]})
}
