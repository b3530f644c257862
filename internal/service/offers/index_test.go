package offers_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// found are the numbers of parts that a filter of offers finds.
func found(t *testing.T, h housetest.House, filters map[string][]string, pieces int64) (out []string) {
	t.Helper()
	require.NoError(t, h.Offers.Level(t.Context()))
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: filters, Pieces: pieces, Sort: []lookup.Order{{Key: "offer.price"}}})
	require.NoError(t, err)
	for _, r := range l.Items {
		out = append(out, r.Number)
	}
	return out
}

// The lookup knows what suppliers offer, on every instance, and as soon as it is otherwise.
func TestPartsAreLookedUpByWhatSuppliersOffer(t *testing.T) {
	h, m := suppliers(t)
	other := h.Beside(reaching(m))
	assert.Empty(t, found(t, h, map[string][]string{"offer.stock": {"1.."}}, 0))
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	r := of(t, ask(t, h, q), "GR08054K7F")
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number})
	require.NoError(t, err)
	part := got.Part.Number
	h.Level()
	other.Level()
	for _, at := range []housetest.House{h, other} {
		assert.Equal(t, []string{part}, found(t, at, map[string][]string{"offer.stock": {"1.."}}, 0))
		assert.Empty(t, found(t, at, map[string][]string{"offer.stock": {"900000.."}}, 0))
	}
	offers, err := h.Offers.OfPart(t.Context(), h.Me, part, 250)
	require.NoError(t, err)
	l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Text: part, Pieces: 250})
	require.NoError(t, err)
	best := offers.Best.Buy.Total.String()
	if offers.Best.Converted != nil {
		best = offers.Best.Converted.String()
	}
	assert.Equal(t, best, l.Items[0].Supply.Price, "the price in a list is that of the part page")

	m.End("GR08054K7F")
	m.Reprice("GR08054K7F", 300)
	job, err := h.Offers.Refresh(t.Context(), h.Me, wire.RefreshOffers{Parts: []string{part}})
	require.NoError(t, err)
	h.Wait(job)
	for _, at := range []housetest.House{h, other} {
		assert.Equal(t, []string{part}, found(t, at, map[string][]string{"offer.state": {"obsolete"}}, 0), "what became otherwise is known")
		assert.Empty(t, found(t, at, map[string][]string{"offer.sources": {"1.."}}, 0))
	}
	_, err = h.Offers.ApplyRates(t.Context(), h.Me, 1, wire.RatesEdit{Text: "format: jolly-rates/1\nhouse: SEK\nrates:\n  - {one: EUR, is: \"11.5\", of: SEK, on: 2026-01-01}\n"})
	require.NoError(t, err)
	assert.Equal(t, []string{part}, found(t, other, map[string][]string{"offer.price": {"0.01.."}}, 250))
	l, err = other.Finder.Search(t.Context(), h.Me, finder.Query{Text: part, Pieces: 250})
	require.NoError(t, err)
	assert.Contains(t, l.Items[0].Supply.Price, "SEK", "other rates are other prices")
	_, err = h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: map[string][]string{"offer.stock": {"plenty"}}})
	assert.ErrorContains(t, err, `The filter offer.stock:plenty cannot be read`)
}
