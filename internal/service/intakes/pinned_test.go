package intakes_test

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A rule may go ahead and leave what somebody settled as it is, one by one or all: the preview says so, each kept row says what it said, and
// those that were let go change like the rest.
func TestARuleGoesAheadAndSettledRowsAreLeftAlone(t *testing.T) {
	h := housetest.Open(t)
	d := &measuretest.Draws{State: 61}
	for round := range 6 {
		var file strings.Builder
		var cells []wire.CellEdit
		kept, let := map[int]bool{}, []int{}
		for n := range 30 {
			row := n + 2
			fmt.Fprintf(&file, "R;Tidewright;K%d-%d;%s;%d%%;0805;\n", round, n, []string{"471", "4k7", "10k"}[d.IntN(3)], 1+d.IntN(2))
			switch d.IntN(4) {
			case 0:
				cells = append(cells, wire.CellEdit{Row: row, Field: "Tol", Text: "5%"})
				kept[row] = true
			case 1:
				cells = append(cells, wire.CellEdit{Row: row, Field: "Tol", Text: "5%"})
				let = append(let, row)
			}
		}
		i := h.EditIntake(h.Listed(file.String()), wire.IntakeEdit{Cells: cells})
		i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "Value", To: "@leading", Words: map[string]string{"471": "470 ohm"}}}}})
		before := rowsOf(t, h, i)
		rule := wire.IntakeEdit{KeepSettled: true, EvenRows: let, Changes: []crosswalk.Change{
			{Rule: &crosswalk.Rule{From: "Tol", To: "tolerance", Words: map[string]string{"5%": "10%", "1%": "20%"}}},
			{Rule: &crosswalk.Rule{From: "Value", To: "@leading", Unit: "kOhm"}}}}
		tried, err := h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{IntakeEdit: rule, Limit: 1000})
		require.NoError(t, err)
		i = h.EditIntake(i, rule)
		after := rowsOf(t, h, i)
		require.Equal(t, differing(before, after), movedOf(tried.Moved))
		assert.Equal(t, len(let), tried.Settled)
		for row, was := range before {
			now := after[row]
			switch {
			case kept[row]:
				assert.Equal(t, was, now, "row %d was settled", row)
			case len(was) == 0:
			case was["tolerance"] == "±5 %":
				assert.Equal(t, "±10 %", now["tolerance"], "row %d was let go", row)
			case was["tolerance"] == "±1 %":
				assert.Equal(t, "±20 %", now["tolerance"], "nobody settled row %d", row)
			}
			if was["resistance"] == "470 Ω" && kept[row] {
				assert.Equal(t, "470 Ω", now["resistance"], "the text of row %d was settled", row)
			}
		}
		l, err := h.Intakes.Row(t.Context(), h.Me, housetest.ID(t, i.ID), 2)
		require.NoError(t, err)
		assert.NotEmpty(t, l.Values)
	}
}

// What cannot be kept by a text in a cell is not changed either: the edit says so and nothing is written.
func TestWhatCannotBeKeptKeepsTheRuleBack(t *testing.T) {
	h := housetest.Open(t)
	i := h.EditIntake(h.Listed("R;Tidewright;P-1;4k7;1%;0805;\nR;Tidewright;P-2;4k7;1%;0805;\n"), wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "MPN", Text: "Q-1"}}})
	before := rowsOf(t, h, i)
	rule := wire.IntakeEdit{KeepSettled: true, Changes: []crosswalk.Change{{Take: map[string]string{"mpn": "Value"}}}}
	_, err := h.Intakes.Edit(t.Context(), h.Me, housetest.ID(t, i.ID), i.Version, rule)
	assert.Contains(t, housetest.Fails(t, err, "settled").Error(), `source from Tidewright Q-1 to`)
	assert.Equal(t, before, rowsOf(t, h, i))
}

// What another choice of the cabinet would make of the rows is shown before it is added, and is what it makes of them then.
func TestTheRowsOfAChoiceAreShownBeforeItIsAdded(t *testing.T) {
	h := housetest.Open(t)
	i := h.Listed("R;Tidewright;P-1;4k7;1%;0805;buried\nR;Tidewright;P-2;8k2;1%;0805;surface\nR;Tidewright;P-3;1k;1%;0805;\n")
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"datasheet": ""}}, {Rule: &crosswalk.Rule{From: "Sheet", To: "mounting"}}}})
	before, all := written(t, h), rowsOf(t, h, i)
	at := slices.IndexFunc(i.Causes, func(c wire.Cause) bool { return c.Cause.Cause == "not-a-choice:Sheet→mounting" })
	require.GreaterOrEqual(t, at, 0)
	add := *i.Causes[at].Mends[0].Choice
	assert.Equal(t, intake.NewChoice{Parameter: "mounting", Choice: "buried", Drawers: []string{"chip-resistors"}}, add, "the drawer knows the choice surface only")
	tried, err := h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{Choice: &add})
	require.NoError(t, err)
	assert.Equal(t, before, written(t, h), "a preview writes nothing")
	require.Equal(t, 1, tried.Rows)
	assert.Equal(t, intake.Move{What: "mounting", From: "buried (not read)", To: "buried", Text: "buried"}, tried.Moved[0].Moves[0])
	_, err = h.Intakes.Try(t.Context(), h.Me, housetest.ID(t, i.ID), wire.IntakeTry{Choice: &intake.NewChoice{Parameter: "resistance", Choice: "x"}})
	housetest.Fails(t, err, "no-choice")
	_, err = h.Reform.AddChoice(t.Context(), h.Me, add)
	require.NoError(t, err)
	after, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, i.ID))
	require.NoError(t, err)
	assert.Equal(t, tried.After[intake.New], after.Counts["new"])
	assert.Equal(t, all, rowsOf(t, h, after), "the text is the same; now it is a value")
	for _, c := range after.Causes {
		assert.NotContains(t, c.Cause.Cause, "Sheet→mounting")
	}
}

// A settled row is kept in the decimal mark that its field is read with.
func TestSettledRowsAreKeptInTheirDecimalMark(t *testing.T) {
	h := housetest.Open(t)
	i := h.Listed("R;Tidewright;P-1;4,7;1%;0805;\nR;Tidewright;P-2;2,2;1%;0805;\n")
	i = h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "Value", To: "@leading", Mark: "comma", Unit: "kOhm"}}}})
	i = h.EditIntake(i, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "Value", Text: "5,6"}}})
	assert.Equal(t, "5.6 kΩ", rowsOf(t, h, i)[2]["resistance"])
	i = h.EditIntake(i, wire.IntakeEdit{KeepSettled: true, Changes: []crosswalk.Change{{Rule: &crosswalk.Rule{From: "Value", To: "@leading", Mark: "comma", Unit: "Ohm"}}}})
	after := rowsOf(t, h, i)
	assert.Equal(t, []string{"5.6 kΩ", "2.2 Ω"}, []string{after[2]["resistance"], after[3]["resistance"]})
}
