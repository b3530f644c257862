package part

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
)

func reviewed(t *testing.T, c Content) map[string]lifecycle.Item {
	t.Helper()
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	tpl, ok := cab.Template("chip-resistors")
	require.True(t, ok)
	items, err := ReviewItems(c, tpl)
	require.NoError(t, err)
	out := map[string]lifecycle.Item{}
	for _, i := range items {
		_, twice := out[i.Key]
		assert.False(t, twice, "%s stands twice", i.Key)
		assert.Len(t, i.Value, 64)
		out[i.Key] = i
	}
	return out
}

// Each change of a part changes the items that it is about, and no other: what was ticked stays ticked.
func TestAnItemIsAnotherOnlyWhenWhatItSaysIs(t *testing.T) {
	base := func() Content {
		return Content{Drawer: "chip-resistors", Description: "RES", Values: map[string]cabinet.Value{"resistor-technology": {Type: cabinet.Choice, Text: "thick film"}},
			Sources: []Source{{Manufacturer: "Tidewright", MPN: "A"}}, Symbol: &Model{ID: "s", Name: "Resistor", Revision: 1}, LandPattern: &Model{ID: "l", Name: "Chip", Revision: 1}, OtherLands: []OtherLand{{For: "hand", Model: Model{ID: "h", Revision: 1}}}}
	}
	first := reviewed(t, base())
	assert.Contains(t, first, "values.resistance", "what is required and blank is on the list")
	assert.NotContains(t, first, "values.power", "what is neither is not")
	for _, c := range []struct {
		change  func(*Content)
		changed []string
	}{
		{func(c *Content) {
			c.Values["resistor-technology"] = cabinet.Value{Type: cabinet.Choice, Text: "thin film"}
		}, []string{"values.resistor-technology"}},
		{func(c *Content) { c.Description = "RES 1k" }, []string{"description"}},
		{func(c *Content) { c.Symbol.Revision = 2 }, []string{"model.symbol"}},
		{func(c *Content) { c.Symbol.Name = "Renamed" }, nil},
		{func(c *Content) { c.OtherLands[0].Model.Revision = 2 }, []string{"land.hand"}},
		{func(c *Content) { c.Sources[0].Numbers = []Number{{Supplier: "Marsh Lane", Number: "1"}} }, nil},
		{func(c *Content) { c.Sources = append(c.Sources, Source{Manufacturer: "Kelpline", MPN: "B"}) }, []string{"source.kelpline|B"}},
		{func(c *Content) { c.Body = &Model{ID: "b", Revision: 1} }, []string{"model.body"}},
		{func(c *Content) { c.Datasheets = []File{{Hash: "x"}} }, nil},
	} {
		next := base()
		c.change(&next)
		now := reviewed(t, next)
		var changed []string
		for k, i := range now {
			if first[k].Value != i.Value {
				changed = append(changed, k)
			}
		}
		assert.ElementsMatch(t, c.changed, changed)
	}
	long := base()
	long.Sources[0].MPN = strings.Repeat("A", 3000)
	for k := range reviewed(t, long) {
		assert.LessOrEqual(t, len(k), 120, "a key has room in the table of ticks")
	}
	items, err := ReviewItems(base(), nil)
	require.NoError(t, err)
	assert.NotEmpty(t, items, "before there is a cabinet, sources and models are on the list")
}

func TestWhatMakesAnotherPart(t *testing.T) {
	identity := []string{"resistance", "case"}
	for path, want := range map[string]string{"drawer": "the drawer", "values.resistance.measure.value": "resistance", "values.case.text": "case", "values.power.text": "", "values.resistance-drift": "", "sources.1.mpn": "", "description": "", "name": "",
		"symbol.revision": "the symbol", "landPattern.id": "the land pattern", "otherLandPatterns.1.model.id": "the land pattern", "body.id": "the body", "pinMap.revision": "the pin map", "datasheets.1.hash": "", "attachments.1.is": ""} {
		assert.Equal(t, want, Major(path, identity), path)
	}
}
