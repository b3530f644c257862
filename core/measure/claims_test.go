package measure

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// claim is a text with its right answer, written down before the reader ran. want is the value as it is shown; "no"
// where reading it as any value would be a guess, whether it becomes a doubt or stays unread.
type claim struct {
	text string
	of   Dimension
	want string
}

// claims are the classes of texts that readers get wrong, each with the reason for the answers.
var claims = map[string][]claim{
	"two numbers side by side are never one: nothing joins them": {
		{"0805 1/8W", None, "no"}, {"0805 1/8W", Power, "no"}, {"-40 125 °C", Temperature, "no"}, {"10 100 nF", Capacitance, "no"}, {"5 100 Ω", Resistance, "no"}, {"0603 100 Ω", Resistance, "no"},
		{"4 700 Ω", None, "no"}, {"12 345 V", Voltage, "no"}, {"1206 10 kΩ", Resistance, "no"}, {"2 10 kΩ", Resistance, "no"}, {"-10 000 V", Voltage, "no"}, {"100 50 V", Voltage, "no"}, {"1 000 00 V", Voltage, "no"},
		{"10 5 %", Ratio, "no"}, {"16 25 V", Voltage, "no"}, {"0402 10pF", Capacitance, "no"}, {"1 1 000 V", Voltage, "no"}, {"+5 000 V", Voltage, "no"},
	},
	"a blank groups thousands where it does not break, or where three groups leave no other reading": {
		{"4\u00a0700 Ω", None, "4.7 kΩ"}, {"2\u2009200 µF", None, "2200 µF"}, {"10\u202f000 Hz", None, "10 kHz"}, {"1 000 000 Ω", None, "1 MΩ"}, {"12 000 000 Hz", None, "12 MHz"}, {"1\u00a0234,5 V", None, "1.2345 kV"},
		{"1 234 567 Ω", None, "no"}, {"2 500 000 Ω", None, "2.5 MΩ"}, {"100\u00a0000 h", None, "100000 h"}, {"1\u00a0000\u00a0000 Ω", None, "1 MΩ"}, {"1\u00a00000 Ω", None, "no"}, {"0\u00a0500 Ω", None, "no"},
	},
	"folding never makes a number: fractions, superscripts and foreign digits stay what they are": {
		{"1½ W", Power, "1.5 W"}, {"12½ W", Power, "12.5 W"}, {"10¾\"", Length, "273.05 mm"}, {"½ W", Power, "500 mW"}, {"-1 1/2 in", Length, "-38.1 mm"}, {"1 ½ in", Length, "38.1 mm"}, {"⅛ W", Power, "125 mW"},
		{"1⅓ W", Power, "no"}, {"1.1/2\"", Length, "no"}, {"2 - 3/4 in", Length, "no"}, {"2-3/4 in", Length, "69.85 mm"}, {"5² V", Voltage, "no"}, {"10³ Ω", Resistance, "1 kΩ"}, {"①0 V", Voltage, "no"}, {"1①0 V", Voltage, "no"},
		{"１０ kΩ", Resistance, "10 kΩ"}, {"１0 kΩ", Resistance, "no"}, {"٣ V", Voltage, "no"}, {"1٣ V", Voltage, "no"}, {"4₇ kΩ", Resistance, "no"}, {"10¹ kΩ", Resistance, "10 kΩ"}, {"1\u200b0 V", Voltage, "no"},
		{"3½ kΩ", Resistance, "3.5 kΩ"}, {"1½½ W", Power, "no"}, {"0½ W", Power, "500 mW"}, {"1,5½ W", Power, "no"}, {"10½ 5 W", Power, "no"},
	},
	"signs belong to the number behind them, and a tolerance has two sides": {
		{"+80 -20 %", Ratio, "+80/-20 %"}, {"-20 +80 %", Ratio, "+80/-20 %"}, {"+5 -10 %", Ratio, "+5/-10 %"}, {"0/+5 %", Ratio, "+5/-0 %"}, {"+5/0 %", Ratio, "+5/-0 %"}, {"-10/+0 %", Ratio, "+0/-10 %"}, {"1 kΩ -1 %", Resistance, "no"},
		{"3 -0.1 mm", Length, "no"}, {"+1,500/-2,500 ppm", Ratio, "no"}, {"+1500/-2500 ppm", Ratio, "+1500/-2500 ppm"}, {"10 µF +80 -20 %", Capacitance, "10 µF +80/-20 %"}, {"10 µF -20%/+80%", Capacitance, "10 µF +80/-20 %"},
		{"5 -10 V", Voltage, "no"}, {"+5 -10 V", Voltage, "no"}, {"-40 +85 °C", Temperature, "no"}, {"- 40 °C", Temperature, "no"}, {"3 mm +0.1/-0.2 mm", Length, "3 mm +0.1/-0.2 mm"}, {"-1 %", Ratio, "-1 %"}, {"10 kΩ +1 %", Resistance, "no"},
		{"±-5 %", Ratio, "no"}, {"+20 %/+80 %", Ratio, "no"}, {"-55 - +125 °C", Temperature, "-55 to 125 °C"}, {"--5 V", Voltage, "no"}, {"0/-100 ppm/°C", TempCoefficient, "+0/-100 ppm/°C"}, {"5 V/-5 V", Voltage, "no"}, {"+15/-15 V", Voltage, "±15 V"}, {"-20 V -10 V", Voltage, "no"},
	},
	"a tolerance is in per cent, in millionths, or in the value's own unit": {
		{"10 kΩ ±5 V", Resistance, "no"}, {"5 V ±100 mA", Voltage, "no"}, {"25 °C ±9 °F", Temperature, "no"}, {"±5 V", Ratio, "no"}, {"±5 V", Voltage, "±5 V"}, {"10 pF ±0.5 pF", Capacitance, "10 pF ±0.5 pF"}, {"25 °C ±2 °C", Temperature, "25 °C ±2 °C"},
		{"25 °C ±2 K", Temperature, "25 °C ±2 °C"}, {"100 Ω ±10", Resistance, "no"}, {"16 MHz ±20 ppm", Frequency, "16 MHz ±20 ppm"}, {"4.7 kΩ ±47 Ω", Resistance, "4.7 kΩ ±47 Ω"}, {"10 mm ±0.1 g", Length, "no"}, {"10 µF ±5 nH", Capacitance, "no"},
		{"10 pF D", Capacitance, "no"}, {"10 pF J", Capacitance, "10 pF ±5 %"}, {"8.2 pF D", Capacitance, "8.2 pF ±0.5 pF"}, {"100 pF D", Capacitance, "100 pF ±0.5 %"}, {"10 kΩ 5 V", Resistance, "no"}, {"10 kΩ 500 %", Resistance, "no"},
	},
	"letters whose case matters are read as SI has them where that can be, and doubted where it cannot": {
		{"7 MBps", DataRate, "56 Mbit/s"}, {"7 MBps", None, "56 Mbit/s"}, {"7 Mbps", DataRate, "7 Mbit/s"}, {"20 mPa", Pressure, "no"}, {"20 MPa", Pressure, "20 MPa"}, {"1.5 M", Length, "no"}, {"30 m", Time, "no"}, {"10 MWh", Energy, "no"},
		{"10 mWh", Energy, "10 mWh"}, {"5 MN", Force, "no"}, {"5 mN", Force, "5 mN"}, {"7 TB/s", DataRate, "56 Tbit/s"}, {"64K", Data, "no"}, {"64 kbit", Data, "64 kbit"}, {"64 Kibit", Data, "8 KiB"}, {"64 KiB", Data, "64 KiB"}, {"4 MiB", Data, "4 MiB"}, {"10 MOHM", Resistance, "no"},
		{"10 mΩ", Resistance, "10 mΩ"}, {"10 MΩ", Resistance, "10 MΩ"}, {"100 MA", Current, "no"}, {"5 MV", Voltage, "no"}, {"5 MW", Power, "no"}, {"16 MHZ", Frequency, "16 MHz"}, {"5 mHz", Frequency, "no"}, {"10 MBPS", DataRate, "no"},
		{"64 kB", Data, "no"}, {"10 Mg", Mass, "no"}, {"5 Ms", Time, "no"}, {"100 Kbps", DataRate, "100 kbit/s"}, {"5 ms", Time, "5 ms"}, {"5 MS/s", SampleRate, "5 MS/s"}, {"100 NF", Capacitance, "100 nF"}, {"2 MJ", PulseEnergy, "no"}, {"3 mJ", PulseEnergy, "3 mJ"},
	},
	"the end of a range that has no unit takes the other's only where that leaves no second reading": {
		{"100 to 1 kV", Voltage, "no"}, {"1 to 100 kV", Voltage, "1 to 100 kV"}, {"10-20k", Resistance, "10 to 20 kΩ"}, {"10 to 20 kΩ", Resistance, "10 to 20 kΩ"}, {"10k-20k", Resistance, "10 to 20 kΩ"}, {"20 to 4 mA", Current, "no"}, {"4 to 20 mA", Current, "4 to 20 mA"},
		{"0 to 10 kHz", Frequency, "0 to 10 kHz"}, {"5.5 to 2.7 V", Voltage, "2.7 to 5.5 V"}, {"10 kΩ to 20", Resistance, "no"}, {"500 - 1 MHz", Frequency, "no"}, {"-40 to 85 °C", Temperature, "-40 to 85 °C"}, {"10 V to 20 A", Voltage, "no"}, {"800 .. 1.2 mm", Length, "no"},
		{"100n - 1µF", Capacitance, "100 nF to 1 µF"}, {"5 to 10", Voltage, "no"}, {"1/4-1/2 W", Power, "250 to 500 mW"}, {"9-36V", Voltage, "9 to 36 V"}, {"36-9V", Voltage, "no"},
	},
	"no number hides in a remark, and a condition is a part of the value": {
		{"5 V (MAXIMUM)", Voltage, "≤ 5 V"}, {"100 Ω (±1 %)", Resistance, "100 Ω ±1 %"}, {"2 A @ 25 °C, 1 A @ 85 °C", Current, "no"}, {"5 A (Ta), 20 A (Tc)", Current, "no"}, {"33 kΩ (3.3 kΩ)", Resistance, "no"}, {"33 kΩ at 70 °C 0805", Resistance, "no"},
		{"5 A (Ta)", Current, "5 A @ Ta"}, {"5 A (TA = 25 °C)", Current, "5 A @ Ta = 25 °C"}, {"2 A @ 25 °C", Current, "2 A @ 25 °C"}, {"600 Ω @ 100 MHz", Resistance, "600 Ω @ 100 MHz"}, {"0.1 Ω @ 10 V, 2 A", Resistance, "100 mΩ @ 10 V, 2 A"},
		{"5 V (note 3)", Voltage, "no"}, {"5 V (3)", Voltage, "no"}, {"10 kΩ (1 %)", Resistance, "10 kΩ ±1 %"}, {"10 kΩ (J)", Resistance, "10 kΩ ±5 %"}, {"4.7 kΩ ±5 % (F)", Resistance, "no"}, {"10 mm (10 mm)", Length, "10 mm"}, {"25.4 mm (1 in)", Length, "25.4 mm"},
		{"5 mm (0.2 in)", Length, "no"}, {"5 V (typ)", Voltage, "5 V typ"}, {"10 A (rms)", Current, "10 A (rms)"}, {"50 V @ 2", Voltage, "no"}, {"2 A @ 25 °C 85 °C", Current, "no"}, {"5 V (", Voltage, "no"}, {"5 V ()", Voltage, "no"},
		{"100 mA at 25 °C ambient", Current, "100 mA @ 25 °C, ambient"}, {"3 A (25 °C)", Current, "no"}, {"1.2 V @ 1.8 V", Voltage, "no"},
	},
	"odd spellings that have one reading, and those that have two": {
		{"00 AWG", WireGauge, "2/0 AWG"}, {"000 AWG", WireGauge, "3/0 AWG"}, {"0000 AWG", WireGauge, "4/0 AWG"}, {"0000AWG", None, "4/0 AWG"}, {"AWG-24", WireGauge, "24 AWG"}, {"AWG 22..26", WireGauge, "22 to 26 AWG"}, {"AWG 24", None, "24 AWG"}, {"0 AWG", WireGauge, "1/0 AWG"}, {"2/0 AWG", None, "2/0 AWG"},
		{"024 AWG", WireGauge, "no"}, {"0.000.001 Ω", Resistance, "no"}, {"1.000.000 Ω", Resistance, "1 MΩ"}, {"4E7", Resistance, "no"}, {"4E7", None, "no"}, {"1e3 Ω", Resistance, "no"}, {"1e-3 Ω", Resistance, "1 mΩ"}, {"1.0e3 Ω", Resistance, "1 kΩ"}, {"1e5 Hz", Frequency, "100 kHz"},
		{"1.2 kA²s", MeltingIntegral, "no"}, {"1200 A²s", MeltingIntegral, "1200 A²s"}, {"0.5 A²s", MeltingIntegral, "0.5 A²s"}, {"05 V", Voltage, "no"}, {"007 V", Voltage, "no"}, {"0,5 V", Voltage, "500 mV"}, {"5. V", Voltage, "no"}, {",5 V", Voltage, "no"}, {".5 V", Voltage, "500 mV"},
	},
	"bodies have sizes in their order; triples keep what is typical; supplies list their ranges": {
		{"1.60mm x 0.80mm", Length, "1.6 × 0.8 mm"}, {"1.60mm x 0.80mm", None, "1.6 × 0.8 mm"}, {"0.5\" x 0.25\"", Length, "12.7 × 6.35 mm"}, {"10 x 5 x 2 mm", Length, "10 × 5 × 2 mm"}, {"2.0mm L x 1.25mm W", Length, "2 × 1.25 mm"}, {"DC ~ 6 GHz", Frequency, "0 to 6 GHz"},
		{"DC to 6 GHz", None, "0 to 6 GHz"}, {"30 µin", Length, "762 nm"}, {"1.65V ~ 3.6V, 2.3V ~ 5.5V", Voltage, "1.65 to 3.6 V, 2.3 to 5.5 V"}, {"4n7H", Inductance, "4.7 nH"}, {"4n7H", None, "4.7 nH"}, {"min 2.7 V typ 3.3 V max 3.6 V", Voltage, "2.7 to 3.6 V typ 3.3 V"},
		{"2.7 V (min), 3.3 V (typ), 3.6 V (max)", Voltage, "2.7 to 3.6 V typ 3.3 V"}, {"2.7/3.3/3.6 V (min/typ/max)", Voltage, "2.7 to 3.6 V typ 3.3 V"}, {"10 mΩ typ, 20 mΩ max", Resistance, "≤ 20 mΩ typ 10 mΩ"}, {"3.3 V min, 2.7 V max", Voltage, "no"},
		{"2 x 10 kΩ", Resistance, "no"}, {"10 x 10", Length, "no"}, {"4 x 4 x 4 x 4 mm", Length, "no"}, {"10 mm x 5 kg", Length, "no"}, {"250 VAC, 30 VDC", Voltage, "no"}, {"25Vmax", Voltage, "≤ 25 V"}, {"100Vmin.", Voltage, "≥ 100 V"},
	},
	"what physics or the trade excludes is doubted": {
		{"-300 °C", Temperature, "no"}, {"-273.15 °C", Temperature, "-273.15 °C"}, {"-10 kΩ", Resistance, "no"}, {"-4.7 µF", Capacitance, "no"}, {"±-1 %", Ratio, "no"}, {"-1 K", Temperature, "no"}, {"120 %RH", Humidity, "no"}, {"-5 mm", Length, "-5 mm"},
		{"10 kΩ ±150 %", Resistance, "no"}, {"10 MF", Capacitance, "no"}, {"1e14 V", Voltage, "no"}, {"-20 V", Voltage, "-20 V"}, {"-97 dBm", PowerLevel, "-97 dBm"}, {"-5 s", Time, "no"}, {"-500 °F", Fahrenheit, "no"}, {"0 Ω", Resistance, "0 Ω"},
	},
}

func TestClaims(t *testing.T) {
	for class, members := range claims {
		assert.GreaterOrEqual(t, len(members), 10, class)
		for _, c := range members {
			var tally Tally
			r := Parse(c.text, Options{Of: c.of, Tally: &tally})
			switch {
			case c.want == "no":
				assert.NotEqual(t, Read, r.Outcome, "%s: %q (%s) was read as %s", class, c.text, c.of, r.Measure)
				assert.NotEmpty(t, r.Why, c.text)
			case assert.Equal(t, Read, r.Outcome, "%s: %q (%s): %s %v", class, c.text, c.of, r.Why, r.Possible):
				assert.Equal(t, c.want, r.Measure.String(), "%s: %q", class, c.text)
				assert.NotEmpty(t, tally, c.text)
			}
		}
	}
}

// A limit is a limit in every reading of a doubt, too: whoever settles "over 100k" as a resistance means more than 100 kΩ.
func TestLimitsHoldInEveryReadingOfADoubt(t *testing.T) {
	limits := []struct {
		before, behind string
		shape          Shape
	}{{"over ", "", Above}, {"> ", "", Above}, {"more than ", "", Above}, {"at least ", "", AtLeast}, {"≥", "", AtLeast}, {"min. ", "", AtLeast}, {"from ", "", AtLeast}, {"", " or more", AtLeast}, {"", " min", AtLeast},
		{"under ", "", Below}, {"<", "", Below}, {"less than ", "", Below}, {"up to ", "", AtMost}, {"max ", "", AtMost}, {"≤ ", "", AtMost}, {"", " max.", AtMost}, {"", " or less", AtMost}}
	for _, text := range []string{"100k", "100n", "4k", "1,000 µF", "64K", "2.2K", "1.2 kA²s", "100", "5 mPa", "12 C"} {
		for _, l := range limits {
			r := Parse(l.before+text+l.behind, Options{})
			require.Equal(t, Doubt, r.Outcome, l.before+text+l.behind)
			for _, w := range r.Possible {
				assert.Equal(t, l.shape, w.Measure.Shape, "%s%s%s as %s", l.before, text, l.behind, w.Measure)
			}
		}
	}
}
