package offers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// fetched takes a product as a draft and waits for its models.
func fetched(t *testing.T, h housetest.House, text, mpn string) (wire.SupplierTaken, wire.Job) {
	t.Helper()
	q := wire.SupplierQuestion{Text: text}
	r := of(t, ask(t, h, q), mpn)
	require.NotEmpty(t, r.Models, "the maker has models ready")
	me := h.Me
	me.Deed = store.NewID()
	got, err := h.Offers.Take(t.Context(), me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number})
	require.NoError(t, err)
	require.NotNil(t, got.Models)
	return got, h.Wait(*got.Models)
}

// The models that come with a product lie beside the library's, for its part: what the library has already is offered in their place.
func TestModelsOfAProductLieBesideTheLibrarys(t *testing.T) {
	h, _ := suppliers(t)
	got, j := fetched(t, h, "SM0420-4U7", "SM0420-4U7")
	require.NotNil(t, j.Models, j.Error)
	assert.Empty(t, j.Models.Problems)
	d, err := h.Deliveries.Get(t.Context(), h.Me, j.Models.Delivery)
	require.NoError(t, err)
	assert.Equal(t, got.Part.Number, d.Part)
	require.Len(t, d.Models, 2)
	for _, m := range d.Models {
		for _, f := range m.Findings {
			assert.NotEqual(t, "names-another", f.Cause, f.What)
		}
		if m.Kind == "symbol" {
			assert.Equal(t, "SM0420-4U7", m.Name)
		}
	}
	_, err = h.Deliveries.Use(t.Context(), h.Me, d.ID, d.Version, wire.UseDelivery{Part: got.Part.Number, Models: []wire.UsedModel{{Key: d.Models[0].Key, Name: "Inductor"}, {Key: d.Models[1].Key}}, Note: "from the maker"})
	require.NoError(t, err)
	p, err := h.Parts.Get(t.Context(), h.Me, got.Part.Number)
	require.NoError(t, err)
	require.NotNil(t, p.Newest().Symbol)
	require.NotNil(t, p.Newest().LandPattern)

	_, j = fetched(t, h, "SM0420-6U8", "SM0420-6U8")
	d, err = h.Deliveries.Get(t.Context(), h.Me, j.Models.Delivery)
	require.NoError(t, err)
	for _, m := range d.Models {
		require.NotEmpty(t, m.Same, "the %s is drawn already, as %s", m.Kind, m.Name)
	}
}

// A product of a series that the library has is of it from then on.
func TestAProductGoesIntoItsSeries(t *testing.T) {
	h, _ := suppliers(t)
	made, err := h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Saltmarsh Magnetics", Name: "SM-0420"})
	require.NoError(t, err)
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "SM0420"})
	require.NoError(t, err)
	got, _ := fetched(t, h, "SM0420-4U7", "SM0420-4U7")
	assert.Contains(t, got.Added, "series: Saltmarsh Magnetics: SM-0420")
	s, err := h.Series.Get(t.Context(), h.Me, made.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{1, got.Part.Number}, []any{s.Total, s.Parts[0].Number})
	other, _ := fetched(t, h, "SM0630-4U7", "SM0630-4U7")
	assert.NotContains(t, strings.Join(other.Added, "; "), "series: ", "another series, that the library has not")
}

// A maker packs the drawing of the product beside it now and then; a supplier's link may be dead or lead into the house.
func TestModelsThatNameAnotherPartAreSaid(t *testing.T) {
	h, _ := suppliers(t)
	wrong := 0
	for _, size := range []string{"0420", "0630", "1050"} {
		a := ask(t, h, wire.SupplierQuestion{Text: "SM" + size, Limit: 500})
		for _, r := range a.Rows {
			if len(r.Models) == 0 || market.DrawnFor(r.MPN) == r.MPN || wrong == 2 {
				continue
			}
			wrong++
			_, j := fetched(t, h, "SM"+size, r.MPN)
			d, err := h.Deliveries.Get(t.Context(), h.Me, j.Models.Delivery)
			require.NoError(t, err)
			said := ""
			for _, m := range d.Models {
				for _, f := range m.Findings {
					if f.Cause == "names-another" {
						said += f.What + "; "
					}
				}
			}
			assert.Contains(t, said, "its field MPN names "+market.DrawnFor(r.MPN)+", which is none of the part's sources")
		}
	}
	assert.NotZero(t, wrong)
}

// Whose link is dead, and who packed too much, is said; what could be fetched is there, and the part is as it was made.
func TestModelsThatCannotBeFetchedAreSaid(t *testing.T) {
	h, m := suppliers(t)
	m.Lose("SM0420-10U models.zip")
	got, j := fetched(t, h, "SM0420-10U", "SM0420-10U")
	require.NotNil(t, j.Models)
	assert.Equal(t, []string{"SM0420-10U models.zip: the link is dead (the answer is 404)"}, j.Models.Problems)
	assert.Equal(t, []any{"", 0}, []any{j.Models.Delivery, j.Models.Files})
	p, err := h.Parts.Get(t.Context(), h.Me, got.Part.Number)
	require.NoError(t, err)
	assert.Nil(t, p.Newest().Symbol)
}
