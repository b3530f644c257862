package fitting_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestNewPartsGetTheModelsOfTheirDrawerAndCase(t *testing.T) {
	h := housetest.Open(t)
	h.Model(wire.ModelEdit{Kind: "symbol", Name: "Resistor", Symbol: housetest.TwoPins("1", "2")})
	h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip 0805 nominal", LandPattern: housetest.TwoPads("0.95")})
	p := h.Make(housetest.Resistor("1k", "A"))
	assert.Equal(t, "Resistor", p.Draft.Symbol.Name)
	assert.Equal(t, "Chip 0805 nominal", p.Draft.LandPattern.Name)
	_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
	require.NoError(t, err)
}

func TestAPartWhosePinsAndPadsDisagreeIsNotReleased(t *testing.T) {
	h := housetest.Open(t)
	sym := h.Model(wire.ModelEdit{Kind: "symbol", Name: "Diode", Symbol: housetest.TwoPins("A", "K")})
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	e := housetest.Resistor("1k", "A")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	p := h.Make(e)
	_, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "2 pins are on no pad: A, K")

	_, err = h.Fitting.MapPins(t.Context(), h.Me, p.ID, p.Version, wire.MapPins{Map: model.PinMap{Pairs: []model.Pair{{Pin: "A", Pads: []string{"1"}}, {Pin: "K", Pads: []string{"1"}}}}})
	assert.Contains(t, housetest.Fails(t, err, "map-wrong").Error(), `the pad "1"`)
	pins, err := h.Fitting.MapPins(t.Context(), h.Me, p.ID, p.Version, wire.MapPins{Note: "from the datasheet", Map: model.PinMap{Pairs: []model.Pair{{Pin: "K", Pads: []string{"2"}}, {Pin: "A", Pads: []string{"1"}}}}})
	require.NoError(t, err)
	assert.Empty(t, pins.Findings)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, pins.Version, wire.Release{Note: "with its pin map"})
	require.NoError(t, err)

	// A second part of the same pins takes the same map, not a copy of it.
	e = housetest.Resistor("2k", "B")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	q := h.Make(e)
	again, err := h.Fitting.MapPins(t.Context(), h.Me, q.ID, q.Version, wire.MapPins{Note: "x", Map: model.PinMap{Pairs: []model.Pair{{Pin: "A", Pads: []string{"1"}}, {Pin: "K", Pads: []string{"2"}}}}})
	require.NoError(t, err)
	assert.Equal(t, pins.Map.ID, again.Map.ID)
}

func TestPartsTakeANewerModelByChoice(t *testing.T) {
	h := housetest.Open(t)
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	var parts []wire.Part
	for _, n := range []string{"A", "B", "C"} {
		e := housetest.Resistor("1k", n)
		e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
		p := h.Make(e)
		p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
		require.NoError(t, err)
		parts = append(parts, p)
	}
	land, err := h.Models.Save(t.Context(), h.Me, h.ModelID(land), land.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("1")})
	require.NoError(t, err)
	land, err = h.Lifecycles.ReleaseModel(t.Context(), h.Me, h.ModelID(land), land.Version, wire.Release{Note: "wider"})
	require.NoError(t, err)
	for what, in := range map[string]wire.TakeNewer{"another revision": {Revision: 1}, "another version of a part": {Seen: wire.Versions{parts[2].Number: parts[2].Version + 1}}} {
		_, err := h.Fitting.TakeNewer(t.Context(), h.Me, h.ModelID(land), in)
		require.Error(t, err, what)
		housetest.Fails(t, err, "changed-meanwhile")
	}
	did, err := h.Fitting.TakeNewer(t.Context(), h.Me, h.ModelID(land), wire.TakeNewer{Parts: []string{parts[1].Number}, Revision: 2, Seen: wire.Versions{parts[1].Number: parts[1].Version}})
	require.NoError(t, err)
	assert.Equal(t, []string{parts[1].Number}, did.Parts)
	p, err := h.Parts.Get(t.Context(), h.Me, parts[1].ID)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1}, []int{p.Draft.LandPattern.Revision, p.Released.LandPattern.Revision}, "what is released stays")
	did, err = h.Fitting.TakeNewer(t.Context(), h.Me, h.ModelID(land), wire.TakeNewer{})
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{parts[0].Number, parts[1].Number, parts[2].Number}, append(did.Parts, parts[1].Number)[:3])

	// A finding is accepted with a reason, and counted no more.
	m, err := h.Models.Get(t.Context(), h.Me, land.ID)
	require.NoError(t, err)
	before := m.Findings
	require.Positive(t, before)
	m, err = h.Models.Waive(t.Context(), h.Me, h.ModelID(m), m.Version, wire.ModelWaive{Cause: m.Checks[0].Cause, Why: "agreed"})
	require.NoError(t, err)
	assert.Equal(t, before-1, m.Findings)
}

func TestABodyIsCorrectedForOneLandPatternOnly(t *testing.T) {
	h := housetest.Open(t)
	mm := model.MustLength
	land := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	body := h.Model(wire.ModelEdit{Kind: "body", Name: "Block", Body: &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -mm("0.6"), Y: -mm("1")}, Max: model.Point3{X: mm("0.6"), Y: mm("1"), Z: mm("0.5")}}}})
	e := housetest.Resistor("1k", "A")
	e.LandPattern, e.Body = &part.Model{ID: land.ID, Revision: 1}, &part.Model{ID: body.ID, Revision: 1}
	p := h.Make(e)
	pins, err := h.Fitting.PinsOnPads(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	require.Len(t, pins.Fit, 1)
	assert.Equal(t, "body-turned", pins.Fit[0].Cause)
	pins, err = h.Fitting.PlaceBody(t.Context(), h.Me, p.ID, p.Version, wire.PlaceBody{Place: pins.Fit[0].Place, OnlyHere: true, Note: "turned here"})
	require.NoError(t, err)
	assert.Empty(t, pins.Fit)
	b, err := h.Models.Get(t.Context(), h.Me, body.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, b.Revision, "the body itself stays as it was")
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: map[string][]string{"missing": {"real body"}}})
	require.NoError(t, err)
	assert.Equal(t, 1, l.Page.Total)
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err = h.Fitting.PlaceBody(t.Context(), reader, p.ID, pins.Version, wire.PlaceBody{})
	housetest.Fails(t, err, "not-allowed")
}

func TestAPartOfAMergedModelIsLedToTheLastSurvivor(t *testing.T) {
	h := housetest.Open(t)
	var lands []wire.Model
	for _, n := range []string{"Chip", "Chip 2012", "Chip 0805"} {
		lands = append(lands, h.Model(wire.ModelEdit{Kind: "land pattern", Name: n, LandPattern: housetest.TwoPads("0.95")}))
	}
	e := housetest.Resistor("1k", "A")
	e.LandPattern = &part.Model{ID: lands[0].ID, Revision: 1}
	p := h.Make(e)
	for i := range 2 {
		seen := wire.Versions{lands[i].ID: lands[i].Version + 7}
		_, err := h.Fitting.Merge(t.Context(), h.Me, wire.MergeModels{Keep: lands[i+1].ID, Gone: []string{lands[i].ID}, Why: "twins", Seen: seen})
		housetest.Fails(t, err, "changed-meanwhile")
		_, err = h.Fitting.Merge(t.Context(), h.Me, wire.MergeModels{Keep: lands[i+1].ID, Gone: []string{lands[i].ID}, Why: "twins"})
		require.NoError(t, err)
	}
	gone, err := h.Models.Get(t.Context(), h.Me, lands[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "Chip 0805", gone.Merged)
	p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Chip was merged into Chip 0805"}, p.Newer)
	did, err := h.Fitting.TakeNewer(t.Context(), h.Me, h.ModelID(lands[0]), wire.TakeNewer{})
	require.NoError(t, err)
	assert.Equal(t, []string{p.Number}, did.Parts)
	p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, lands[2].ID, p.Draft.LandPattern.ID)
}
