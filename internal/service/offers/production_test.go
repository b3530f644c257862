package offers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// A gate can ask that a source is in production: by what suppliers say now, the worst of it for each source, and a waiver falls when they say otherwise.
func TestAReleaseMayNeedASourceInProduction(t *testing.T) {
	h := housetest.Open(t)
	h.Lifecycle("parts", "to: released, note: true, who: { role: librarian }, gates: [{ gate: required }]", "to: released, note: true, who: { role: librarian }, gates: [{ gate: required }, { gate: production, waive: { role: librarian } }]")
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\nread: {form: table, product: {manufacturer: Make, mpn: Type, state: Life}, offers: {paths: {number: Code}}}\n"})
	require.NoError(t, err)
	edit := housetest.Rated("4k7", "TW-1")
	edit.Sources = append(edit.Sources, part.Source{Manufacturer: "Grebe", MPN: "GR-1"})
	p := h.Make(edit)
	h.Level()
	list := func(tw, gr string) {
		f, err := h.Files.Keep(t.Context(), h.Me, "corner.csv", strings.NewReader("Code,Make,Type,Life\nC1,Tidewright,TW-1,"+tw+"\nC2,Grebe,GR-1,"+gr+"\nC3,Grebe,GR-1,active\n"))
		require.NoError(t, err)
		_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
		require.NoError(t, err)
		refresh(t, h, wire.RefreshOffers{})
	}
	gate := func() wire.GateAnswer {
		l, err := h.Lifecycles.Life(t.Context(), h.Me, p.ID, 0)
		require.NoError(t, err)
		for _, m := range l.Moves {
			for _, g := range m.Gates {
				if g.Gate == "production" {
					return g
				}
			}
		}
		require.Fail(t, "no move has the gate")
		return wire.GateAnswer{}
	}
	assert.Equal(t, "no source is in production, as far as suppliers say: of Tidewright TW-1 nobody says whether it is made, of Grebe GR-1 nobody says whether it is made", gate().Why)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	assert.ErrorContains(t, err, "in production")
	list("in its own words", "obsolete")
	assert.Equal(t, "no source is in production, as far as suppliers say: of Tidewright TW-1 nobody says whether it is made, Grebe GR-1 is obsolete", gate().Why, "the worst that is said of a source")
	list("last time buy", "active")
	assert.True(t, gate().Holds)
	list("active", "obsolete")
	assert.True(t, gate().Holds, "one is enough")
	list("obsolete", "obsolete")
	assert.False(t, gate().Holds)
	list("active", "active")
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
}
