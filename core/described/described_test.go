package described

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

func TestANameBeforeAValueDecidesWhatItIs(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	l := NewLexicon(cab)
	for text, want := range map[string][]string{
		"Irms 3A Isat 2A":                          {"3A=current-rating", "2A=saturation-current"},
		"rated current 3 A saturation current 4 A": {"3 A=current-rating", "4 A=saturation-current"},
		"VF 0.5V VR 40V":                           {"0.5V=forward-voltage", "40V=reverse-voltage"},
		"Vin 6V Vout 3.3V":                         {"6V=input-voltage", "3.3V=output-voltage"},
		"Vin=6V, Vout: 3.3 V":                      {"6V=input-voltage", "3.3 V=output-voltage"},
		"VGS 20V":                                  {"20V=gate-source-voltage"},
		"VXY 20V":                                  {"20V=?"},
		"RES 10k 1% 0603":                          {"RES", "10k", "1%", "0603"},
		"3 pcs 10k":                                {"3 (count)", "pcs (count)", "10k"},
		"Rds(on) 20 mΩ":                            {"20 mΩ=on-resistance"},
		"DC resistance 0.1 Ω, rated current 2A":    {"0.1 Ω=dc-resistance", "2A=current-rating"},
		"DCR 20 mΩ 3 A":                            {"20 mΩ=dc-resistance", "3 A"},
	} {
		var got []string
		for _, p := range l.Read(text, measure.Options{}) {
			s := p.Text
			switch {
			case p.Count:
				s += " (count)"
			case p.Name != "" && len(p.Keys) == 0:
				s += "=?"
			case p.Name != "":
				s += "=" + p.Keys[0]
			}
			got = append(got, s)
			assert.Equal(t, text[p.From:p.To], p.Text)
		}
		assert.Equal(t, want, got, text)
	}
}
