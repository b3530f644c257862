package measure_test

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure"
)

// A text of several facts, in either decimal mark, with or without a blank before the unit, parted by whatever people put
// between facts, gives each of them back, in order, and nothing else.
func TestFactsOfATextInEitherMark(t *testing.T) {
	units := []struct {
		unit string
		of   measure.Dimension
	}{{"kΩ", measure.Resistance}, {"µF", measure.Capacitance}, {"nF", measure.Capacitance}, {"V", measure.Voltage}, {"mA", measure.Current}, {"W", measure.Power}, {"mm", measure.Length}, {"MHz", measure.Frequency}, {"%", measure.Ratio}, {"mH", measure.Inductance}}
	r := rand.New(rand.NewPCG(12, 6))
	for range 4000 {
		mark := []string{".", ","}[r.IntN(2)]
		var text strings.Builder
		var want []measure.Measure
		for i := range 1 + r.IntN(4) {
			u := units[r.IntN(len(units))]
			for i > 0 && u.of == want[i-1].Of { // "5 V, 3 V" is a list
				u = units[r.IntN(len(units))]
			}
			whole, part := 1+r.IntN(99), r.IntN(10)
			number := fmt.Sprint(whole)
			if part > 0 {
				number += mark + fmt.Sprint(part)
			}
			if i > 0 {
				text.WriteString([]string{" ", ", ", "; ", " und ", " with ", " | "}[r.IntN(6)])
			}
			text.WriteString(number + []string{"", " ", "\u00a0"}[r.IntN(3)] + u.unit)
			want = append(want, measure.MustParse(strings.Replace(number, ",", ".", 1)+" "+u.unit))
		}
		var got []measure.Measure
		for _, f := range measure.Facts(text.String(), measure.Options{}) {
			switch {
			case f.Reading.Outcome == measure.Read && f.Case == (measure.Case{}):
				got = append(got, f.Reading.Measure)
			case !f.Word:
				t.Fatalf("%q: %q is %s: %s", text.String(), f.Reading.Text, f.Reading.Outcome, f.Reading.Why)
			}
		}
		require.Equal(t, want, got, text.String())
	}
}

func TestALimitBetweenTwoFactsIsTheLatters(t *testing.T) {
	for text, want := range map[string][]string{
		"20 V at least 10 kΩ": {"20 V", "≥ 10 kΩ"}, "20 V at most 5 A": {"20 V", "≤ 5 A"}, "5 A at least": {"≥ 5 A"}, "2 A at 25 °C": {"2 A @ 25 °C"}, "10 kΩ over 25 V": {"10 kΩ", "> 25 V"}, "10 kΩ up to 70 °C": {"10 kΩ", "≤ 70 °C"},
	} {
		var got []string
		for _, f := range measure.Facts(text, measure.Options{}) {
			got = append(got, f.Reading.Measure.String())
		}
		require.Equal(t, want, got, text)
	}
}
