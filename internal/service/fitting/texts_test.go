package fitting_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/edif"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// What a part's drawing says is the same in the picture, in the files of design tools and in the index of the readout folder: shown by the
// template's flags at the place that the symbol or the house has for it, or carried along.
func TestAPartsFactsAreOnItsSymbol(t *testing.T) {
	h := housetest.Open(t)
	s := housetest.TwoPins("1", "2")
	s.Shapes = append(s.Shapes, model.Shape{Form: model.Text, Text: "{mpn}", Size: model.MM, Points: []model.Point{{Y: 9 * model.MM}}})
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Resistor", Symbol: s})
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Resistor("4k7", "TW-1 & <co>")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	p := h.Make(e)

	svg, err := h.Fitting.SymbolOf(t.Context(), h.Me, p.ID, false)
	require.NoError(t, err)
	for _, says := range []string{">4.7 kΩ<", "TW-1 &amp; &lt;co&gt;<"} {
		assert.Contains(t, string(svg), says)
	}
	raw, name, err := h.Fitting.PartFile(t.Context(), h.Me, p.ID, "edif")
	require.NoError(t, err)
	assert.Equal(t, "ew-r-00001.edif", name)
	file, err := edif.Read(raw)
	require.NoError(t, err)
	require.Empty(t, file.Wrong)
	require.Len(t, file.Cells, 1)
	assert.Empty(t, file.Cells[0].Said)
	got := file.Cells[0].Symbol
	assert.Equal(t, []string{"4.7 kΩ", "TW-1 & <co>", p.Number}, []string{got.Properties["resistance"], got.Properties["mpn"], got.Properties["number"]})
	places := map[string]model.Point{}
	for _, g := range got.Shapes {
		if key, is := model.Placeholder(g.Text); is {
			places[key] = g.Points[0]
		}
	}
	assert.Equal(t, model.Point{Y: 9 * model.MM}, places["mpn"])
	assert.Contains(t, places, "resistance")
	assert.NotContains(t, places, "number", "only carried along")
	assert.Equal(t, sym.Released.Symbol.Pins, got.Pins)

	raw, _, err = h.Fitting.PartFile(t.Context(), h.Me, p.ID, "ipc2581")
	require.NoError(t, err)
	assert.Contains(t, string(raw), `textualCharacteristicName="resistance" textualCharacteristicValue="4.7 kΩ"`)
	assert.Contains(t, string(raw), "TW-1 &amp; &lt;co&gt;")
	read, err := ipc2581.Read(raw)
	require.NoError(t, err)
	require.Len(t, read.Packages, 1)
	assert.True(t, model.Same(&model.Content{Kind: model.KindLand, Land: land.Released.LandPattern}, &model.Content{Kind: model.KindLand, Land: read.Packages[0].Land}))

	_, _, err = h.Fitting.PartFile(t.Context(), h.Me, p.ID, "step")
	housetest.Fails(t, err, "no-such-form")
	bare := h.Make(housetest.Resistor("1k", "B"))
	if bare.Draft.Symbol == nil {
		_, err = h.Fitting.SymbolOf(t.Context(), h.Me, bare.ID, false)
		housetest.Fails(t, err, "no-drawing")
	}

	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
	require.NoError(t, err)
	var b bytes.Buffer
	require.NoError(t, h.Readout.WriteFolder(t.Context(), h.Me, p.ID, &b))
	z, err := zip.NewReader(bytes.NewReader(b.Bytes()), int64(b.Len()))
	require.NoError(t, err)
	f, err := z.Open("index.json")
	require.NoError(t, err)
	var index struct {
		Parts []struct {
			Texts []model.PartText `json:"texts"`
		} `json:"parts"`
	}
	require.NoError(t, json.NewDecoder(f).Decode(&index))
	shown := map[string]model.PartText{}
	for _, x := range index.Parts[0].Texts {
		shown[x.Key] = x
	}
	assert.Equal(t, []any{"4.7 kΩ", true, places["resistance"]}, []any{shown["resistance"].Text, shown["resistance"].Shown, shown["resistance"].At})
	assert.Equal(t, []any{p.Number, false}, []any{shown["number"].Text, shown["number"].Shown})
}
