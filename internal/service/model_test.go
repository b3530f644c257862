package service_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service"
	"jollydrawer/internal/wire"
)

// twoPins is a symbol with two pins of these numbers.
func twoPins(one, two string) *model.Symbol {
	mm := model.MustLength
	return &model.Symbol{Grid: mm("1.27"), Pins: []model.Pin{{Number: one, Type: model.Passive, Runs: model.Right, Length: mm("2.54"), At: model.Point{X: mm("-5.08")}},
		{Number: two, Type: model.Passive, Runs: model.Left, Length: mm("2.54"), At: model.Point{X: mm("5.08")}}}}
}

func twoPads(x string) *model.LandPattern {
	mm := model.MustLength
	pad := model.Pad{Number: "1", Shape: model.PadRectangle, At: model.Point{X: -mm(x)}, Width: mm("1.15"), Height: mm("1.4")}
	other := pad
	other.Number, other.At.X = "2", mm(x)
	return &model.LandPattern{Pads: []model.Pad{pad, other}}
}

// keep makes and releases a model.
func (h house) keep(e wire.ModelEdit) wire.Model {
	h.t.Helper()
	m, err := h.CreateModel(h.t.Context(), h.me, e)
	require.NoError(h.t, err)
	m, err = h.ReleaseModel(h.t.Context(), h.me, h.id(m), m.Version, wire.Release{Note: "drawn"})
	require.NoError(h.t, err)
	return m
}

func (h house) id(m wire.Model) service.ID {
	h.t.Helper()
	id, err := service.ParseID(m.ID)
	require.NoError(h.t, err)
	return id
}

func TestNewPartsGetTheModelsOfTheirDrawerAndCase(t *testing.T) {
	h := open(t)
	h.keep(wire.ModelEdit{Kind: "symbol", Name: "Resistor", Symbol: twoPins("1", "2")})
	h.keep(wire.ModelEdit{Kind: "land pattern", Name: "Chip 0805 nominal", LandPattern: twoPads("0.95")})
	p := h.make(resistor("1k", "A"))
	assert.Equal(t, "Resistor", p.Draft.Symbol.Name)
	assert.Equal(t, "Chip 0805 nominal", p.Draft.LandPattern.Name)
	_, err := h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "x"})
	require.NoError(t, err)
}

func TestAPartWhosePinsAndPadsDisagreeIsNotReleased(t *testing.T) {
	h := open(t)
	sym := h.keep(wire.ModelEdit{Kind: "symbol", Name: "Diode", Symbol: twoPins("A", "K")})
	land := h.keep(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: twoPads("0.95")})
	e := resistor("1k", "A")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	p := h.make(e)
	_, err := h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "x"})
	assert.Contains(t, fails(t, err, "not-ready").Error(), "2 pins are on no pad: A, K")

	_, err = h.MapPins(t.Context(), h.me, p.ID, p.Version, wire.MapPins{Map: model.PinMap{Pairs: []model.Pair{{Pin: "A", Pads: []string{"1"}}, {Pin: "K", Pads: []string{"1"}}}}})
	assert.Contains(t, fails(t, err, "map-wrong").Error(), `the pad "1"`)
	pins, err := h.MapPins(t.Context(), h.me, p.ID, p.Version, wire.MapPins{Note: "from the datasheet", Map: model.PinMap{Pairs: []model.Pair{{Pin: "K", Pads: []string{"2"}}, {Pin: "A", Pads: []string{"1"}}}}})
	require.NoError(t, err)
	assert.Empty(t, pins.Findings)
	_, err = h.Release(t.Context(), h.me, p.ID, pins.Version, wire.Release{Note: "with its pin map"})
	require.NoError(t, err)

	// A second part of the same pins takes the same map, not a copy of it.
	e = resistor("2k", "B")
	e.Symbol, e.LandPattern = &part.Model{ID: sym.ID, Revision: 1}, &part.Model{ID: land.ID, Revision: 1}
	q := h.make(e)
	again, err := h.MapPins(t.Context(), h.me, q.ID, q.Version, wire.MapPins{Note: "x", Map: model.PinMap{Pairs: []model.Pair{{Pin: "A", Pads: []string{"1"}}, {Pin: "K", Pads: []string{"2"}}}}})
	require.NoError(t, err)
	assert.Equal(t, pins.Map.ID, again.Map.ID)
}

func TestPartsTakeANewerModelByChoice(t *testing.T) {
	h := open(t)
	land := h.keep(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: twoPads("0.95")})
	var parts []wire.Part
	for _, n := range []string{"A", "B", "C"} {
		e := resistor("1k", n)
		e.LandPattern = &part.Model{ID: land.ID, Revision: 1}
		p := h.make(e)
		p, err := h.Release(t.Context(), h.me, p.ID, p.Version, wire.Release{Note: "x"})
		require.NoError(t, err)
		parts = append(parts, p)
	}
	land, err := h.SaveModel(t.Context(), h.me, h.id(land), land.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: twoPads("1")})
	require.NoError(t, err)
	land, err = h.ReleaseModel(t.Context(), h.me, h.id(land), land.Version, wire.Release{Note: "wider"})
	require.NoError(t, err)
	did, err := h.TakeNewer(t.Context(), h.me, h.id(land), wire.TakeNewer{Parts: []string{parts[1].Number}})
	require.NoError(t, err)
	assert.Equal(t, []string{parts[1].Number}, did.Parts)
	p, err := h.Part(t.Context(), h.me, parts[1].ID)
	require.NoError(t, err)
	assert.Equal(t, []int{2, 1}, []int{p.Draft.LandPattern.Revision, p.Released.LandPattern.Revision}, "what is released stays")
	did, err = h.TakeNewer(t.Context(), h.me, h.id(land), wire.TakeNewer{})
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{parts[0].Number, parts[1].Number, parts[2].Number}, append(did.Parts, parts[1].Number)[:3])

	// A finding is accepted with a reason, and counted no more.
	m, err := h.Model(t.Context(), h.me, land.ID)
	require.NoError(t, err)
	before := m.Findings
	require.Positive(t, before)
	m, err = h.WaiveModel(t.Context(), h.me, h.id(m), m.Version, wire.ModelWaive{Cause: m.Checks[0].Cause, Why: "agreed"})
	require.NoError(t, err)
	assert.Equal(t, before-1, m.Findings)
}

func TestABodyIsCorrectedForOneLandPatternOnly(t *testing.T) {
	h := open(t)
	mm := model.MustLength
	land := h.keep(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: twoPads("0.95")})
	body := h.keep(wire.ModelEdit{Kind: "body", Name: "Block", Body: &model.Body{StandIn: true, Box: model.Box3{Min: model.Point3{X: -mm("0.6"), Y: -mm("1")}, Max: model.Point3{X: mm("0.6"), Y: mm("1"), Z: mm("0.5")}}}})
	e := resistor("1k", "A")
	e.LandPattern, e.Body = &part.Model{ID: land.ID, Revision: 1}, &part.Model{ID: body.ID, Revision: 1}
	p := h.make(e)
	pins, err := h.PinsOnPads(t.Context(), h.me, p.ID)
	require.NoError(t, err)
	require.Len(t, pins.Fit, 1)
	assert.Equal(t, "body-turned", pins.Fit[0].Cause)
	pins, err = h.PlaceBody(t.Context(), h.me, p.ID, p.Version, wire.PlaceBody{Place: pins.Fit[0].Place, OnlyHere: true, Note: "turned here"})
	require.NoError(t, err)
	assert.Empty(t, pins.Fit)
	b, err := h.Model(t.Context(), h.me, body.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, b.Revision, "the body itself stays as it was")
	l, err := h.Search(t.Context(), h.me, service.Query{Filters: map[string][]string{"missing": {"real body"}}})
	require.NoError(t, err)
	assert.Equal(t, 1, l.Page.Total)
	reader := h.me
	reader.Actor.Role = service.Reader
	_, err = h.PlaceBody(t.Context(), reader, p.ID, pins.Version, wire.PlaceBody{})
	fails(t, err, "not-allowed")
}

func TestAPartOfAMergedModelIsLedToTheLastSurvivor(t *testing.T) {
	h := open(t)
	var lands []wire.Model
	for _, n := range []string{"Chip", "Chip 2012", "Chip 0805"} {
		lands = append(lands, h.keep(wire.ModelEdit{Kind: "land pattern", Name: n, LandPattern: twoPads("0.95")}))
	}
	e := resistor("1k", "A")
	e.LandPattern = &part.Model{ID: lands[0].ID, Revision: 1}
	p := h.make(e)
	for i := range 2 {
		_, err := h.MergeModels(t.Context(), h.me, wire.MergeModels{Keep: lands[i+1].ID, Gone: []string{lands[i].ID}, Why: "twins"})
		require.NoError(t, err)
	}
	gone, err := h.Model(t.Context(), h.me, lands[0].ID)
	require.NoError(t, err)
	assert.Equal(t, "Chip 0805", gone.Merged)
	p, err = h.Part(t.Context(), h.me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{"Chip was merged into Chip 0805"}, p.Newer)
	did, err := h.TakeNewer(t.Context(), h.me, h.id(lands[0]), wire.TakeNewer{})
	require.NoError(t, err)
	assert.Equal(t, []string{p.Number}, did.Parts)
	p, err = h.Part(t.Context(), h.me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, lands[2].ID, p.Draft.LandPattern.ID)
}
