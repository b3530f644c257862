package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
)

// What is to be said of a line's record, and of a line that names none.
func TestWhatALinesRecordLacks(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	x := lookup.New()
	x.SetCabinet(cab)
	put := func(id string, use lifecycle.Use, content part.Content) {
		content.Drawer = "chip-resistors"
		e := lookup.NewEntry(content)
		e.ID, e.Number, e.Version, e.Revision, e.Standing, e.Use = id, "R-0000"+id, 1, 1, lifecycle.Active, use
		x.Put(e)
	}
	source := func(maker, mpn string) part.Source { return part.Source{Manufacturer: maker, MPN: mpn} }
	model := &part.Model{ID: "m", Revision: 1}
	put("1", lifecycle.UseYes, part.Content{Sources: []part.Source{source("Tidewright", "TW-1"), source("Grebe", "GR-1")}, Datasheets: []part.File{{Name: "sheet.pdf"}}, Symbol: model, LandPattern: model, Body: model})
	put("2", lifecycle.UseYes, part.Content{Sources: []part.Source{source("Tidewright", "TW-2"), source("Tidewright", "TW-9")}, Symbol: model})
	put("3", lifecycle.UseYes, part.Content{Sources: []part.Source{source("TIDEWRIGHT", "tw-9"), source("Grebe", "GR-3")}})
	put("4", lifecycle.UseNo, part.Content{Sources: []part.Source{source("Grebe", "GR-1"), source("Grebe", "GR-4")}})    // no longer used
	put("5", lifecycle.UseYes, part.Content{Sources: []part.Source{source("Curlew", "GR-1"), source("Curlew", "CU-5")}}) // another maker's of the same number
	columns := Columns{{At: 0, Role: Designator}, {At: 1, Role: Number}, {At: 2, Role: Value}, {At: 3, Role: Fit}}
	said := func(number, value, fit string) map[string]string {
		vs := Reconcile([]Line{ReadLine(2, []string{"R1", number, value, fit}, columns)}, x, cab, Known{Columns: columns, Confirmed: true})
		out := map[string]string{}
		for _, f := range vs[0].Findings {
			out[f.Cause] = f.What
		}
		return out
	}
	assert.Empty(t, said("R-00001", "", "yes"), "two sources of its own, a datasheet and all models")
	assert.Equal(t, map[string]string{"record-twice": "R-00002 has a source in common with R-00003: the library may have one part twice", "no-datasheet": "R-00002 has no datasheet", "no-model": "R-00002 has no land pattern, no body"}, said("R-00002", "", "yes"))
	assert.Equal(t, "R-00003 has a source in common with R-00002: the library may have one part twice", said("R-00003", "", "yes")["record-twice"])
	assert.NotContains(t, said("R-00005", "", "yes"), "record-twice")
	assert.Contains(t, said("", "4k7", "yes"), "bare-value")
	assert.NotContains(t, said("", "4k7", "no"), "bare-value", "what is not fitted is nobody's choice")
	assert.NotContains(t, said("R-00001", "4k7", "yes"), "bare-value")
}
