package part

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestADrawingThatNamesAnotherPart(t *testing.T) {
	c := Content{Sources: []Source{{Manufacturer: "Breakwater Logic", MPN: "BW-CTL48"}, {Manufacturer: "Curlew", MPN: "CU-AD24/R"}}}
	known := func(mpn string) bool { return NormaliseMPN(mpn) == "BWCTL52" || NormaliseMPN(mpn) == "TW1" }
	for _, x := range []struct {
		claim, name string
		fields      map[string]string
		found       int
	}{
		{"a generic name", "SOIC-8", nil, 0},
		{"its own number", "BW-CTL48", map[string]string{"MPN": "BW CTL48"}, 0},
		{"another source's number", "CU-AD24/R", nil, 0},
		{"its own number in another packing", "x", map[string]string{"Manufacturer part number": "BW-CTL48-T7"}, 0},
		{"its stem", "x", map[string]string{"MPN": "CU-AD24"}, 0},
		{"a number that others have as its name", "BW-CTL52", nil, 1},
		{"a number that nobody has as its name", "BW-CTL99", nil, 0},
		{"another number in a field", "BW-CTL48", map[string]string{"mfr_part_number": "BW-CTL52"}, 1},
		{"a number that nobody has, in a field", "x", map[string]string{"MPN": "BW-CTL99"}, 1},
		{"its number with letters behind", "BW-CTL48TR", map[string]string{"MPN": "BW-CTL48TR"}, 0},
		{"a number that goes on with a digit", "x", map[string]string{"MPN": "BW-CTL485"}, 1},
		{"a number that ends within a value", "x", map[string]string{"MPN": "BW-CTL4"}, 1},
		{"a digit behind, then a packing", "x", map[string]string{"MPN": "BW-CTL485-T"}, 1},
		{"too short to be a stem", "x", map[string]string{"MPN": "BW"}, 1},
		{"its series", "x", map[string]string{"Series": "BW-CTL"}, 0},
		{"its series with words", "x", map[string]string{"Series": "BW-CTL controllers"}, 0},
		{"another series", "x", map[string]string{"Series": "BW-AMP"}, 1},
		{"fields that name neither", "x", map[string]string{"Value": "BW-CTL52", "Package": "TW1", "Supplier part": "NQ-1"}, 0},
		{"blank fields", "x", map[string]string{"MPN": " ", "Series": "-"}, 0},
		{"both a field and the name", "TW-1", map[string]string{"MPN": "TW-1"}, 2},
	} {
		assert.Len(t, c.NamesAnother(x.name, x.fields, known), x.found, x.claim)
	}
	none := Content{}
	assert.Empty(t, none.NamesAnother("BW-CTL52", nil, known), "a part without sources has no number to differ from")
}
