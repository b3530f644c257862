package intake

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
)

func TestWhatASupplierSaysOfAProductIsLaidBesideTheLibrary(t *testing.T) {
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	cw := madeCrosswalk(t)
	cw.Take.State = "Colour"
	of := func(lib library, texts ...string) map[int]string {
		table := NewTable(madeHeader)
		for i, text := range texts {
			table.Add(Row{Number: i + 2, Cells: []string{"", "Res", "Kelpline", string(rune('A'+i)) + "-1", "", "1k", "", "", text, ""}})
		}
		r := Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Library: lib})
		out := map[int]string{}
		for _, f := range findingsOf(r, "stated") {
			out[f.Row] = f.Cause + ": " + f.What
		}
		return out
	}
	assert.Equal(t, map[int]string{
		3: `stated:not for new designs: the supplier says "NRND" of B-1: not for new designs`,
		4: `stated:obsolete: the supplier says "End-of-Life" of C-1: obsolete`,
		6: `stated-unknown:Colour: "soon" does not say how the product stands`,
	}, of(library{}, "Active", "NRND", "End-of-Life", "", "soon"))

	table := NewTable(madeHeader)
	for i := range 3 {
		table.Add(Row{Number: i + 2, Cells: []string{"", "Res", "Kelpline", string(rune('A'+i)) + "-1", "", "1k", "", "", "", ""}})
	}
	lib := holding(Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab}))
	for key, standing := range map[string]lifecycle.Standing{"kelpline|A1": lifecycle.Active, "kelpline|B1": lifecycle.Obsolete, "kelpline|C1": lifecycle.NotForNew} {
		e, ok := lib[key]
		require.True(t, ok, key)
		e.Standing = standing
		lib[key] = e
	}
	assert.Equal(t, map[int]string{2: `stated:obsolete: the supplier says "obsolete" of A-1: obsolete; R-0001 is active in the library`, 4: `stated:obsolete: the supplier says "EOL" of C-1: obsolete; R-0003 is not for new designs in the library`},
		of(lib, "obsolete", "obsolete", "EOL"), "what the library knows is not said again")
	assert.Empty(t, of(lib, "active", "NRND", "NRND"))
}
