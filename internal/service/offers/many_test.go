package offers_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// Many products become intakes, read by the crosswalk of the answers: what is taken in is what the answer showed, and has its offers.
func TestManyProductsBecomeAnIntake(t *testing.T) {
	h, _ := suppliers(t)
	q := wire.SupplierQuestion{Text: "capacitor 0603 X7R 50V 10%", Stock: 1}
	a := ask(t, h, q)
	require.Greater(t, a.Fit, 5)
	_, err := h.Offers.Intake(t.Context(), h.Me, wire.SupplierIntake{Question: q, Keys: []string{"nobody|X1"}})
	assert.ErrorContains(t, err, "Nobody answered")
	var keys []string
	for _, r := range a.Rows[:4] {
		keys = append(keys, r.Key)
	}
	some, err := h.Offers.Intake(t.Context(), h.Me, wire.SupplierIntake{Question: q, Keys: keys})
	require.NoError(t, err)
	n := 0
	for _, i := range some.Items {
		n += i.Products
	}
	assert.Equal(t, 4, n)

	all, err := h.Offers.Intake(t.Context(), h.Me, wire.SupplierIntake{Question: q})
	require.NoError(t, err)
	n = 0
	for _, made := range all.Items {
		n += made.Products
		i, err := h.Intakes.Get(t.Context(), h.Me, housetest.ID(t, made.ID))
		require.NoError(t, err)
		assert.Equal(t, made.Products, i.Rows, "%s", made.Supplier)
		assert.Equal(t, made.Products, i.Counts["new"], "%v", i.Counts)
		h.TakeIn(i)
	}
	assert.Equal(t, a.Fit, n)
	for _, r := range a.Rows {
		if len(r.Fails) > 0 || r.Values["capacitance"] == "" {
			continue
		}
		after := of(t, ask(t, h, q), r.MPN)
		require.Len(t, after.Own, 1, r.MPN)
		assert.Equal(t, r.Values["capacitance"], h.Value(after.Own[0], "capacitance"), r.MPN)
		o, err := h.Offers.OfPart(t.Context(), h.Me, after.Own[0], 10)
		require.NoError(t, err)
		assert.NotNil(t, o.Best, "its offers came with it")
	}
	_, err = h.Offers.Intake(t.Context(), h.Me, wire.SupplierIntake{Question: q})
	assert.ErrorContains(t, err, "No product fits that the library has not")
}
