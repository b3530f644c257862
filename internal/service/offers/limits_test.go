package offers_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// What somebody said of resistors holds for the next question about resistors, and for nobody else's.
func TestUsualLimitsAreKeptByPersonAndKind(t *testing.T) {
	h := housetest.Open(t)
	limits := func(c deed.Call, text string) wire.SupplierLimits {
		l, err := h.Offers.Limits(t.Context(), c, text)
		require.NoError(t, err)
		return l
	}
	keep := func(text string, pieces int64) {
		_, err := h.Offers.KeepLimits(t.Context(), h.Me, wire.SupplierLimitsEdit{Text: text, Pieces: pieces, Stock: 2 * pieces, InProduction: true, Packing: "reel"})
		require.NoError(t, err)
	}
	assert.Equal(t, wire.SupplierLimits{Drawer: "resistors", Label: "Resistors", Pieces: 1}, limits(h.Me, "4k7 0805 1%"))
	keep("4k7 0805 1%", 250)
	assert.Equal(t, wire.SupplierLimits{Drawer: "resistors", Label: "Resistors", Kept: true, Pieces: 250, Stock: 500, InProduction: true, Packing: "reel"}, limits(h.Me, "10k 0603"))
	assert.Equal(t, int64(250), limits(h.Me, "chip resistor 10k").Pieces, "a drawer in it")
	keep("chip resistor 10k", 40)
	assert.Equal(t, []int64{40, 250}, []int64{limits(h.Me, "chip resistor 1k").Pieces, limits(h.Me, "10k").Pieces})
	assert.False(t, limits(h.Me, "ceramic capacitor 100nF").Kept)
	keep("0805", 7)
	assert.Equal(t, int64(7), limits(h.Me, "ceramic capacitor 100nF").Pieces, "what was said of anything")
	assert.Equal(t, int64(250), limits(h.Me, "10k").Pieces)
	other := h.Me
	other.Actor.ID = deed.ID{1}
	assert.False(t, limits(other, "4k7 0805 1%").Kept)
	other.Actor.Role = "nobody"
	_, err := h.Offers.Limits(t.Context(), other, "4k7")
	assert.Error(t, err)
}
