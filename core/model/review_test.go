package model

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

func TestItemsOfAModelAreAboutOneThingEach(t *testing.T) {
	values := func(c *Content) map[string]string {
		items, err := ReviewItems(c)
		require.NoError(t, err)
		out := map[string]string{}
		for _, i := range items {
			out[i.Key] = i.Value
		}
		return out
	}
	symbol := func() *Content {
		return &Content{Kind: KindSymbol, Name: "S", Symbol: &Symbol{Pins: []Pin{{Number: "1", Name: "IN", Type: "input"}, {Number: "2", Name: "OUT", Type: "output"}}}}
	}
	land := func() *Content {
		return &Content{Kind: KindLand, Name: "L", Land: &LandPattern{Pads: []Pad{{Number: "1", Shape: PadRectangle, Width: MustLength("1"), Height: MustLength("2")}, {Number: "2", Shape: PadRectangle, Width: MustLength("1"), Height: MustLength("2")}}}}
	}
	body := func() *Content { return &Content{Kind: KindBody, Name: "B", FileHash: "f", Body: &Body{Unit: "mm"}} }
	for _, c := range []struct {
		what    string
		make    func() *Content
		change  func(*Content)
		changed []string
	}{
		{"a name", symbol, func(c *Content) { c.Name = "T" }, nil},
		{"a pin's name", symbol, func(c *Content) { c.Symbol.Pins[0].Name = "INPUT" }, []string{"pins"}},
		{"a pin's type", symbol, func(c *Content) { c.Symbol.Pins[0].Type = "power in" }, []string{"types"}},
		{"where a pin is drawn", symbol, func(c *Content) { c.Symbol.Pins[0].At.X = MustLength("1.27") }, []string{"drawing"}},
		{"a pin's number", symbol, func(c *Content) { c.Symbol.Pins[0].Number = "7" }, []string{"pins", "types", "drawing"}},
		{"a pad's size", land, func(c *Content) { c.Land.Pads[0].Width = MustLength("1.2") }, []string{"copper"}},
		{"a pad's place", land, func(c *Content) { c.Land.Pads[0].At.X = MustLength("0.1") }, []string{"pads"}},
		{"a hole", land, func(c *Content) { c.Land.Pads[1].Hole = MustLength("0.8") }, []string{"copper"}},
		{"an outline", land, func(c *Content) { c.Land.Shapes = []Shape{{}} }, []string{"outlines"}},
		{"a body's file", body, func(c *Content) { c.FileHash = "g" }, []string{"size"}},
		{"a body's place", body, func(c *Content) { c.Body.Place.TurnZ = 90 }, []string{"place"}},
		{"a pin map", func() *Content {
			return &Content{Kind: KindPinMap, PinMap: &PinMap{Pairs: []Pair{{Pin: "1", Pads: []string{"2"}}}}}
		}, func(c *Content) { c.PinMap.Pairs[0].Pads[0] = "3" }, []string{"pairs"}},
		{"a file that is not read", func() *Content { return &Content{Kind: KindSymbol, FileHash: "f"} }, func(c *Content) { c.FileHash = "g" }, []string{"file"}},
	} {
		next := c.make()
		c.change(next)
		before, after := values(c.make()), values(next)
		var changed []string
		for k, v := range after {
			if before[k] != v {
				changed = append(changed, k)
			}
		}
		assert.ElementsMatch(t, c.changed, changed, c.what)
		said, err := ReviewChanges(c.make(), next)
		require.NoError(t, err)
		assert.Len(t, said, len(c.changed), c.what)
		for _, d := range said {
			assert.NotEqual(t, d.From, d.To, "%s: the two sides of %s say that they differ", c.what, d.Label)
		}
	}
}

func TestWhatMakesAnotherModel(t *testing.T) {
	for path, want := range map[string]string{"name": "", "note": "", "symbol.pins.3.number": "the pins", "symbol.pins.3.type": "the pins", "symbol.pins.3.at.x": "", "symbol.shapes.1.width": "", "landPattern.pads.2.hole": "the pads", "landPattern.outlines.1": "", "landPattern.mounting": "the pads",
		"body.box.max.x": "the body", "pinMap.pairs.1.pads.1": "the pin map", "fileHash": ""} {
		assert.Equal(t, want, Major(path), path)
	}
}

func TestWhatOneSideHasNotIsBlankThere(t *testing.T) {
	land := &Content{Kind: KindLand, Land: &LandPattern{Pads: []Pad{{Number: "1"}}}}
	file := &Content{Kind: KindLand, FileHash: "f", FileName: "old.lib"}
	there, err := ReviewChanges(file, land)
	require.NoError(t, err)
	back, err := ReviewChanges(land, file)
	require.NoError(t, err)
	require.Len(t, there, 4)
	for _, d := range there {
		assert.Contains(t, back, ReviewChange{Label: d.Label, From: d.To, To: d.From})
		assert.True(t, d.From == "" || d.To == "", "%+v", d)
	}
}
