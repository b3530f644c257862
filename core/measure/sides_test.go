package measure_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	. "jollydrawer/core/measure"
)

func TestAToleranceAroundAValue(t *testing.T) {
	for _, c := range []struct{ tolerance, of, want string }{
		{"±5 %", "10 pF", "±0.5 pF"}, {"±1 %", "4.7 kΩ", "±47 Ω"}, {"±100 ppm", "1 MΩ", "±100 Ω"}, {"+80/-20 %", "1 µF", "-200/+800 nF"}, {"±0.05 %", "100 Ω", "±0.05 Ω"},
	} {
		tol, of := MustParse(c.tolerance), MustParse(c.of)
		got := tol.Around(of.Value(), of.Of)
		want := Parse(c.want, Options{Of: of.Of})
		if want.Outcome == Read {
			assert.Equal(t, want.Measure, got, "%s of %s", c.tolerance, c.of)
		}
		assert.Equal(t, []any{of.Of, Deviation, Absolute}, []any{got.Of, got.Shape, got.Tol}, c.tolerance)
		assert.Positive(t, got.Plus.Sign())
	}
	for _, text := range []string{"10 pF", "±0.5 pF", "5 to 10 V"} {
		m := MustParse(text)
		assert.Equal(t, m, m.Around(Whole(3), Capacitance), "%s is no relative tolerance", text)
	}
}

func TestAPlainRatioIsTheToleranceThatPeopleMean(t *testing.T) {
	assert.Equal(t, MustParse("±5 %"), MustParse("5 %").AsDeviation())
	for _, text := range []string{"±5 %", "5 V", "2 to 5 %", "≤ 5 %"} {
		assert.Equal(t, MustParse(text), MustParse(text).AsDeviation(), text)
	}
}

func TestTwoMeasuresAreTheSame(t *testing.T) {
	for _, c := range []struct {
		a, b string
		same bool
	}{
		{"4.7 kΩ", "4700 Ω", true}, {"4.7 kΩ", "4.7 kΩ ±1 %", true}, {"4.7 kΩ", "4.8 kΩ", false}, {"5 V", "5 A", false}, {"2 A @ 25 °C", "2 A", true}, {"2 A @ 25 °C", "2 A @ 85 °C", false}, {"2 A @ 25 °C", "2 A @ 25 °C", true}, {"≤ 2 A", "2 A", false}, {"1 to 2 V", "1..2 V", true},
	} {
		assert.Equal(t, c.same, MustParse(c.a).Same(MustParse(c.b)), "%s and %s", c.a, c.b)
		assert.Equal(t, c.same, MustParse(c.b).Same(MustParse(c.a)), "%s and %s", c.b, c.a)
	}
}

func TestTheNumbersThatARangeOfSensibleValuesMustHold(t *testing.T) {
	for text, want := range map[string][]string{"5 V": {"5"}, "≤ 5 V": {"5"}, "≥ 5 V": {"5"}, "2 to 5 V": {"2", "5"}, "±5 %": {"5", "5"}, "+80/-20 %": {"20", "80"}, "±100 ppm": {"0.01", "0.01"}, "2 V, 5 V": {"2", "5"}} {
		r := Parse(text, Options{})
		require.Equal(t, Read, r.Outcome, text)
		var got []string
		for _, n := range r.Measure.Numbers() {
			got = append(got, n.String())
		}
		assert.Equal(t, want, got, text)
	}
}

func TestShortFormsAndSpans(t *testing.T) {
	for text, want := range map[string]string{"4.7 kΩ ±1 %": "4.7kΩ", "±1 %": "±1%", "100 nF": "100nF", "-40 to 85 °C": "-40to85°C"} {
		assert.Equal(t, want, MustParse(text).Short(), text)
	}
	assert.Equal(t, "1 mΩ to 100 GΩ", Span(Resistance, MustParseNumber("0.001"), MustParseNumber("100000000000")))
	assert.Equal(t, "-40 °C to 85 °C", Span(Temperature, Whole(-40), Whole(85)))
}

func TestUnitsOfADimension(t *testing.T) {
	for _, c := range []struct {
		unit, of string
		is       bool
	}{{"kΩ", "resistance", true}, {"ohm", "resistance", true}, {"nF", "capacitance", true}, {"nF", "resistance", false}, {"", "resistance", false}, {"V", "voltage", true}, {"furlong", "length", false}, {"mm", "length", true}, {"mm", "no such", false}} {
		assert.Equal(t, c.is, UnitOf(c.unit, c.of), "%q of %s", c.unit, c.of)
	}
	assert.True(t, KnownUnit("mm"))
	assert.False(t, KnownUnit(""))
	assert.False(t, KnownUnit("furlong"))
}

// A code that stands in both systems is said by the word before or behind it, and never guessed.
func TestTheSystemOfAChipCode(t *testing.T) {
	for text, want := range map[string]string{
		"0603 metric": "0201", "metric 0603": "0201", "(metric) 0603": "0201", "metric: 0603": "0201", "0603M": "0201", "0603 mm": "0201", "imperial 0603": "0603", "0603 inch": "0603", "inch 0603": "0603", "eia 0603": "0603", "0603 in": "0603",
		"1608": "0603", "metric 1608": "0603", "0603 (1608 metric)": "0603", "case 0805": "0805", "size 2012 metric": "0805",
	} {
		cases, _, ok := ReadCase(text)
		require.True(t, ok, text)
		assert.Equal(t, want, cases[0].Inch, text)
		assert.True(t, len(cases) == 1, "%s: %v", text, cases)
	}
	cases, why, ok := ReadCase("0603")
	require.True(t, ok)
	assert.Len(t, cases, 2)
	assert.NotEmpty(t, why)
	for _, text := range []string{"metric 9999", "metric", "metric 0603 inch", "0603 feet", "metric 06033", "inch 1608", "06 03"} {
		_, _, ok := ReadCase(text)
		assert.False(t, ok, text)
	}
	facts := Facts("RES 10k metric 0603 1%", Options{})
	require.Len(t, facts, 4)
	assert.Equal(t, "0201", facts[2].Case.Inch, "the word belongs to the code")
}
