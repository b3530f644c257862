package headings

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestHeadingsOfFiveLanguagesMeanTheSame(t *testing.T) {
	for heading, want := range map[string]string{
		"Hersteller": "manufacturer", "Hersteller-Nr.": "manufacturer part number", "Bestellbezeichnung": "manufacturer part number", "Typbezeichnung": "manufacturer part number", "Réf. fab.": "manufacturer part number", "Gehäuse": "package", "Gehaeuse": "package", "GEHÄUSE": "package", "Bauform": "package",
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

func TestHeadingsCutShort(t *testing.T) {
	for heading, want := range map[string]string{
		"Herst.-Nr.": "manufacturer part number", "Unsere Nr.": "part number", "HERST.-ARTIKELNR.": "manufacturer part number", "Hersteller Artikel Nr": "manufacturer part number", "Lieferanten Nr": "supplier number", "Lief.-Nr.": "supplier number", "Lagernr": "part number",
		"Kennz.": "designator", "Tens. nom.": "voltage rating", "Cour. nominal": "current rating", "Rif. prod.": "manufacturer part number", "Cod. fornit.": "supplier number", "Resist.": "resistance",
		"Nr.": "", "No": "", "N°": "", "St": "", "R": "", "xyz nr": "",
	} {
		got := English(heading)
		if got == "" {
			got = Abbreviated(heading)
		}
		if heading == "Nr." || heading == "No" || heading == "N°" {
			want = "item" // a number of nothing
		}
		assert.Equal(t, want, got, heading)
	}
}

// However a term is cut short, it is recognised or left open, and never taken for another.
func TestEveryTermCutShortIsItselfOrNothing(t *testing.T) {
	known, all := 0, 0
	for term, english := range terms {
		for cut := 4; cut <= 9; cut++ {
			var out []string
			for _, w := range hashed(term) {
				if w == "#" {
					w = "nr"
				}
				out = append(out, string([]rune(w)[:min(cut, len([]rune(w)))])+".")
			}
			heading := strings.Join(out, " ")
			if _, whole := terms[Plain(heading)]; whole && cut < len(term) { // a word of its own: "Strom" of "Stromaufnahme"
				continue
			}
			got := English(heading)
			if got == "" {
				got = Abbreviated(heading)
			}
			if all++; got == english {
				known++
			} else {
				assert.Empty(t, got, "%q cut to %v", term, out)
			}
		}
	}
	assert.Greater(t, known*10, all*7, "%d of %d", known, all)
}

func TestTheUnitOfAHeadingIsTakenFromIt(t *testing.T) {
	for heading, want := range map[string][2]string{
		"Resistance (Ohms)": {"Resistance", "Ohms"}, "Pitch [mm]": {"Pitch", "mm"}, "C/µF": {"C", "µF"}, "Pitch/mm": {"Pitch", "mm"}, "Value": {"Value", ""}, "(mm)": {"(mm)", ""}, "": {"", ""}, "Length (max": {"Length", ""},
	} {
		name, unit := Unit(heading)
		assert.Equal(t, want, [2]string{name, unit}, heading)
	}
}
