package model

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

func TestDimensionsAsDrawingsGiveThem(t *testing.T) {
	for text, want := range map[string]string{
		"6": "6..6", "6.0": "6..6", "6,0": "6..6", ".5": "0.5..0.5", " 6 mm ": "6..6", "6 BSC": "6..6", "6.00 basic": "6..6", "Ø0.45": "0.45..0.45",
		"5.8..6.2": "5.8..6.2", "5.8 .. 6.2": "5.8..6.2", "5.8 … 6.2": "5.8..6.2", "5.8 – 6.2": "5.8..6.2", "5.8-6.2": "5.8..6.2", "5.8 to 6.2": "5.8..6.2", "5.8 bis 6.2": "5.8..6.2", "5,8 à 6,2": "5.8..6.2", "5.8/6.2": "5.8..6.2", "5.8 mm – 6.2 mm": "5.8..6.2", "0.228 - 0.244 in": "5.7912..6.1976",
		"6 ± 0.2": "5.8..6.2", "6±0.2": "5.8..6.2", "6.00±0.20": "5.8..6.2", "6 +/- 0.2": "5.8..6.2", "6+-0.2": "5.8..6.2", "6,0 ± 0,2": "5.8..6.2", "6 ± 0": "6..6", "6 mm ± 0.2 mm": "5.8..6.2", "236 ± 8 mil": "5.7912..6.1976", "⌀0.45 ± 0.05": "0.4..0.5",
		"6 +0.2/-0.1": "5.9..6.2", "6 +0.2 -0.1": "5.9..6.2", "6+0.2-0.1": "5.9..6.2", "6 +0 -0.1": "5.9..6", "6 -0.1 +0.2": "5.9..6.2", "6 -0.1/+0": "5.9..6", "6 +0.2, -0.1": "5.9..6.2",
		"min 5.8 max 6.2": "5.8..6.2", "min. 5.8, max. 6.2": "5.8..6.2", "Min: 5.8 / Max: 6.2": "5.8..6.2", "5.8 min 6.2 max": "5.8..6.2", "5.8 (min) .. 6.2 (max)": "5.8..6.2", "5.8 MIN, 6.2 MAX": "5.8..6.2",
		"max. 6.2, min. 5.8": "5.8..6.2", "MAX 6.2 MIN 5.8": "5.8..6.2", "6.2 max / 5.8 min": "5.8..6.2",
		"6\u00a0mm": "6..6", "6\u2009±\u20090.2": "5.8..6.2", "6 (±0.2)": "5.8..6.2", "6.0 (+0.2/-0.1) mm": "no dimension", "6.0 mm (+0.2/-0.1)": "5.9..6.2", "5.8~6.2": "5.8..6.2", "5.8 ÷ 6.2 mm": "5.8..6.2", "from 5.8 to 6.2": "5.8..6.2", "6.00 BSC.": "6..6",
		"5.8 / 6 / 6.2": "5.8..6.2", "5.8 .. 6 .. 6.2": "5.8..6.2", "5.8 6.0 6.2": "5.8..6.2", "5.8 - 6.0 - 6.2": "5.8..6.2", "6 / 6 / 6": "6..6",
		"6 max": "names one limit", "max 6": "names one limit", "≤ 6": "names one limit", "<6": "names one limit", "5.8 min": "names one limit",
		"6 typ": "without limits", "6 REF": "without limits", "(6)": "without limits", "6 nom": "without limits", "5.8 / 6 typ / 6.2": "without limits",
		"6.2 .. 5.8": "begins with the greater", "6 - 0.2": "begins with the greater", "5.8 / 5 / 6.2": "begins with the greater", "5.8 / 7 / 6.2": "begins with the greater",
		"1,270": "may be a thousand", "1,270 ± 0,1": "may be a thousand", "6 mm ± 8 mil": "in two units", "6 ± 7": "less than nothing", "6 +0.2/-7": "less than nothing",
		"6 ±5%": "no dimension", "2X 6": "no dimension", "1.27 [.050]": "no dimension", "1.27/0.050": "begins with the greater", "6x6": "no dimension", "6 + 0.2": "no dimension", "1 270": "no dimension", "1.270,5": "no dimension", "6 - -0.2": "no dimension", "٦": "no dimension", "max 6.2 min 6.4": "begins with the greater",
		"": "no dimension", "six": "no dimension", "-6": "no dimension", "6 ± ": "no dimension", "± 0.2": "no dimension", "6 ± 0.2 ± 0.1": "no dimension", "5.8 .. 6 / 6.2": "no dimension", "6.2 x 5": "no dimension", "5.8 6.2": "no dimension", "6 kg": "no dimension", "6..": "no dimension", "..6": "no dimension", "6.1.2": "no dimension", "1e3": "no dimension",
	} {
		r, err := ParseRange(text)
		if strings.Contains(want, "..") {
			require.NoError(t, err, text)
			assert.Equal(t, want, fmt.Sprintf("%s..%s", r.Min, r.Max), text)
		} else {
			assert.ErrorContains(t, err, want, text)
		}
	}
}

// A dimension is what its limits are, in whichever form, unit and mark of decimals a drawing gives it.
func TestADimensionIsTheSameInEveryForm(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		unit := rapid.SampledFrom([]struct {
			name string
			of   Length
		}{{"", MM}, {" mm", MM}, {"mil", Mil}, {" in", Inch / 100}}).Draw(t, "unit")
		hundredth := unit.of / 100
		if unit.name == " in" {
			hundredth = Inch / 100
		}
		low := rapid.IntRange(20, 900).Draw(t, "low")
		off, more := rapid.IntRange(1, 15).Draw(t, "off"), rapid.IntRange(1, 15).Draw(t, "more")
		n := func(v int) string {
			s := fmt.Sprintf("%d.%02d", v/100, v%100)
			if rapid.Bool().Draw(t, "comma") {
				s = strings.ReplaceAll(s, ".", ",")
			}
			return s
		}
		middle := low + off
		want := Range{Min: Length(low) * hundredth, Max: Length(middle+off) * hundredth}
		text := ""
		switch rapid.IntRange(0, 4).Draw(t, "form") {
		case 0:
			text = n(low) + rapid.SampledFrom([]string{"..", " .. ", " - ", "–", " to "}).Draw(t, "between") + n(middle+off) + unit.name
		case 1:
			text = n(middle) + rapid.SampledFrom([]string{" ± ", "±", " +/- "}).Draw(t, "about") + n(off) + unit.name
		case 2:
			text, want.Max = n(middle)+" +"+n(more)+"/-"+n(off)+unit.name, Length(middle+more)*hundredth
		case 3:
			text = "min " + n(low) + " max " + n(middle+off) + unit.name
		case 4:
			text = n(low) + " / " + n(middle) + " / " + n(middle+off) + unit.name
		}
		got, err := ParseRange(text)
		require.NoError(t, err, text)
		require.Equal(t, want, got, text)
	})
}

func TestADimensionIsGivenOnce(t *testing.T) {
	f := Figures{Family: FamilyChip, Span: Range{Text: "1.6 ± 0.1"}, LeadLength: Range{Text: "0.2..0.5"}, LeadWidth: Range{Text: "0.8 ± 0.1"}}
	m, err := MakeLand(f, "nominal")
	require.NoError(t, err)
	same, err := MakeLand(Figures{Family: FamilyChip, Span: between2("1.5", "1.7"), LeadLength: between2("0.2", "0.5"), LeadWidth: between2("0.7", "0.9")}, "nominal")
	require.NoError(t, err)
	assert.Equal(t, same, m)
	f.Span.Min = MM
	_, err = MakeLand(f, "nominal")
	assert.ErrorContains(t, err, "the span is given twice")
	f.Span = Range{Text: "1.6 max"}
	_, err = MakeLand(f, "nominal")
	assert.ErrorContains(t, err, `the span: "1.6 max" names one limit`)
}
