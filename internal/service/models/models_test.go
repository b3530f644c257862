package models_test

import (
	"bytes"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/formats/step"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestModelsAreNamedByTheirExactRevision(t *testing.T) {
	h := housetest.Open(t)
	var block bytes.Buffer
	require.NoError(t, step.WriteBlock(&block, "Chip", model.Box3{Max: model.Point3{X: model.MM, Y: model.MM, Z: model.MM}}, time.Unix(0, 0)))
	f, err := h.Files.Keep(t.Context(), h.Me, `C:\models\chip body.step`, &block)
	require.NoError(t, err)
	assert.Equal(t, "chip body.step", f.Name)
	m, err := h.Models.Create(t.Context(), h.Me, wire.ModelEdit{Kind: "body", Name: "Chip"})
	require.NoError(t, err)
	_, err = h.Models.Create(t.Context(), h.Me, wire.ModelEdit{Kind: "body", Name: "chip"})
	housetest.Fails(t, err, "name-taken")
	id, err := deed.ParseID(m.ID)
	require.NoError(t, err)
	_, err = h.Lifecycles.ReleaseModel(t.Context(), h.Me, id, m.Version, wire.Release{Note: "x"})
	housetest.Fails(t, err, "not-ready")

	e := housetest.Resistor("1k", "A")
	e.Body = &part.Model{ID: m.ID}
	p := h.Make(e)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "x"})
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "is not released")
	wrong := p.Draft.Edit()
	wrong.Body, wrong.Symbol = nil, &part.Model{ID: m.ID}
	_, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, wrong)
	assert.Contains(t, housetest.Fails(t, err, "values-wrong").Error(), "Chip is a body, not a symbol")

	m, err = h.Models.Save(t.Context(), h.Me, id, m.Version, wire.ModelEdit{Kind: "body", Name: "Chip", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	m, err = h.Lifecycles.ReleaseModel(t.Context(), h.Me, id, m.Version, wire.Release{Note: "drawn"})
	require.NoError(t, err)
	e = p.Draft.Edit()
	e.Body.Revision = 1
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "with its body"})
	require.NoError(t, err)
	m, err = h.Models.Save(t.Context(), h.Me, id, m.Version, wire.ModelEdit{Kind: "body", Name: "Chip, rounder", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	m, err = h.Lifecycles.ReleaseModel(t.Context(), h.Me, id, m.Version, wire.Release{Note: "rounder"})
	require.NoError(t, err)
	require.Len(t, m.UsedBy, 1)
	m.UsedBy[0].Version = 0
	assert.Equal(t, []wire.ModelUse{{Part: p.Number, Place: "released body", Revision: 1, Newer: true}}, m.UsedBy)
	p, err = h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	assert.Equal(t, 1, p.Released.Body.Revision, "the part stays as it was")
	assert.Equal(t, []string{"Chip: revision 2 is there, 1 is used"}, p.Newer)
}

func TestTwinsAreOrderedByTheUsesOfThisMoment(t *testing.T) {
	h := housetest.Open(t)
	first := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "A chip", LandPattern: housetest.TwoPads("0.95")})
	second := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "B chip", LandPattern: housetest.TwoPads("0.95")})
	order := func() (names []string, uses []int) {
		twins, err := h.Models.Twins(t.Context(), h.Me, "land pattern")
		require.NoError(t, err)
		require.Len(t, twins.Clusters, 1)
		for _, m := range twins.Clusters[0].Models {
			names, uses = append(names, m.Name), append(uses, m.Uses)
		}
		return names, uses
	}
	use := func(mpn string, m wire.Model) {
		e := housetest.Resistor("1k", mpn)
		e.LandPattern = &part.Model{ID: m.ID, Revision: 1}
		h.Make(e)
	}
	_, uses := order()
	assert.Equal(t, []int{0, 0}, uses)
	use("A", second)
	names, uses := order()
	assert.Equal(t, []string{"B chip", "A chip"}, names, "the one that is used comes first, at once")
	assert.Equal(t, []int{1, 0}, uses)
	use("B", first)
	use("C", first)
	names, uses = order()
	assert.Equal(t, []string{"A chip", "B chip"}, names)
	assert.Equal(t, []int{2, 1}, uses)
}

func TestTwoRevisionsOfAModelAreComparedByWhatAReviewerLooksAt(t *testing.T) {
	h := housetest.Open(t)
	m := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("0.95")})
	next, err := h.Models.Save(t.Context(), h.Me, h.ModelID(m), m.Version, wire.ModelEdit{Kind: "land pattern", Name: "Chip", LandPattern: housetest.TwoPads("1.2")})
	require.NoError(t, err)
	d, err := h.Models.Diff(t.Context(), h.Me, h.ModelID(m), 1, 0)
	require.NoError(t, err)
	require.Len(t, d.Differences, 1)
	assert.Equal(t, []string{"Numbers and places of the pads", "1, 2", "1, 2, otherwise"}, []string{d.Differences[0].Label, d.Differences[0].From, d.Differences[0].To})
	assert.Equal(t, []string{m.Content, next.Content}, []string{d.FromContent, d.ToContent}, "each side's drawing is that of its content")
	same, err := h.Models.Diff(t.Context(), h.Me, h.ModelID(m), 1, 1)
	require.NoError(t, err)
	assert.Empty(t, same.Differences)
	_, err = h.Models.Diff(t.Context(), h.Me, h.ModelID(m), 1, 7)
	housetest.Fails(t, err, "not-found")
	released := h.Model(wire.ModelEdit{Kind: "land pattern", Name: "Other", LandPattern: housetest.TwoPads("0.95")})
	_, err = h.Models.Diff(t.Context(), h.Me, h.ModelID(released), 0, 1)
	assert.ErrorContains(t, err, "has no draft")
}
