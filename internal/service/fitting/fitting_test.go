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
	require.Len(t, pins.Fit.Placings, 2, "by 90° or by 270°: a question")
	assert.Equal(t, "body-turned", pins.Fit.Findings[0].Cause)
	pins, err = h.Fitting.PlaceBody(t.Context(), h.Me, p.ID, p.Version, wire.PlaceBody{Place: pins.Fit.Placings[0].Place, OnlyHere: true, Note: "turned here"})
	require.NoError(t, err)
	assert.Empty(t, pins.Fit.Findings)
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

func TestWhatIsNotTheSameIsMergedByNameOnly(t *testing.T) {
	h := housetest.Open(t)
	keep := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Keep", LandPattern: housetest.TwoPads("0.95")})
	twin := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Twin", LandPattern: housetest.TwoPads("0.95")})
	wider := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Wider", LandPattern: housetest.TwoPads("0.97")})
	e := housetest.Resistor("1k", "A")
	e.LandPattern = &part.Model{ID: wider.ID, Revision: 1}
	p := h.Make(e)
	ask := wire.MergeModels{Keep: keep.ID, Gone: []string{twin.ID, wider.ID}, Why: "one is enough"}
	_, err := h.Fitting.Merge(t.Context(), h.Me, ask)
	says := housetest.Fails(t, err, "models-differ").Error()
	assert.Contains(t, says, "Wider is not the same as Keep")
	assert.Contains(t, says, "up to 0.02 mm apart")
	assert.Contains(t, says, "used by "+p.Number)
	m, err := h.Models.Get(t.Context(), h.Me, twin.ID)
	require.NoError(t, err)
	assert.Equal(t, "Twin", m.Name, "all or none")

	ask.Different = []string{wider.ID}
	did, err := h.Fitting.Merge(t.Context(), h.Me, ask)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"Twin", "Wider"}, did.Models)
	twins, err := h.Models.Twins(t.Context(), h.Me, "")
	require.NoError(t, err)
	assert.Empty(t, twins.Clusters)
}

// A merging is taken back with the parts that took the survivor: those that still hold it get the model back, the others are named.
func TestAMergingIsTakenBackWithItsUsers(t *testing.T) {
	h := housetest.Open(t)
	keep := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Keep", LandPattern: housetest.TwoPads("0.95")})
	twin := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Twin", LandPattern: housetest.TwoPads("0.95")})
	third := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Third", LandPattern: housetest.TwoPads("1.5")})
	uses := func(mpn string, m wire.Model) wire.Part {
		e := housetest.Resistor("1k", mpn)
		e.LandPattern = &part.Model{ID: m.ID, Revision: 1}
		return h.Make(e)
	}
	a, b, own := uses("A", twin), uses("B", twin), uses("C", keep)
	_, err := h.Fitting.Merge(t.Context(), h.Me, wire.MergeModels{Keep: keep.ID, Gone: []string{twin.ID}, All: true, Why: "one is enough"})
	require.NoError(t, err)
	m, err := h.Models.Get(t.Context(), h.Me, "land pattern: Twin")
	require.NoError(t, err)
	assert.Equal(t, []string{"Keep", "Twin"}, []string{m.Name, m.AskedAs}, "whoever asks for it is led on, and told")
	_, err = h.Fitting.TakeMergingBack(t.Context(), h.Me, wire.TakeMergingBack{Model: "land pattern: Keep", Why: "x"})
	housetest.Fails(t, err, "not-merged")
	_, err = h.Fitting.TakeMergingBack(t.Context(), h.Me, wire.TakeMergingBack{Model: "land pattern: Nobody", Why: "x"})
	housetest.Fails(t, err, "not-found")

	now, err := h.Parts.Get(t.Context(), h.Me, b.ID) // meanwhile somebody gave b another one
	require.NoError(t, err)
	e := now.Newest().Edit()
	e.LandPattern = &part.Model{ID: third.ID, Revision: 1}
	_, err = h.Parts.Save(t.Context(), h.Me, b.ID, now.Version, e)
	require.NoError(t, err)
	did, err := h.Fitting.TakeMergingBack(t.Context(), h.Me, wire.TakeMergingBack{Model: "land pattern: Twin", Why: "another density after all"})
	require.NoError(t, err)
	assert.Equal(t, []string{a.Number}, did.Parts)
	require.Len(t, did.Left, 1)
	assert.Contains(t, did.Left[0], b.Number)
	for id, name := range map[string]string{a.ID: "Twin", b.ID: "Third", own.ID: "Keep"} {
		p, err := h.Parts.Get(t.Context(), h.Me, id)
		require.NoError(t, err)
		assert.Equal(t, name, p.Newest().LandPattern.Name, p.Number)
	}
	m, err = h.Models.Get(t.Context(), h.Me, "land pattern: Twin")
	require.NoError(t, err)
	assert.Equal(t, []string{"Twin", "", ""}, []string{m.Name, m.AskedAs, m.Merged})
	reader := h.Me
	reader.Actor.Role = deed.Reader
	_, err = h.Fitting.TakeMergingBack(t.Context(), reader, wire.TakeMergingBack{Model: twin.ID, Why: "x"})
	housetest.Fails(t, err, "not-allowed")
}
