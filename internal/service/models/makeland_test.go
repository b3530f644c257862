package models_test

import (
	"bytes"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/ipc2581"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

func figures() *model.Figures {
	r := func(a, b string) model.Range { return model.Range{Min: model.MustLength(a), Max: model.MustLength(b)} }
	return &model.Figures{Family: model.FamilyChip, Span: r("1.9", "2.1"), LeadLength: r("0.25", "0.6"), LeadWidth: r("1.15", "1.35")}
}

func TestLandPatternsAreTriedAndNothingIsKept(t *testing.T) {
	h := housetest.Open(t)
	before, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	out, err := h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Figures: figures(), Densities: []string{"most", "least"}})
	require.NoError(t, err)
	require.Len(t, out.Made, 2)
	assert.Equal(t, []string{"chip 2 2 x 1.25 most", "chip 2 2 x 1.25 least"}, []string{out.Made[0].Name, out.Made[1].Name})
	assert.Greater(t, out.Made[0].Land.PadBounds().Width(), out.Made[1].Land.PadBounds().Width())
	assert.Contains(t, out.Made[0].SVG, "<svg")
	out, err = h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Figures: figures()})
	require.NoError(t, err)
	assert.Equal(t, "nominal", out.Made[0].Density, "where none is named")

	wrong := figures()
	wrong.LeadLength.Max = 5 * model.MM
	_, err = h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Figures: wrong})
	assert.Contains(t, housetest.Fails(t, err, "land-wrong").Error(), "leave no room for two lands")
	for text, says := range map[string]string{
		"Pin;X;Y;Width\n1;-1;0;1\n2;1;0;1\n": "say in which unit the table is",
		"Pin;Value\n1;2\n":                   `the column "Value" is not known`,
		"":                                   "needs headings",
	} {
		_, err = h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Text: text})
		assert.Contains(t, housetest.Fails(t, err, "pads-unreadable").Error(), says, text)
	}
	out, err = h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Text: "Pin;X;Y;Width\n1;-50;0;40\n2;50;0;40\n", Unit: "mil", Name: "Two"})
	require.NoError(t, err)
	assert.Equal(t, model.MustLength("-1.27"), out.Made[0].Land.Pads[0].At.X)
	f, err := h.Files.Keep(t.Context(), h.Me, "pads.csv", strings.NewReader("Pin;X (mm);Y (mm);Width (mm)\n1;0;0;1\n"))
	require.NoError(t, err)
	out, err = h.Models.TryLand(t.Context(), h.Me, wire.LandTry{File: f.Hash, Name: "One"})
	require.NoError(t, err)
	assert.Equal(t, "surface", out.Made[0].Land.Mounting)

	after, err := h.Models.Library(t.Context())
	require.NoError(t, err)
	assert.Len(t, after, len(before), "nothing is kept")
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err = h.Models.TryLand(t.Context(), reader, wire.LandTry{Figures: figures()})
	housetest.Fails(t, err, "not-allowed")
}

const packages = "SOIC-8;QFN-16;Name;Type\n1;16;OUT;O\n2;1;IN;I\n4;EP;VSS;P\n"

func TestAPinTableOfSeveralPackagesIsAsked(t *testing.T) {
	h := housetest.Open(t)
	out, err := h.Models.TrySymbol(t.Context(), h.Me, wire.SymbolTry{Text: packages})
	require.NoError(t, err)
	assert.Nil(t, out.Symbol, "which package it is must be said first")
	assert.Equal(t, []string{"SOIC-8", "QFN-16"}, out.Lists)
	out, err = h.Models.TrySymbol(t.Context(), h.Me, wire.SymbolTry{Text: packages, PinChoice: wire.PinChoice{List: "QFN-16"}})
	require.NoError(t, err)
	assert.Equal(t, []string{"1", "16", "EP"}, out.Symbol.Numbers())
	assert.Equal(t, "QFN-16", out.List)
	_, err = h.Models.TrySymbol(t.Context(), h.Me, wire.SymbolTry{Text: packages, PinChoice: wire.PinChoice{List: "BGA"}})
	housetest.Fails(t, err, "no-such-list")

	// What no heading tells, a person says.
	const odd = "A;B\n1;IN\n2;OUT\n"
	out, err = h.Models.TrySymbol(t.Context(), h.Me, wire.SymbolTry{Text: odd})
	require.NoError(t, err)
	assert.Nil(t, out.Symbol)
	assert.Equal(t, []string{"A", "B"}, out.Headings)
	assert.Contains(t, out.Wrong[0], "say which column holds what")
	out, err = h.Models.TrySymbol(t.Context(), h.Me, wire.SymbolTry{Text: odd, PinChoice: wire.PinChoice{Columns: &model.PinColumns{Numbers: []int{0}, Name: 1, Type: -1, Unit: -1, Side: -1}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"1", "2"}, out.Symbol.Numbers())

	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "S", Symbol: out.Symbol})
	beside, err := h.Models.ComparePins(t.Context(), h.Me, h.ModelID(sym), wire.PinsBeside{Text: packages})
	require.NoError(t, err)
	assert.Empty(t, beside.Lines)
	assert.Len(t, beside.Lists, 2)
	beside, err = h.Models.ComparePins(t.Context(), h.Me, h.ModelID(sym), wire.PinsBeside{Text: packages, PinChoice: wire.PinChoice{List: "SOIC-8"}})
	require.NoError(t, err)
	assert.Equal(t, 3, beside.Differ, "1 and 2 have other names, 4 is missing")
}

func TestWhatAFileDoesNotCarryOverIsSaidOfItsDelivery(t *testing.T) {
	h := housetest.Open(t)
	var b bytes.Buffer
	land := housetest.TwoPads("0.95")
	land.Bodies = []model.BodyPlace{{Body: "Chip"}}
	require.NoError(t, ipc2581.Write(&b, []ipc2581.Package{{Name: "Chip", Height: model.MM / 2, Land: land}}))
	f, err := h.Files.Keep(t.Context(), h.Me, "chip.xml", &b)
	require.NoError(t, err)
	d, err := h.Deliveries.Bring(t.Context(), h.Me, wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
	require.NoError(t, err)
	require.Len(t, d.Models, 1)
	said := strings.Join(d.Files[0].Said, "; ")
	assert.Contains(t, said, "Chip: line")
	assert.Contains(t, said, "left out: how bodies sit on it")
	assert.Contains(t, said, "the height of 0.5 mm belongs to the body")
	assert.Empty(t, d.Files[0].Wrong)
}

func TestTwinsOfADeliveryAreTakenOnce(t *testing.T) {
	h := housetest.Open(t)
	one, other := housetest.TwoPads("0.95"), housetest.TwoPads("0.95")
	other.Pads[0], other.Pads[1] = other.Pads[1], other.Pads[0]
	var b bytes.Buffer
	require.NoError(t, ipc2581.Write(&b, []ipc2581.Package{{Name: "One", Land: one}, {Name: "Other", Land: other}, {Name: "Wider", Land: housetest.TwoPads("1.2")}}))
	f, err := h.Files.Keep(t.Context(), h.Me, "chips.xml", &b)
	require.NoError(t, err)
	d, err := h.Deliveries.Bring(t.Context(), h.Me, wire.NewDelivery{Files: []part.File{{Hash: f.Hash, Name: f.Name}}})
	require.NoError(t, err)
	require.Len(t, d.Models, 3)
	assert.Equal(t, []string{"", "0.0", ""}, []string{d.Models[0].Twin, d.Models[1].Twin, d.Models[2].Twin})
	for _, m := range d.Models {
		assert.Empty(t, m.Asked)
	}
}

func TestPadsGoOutAsATableAndComeBack(t *testing.T) {
	h := housetest.Open(t)
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	raw, name, err := h.Models.File(t.Context(), h.Me, land.ID, "pad-table")
	require.NoError(t, err)
	assert.Equal(t, "chip-pad-table.csv", name)
	out, err := h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Text: string(raw), Name: "Again"})
	require.NoError(t, err)
	assert.True(t, model.Same(&model.Content{Kind: model.KindLand, Land: out.Made[0].Land}, &model.Content{Kind: model.KindLand, Land: land.Released.LandPattern}))
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "S", Symbol: housetest.TwoPins("1", "2")})
	_, _, err = h.Models.File(t.Context(), h.Me, sym.ID, "pad-table")
	housetest.Fails(t, err, "no-such-form")
}

// Pads of a cell holder are called + and -, which a spreadsheet would run: the table they are written into is harmless, and read as what it was.
func TestATableOfPadsComesBackAsItWas(t *testing.T) {
	h := housetest.Open(t)
	land := housetest.TwoPads("0.95")
	land.Pads[0].Number, land.Pads[1].Number = "+", "-"
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Cell", LandPattern: land})
	raw, _, err := h.Models.File(t.Context(), h.Me, m.ID, "pad-table")
	require.NoError(t, err)
	assert.Contains(t, string(raw), "\n'+,")
	out, err := h.Models.TryLand(t.Context(), h.Me, wire.LandTry{Text: string(raw), Name: "Cell 2"})
	require.NoError(t, err)
	assert.Equal(t, []string{"+", "-"}, []string{out.Made[0].Land.Pads[0].Number, out.Made[0].Land.Pads[1].Number})
}
