package measure

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// An exact SI spelling, prefix and symbol in their own case, is never taken for a unit of another dimension that is
// spelled alike in other letters: "GF" are gigafarads, however unlikely, and no grams of force. Where the symbol alone is
// of two dimensions (C), the prefixed one may be either.
func TestEveryPrefixBeforeEverySymbol(t *testing.T) {
	for symbol, dim := range map[string]Dimension{"F": Capacitance, "H": Inductance, "V": Voltage, "A": Current, "W": Power, "Hz": Frequency, "s": Time, "m": Length, "g": Mass,
		"cd": LuminousIntensity, "lm": LuminousFlux, "lx": Illuminance, "Pa": Pressure, "C": ElectricCharge, "J": PulseEnergy, "T": FluxDensity, "N": Force, "S": Conductance, "Ω": Resistance,
		"Wh": Energy, "VA": ApparentPower, "var": ReactivePower, "bit": Data, "bar": Pressure} {
		for prefix := range prefixExp {
			text := "0" + string(prefix) + symbol
			if r := Parse(text, Options{}); r.Outcome == Read {
				assert.Equal(t, dim, r.Measure.Of, text)
			}
		}
	}
}
