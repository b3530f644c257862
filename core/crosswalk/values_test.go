package crosswalk

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
)

func judging(t *testing.T, drawers ...string) (*suggester, func(name string, sample ...string) string) {
	t.Helper()
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	k := Known{Cabinet: cab, Drawers: drawers}
	return &suggester{k: k, in: map[string]bool{}}, func(name string, sample ...string) string {
		all := Suggest([]Column{{name, sample}}, k)
		if len(all) == 0 {
			return "-"
		}
		g := all[0]
		out := g.To
		if g.Sure == Likely {
			out += "?"
		}
		if g.Unit != "" {
			out += " in " + g.Unit
		}
		if g.System != "" {
			out += " by " + g.System
		}
		return out
	}
}

func TestAColumnThatCountsItsRows(t *testing.T) {
	s, _ := judging(t)
	for text, want := range map[string]bool{"1 2 3": true, "1 2": false, "1": false, "": false, "5 6 7 8": true, "10 20 30": true, "10 20 31": false, "1 3 2": false, "1 1 2": false, "1 2 x": false, "3 2 1": false, "1 11 21": true, "1 12 13": false} {
		assert.Equal(t, want, s.running(Column{"No", strings.Fields(text)}), text)
	}
}

func TestTheSystemThatAColumnOfCasesIsWrittenIn(t *testing.T) {
	s, _ := judging(t)
	inch, metric := cabinet.Parameter{ChipCode: "inch"}, cabinet.Parameter{ChipCode: "metric"}
	for _, c := range []struct {
		name, sample string
		p            cabinet.Parameter
		want         string
	}{
		{"Case", "0805 1206", inch, "inch"}, {"Case", "2012 3216", inch, "metric"}, {"Case", "2012 3216", metric, "metric"}, {"Case", "0805 2012", inch, ""}, {"Case", "0402 0603", inch, ""}, {"Case (metric)", "0402 0603", inch, "metric"}, {"Case metric", "0805 0603", inch, "inch"}, {"Case inch", "0402 0603", inch, "inch"},
		{"Imperial", "0402 0603", inch, "inch"}, {"Case inch", "0402 2012", inch, "metric"}, {"Case", "SOT-23 SOIC-8", inch, "inch"}, {"Case", "SOT-23 SOIC-8", metric, ""}, {"Case", "", inch, "inch"}, {"Case", "0805", cabinet.Parameter{}, ""},
	} {
		assert.Equal(t, c.want, s.system(Column{c.name, strings.Fields(c.sample)}, c.p), "%+v", c)
	}
}

func TestWordsThatTwoNamesShare(t *testing.T) {
	for _, c := range []struct {
		a, b string
		n    int
	}{
		{"forward voltage", "forward voltage", 2}, {"voltage", "forward voltage", 1}, {"volt", "voltage", 1}, {"vol", "voltage", 0}, {"voltage", "volt", 1}, {"rated value", "rated value", 0}, {"v", "v", 0}, {"of the", "of the", 0}, {"", "x", 0}, {"pin pin", "pin", 2}, {"tol", "tol", 1}, {"tol", "tolerance", 0},
	} {
		assert.Equal(t, c.n, sharedWords(strings.Fields(c.a), strings.Fields(c.b)), "%s and %s", c.a, c.b)
	}
	assert.Equal(t, []string{"rated", "voltage"}, bagOf("voltage rating"))
	assert.Equal(t, []string{"rated", "voltage"}, bagOf("rated voltage of the"))
	assert.Empty(t, bagOf("max value"))
	for text, want := range map[string]bool{"yes": true, " No ": true, "standard": true, "X": true, "X7R": false, "": false} {
		assert.Equal(t, want, common(text), text)
	}
}

// Shares of values, and what they are enough for: a field's own name needs half of them, its shape nearly all.
func TestHowManyValuesMustFit(t *testing.T) {
	_, says := judging(t, "chip-resistors")
	list := func(good, bad int, yes, no string) (out []string) {
		for range good {
			out = append(out, yes)
		}
		for range bad {
			out = append(out, no)
		}
		return out
	}
	assert.Equal(t, "resistance", says("Resistance", list(10, 10, "4.7 kΩ", "5 V")...), "half of them")
	assert.Equal(t, "-", says("Resistance", list(9, 11, "4.7 kΩ", "5 V")...), "less than half")
	assert.Equal(t, "resistance", says("Resistance", list(0, 10, "", "47")...), "doubts count a little more than half")
	assert.Equal(t, "resistance", says("Resistance"), "nothing speaks against it")
	assert.Equal(t, "resistance?", says("Xyz", list(87, 13, "4.7 kΩ", "odd")...), "nearly all")
	assert.Equal(t, "-", says("Xyz", list(85, 15, "4.7 kΩ", "odd")...), "0.85 is not enough")
	assert.Equal(t, "-", says("Xyz", "4.7 kΩ", "10 kΩ"), "two say too little")
	assert.Equal(t, "resistance?", says("Xyz", "4.7 kΩ", "10 kΩ", "1 Ω"))
	assert.Equal(t, "-", says("Xyz"))
	assert.Equal(t, "tolerance?", says("Xyz", "±1 %", "±5 %", "±0.1 %"))
	assert.Equal(t, "case? by inch", says("Xyz", "0805", "1206", "2512"))
	assert.Equal(t, "resistor-technology?", says("Xyz", "thick film", "thin film", "thick film"))
	assert.Equal(t, "-", says("Xyz", "thick film", "thick film", "thick film"), "one value is no choice")
	assert.Equal(t, "-", says("Xyz", "yes", "no", "yes"))
	assert.Equal(t, "power in mW", says("Power (mW)", "100", "125"))
	assert.Equal(t, "-", says("Power (mm)", "100", "125"), "a power is no length")
}

func TestWhatIdentifiesARowIsKnownByItsName(t *testing.T) {
	_, says := judging(t)
	many := func(n int, form string) (out []string) {
		for i := range n {
			out = append(out, fmt.Sprintf(form, i))
		}
		return out
	}
	assert.Equal(t, "take.kind", says("Category", many(40, "Kind %d")...))
	assert.Equal(t, "-", says("Category", many(41, "Kind %d")...), "so many kinds there are not")
	assert.Equal(t, "take.kind", says("Kategorie", many(40, "Art %d")...))
	assert.Equal(t, "-", says("Kategorie", many(41, "Art %d")...))
	assert.Equal(t, "take.mpn", says("MPN", "TW-1"))
	assert.Equal(t, "take.mpn?", says("Typ", "TW-1", "KL-2"))
	assert.Equal(t, "-", says("Typ", "Schottky", "Zener"), "words are no numbers")
	assert.Equal(t, "take.mpn?", says("Typ", "Schottky", "KL-2"), "half of them may be")
	assert.Equal(t, "take.description", says("Description", "4.7 kΩ", "10 V"), "a description may hold anything")
	assert.NotContains(t, says("Family", "4.7 kΩ", "10 kΩ"), "kind", "a family that holds values is none")
	assert.Equal(t, "take.datasheet?", says("Xyz", "http://a.example/x.pdf", "y.PDF"))
	assert.Equal(t, "-", says("Xyz", "http://a.example/x.html", "y.pdf"))
	assert.Equal(t, "take.stock", says("Stock", "100", "5"))
	assert.Equal(t, "-", says("Weight", "100", "5"))
	assert.Equal(t, "@leading", says("Value", "4k7"))
	assert.Equal(t, "@leading", says("Wert", "4k7"))
	assert.Equal(t, "-", says("", "4k7"))
}

func TestWhatOtherCrosswalksSayIsFollowedWhereTheyAgree(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	cw := func(supplier, to string) Crosswalk {
		return Crosswalk{Supplier: supplier, Fields: []Rule{{From: "Own name", To: to, Unit: map[bool]string{true: "mW"}[to == "power"]}}}
	}
	says := func(sample []string, earlier ...Crosswalk) string {
		g := Suggest([]Column{{"own Name", sample}}, Known{Cabinet: cab, Earlier: earlier})
		if len(g) == 0 {
			return "-"
		}
		return strings.Join(strings.Fields(g[0].To+" "+g[0].Unit+" "+g[0].Sure), " ")
	}
	assert.Equal(t, "resistance certain", says([]string{"4k7"}, cw("A", "resistance")))
	assert.Equal(t, "resistance certain", says([]string{"4k7"}, cw("A", "resistance"), cw("B", "resistance")))
	assert.Equal(t, "-", says([]string{"4k7"}, cw("A", "resistance"), cw("B", "power")), "they do not agree")
	assert.Equal(t, "-", says([]string{"5 V", "6 V"}, cw("A", "resistance")), "the values speak against it")
	assert.Equal(t, "power mW certain", says([]string{"100"}, cw("A", "power")))
	assert.Equal(t, "@leading certain", says([]string{"100"}, cw("A", Leading)))
	assert.Equal(t, "-", says([]string{"100"}, cw("A", "no-such-parameter")))
	one := cw("A", "resistance")
	one.Fields[0].Drawers = []string{"fuses"}
	assert.Equal(t, "-", says([]string{"4k7"}, one), "a rule for some drawers is none for all")
}

func TestAScoreCountsRightWrongAndOpen(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	s, wrong, err := Measure([]byte(`
- drawers: [chip-resistors]
  fields:
    - { name: Resistance, sample: ["4.7 kΩ"], right: resistance }
    - { name: Weight, sample: ["5"], right: "-" }
    - { name: Qwerty, sample: ["a"], right: power }
    - { name: Tolerance, sample: ["1 %"], right: power }
    - { name: Pwr rtg, sample: ["0.1 W"], right: case }
`), cab)
	require.NoError(t, err)
	assert.Equal(t, Score{Right: 1, Open: 1, RightlyOpen: 1, Wrong: 2, WrongCertain: 1}, s)
	assert.Equal(t, []string{"Qwerty was left open, and is power", "Tolerance became tolerance, not power", "Pwr rtg became power, not case"}, wrong)
	_, _, err = Measure([]byte("{"), cab)
	assert.ErrorContains(t, err, "cannot be read")
}
