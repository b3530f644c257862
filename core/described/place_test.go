package described

import (
	"sort"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

func TestOnlyWhatCanBeNothingElseIsPlacedWithoutAName(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	l := NewLexicon(cab)
	for _, c := range []struct{ drawer, text, want string }{
		{"chip-resistors", "RES 10k 1% 0603", "case=0603 resistance=10k tolerance=1%"},
		{"power-inductors", "Irms 3A Isat 2A 10uH", "current-rating=3A inductance=10uH saturation-current=2A"},
		{"power-inductors", "10uH 3A", "inductance=10uH"}, // a rated or a saturation current: nothing decides
		{"power-inductors", "rated current 3 A saturation current 4 A", "current-rating=3 A saturation-current=4 A"},
		{"schottky-diodes", "VF 0.5V VR 40V", "forward-voltage=0.5V reverse-voltage=40V"},
		{"schottky-diodes", "40V 1A", ""}, // of two voltages and two currents
		{"regulators", "Vin 6V Vout 3.3V", "output-voltage=3.3V"},
		{"mosfets", "VGS 20V", "gate-source-voltage=20V"},
		{"mosfets", "20V", ""},
		{"chip-resistors", "3 pcs 2 x 10 kΩ", ""},
		{"chip-resistors", "2 × 10 kΩ 1% 0805", "case=0805 tolerance=1%"},
		{"chip-resistors", "10 kΩ 10k0 1% 1 %", "resistance=10 kΩ tolerance=1%"}, // twice the same is once
		{"ceramic-capacitors", "22pF C0G (NP0) 0402", "capacitance=22pF case=0402 dielectric=C0G"},
		{"ceramic-capacitors", "22pF C0G X7R 0402", "capacitance=22pF case=0402"},
		{"ceramic-capacitors", "471 µF 0402", "case=0402"}, // nobody makes that
		{"schottky-diodes", "Sperrspannung 40 V Durchlassspannung 0,5 V", "forward-voltage=0,5 V reverse-voltage=40 V"},
		{"schottky-diodes", "tension inverse 40 V, tension directe 0,5 V", "forward-voltage=0,5 V reverse-voltage=40 V"},
		{"schottky-diodes", "VF 0.5V IF 1 A", "current-rating=1 A forward-voltage=0.5V"},
		{"chip-resistors", "2 x", ""},
		{"chip-resistors", "10k 22k 1%", "tolerance=1%"},
		{"ceramic-capacitors", "100n X7R 50V 0805 10%", "capacitance=100n case=0805 dielectric=X7R tolerance=10% voltage-rating=50V"},
		{"connectors", "8 way pitch 2.54mm", "pitch=2.54mm positions=8"},
		{"interface-circuits", "RS-485 transceiver half duplex", ""},
	} {
		tpl, ok := cab.Template(c.drawer)
		require.True(t, ok, c.drawer)
		placed, left := l.Place(tpl, c.text, measure.Options{})
		var got []string
		for _, p := range placed {
			got = append(got, p.Key+"="+p.Piece.Text)
			assert.NotEmpty(t, p.Why)
		}
		sort.Strings(got)
		assert.Equal(t, c.want, strings.Join(got, " "), "%s: %s %+v", c.drawer, c.text, left)
	}
	assert.Equal(t, []string{"TW-0805-4K7-F"}, l.Numbers("Resistor TW-0805-4K7-F 4k7 1% 0805 SOT-23-5 10k"))
}
