package headings

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHeadingsOfFiveLanguagesMeanTheSame(t *testing.T) {
	for heading, want := range map[string]string{
		"Hersteller": "manufacturer", "Hersteller-Nr.": "manufacturer part number", "Réf. fab.": "manufacturer part number", "Gehäuse": "package", "Gehaeuse": "package", "GEHÄUSE": "package", "Bauform": "package",
		"Qté": "quantity", "Cantidad": "quantity", "Q.tà": "quantity", "Menge": "quantity", "Tension nominale": "voltage rating", "Tensión": "voltage rating", "Nennspannung": "voltage rating", "Widerstand": "resistance",
		"Résistance": "resistance", "Capacità": "capacitance", "Kapazität": "capacitance", "Kapazitaet": "capacitance", "Wellenlänge": "wavelength", "Foo": "", "": "",
	} {
		assert.Equal(t, want, English(heading), heading)
	}
	assert.Equal(t, "voltage rating", Long("Volt. rtg. (max)"))
	assert.Equal(t, "manufacturer part number", Long("Mfr P/N"))
}

func TestNoHeadingMeansTwoThings(t *testing.T) {
	seen := map[string]string{}
	for _, line := range strings.Split(strings.TrimSpace(termsText), "\n") {
		english, others, _ := strings.Cut(line, " = ")
		for _, term := range strings.FieldsFunc(others, func(r rune) bool { return r == '|' || r == ';' }) {
			p := Plain(term)
			assert.Contains(t, []string{"", english}, seen[p], "%q is under %q and %q", term, seen[p], english)
			seen[p] = english
		}
	}
}
