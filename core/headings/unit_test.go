package headings

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestWhatAHeadingSaysBesideItsName(t *testing.T) {
	for heading, want := range map[string]string{
		"Qty": "", "Qty (pcs)": "", "Qty [pcs]": "", "Qty ()": "", "Qty (-)": "", "Menge (Stk.)": "", "Reference(s)": "", "数量（PCS）": "", "Hersteller (Manufacturer)": "", "Manufacturer part number (MPN)": "", "Manufacturer (main)": "", "MPN [required]": "",
		"Power (W)": "", "Height (mm, max)": "", "Voltage (rated)": "(rated)", "Rated voltage (DC)": "", "Rated voltage (AC)": "(AC)", "Tolerance (± %)": "", "Capacitance (C)": "", "Drain-source voltage (VDS)": "", "Voltage (VDS)": "(VDS)", "Power (max)": "",
		"Qty (10 boards)": "(10 boards)", "Qty (total)": "(total)", "Qty {x10}": "{x10}", "Qty (+10%)": "(+10%)", "Manufacturer (2)": "(2)", "Manufacturer (alt.)": "(alt.)", "Hersteller (Ersatz)": "(Ersatz)", "メーカー（代替）": "(代替)", "数量（总）": "(总)",
		"Value (EUR)": "(EUR)", "Wert (€)": "(€)", "Voltage (V) drop": "(V) drop", "Power (W, at 70 °C)": "(W, at 70 °C)", "Resistance (Ω) tolerance": "(Ω) tolerance", "Current (A) leakage": "(A) leakage", "(W)": "",
	} {
		assert.Equal(t, want, Aside(heading), heading)
	}
}

// Whatever stands beside a name and is not known to say nothing is told, in whichever brackets and whatever harmless words stand around it.
func TestNoWordBesideANameIsPassedOver(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.SampledFrom([]string{"Qty", "Manufacturer", "MPN", "Value", "Menge", "Fabricant", "数量", "Voltage", "Order code"}).Draw(t, "name")
		harmless := rapid.SliceOfN(rapid.SampledFrom([]string{"pcs", "required", "max", "mm", "s", "text"}), 0, 3).Draw(t, "harmless")
		odd := rapid.SampledFrom([]string{"alternative", "old", "total", "10", "EUR", "leakage", "second", "stock", "spare", "gesamt", "替代", "x10", "2nd", "drop"}).Draw(t, "odd")
		around := rapid.SampledFrom([]string{"()", "[]", "{}"}).Draw(t, "around")
		between := rapid.SampledFrom([]string{" ", ", ", "; "}).Draw(t, "between")
		at := rapid.IntRange(0, len(harmless)).Draw(t, "at")
		join := func(words []string) (out string) {
			for i, w := range words {
				if i > 0 {
					out += between
				}
				out += w
			}
			return name + " " + around[:1] + out + around[1:]
		}
		require.Empty(t, Aside(join(harmless)), "%q", join(harmless))
		all := append(append(append([]string{}, harmless[:at]...), odd), harmless[at:]...)
		require.NotEmpty(t, Aside(join(all)), "%q", join(all))
	})
}
