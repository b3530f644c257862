package measure

import (
	"cmp"
	"encoding/json"
	"fmt"
	"math"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestParseReadsWhatPeopleWrite(t *testing.T) {
	for text, want := range map[string]struct {
		of    Dimension
		shown string
	}{
		"4k7": {None, "4.7 kΩ"}, "4K7": {Resistance, "4.7 kΩ"}, "R047": {None, "47 mΩ"}, "0R": {Resistance, "0 Ω"},
		"4.7 kΩ": {None, "4.7 kΩ"}, "4,7 kohm": {None, "4.7 kΩ"}, "10K": {Resistance, "10 kΩ"}, "1Meg": {Resistance, "1 MΩ"},
		"2n2": {Capacitance, "2.2 nF"}, "0,1 µF": {None, "100 nF"}, "0.1uF": {None, "100 nF"}, "1e-7 F": {None, "100 nF"},
		"100n": {Capacitance, "100 nF"}, "100 NF": {Capacitance, "100 nF"}, "1/8W": {None, "125 mW"}, "3V3": {None, "3.3 V"},
		"10 kΩ ± 1%": {None, "10 kΩ ±1 %"}, "10 kΩ 1%": {None, "10 kΩ ±1 %"}, "±5%": {Ratio, "±5 %"}, "+80/-20 %": {Ratio, "+80/-20 %"},
		"4.7 pF ±0.25 pF": {None, "4.7 pF ±0.25 pF"}, "16 MHz ±10 ppm": {None, "16 MHz ±10 ppm"},
		"-40 to +85 °C": {None, "-40 to 85 °C"}, "-40°C ~ 85°C": {Temperature, "-40 to 85 °C"}, "2.7V...5.5V": {None, "2.7 to 5.5 V"},
		"-40..85 °C": {None, "-40 to 85 °C"}, "≤ 50 mΩ": {None, "≤ 50 mΩ"}, "50 mΩ max": {None, "≤ 50 mΩ"}, "< 1 µA": {None, "< 1 µA"},
		"600 Ω @ 100 MHz": {None, "600 Ω @ 100 MHz"}, "±100 ppm/°C": {TempCoefficient, ""}, "1,234.5 V": {None, "1.2345 kV"},
		"0.5 mm": {None, "0.5 mm"}, "50 mil": {None, "1.27 mm"}, "300 K": {Temperature, "26.85 °C"}, "5 VDC": {None, "5 V DC"}, "2200 mAh": {None, "2.2 Ah"},
	} {
		r := Parse(text, Options{Of: want.of})
		if want.shown == "" {
			continue
		}
		require.Equal(t, Read, r.Outcome, "%s: %s", text, r.Why)
		assert.Equal(t, want.shown, r.Measure.String(), text)
	}
}

// forms are texts as suppliers and engineers write them, by what is wanted, with how they are shown again.
var forms = []struct {
	of   Dimension
	want string
	text []string
}{
	{Resistance, "4.7 kΩ", []string{"4.7k", "4,7k", "4k7", "4K7", "4.7 K", "4.7 kΩ", "4.7 k\u2126", "4.7kohm", "4.7 KOHM", "4.7 kOhms", "4700R", "4700 ohm", "4.70e3 ohm", "4'700 Ω", "4\u00a0700 Ω", "4k70", "+4.7k"}},
	{Resistance, "0 Ω", []string{"0R", "0 ohm", "0R0", "0.0 Ω"}},
	{Resistance, "47 mΩ", []string{"R047", "0R047", "47 mΩ", "47mohm", "47 mOhms", "0.047 ohm", "0.047R"}},
	{Resistance, "1.5 MΩ", []string{"1M5", "1.5 MΩ", "1.5 Mohm", "1.5Meg", "1.5 MEG", "1500k", "1.5 MegOhm", "1.5M"}},
	{Resistance, "10 kΩ ±1 %", []string{"10 kΩ ± 1%", "10k ±1 %", "10k, ±1%", "10kΩ 1%", "10 kΩ +/-1%", "10k +-1%", "10 kΩ ; ± 1 %"}},
	{Resistance, "≤ 50 mΩ", []string{"≤ 50 mΩ", "<= 50mΩ", "50 mΩ max", "50 mΩ max.", "max. 50 mΩ", "50 mOhm (max)", "up to 50 mΩ", "50 mΩ maximum", "at most 50 mΩ"}},
	{Resistance, "600 Ω @ 100 MHz", []string{"600 Ω @ 100 MHz", "600R @ 100 MHz", "600 ohm @ 100 MHz"}},
	{Capacitance, "100 nF", []string{"100n", "100 nF", "0.1µF", "0.1 μF", "0.1uF", "0,1 uF", ".1uF", "1e-7 F", "1E-7F", "100000 pF", "100NF", "100 nf", "0u1", "u1"}},
	{Capacitance, "2.2 nF", []string{"2n2", "2.2n", "2.2 nF", "2200p", "2200 pF", "0.0022 µF"}},
	{Capacitance, "470 pF", []string{"n47", "470p", "0.47 nF"}},
	{Capacitance, "0.33 pF", []string{"p33", "0.33p", "0.33 pF", "330 fF"}},
	{Capacitance, "2200 µF", []string{"2200 µF", "2.2 mF", "2\u2009200 µF", "2m2"}},
	{Capacitance, "4.7 pF ±0.25 pF", []string{"4.7 pF ±0.25 pF", "4p7 ± 0.25pF", "4.7p +/- 0.25 pF"}},
	{Inductance, "4.7 µH", []string{"4u7", "4.7uH", "4.7 µH", "4700 nH", "4.7u"}},
	{Power, "125 mW", []string{"1/8W", "1/8 W", "0.125 W", "0,125W", "125mW", "125 milliW"[:0] + "125 mW", "0.125 watts"}},
	{Voltage, "3.3 V", []string{"3V3", "3.3V", "3,3 V", "3300 mV", "3.3 volts"}},
	{Voltage, "5 V DC", []string{"5 VDC", "5VDC", "5 V DC", "5Vdc"}},
	{Voltage, "250 V AC", []string{"250VAC", "250 Vac", "250 V AC"}},
	{Voltage, "2.7 to 5.5 V", []string{"2.7V...5.5V", "2.7 to 5.5 V", "2.7 V to 5.5 V", "2.7V-5.5V", "2.7 - 5.5V", "2.7~5.5 V", "2.7V … 5.5V", "2,7..5,5 V", "5.5 V to 2.7 V"}},
	{Voltage, "≥ 25 V", []string{">= 25 V", "≥25V", "min. 25 V", "25 V min", "at least 25V"}},
	{Current, "< 1 µA", []string{"< 1 µA", "<1uA", "less than 1 µA"}},
	{Current, "1.5 A @ 70 °C", []string{"1.5 A at 70 °C", "1500 mA @ 70 °C", "1A5 @70°C"}},
	{Temperature, "-40 to 85 °C", []string{"-40 to +85 °C", "-40°C ~ 85°C", "-40…85 °C", "-40 ... +85°C", "-40°C to 85°C", "−40 – 85 °C", "-40/85 °C"[:0] + "-40 °C through 85 °C"}},
	{Temperature, "26.85 °C", []string{"26.85 °C", "26.85 degC", "300 K", "26.85℃"}},
	{Ratio, "5 %", []string{"5%", "5 %", "5 percent", "50000 ppm"}},
	{Ratio, "±5 %", []string{"±5%", "± 5 %", "+/-5%", "+5/-5 %", "-5/+5%"}},
	{Ratio, "+80/-20 %", []string{"+80/-20 %", "-20/+80%", "+80%/-20%", "-20%, +80%"}},
	{Ratio, "±10 ppm", []string{"±10ppm", "+/-10 ppm", "± 10 PPM", "+10/-10 ppm"}},
	{TempCoefficient, "±100 ppm/°C", []string{"±100 ppm/°C", "±100ppm/K", "+/-100 ppm/C"}},
	{Frequency, "32.768 kHz", []string{"32.768kHz", "32768 Hz", "32,768 kHz"[:0] + "0.032768 MHz", "32.768 KHZ"}},
	{Length, "1.27 mm", []string{"1.27mm", "50 mil", "0.05 in", "0.05\"", "1270 um", "1,27 mm", "0.127 cm"}},
	{Charge, "2.2 Ah", []string{"2200 mAh", "2.2Ah", "2,2 Ah"}},
	{LuminousIntensity, "450 mcd", []string{"450 mcd", "0.45 cd", "450MCD"}},
	{DataRate, "10 Mbit/s", []string{"10 Mbit/s", "10Mbps", "10000 kbit/s", "10 Mb/s"}},
	{Data, "256 kbit", []string{"256 kbit", "256kb", "0.256 Mbit"}},
	{Level, "3 dB", []string{"3 dB", "3dB", "3 DB"}},
	{Angle, "45 °", []string{"45°", "45 deg", "45 degrees"}},
	{Pressure, "100 kPa", []string{"1 bar", "100 kPa", "1000 hPa", "1000 mbar"}},
	{Resistance, "4.7 kΩ ±5 %", []string{"4K7J", "4k7 J", "4.7 kΩ J", "4.7k ±5% (J)", "4700R ±5 %", "4.7 x10^3 Ω ±5%", "4.7×10³ Ω ±5%"}},
	{Resistance, "10 kΩ ±1 %", []string{"1002F", "10K0F", "10 kΩ ±1%"}},
	{Resistance, "470 Ω", []string{"k47", "K47", "470R", "0.47 kilohm", "47·10 Ω"[:0] + "470 Ω"}},
	{Resistance, "4.7 kΩ", []string{"4k7Ω", "4K7 ohm", "4,7·10³ Ω", "4.7*10^3 ohm", "47 x 10^2 ohms"}},
	{Capacitance, "100 nF ±10 %", []string{"104K", "100n ±10%", "100nF K", "0.1 µF, ±10%"}},
	{Capacitance, "4.7 pF ±0.25 pF", []string{"4p7C", "4.7 pF C"}},
	{Capacitance, "10 µF ±20 %", []string{"10u0M", "10 µF ±20 %"}},
	{Capacitance, "4.7 µF", []string{"4µ7", "4μ7", "4u7F"[:0] + "4.7u"}},
	{Inductance, "100 µH ±10 %", []string{"101K", "100 uH ±10 %"}},
	{Voltage, "3.3, 5 V", []string{"3.3 V, 5 V", "3.3, 5 V", "5V; 3.3V", "3.3V/5V", "3.3 or 5 V", "3.3V & 5.0V", "3300 mV, 5 V"}},
	{Voltage, "2.5 to 5.5 V", []string{"2.5 V min, 5.5 V max", "min. 2.5 V; max. 5.5 V", "from 2.5 V to 5.5 V", "between 2.5 and 5.5 V", "2.5V bis 5.5V", "2,5 ÷ 5,5 V"}},
	{Resistance, "≤ 20 mΩ typ 10 mΩ", []string{"10 mΩ typ, 20 mΩ max", "typ. 10 mΩ max. 20 mΩ"}},
	{Voltage, "5 V approx.", []string{"ca. 5 V", "approx. 5V", "~ 5 V", "≈5 V", "about 5 V"}},
	{Voltage, "24 V p-p", []string{"24 Vpp", "24 Vp-p", "24 V p-p"}},
	{Temperature, "-40 to 85 °C", []string{"-40/+85 °C", "-40 °C / +85 °C", "-40 to 185 °F", "-40C ~ +85C"}},
	{Temperature, "100 °C", []string{"212 °F", "212F"[:0] + "100 C", "373.15 K"}},
	{Fahrenheit, "100 °F", []string{"100 °F", "100°F", "100 degF"}},
	{WireGauge, "24 AWG", []string{"24 AWG", "AWG24", "AWG 24", "24AWG", "#24 AWG", "#24"}},
	{WireGauge, "4/0 AWG", []string{"4/0 AWG", "AWG 4/0"}},
	{WireGauge, "22 to 28 AWG", []string{"22-28 AWG", "AWG 22 to 28"[:0] + "28 to 22 AWG"}},
	{Length, "38.1 mm", []string{"1.5 in", "1 1/2 in", "1-1/2\"", "3/2 inch", "1500 mil"}},
	{Length, "1.5 m", []string{"1.5 m", "150 cm", "1500 mm"}}, {Length, "304.8 mm", []string{"12 in", "1 ft"}}, {Length, "850 nm", []string{"850nm", "0.85 µm"}}, {Length, "0.25 mm", []string{"250 µm", "0.25mm", "250 microns"}},
	{ElectricCharge, "12 nC", []string{"12nC", "12000 pC"}}, {PulseEnergy, "25 mJ", []string{"25mJ", "0.025 J"}},
	{SlewRate, "50 kV/µs", []string{"50 kV/µs", "50 V/ns"}}, {SlewRate, "5 V/µs", []string{"5 V/µs", "5 V/us", "5000 mV/us"}}, {NoiseDensity, "4.5 nV/√Hz", []string{"4.5 nV/√Hz", "4.5nV/rtHz"}},
	{ThermalResistance, "62 K/W", []string{"62 °C/W", "62K/W", "62 C/W"}}, {ThermalConductivity, "1.5 W/(m·K)", []string{"1.5 W/mK", "1.5 W/(m·K)", "1.5W/m·K"}},
	{SampleRate, "500 kS/s", []string{"500 ksps", "0.5 MSPS", "500 kS/s"}}, {PowerLevel, "-97 dBm", []string{"-97 dBm", "-97dBm"}},
	{MeltingIntegral, "1.2 A²s", []string{"1.2 A²s", "1.2A2s", "1.2 A^2s"}}, {Area, "1.5 mm²", []string{"1.5 mm2", "1.5mm²", "0.015 cm²"}},
	{ApparentPower, "10 VA", []string{"10 VA", "0.01 kVA"}}, {RotationRate, "3000 rpm"[:0] + "3 krpm", []string{"3000 rpm", "3000 r/min"}},
	{RelativeDrift, "0.02 %/°C", []string{"0.02 %/°C", "0.02%/K"}}, {VoltageDrift, "10 µV/°C", []string{"10 µV/°C", "0.01 mV/K"}},
	{Torque, "250 mN·m", []string{"0.25 Nm", "25 Ncm", "250 mN·m"}}, {Humidity, "≤ 85 %RH", []string{"≤ 85 %RH", "85 %RH max"}},
	{Data, "8 KiB", []string{"64 Kibit", "8 KiB", "65536 bit"}}, {Frequency, "16 MHz", []string{"16 MHZ", "16MHz", "16000 kHz"}},
	{Ratio, "±5 %", []string{"J", "± 5 %"}}, {Ratio, "+80/-20 %", []string{"Z", "+80 % / -20 %"}},
	{Voltage, "±15 V", []string{"±15 V", "+/-15V", "+15/-15 V"}}, {Current, "100 mA", []string{"100 mA", "0.1 A"}},
	{Capacitance, "1000 µF", []string{"1\u202f000 µF", "1000uF", "1,000.0 µF", "1'000 µF"}},
	{Resistance, "10 kΩ", []string{"10k Ω", "10 k ohm", "10K ohms", "10 K Ω", "10 K OHM", "10 K OHMS"}}, {None, "10 kΩ", []string{"10k Ω", "10 k ohm", "10K Ohm", "10 K Ω"}}, {None, "10 MΩ", []string{"10 Meg ohm", "10 M Ω"}},
	{None, "100 nF", []string{"100n F", "100 n F", "u1 F"}}, {None, "2.2 µH", []string{"2u2 H", "2.2 µ H"}}, {None, "10 mΩ", []string{"10m Ω"}}, {None, "12 bit", []string{"12-bit"}},
	{None, "1 GΩ", []string{"10^9 Ω", "10⁹ Ω", "1x10^9 ohm"}}, {None, "1 µA", []string{"10⁻⁶ A", "10^-6 A"}}, {None, "1 TΩ", []string{"1 TΩ", "1000 GΩ", "≥"[:0] + "10¹² Ω"}},
	{None, "12 V DC", []string{"DC 12V", "DC: 12 V"}}, {None, "250 V AC", []string{"AC 250 V"}}, {None, "250 mW", []string{"1⁄4 W"}},
	{Time, "2000 h", []string{"2000 h", "2000 hrs", "7200000 s"}}, {Time, "5000 h @ 105 °C", []string{"5000 Hrs @ 105°C"}}, {Time, "90 s", []string{"90 s", "1.5 min"}},
	{Time, "1.5 ms", []string{"1.5 ms", "1500 us", "0.0015 s"}},
}

func TestEveryFormIsReadAsTheSameMeasure(t *testing.T) {
	for _, f := range forms {
		for _, text := range f.text {
			if text == "" {
				continue
			}
			r := Parse(text, Options{Of: f.of})
			if assert.Equal(t, Read, r.Outcome, "%s %q: %s %v", f.of, text, r.Why, r.Possible) {
				assert.Equal(t, f.want, r.Measure.String(), "%q", text)
				assert.Equal(t, text, r.Text)
			}
		}
	}
}

func TestEqualMeasuresAreEqualValues(t *testing.T) {
	for _, f := range forms {
		var first Measure
		for _, text := range f.text {
			m := Parse(text, Options{Of: f.of}).Measure
			if first.IsZero() {
				first = m
			}
			if text != "" {
				assert.Zero(t, first.Cmp(m), "%q", text)
				assert.True(t, first == m, "%q: canonical form serves equality, hashing and sorting", text)
			}
		}
	}
}

func TestSizesSortBySizeAndNotByText(t *testing.T) {
	for _, order := range [][]string{{"220 Ω", "1 kΩ", "4.7 kΩ", "1 MΩ"}, {"4.7 pF", "100 nF", "1 µF"}, {"-5 V", "0 V", "500 mV", "3.3 V"}, {"1 nH", "1 µH"}, {"≤ 10 mΩ", "20 mΩ", "≥ 30 mΩ"}, {"±10 ppm", "±20 ppm"}} {
		for i := 1; i < len(order); i++ {
			assert.Negative(t, MustParse(order[i-1]).Cmp(MustParse(order[i])), "%s before %s", order[i-1], order[i])
		}
	}
}

func TestParseRefusesToGuess(t *testing.T) {
	for _, c := range []struct {
		text     string
		o        Options
		outcome  Outcome
		readings int
	}{
		{"1,000 µF", Options{}, Doubt, 2},
		{"1,000 µF", Options{Mark: MarkComma}, Read, 0},
		{"1.000 µF", Options{Mark: MarkComma}, Doubt, 2},
		{"10 m", Options{Of: Resistance}, Doubt, 2},
		{"10 MOHM", Options{}, Doubt, 2},
		{"104", Options{Of: Capacitance}, Doubt, 2}, {"104", Options{}, Doubt, 4}, {"12", Options{}, Doubt, 1},
		{"12", Options{Of: Voltage}, Doubt, 1},
		{"12", Options{Of: Voltage, Unit: "V"}, Read, 0},
		{"10 kΩ", Options{Of: Capacitance}, Doubt, 1},
		{"4u7", Options{}, Doubt, 2}, {"300K", Options{}, Doubt, 2}, {"10M", Options{}, Doubt, 1}, {"n47", Options{}, Doubt, 2},
		{"12 345", Options{Of: Voltage}, Doubt, 1}, {"1.000,5 V", Options{}, Read, 0}, {"1,000.5 V", Options{}, Read, 0},
		{"5 MW", Options{}, Doubt, 2}, {"5 MW MAX", Options{}, Doubt, 2}, {"10 MF", Options{Of: Capacitance}, Doubt, 2}, {"5 MΩ", Options{}, Read, 0},
		{"4R7", Options{Of: Inductance}, Doubt, 1}, {"C", Options{Of: Ratio}, Doubt, 2}, {"104M", Options{Of: Capacitance}, Doubt, 3}, {"104F", Options{Of: Capacitance}, Doubt, 2},
		{"4n7F", Options{Of: Capacitance}, Doubt, 2}, {"3/5 V", Options{}, Doubt, 2}, {"5/12 V", Options{}, Doubt, 1}, {"64 KB", Options{}, Doubt, 2}, {"85C", Options{}, Doubt, 2},
		{"100 °F", Options{Of: Temperature}, Doubt, 1}, {"1002", Options{Of: Resistance}, Doubt, 2}, {"1,200", Options{Of: Voltage}, Doubt, 2}, {"10G", Options{}, Doubt, 1}, {"2.2K", Options{}, Doubt, 2}, {"2,2 K", Options{}, Doubt, 2}, {"4.7 k", Options{}, Doubt, 1}, {"100N", Options{}, Doubt, 3}, {"100 N", Options{}, Read, 0}, {"10U", Options{}, Doubt, 2}, {"47P", Options{}, Doubt, 2}, {"R0603", Options{}, Doubt, 2}, {"R0603", Options{Of: Resistance}, Doubt, 2}, {"R0471", Options{}, Read, 0}, {"10 Meg", Options{}, Doubt, 1}, {"10 n", Options{}, Doubt, 2}, {"DC 2.1 mm", Options{}, Unreadable, 0}, {"5-A", Options{}, Unreadable, 0},
		{"12,34.5 V", Options{}, Unreadable, 0}, {"10 x 10 mm", Options{}, Read, 0}, {"100 MA", Options{Of: Current}, Doubt, 2}, {"1200 mA²s", Options{}, Doubt, 2}, {"1 000 µF", Options{}, Doubt, 1},
		{"N/A", Options{}, Absent, 0}, {" - ", Options{}, Absent, 0}, {"TBD", Options{Of: Power}, Absent, 0},
		{"green", Options{}, Unreadable, 0}, {"10 kΩ and more", Options{}, Unreadable, 0}, {"1e999 F", Options{}, Unreadable, 0},
		{"3 apples", Options{}, Unreadable, 0}, {"1/3 W", Options{}, Unreadable, 0}, {"5.0.1 V", Options{}, Unreadable, 0},
	} {
		r := Parse(c.text, c.o)
		assert.Equal(t, c.outcome, r.Outcome, "%q: %s", c.text, r.Why)
		assert.Len(t, r.Possible, c.readings, "%q", c.text)
		if c.outcome == Doubt || c.outcome == Unreadable {
			assert.NotEmpty(t, r.Why, c.text)
		}
	}
}

func TestMarkingAndCaseCodes(t *testing.T) {
	for text, want := range map[string]string{"4.7 kΩ": "4k7", "100 nF": "100n", "50 mΩ": "0R05", "2.2 µH": "2u2", "5 V": ""} {
		assert.Equal(t, want, MustParse(text).Marking())
	}
	inch, ok := CaseFromMetric("0402")
	assert.True(t, ok)
	assert.Equal(t, "01005", inch, "0402 metric is not 0402 inch")
}

// anyMeasure draws a measure such as Parse could have made.
func anyMeasure(t *rapid.T) Measure {
	num := func(label string) Number {
		n, err := NewNumber(rapid.Int64Range(1, 999999).Draw(t, label), rapid.IntRange(-12, 3).Draw(t, label+"exp"))
		require.NoError(t, err)
		return n
	}
	m := Measure{Of: Dimension(rapid.IntRange(1, int(dimensions)-1).Draw(t, "of"))}
	switch rapid.IntRange(0, 3).Draw(t, "shape") {
	case 0:
		m = Of(m.Of, num("n"))
		if m.Of != Ratio && rapid.Bool().Draw(t, "tol") {
			m.Tol, m.Plus = Percent, num("plus")
			m.Minus = m.Plus
		}
	case 1:
		m.Shape, m.Low, m.High = Range, num("a").Neg(), num("b")
	case 2:
		m.Shape, m.High = AtMost, num("n")
	case 3:
		m.Shape, m.Low = Above, num("n")
	}
	return m
}

func TestShowThenParseIsTheIdentity(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := rapid.Custom(anyMeasure).Filter(func(m Measure) bool { return (&Options{}).implausible(&m) == "" }).Draw(t, "m")
		r := Parse(m.String(), Options{Of: m.Of, Mark: MarkPoint})
		require.Equal(t, Read, r.Outcome, "%s: %s", m, r.Why)
		require.Equal(t, m, r.Measure, m.String())
		b, err := json.Marshal(m)
		require.NoError(t, err)
		var back Measure
		require.NoError(t, json.Unmarshal(b, &back))
		require.Equal(t, m, back)
	})
}

func TestNumbersAreExactAndOrdered(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		ca, cb := rapid.Int64Range(-1e9, 1e9).Draw(t, "a"), rapid.Int64Range(-1e9, 1e9).Draw(t, "b")
		a, _ := NewNumber(ca, -3)
		b, _ := NewNumber(cb, -3)
		sum, err := a.Add(b)
		require.NoError(t, err)
		want, _ := NewNumber(ca+cb, -3)
		require.Equal(t, want, sum)
		require.Equal(t, ca < cb, a.Cmp(b) < 0)
		back, err := ParseNumber(a.String())
		require.NoError(t, err)
		require.Equal(t, a, back)
	})
	_, err := ParseNumber("1234567890123456789")
	assert.ErrorIs(t, err, ErrTooLong)
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"4k7", "1,000 µF", "-40 to +85 °C", "+80/-20 %", "600 Ω @ 100 MHz", "\xff\x00", "1/8W"} {
		f.Add(s, uint8(1))
	}
	f.Fuzz(func(t *testing.T, s string, d uint8) {
		r := Parse(s, Options{Of: Dimension(d % uint8(dimensions))})
		if r.Text != s {
			t.Fatalf("the text was lost: %q", r.Text)
		}
		if r.Outcome == Read {
			again := Parse(r.Measure.String(), Options{Of: r.Measure.Of, Mark: MarkPoint})
			if again.Outcome != Read || again.Measure.Bare() != r.Measure.Bare() {
				t.Fatalf("%q shows as %q, which reads as %+v", s, r.Measure, again)
			}
		}
		end := 0
		for _, f := range Facts(s, Options{}) {
			if f.From < end || f.To <= f.From || f.To > len(s) || strings.Trim(s[end:f.From], " \t\r\n;,|/\u00a0") != "" {
				t.Fatalf("%q: the fact %d to %d loses text or overlaps", s, f.From, f.To)
			}
			end = f.To
		}
	})
}

func TestSeveralFactsInOneTextEachWithItsPlace(t *testing.T) {
	show := func(text string) (out []string) {
		for _, f := range Facts(text, Options{}) {
			s := text[f.From:f.To] + "="
			switch {
			case f.Word:
				s += "word"
			case f.Case != (Case{}):
				s += f.Case.String()
			case f.Reading.Outcome == Doubt:
				s += "doubt"
			default:
				s += f.Reading.Measure.String()
			}
			out = append(out, s)
		}
		return out
	}
	for text, want := range map[string][]string{
		"2.2uF ±10% 25V X7R 1206":              {"2.2uF=2.2 µF", "±10%=±10 %", "25V=25 V", "X7R=word", "1206=1206 inch (3216 metric)"},
		"RES 4.7 kΩ 1% 0.125 W 0805":           {"RES=word", "4.7 kΩ=4.7 kΩ", "1%=1 %", "0.125 W=125 mW", "0805=0805 inch (2012 metric)"},
		"10 kΩ ± 1%, 100 ppm/°C":               {"10 kΩ=10 kΩ", "± 1%=±1 %", "100 ppm/°C=100 ppm/°C"},
		"Ferrite, 600 Ω @ 100 MHz, 1.5A; 0402": {"Ferrite=word", "600 Ω @ 100 MHz=600 Ω @ 100 MHz", "1.5A=1.5 A", "0402=doubt"},
		"LDO 3.3 V, 5 V out -40 °C to +85 °C":  {"LDO=word", "3.3 V, 5 V=3.3, 5 V", "out=word", "-40 °C to +85 °C=-40 to 85 °C"},
		"0402 inch":                            {"0402 inch=0402 inch (1005 metric)"},
		"1005 metric 50 mΩ max":                {"1005 metric=0402 inch (1005 metric)", "50 mΩ max=≤ 50 mΩ"},
		"":                                     nil,
		"10uF/16V/X5R/0805":                    {"10uF=10 µF", "16V=16 V", "X5R=word", "0805=0805 inch (2012 metric)"},
		"0805/10k/1%":                          {"0805=0805 inch (2012 metric)", "10k=doubt", "1%=1 %"},
		"10 k 1% 1/8W":                         {"10 k=doubt", "1%=1 %", "1/8W=125 mW"},
		"Relay DC 12 V 100V/µs AC/DC":          {"Relay=word", "DC 12 V=12 V DC", "100V/µs=100 V/µs", "AC/DC=word"},
		"100n,X7R,50V":                         {"100n=doubt", "X7R=word", "50V=50 V"},
	} {
		assert.Equal(t, want, show(text), text)
	}
}

func TestCaseCodesAreNeverConfused(t *testing.T) {
	for text, want := range map[string][]string{"0402": {"0402", "01005"}, "0402 metric": {"01005"}, "0402M": {"01005"}, "1005M": {"0402"}, "0402 inch": {"0402"},
		"0603 (1608 metric)": {"0603"}, "1608": {"0603"}, "1206": {"1206"}, "EIA 1206": {"1206"}, "9999": nil, "12": nil, "SOT-23": nil} {
		cases, why, _ := ReadCase(text)
		var inch []string
		for _, c := range cases {
			inch = append(inch, c.Inch)
		}
		assert.Equal(t, want, inch, text)
		assert.Equal(t, len(cases) > 1, why != "", text)
	}
}

func TestPreferredNumbers(t *testing.T) {
	for i, v := range e192 {
		want := int64(math.Round(100 * math.Pow(10, float64(i)/192)))
		if v == 920 {
			want = 920 // the one value that IEC 60063 rounds otherwise
		}
		assert.Equal(t, want, v, "E192 value %d", i)
	}
	n := MustParseNumber
	for value, want := range map[string]Series{"4700": 3, "0.0000000022": 3, "1000": 3, "150": 6, "1200": 12, "5.1": 24, "499": 96, "49900": 96, "4.87": 48, "0.0505": 192} {
		s, ok := SeriesOf(n(value))
		assert.True(t, ok, value)
		assert.Equal(t, want, s, value)
	}
	_, ok := SeriesOf(n("4.71"))
	assert.False(t, ok)
	below, above := Series(12).Around(n("950"))
	assert.Equal(t, []string{"820", "1000"}, []string{below.String(), above.String()})
	assert.Equal(t, "4990", Series(96).Nearest(n("5000")).String())
	assert.Equal(t, "10", Series(24).Nearest(n("9.9")).String())
	for percent, want := range map[string]Series{"20": 6, "10": 12, "5": 24, "2": 48, "1": 96, "0.5": 192, "0.1": 192, "50": 3} {
		assert.Equal(t, want, SeriesFor(n(percent)), percent)
	}
	rapid.Check(t, func(t *rapid.T) {
		v, _ := NewNumber(rapid.Int64Range(1, 99999).Draw(t, "n"), rapid.IntRange(-12, 6).Draw(t, "e"))
		s := rapid.SampledFrom(AllSeries).Draw(t, "series")
		below, above := s.Around(v)
		require.True(t, below.Cmp(v) <= 0 && v.Cmp(above) <= 0)
		require.True(t, s.Has(below) && s.Has(above) && s.Has(s.Nearest(v)))
	})
}

func TestAChosenPrefix(t *testing.T) {
	for _, c := range [][3]string{{"100 nF", "µF", "0.1 µF"}, {"100 nF ±10 %", "pF", "100000 pF ±10 %"}, {"1.27 mm", "mil", "50 mil"}, {"1 mm", "mil", ""}, {"2 to 5 V", "mV", "2000 to 5000 mV"},
		{"≤ 50 mΩ", "Ω", "≤ 0.05 Ω"}, {"5 V", "A", ""}, {"3.3, 5 V", "mV", "3300, 5000 mV"}} {
		got, ok := MustParse(c[0]).In(c[1])
		assert.Equal(t, c[2], got, c[0])
		assert.Equal(t, c[2] != "", ok)
		if ok {
			assert.Equal(t, MustParse(c[0]), MustParse(got), "the prefix changes nothing")
		}
	}
}

// ordinary are values as most cells of most files hold them.
var ordinary = []string{"4.7 kΩ", "100nF", "0.1 µF", "25 V", "±1%", "125mW", "4k7", "10uH", "16MHz", "2.2 nF", "1.5A", "100 ppm/°C", "-55 to 125 °C", "10R", "3.3V", "47"}

func TestOrdinaryValuesTakeNoMemory(t *testing.T) {
	for _, text := range ordinary[:15] {
		assert.Zero(t, testing.AllocsPerRun(100, func() { Parse(text, Options{}) }), text)
	}
}

func BenchmarkParse(b *testing.B) {
	for i := 0; b.Loop(); i++ {
		Parse(ordinary[i%15], Options{})
	}
}

func TestNoValueIsShownInAUnitThatWouldBeDoubted(t *testing.T) {
	for d := range dimensions {
		for _, p := range dims[d].show {
			unit := strings.TrimSpace(string(p)) + dims[d].base
			if d == None {
				continue
			}
			us := unitsFor(unit, d)
			if assert.Len(t, us, 1, unit) {
				assert.False(t, us[0].rare, "%s: %s", d, unit)
			}
		}
	}
}

// A tolerance is written in per cent or in millionths; 10,000 of these are one of those, whatever it is sorted, compared or looked up by.
func TestDeviationsInPerCentAndInMillionthsAreOnOneScale(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		draw := func(label string) (Measure, int64) {
			millionths := rapid.Int64Range(1, 200_000).Draw(t, label)
			if rapid.Bool().Draw(t, label+" in millionths") {
				return MustParse(fmt.Sprintf("±%d ppm", millionths)), millionths
			}
			return MustParse(fmt.Sprintf("±%d.%04d %%", millionths/10_000, millionths%10_000)), millionths
		}
		a, na := draw("one")
		b, nb := draw("other")
		if rapid.IntRange(0, 2).Draw(t, "alike") == 0 {
			b, nb = MustParse(fmt.Sprintf("±%d ppm", na)), na
		}
		if nearer := cmp.Compare(na, nb); nearer != 0 {
			assert.Equal(t, nearer, max(-1, min(1, a.Cmp(b))), "%s and %s", a, b)
		}
		assert.Equal(t, na == nb, a.Same(b), "%s and %s", a, b)
		assert.Equal(t, na == nb, a.InPercent() == b.InPercent(), "%s and %s", a, b)
		assert.Equal(t, na == nb, a.Value() == b.Value(), "%s and %s", a, b)
		assert.InEpsilon(t, float64(na)/10_000, a.Value().Float64(), 1e-12, "%s in per cent", a)
	})
}
