package fitting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// landsOf is a part's land patterns: the default first, the others with what they are for.
func landsOf(p wire.Part) (out []string) {
	c := p.Draft
	if c.LandPattern != nil {
		out = append(out, c.LandPattern.Name)
	}
	for _, o := range c.OtherLands {
		out = append(out, o.Model.Name+": "+o.For)
	}
	return out
}

func TestAPartHasLandPatternsForSeveralAssemblies(t *testing.T) {
	h := housetest.Open(t)
	dense := housetest.TwoPads("0.9")
	dense.Density = "least"
	a := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Least", LandPattern: dense})
	h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Hand", LandPattern: housetest.TwoPads("1.1")})
	e := housetest.Resistor("1k", "A")
	e.LandPattern = &part.Model{ID: a.ID, Revision: 1}
	p := h.Make(e)
	for _, x := range []struct {
		in   wire.ChooseLand
		want []string
		code string
	}{
		{wire.ChooseLand{Do: "add", Model: "Hand"}, nil, "land-for"}, // its density is not said
		{wire.ChooseLand{Do: "add", Model: "Nobody", For: "x"}, nil, "not-found"},
		{wire.ChooseLand{Do: "add", Model: "Hand", Revision: 2, For: "x"}, nil, "model-not-released"},
		{wire.ChooseLand{Do: "default", Model: "Hand"}, nil, "land-not-beside"},
		{wire.ChooseLand{Do: "add", Model: "least", For: "x"}, nil, "land-there"},
		{wire.ChooseLand{Do: "add", Model: "hand", For: "hand assembly"}, []string{"Least", "Hand: hand assembly"}, ""},
		{wire.ChooseLand{Do: "add", Model: "Hand", For: "x"}, nil, "land-there"},
		{wire.ChooseLand{Do: "default", Model: "Hand"}, []string{"Hand", "Least: least density"}, ""},
		{wire.ChooseLand{Do: "default", Model: a.ID, For: "wave soldering"}, []string{"Least", "Hand: wave soldering"}, ""},
		{wire.ChooseLand{Do: "remove", Model: "Least"}, nil, "land-not-beside"},
		{wire.ChooseLand{Do: "remove", Model: "Hand"}, []string{"Least"}, ""},
	} {
		got, err := h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version, x.in)
		if x.code != "" {
			housetest.Fails(t, err, x.code)
			continue
		}
		require.NoError(t, err, "%+v", x.in)
		assert.Equal(t, x.want, landsOf(got))
		p = got
	}
	_, err := h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version-1, wire.ChooseLand{Do: "add", Model: "Hand", For: "x"})
	require.Error(t, err, "of another version than was looked at")
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err = h.Fitting.ChooseLand(t.Context(), reader, p.ID, p.Version, wire.ChooseLand{Do: "add", Model: "Hand", For: "x"})
	housetest.Fails(t, err, "not-allowed")
	bare := h.Make(housetest.Resistor("2k", "B"))
	if bare.Draft.LandPattern == nil {
		got, err := h.Fitting.ChooseLand(t.Context(), h.Me, bare.ID, bare.Version, wire.ChooseLand{Do: "add", Model: "Hand"})
		require.NoError(t, err)
		assert.Equal(t, []string{"Hand"}, landsOf(got), "the first is the default")
	}
}

// A pin map is laid on one land pattern. Another one under it is a finding and an entry on the trail, whichever way it came there, until
// somebody has looked again; one that draws the same is not another one.
func TestAnotherLandPatternUnderAPinMapIsSaid(t *testing.T) {
	h := housetest.Open(t)
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Diode", Symbol: housetest.TwoPins("A", "K")})
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Other way round", LandPattern: housetest.TwoPads("1.2")})
	e := housetest.Resistor("1k", "A")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	p := h.Make(e)
	crossed := wire.MapPins{Note: "x", Map: model.PinMap{Pairs: []model.Pair{{Pin: "A", Pads: []string{"2"}}, {Pin: "K", Pads: []string{"1"}}}}}
	pins, err := h.Fitting.MapPins(t.Context(), h.Me, p.ID, p.Version, crossed)
	require.NoError(t, err)
	asked := func() (out []string) {
		now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
		require.NoError(t, err)
		for _, f := range now.Draft.Findings {
			if f.Cause == "map-of-other-land" {
				out = append(out, f.What)
			}
		}
		p = now
		return out
	}
	assert.Empty(t, asked())
	_ = pins
	p, err = h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version, wire.ChooseLand{Do: "add", Model: "Other way round", For: "wave"})
	require.NoError(t, err)
	_, err = h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version, wire.ChooseLand{Do: "default", Model: "Other way round", For: "reflow"})
	require.NoError(t, err)
	assert.Equal(t, []string{"the pin map Diode on Chip was laid on Chip, and the land pattern is Other way round now"}, asked())
	trail, err := h.Parts.Trail(t.Context(), h.Me, p.ID, 0, 20)
	require.NoError(t, err)
	var actions []string
	for _, x := range trail.Items {
		actions = append(actions, x.Action)
	}
	assert.Contains(t, actions, "land pattern swapped under its pin map")

	// What is edited meanwhile leaves the finding; going back takes it away; looking again does, too.
	edit := housetest.Resistor("1k", "A")
	edit.Symbol, edit.LandPattern, edit.PinMap = p.Draft.Symbol, p.Draft.LandPattern, p.Draft.PinMap
	_, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, edit)
	require.NoError(t, err)
	assert.Len(t, asked(), 1)
	edit.LandPattern = &part.Model{ID: land.ID, Revision: 1}
	_, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, edit)
	require.NoError(t, err)
	assert.Empty(t, asked(), "it is back on the one it was laid on")
	p, err = h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version, wire.ChooseLand{Do: "add", Model: "Other way round", For: "wave"})
	require.NoError(t, err)
	_, err = h.Fitting.ChooseLand(t.Context(), h.Me, p.ID, p.Version, wire.ChooseLand{Do: "default", Model: "Other way round", For: "reflow"})
	require.NoError(t, err)
	require.Len(t, asked(), 1)
	_, err = h.Fitting.MapPins(t.Context(), h.Me, p.ID, p.Version, crossed)
	require.NoError(t, err)
	assert.Empty(t, asked(), "somebody looked")

	// A merged twin is the same under the map.
	twin := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Twin", LandPattern: housetest.TwoPads("1.2")})
	_, err = h.Fitting.Merge(t.Context(), h.Me, wire.MergeModels{Keep: twin.ID, Gone: []string{p.Draft.LandPattern.ID}, Why: "one will do", All: true})
	require.NoError(t, err)
	assert.Empty(t, asked())
	assert.Equal(t, "Twin", p.Draft.LandPattern.Name)
}
