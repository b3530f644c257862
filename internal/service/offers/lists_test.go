package offers_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// cornerShop is a house with a price list that somebody uploads, with a row for each quantity, and a function that uploads one.
func cornerShop(t *testing.T) (housetest.House, func(list string)) {
	t.Helper()
	h := housetest.Open(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\ndecimalMark: point\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Code, stock: Left}}, breaks: {paths: {from: From, price: Price}}}\n"})
	require.NoError(t, err)
	return h, func(list string) {
		t.Helper()
		f, err := h.Files.Keep(t.Context(), h.Me, "corner.csv", strings.NewReader("Code,Make,Type,Left,From,Price\n"+list))
		require.NoError(t, err)
		_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
		require.NoError(t, err)
	}
}

// The rows of a number are one offer, wherever they stand in a list; what they contradict each other in is said and not kept, and no row's order decides.
func TestTheRowsOfANumberAreOneOffer(t *testing.T) {
	h, upload := cornerShop(t)
	var parts []string
	for _, mpn := range []string{"TW-1", "TW-2", "TW-3", "TW-4", "TW-5"} {
		parts = append(parts, h.Make(housetest.Rated("4k7", mpn)).Number)
	}
	h.Level()
	upload("C1,Tidewright,TW-1,700,1,0.10\nC1,Tidewright,TW-1,700,100,0.08\nC1,Tidewright,TW-1,700,1000,0.05\n" + // a row for each quantity
		"C2,Tidewright,TW-2,70,1,0.20\nC3,Tidewright,TW-3,5,1,0.30\nC2,Tidewright,TW-2,70,100,0.15\n" + // with another between
		"C3,Tidewright,TW-3,5,1,0.35\n" + // another price
		"C4,Tidewright,TW-4,5,1,0.30\nC4,Tidewright,TW-5,5,1,0.30\n") // two products
	says := refresh(t, h, wire.RefreshOffers{})
	assert.Equal(t, "1 row of the price list could not be read. The number C4 of row 9 stands for several products; none of them was kept.", says.Answers[0].Says)
	costs := func(number string, pieces int64) string {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, pieces)
		require.NoError(t, err)
		if o.Best == nil {
			return ""
		}
		return o.Best.Buy.Total.String()
	}
	for _, c := range []struct {
		part   int
		pieces int64
		want   string
	}{{0, 10, "1.00 EUR"}, {0, 100, "8.00 EUR"}, {0, 1000, "50.00 EUR"}, {1, 10, "2.00 EUR"}, {1, 100, "15.00 EUR"}, {2, 1, ""}, {3, 1, ""}, {4, 1, ""}} {
		assert.Equal(t, c.want, costs(parts[c.part], c.pieces), "%s for %d", parts[c.part], c.pieces)
	}
	o, err := h.Offers.OfPart(t.Context(), h.Me, parts[2], 1)
	require.NoError(t, err)
	assert.Equal(t, []string{"It has two prices from 1 on, 0.30 EUR and 0.35 EUR; none was kept."}, o.Sources[0].Offers[0].Problems)
	refresh(t, h, wire.RefreshOffers{})
	for _, number := range parts[:3] {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 1)
		require.NoError(t, err)
		assert.Len(t, o.History, 1, "the same list again is no change")
		assert.Empty(t, o.News)
	}
	a := ask(t, h, wire.SupplierQuestion{Text: "TW-1", Pieces: 100})
	require.Len(t, of(t, a, "TW-1").Offers, 1)
	assert.Equal(t, "8.00 EUR", of(t, a, "TW-1").Offers[0].Buy.Total.String())
}
