package measure

import (
	"encoding/json"
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
		"4.7 pF ±0.25 pF": {None, "4.7 pF ±250 fF"}, "16 MHz ±10 ppm": {None, "16 MHz ±10 ppm"},
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
		{"104", Options{Of: Capacitance}, Doubt, 2},
		{"12", Options{Of: Voltage}, Doubt, 1},
		{"12", Options{Of: Voltage, Unit: "V"}, Read, 0},
		{"10 kΩ", Options{Of: Capacitance}, Doubt, 1},
		{"4u7", Options{}, Doubt, 2},
		{"4R7", Options{Of: Inductance}, Doubt, 1},
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
		m := anyMeasure(t)
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
	})
}
