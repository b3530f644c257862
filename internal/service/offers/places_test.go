package offers_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// A supplier that changes the form of its answers is found out at the first one, with what is not there any more; a word of its own is not enough.
func TestASupplierThatChangesItsFieldsIsSaid(t *testing.T) {
	h, m := suppliers(t)
	says := func(a wire.SupplierAnswers) string {
		for _, s := range a.Suppliers {
			if s.Supplier == market.Northquay {
				return s.Says
			}
		}
		return "?"
	}
	assert.Empty(t, says(ask(t, h, wire.SupplierQuestion{Text: "resistor 0805"})))
	assert.Empty(t, says(ask(t, h, wire.SupplierQuestion{Text: "capacitor 0603"})), "capacitors have no resistance, and never had")
	m.Happen(market.Northquay, market.Faults{Renamed: []string{`"Resistance"`, `"Ohmic value"`, `"onHand"`, `"available"`}})
	other := h.Beside(reaching(m))
	said := says(ask(t, other, wire.SupplierQuestion{Text: "resistor 0603"}))
	assert.Contains(t, said, "Since "+time.Now().UTC().Format("2006-01-02")+" its answers do not say field Resistance of “Resistors, chip”, offers.stock of “Resistors, chip”, which they did before")
	c, err := h.Offers.Connection(t.Context(), h.Me, market.Northquay)
	require.NoError(t, err)
	assert.Contains(t, c.Missed, "offers.stock")
	m.Happen(market.Northquay, market.Faults{})
	assert.Empty(t, says(ask(t, h, wire.SupplierQuestion{Text: "resistor 1206"})), "it says it again")
	m.Happen(market.Northquay, market.Faults{Renamed: []string{`"Resistance"`, `"Ohmic value"`}})
	ask(t, h, wire.SupplierQuestion{Text: "resistor 0402"})
	_, err = h.Offers.Apply(t.Context(), h.Me, c.Version, wire.ConnectionEdit{Text: strings.Replace(c.Text, "perDay: 5000", "perDay: 4000", 1)})
	require.NoError(t, err)
	c, err = h.Offers.Connection(t.Context(), h.Me, market.Northquay)
	require.NoError(t, err)
	assert.Empty(t, c.Missed, "another document begins anew")
}
