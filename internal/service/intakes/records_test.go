package intakes_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/crosswalk"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/wire"
)

// A number is found in the files of all intakes, however many there are, as their rows are now, and on every instance.
func TestANumberIsFoundInTheFilesOfAllIntakes(t *testing.T) {
	h := housetest.Open(t)
	other := h.Beside()
	found := func(at housetest.House, number string) (rows []string) {
		l, err := at.Intakes.Records(t.Context(), at.Me, number)
		require.NoError(t, err)
		for _, r := range l.Items {
			rows = append(rows, fmt.Sprintf("%s row %d: %s", r.Number, r.Row, r.Source.MPN))
		}
		return rows
	}
	var last wire.Intake
	for n := range 70 {
		last = h.Listed(fmt.Sprintf("R;Tidewright;TW-%d;4k7;1%%;0805;NQ %d\nR;Tidewright;TW-ALL;%d;1%%;0805;\n", n, n, n+1))
	}
	first := found(h, "tw 0")
	require.Len(t, first, 0, "the newest are gone through first")
	for {
		n, err := other.Intakes.GoThrough(t.Context(), 9)
		require.NoError(t, err)
		if n == 0 {
			break
		}
	}
	assert.Equal(t, []string{"IN-00001 row 2: TW-0"}, found(h, "tw 0"))
	assert.Equal(t, found(h, "tw-0"), found(other, "TW0"), "however it is written, and wherever it is asked")
	all := found(h, "TW-ALL")
	require.Len(t, all, 20)
	assert.Equal(t, last.Number+" row 3: TW-ALL", all[0], "the newest first")

	i := h.EditIntake(last, wire.IntakeEdit{Cells: []wire.CellEdit{{Row: 2, Field: "MPN", Text: "TW-OTHER"}}})
	assert.Equal(t, []string{i.Number + " row 2: TW-OTHER"}, found(other, "TW-OTHER"), "as it is corrected")
	assert.Empty(t, found(h, "TW-69"))
	h.EditIntake(i, wire.IntakeEdit{Changes: []crosswalk.Change{{Take: map[string]string{"supplierNumber": "Sheet"}}}})
	assert.Equal(t, []string{i.Number + " row 2: TW-OTHER"}, found(h, "nq69"), "by what the mapping reads")
	assert.Empty(t, found(h, "nobody"))
	_, err := h.Intakes.Records(t.Context(), h.Me, " - ")
	assert.ErrorContains(t, err, "There is no number to look for")
}

// Nothing goes through files beside a take-in, for which somebody waits; what came meanwhile is gone through behind it.
func TestFilesAreGoneThroughBehindATakeIn(t *testing.T) {
	h := housetest.Open(t)
	h.Listed("R;Northquay;NQ-1;4k7;1 %;0603;\n")
	ended := h.Intakes.Taking()
	n, err := intakes.Beside(h.Intakes, t.Context())
	require.NoError(t, err)
	assert.Zero(t, n)
	ended()
	n, err = intakes.Beside(h.Intakes, t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
}
