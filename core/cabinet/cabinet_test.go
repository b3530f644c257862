package cabinet

import (
	"encoding/json"
	"reflect"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"jollydrawer/core/measure"
)

const sample = `
format: jolly-cabinet/1
parameters:
  - { key: resistance, label: Resistance, type: measure, of: resistance }
  - { key: tolerance, label: Tolerance, type: measure, of: ratio, deviation: true }
  - { key: case, label: Case, type: text }
  - { key: colour, label: Colour, type: choice, choices: [red, green, blue] }
  - { key: pins, label: Pins, type: number }
  - { key: sealed, label: Sealed, type: yes-no }
  - { key: sheet, label: Sheet, type: link }
drawers:
  - { key: electrical, label: Electrical, digits: 5, case: case, parameters: [{ key: case }] }
  - { key: resistors, label: Resistors, parent: electrical, prefix: R, leading: resistance, description: "RES {resistance}[ {tolerance}][, {case}]", parameters: [{ key: resistance, required: true }, { key: tolerance }] }
  - { key: chips, label: Chips, parent: resistors, parameters: [{ key: case, required: true }] }
  - { key: leds, label: LEDs, parent: electrical, prefix: D, parameters: [{ key: colour, choices: [red, green] }] }
`

func TestTemplatesInheritAndNarrow(t *testing.T) {
	c, err := Parse([]byte(sample))
	require.NoError(t, err)
	chips, ok := c.Template("chips")
	require.True(t, ok)
	assert.Equal(t, []string{"electrical", "resistors", "chips"}, chips.Path)
	assert.Equal(t, "resistance", chips.Leading)
	assert.Equal(t, "R-00042", chips.PartNumber(42))
	assert.True(t, chips.Leaf)
	slot, _ := chips.Slot("case")
	assert.True(t, slot.Required, "a child may demand more")
	assert.Equal(t, "electrical", slot.From)
	parent, _ := c.Template("resistors")
	slot, _ = parent.Slot("case")
	assert.False(t, slot.Required, "and its parent is not changed by that")
	leds, _ := c.Template("leds")
	slot, _ = leds.Slot("colour")
	assert.Equal(t, []string{"red", "green"}, slot.Choices)
}

func TestWritingAndReadingADocumentIsTheIdentity(t *testing.T) {
	c, err := Parse([]byte(sample))
	require.NoError(t, err)
	raw, err := yaml.Marshal(c.Document)
	require.NoError(t, err)
	again, err := Parse(raw)
	require.NoError(t, err)
	assert.Equal(t, c.Document, again.Document)
}

func TestContradictionsNameWhereTheTwoMeet(t *testing.T) {
	head := "format: jolly-cabinet/1\nparameters: [{key: x, label: X, type: choice, choices: [a, b]}, {key: y, label: Y, type: text}]\ndrawers:\n"
	for drawers, says := range map[string]string{
		"  - {key: a, label: A, parent: b}\n  - {key: b, label: B, parent: c}\n  - {key: c, label: C, parent: a}": "a → b → c → a",
		"  - {key: a, label: A, parent: nowhere}":        `parent "nowhere"`,
		"  - {key: a, label: A}\n  - {key: a, label: B}": `"a" is defined twice`,
		"  - {key: a, label: A, parameters: [{key: z}]}": "which the dictionary lacks",
		"  - {key: a, label: A, parameters: [{key: x}]}\n  - {key: b, label: B, parent: a, parameters: [{key: x, choices: [c]}]}": `allows "c" for "x", but a, b (from "a") does not`,
		"  - {key: a, label: A, parameters: [{key: y, choices: [c]}]}":                                                            "which is a text",
		"  - {key: a, label: A, leading: y}":                                                                                      "not in its template",
		"  - {key: a, label: A, identity: [y]}":                                                                                   "identifies parts by",
		"  - {key: a, label: A, prefix: P, digits: 3}\n  - {key: b, label: B, prefix: P, digits: 3}":                              "same prefix",
		"  - {key: a, label: A, prefix: P}":                                                                                       "says not of how many digits its counter is",
		"  - {key: a, label: A, prefix: P, digits: 13}":                                                                           "use 1 to 12",
		"  - {key: a, label: A, prefix: p, digits: 4}":                                                                            "use capitals, digits and dashes",
		"  - {key: a, label: A, description: 'RES {y', parameters: [{key: y}]}":                                                   "names no parameter",
		"  - {key: a, label: A, description: 'RES [{y}', parameters: [{key: y}]}":                                                 "is not closed",
		"  - {key: a, label: A, description: '{nothing}'}":                                                                        "names {nothing}",
		"  - {key: a, label: A, colour: green}":                                                                                   "the field colour is not known",
		"  - {key: Big, label: A}":                                                                                                "small letters",
	} {
		_, err := Parse([]byte(head + drawers))
		assert.ErrorContains(t, err, says, drawers)
	}
}

func TestParametersReadTextsOrSayWhyNot(t *testing.T) {
	c, err := Parse([]byte(sample))
	require.NoError(t, err)
	for _, x := range []struct{ key, text, shown, problem string }{
		{"resistance", "4k7", "4.7 kΩ", ""}, {"resistance", "n/a", "", ""}, {"resistance", "10 nF", "10 nF", "doubt (it is a capacitance, and a resistance is wanted)"},
		{"resistance", "12", "12", "doubt (it has no unit)"}, {"resistance", "green", "green", "unreadable"}, {"tolerance", "5%", "±5 %", ""},
		{"colour", "RED", "red", ""}, {"colour", "pink", "pink", "not-a-choice"}, {"pins", "8", "8", ""}, {"pins", "8.5", "8.5", "not-a-number"},
		{"sealed", "Y", "yes", ""}, {"sealed", "maybe", "maybe", "not-yes-no"}, {"sheet", "https://a.example/x.pdf", "https://a.example/x.pdf", ""},
		{"sheet", "javascript:alert(1)", "javascript:alert(1)", "not-a-link"}, {"case", " 0805 ", "0805", ""}, {"case", "-", "", ""},
	} {
		p, _ := c.Parameter(x.key)
		v, problem := p.Read(x.text, measure.Options{})
		assert.Equal(t, x.shown, v.String(), "%s %q", x.key, x.text)
		if x.problem == "" {
			assert.Nil(t, problem, "%s %q", x.key, x.text)
			if !v.IsBlank() {
				assert.NoError(t, p.OfType(v))
			}
		} else if assert.NotNil(t, problem, "%s %q", x.key, x.text) {
			assert.Equal(t, x.problem, problem.Kind)
			assert.Error(t, p.OfType(v))
		}
		raw, err := json.Marshal(v)
		require.NoError(t, err)
		var back Value
		require.NoError(t, json.Unmarshal(raw, &back))
		assert.Equal(t, v, back)
	}
}

func TestPatternsLoseWhatIsMissing(t *testing.T) {
	p, err := ParsePattern("RES {r}[ {tol}][, size {case}]")
	require.NoError(t, err)
	assert.Equal(t, "RES {r}[ {tol}][, size {case}]", p.String())
	r := Value{Type: Measure, Measure: measure.MustParse("4k7")}
	assert.Equal(t, "RES 4.7kΩ", p.Fill(map[string]Value{"r": r}))
	assert.Equal(t, "RES 4.7kΩ, size 0805", p.Fill(map[string]Value{"r": r, "case": {Type: Text, Text: "0805"}, "tol": {Type: Raw, Text: "?"}}))
	for _, bad := range []string{"a ] b", "[a [b] c]", "{", "{}"} {
		_, err := ParsePattern(bad)
		assert.ErrorContains(t, err, "at character", bad)
	}
}

func FuzzParse(f *testing.F) {
	f.Add([]byte(sample))
	f.Add([]byte("{{{"))
	f.Fuzz(func(_ *testing.T, raw []byte) {
		if c, err := Parse(raw); err == nil {
			for _, t := range c.Templates() {
				t.Describe(nil)
			}
		}
	})
}

func TestTheStarterCabinetHolds(t *testing.T) {
	cab, err := New(Starter())
	require.NoError(t, err)
	leaves := 0
	for _, tpl := range cab.Templates() {
		if !tpl.Leaf {
			continue
		}
		leaves++
		assert.NotEmpty(t, tpl.Leading, tpl.Key)
		assert.NotEmpty(t, tpl.Prefix, tpl.Key)
		assert.NotEmpty(t, tpl.Description, tpl.Key)
		assert.NotEmpty(t, tpl.Columns, tpl.Key)
		assert.NotEmpty(t, tpl.Search, tpl.Key)
		assert.Contains(t, []string{"electrical", "mechanical", "document"}, tpl.Class, tpl.Key)
	}
	assert.Greater(t, leaves, 30)
	names := map[string]string{}
	for _, p := range cab.Document.Parameters {
		used := false
		for _, tpl := range cab.Templates() {
			used = used || tpl.Has(p.Key)
		}
		assert.True(t, used || p.Key == "note" || p.Key == "series-name", "no drawer uses %s", p.Key)
		assert.Empty(t, names[p.Label], "%s and %s have one label", p.Key, names[p.Label])
		names[p.Label] = p.Key
	}
}

func FuzzPattern(f *testing.F) {
	for _, s := range []string{"RES {resistance}[ {tolerance}]", "{a in mm}[ {b as marking}]", "[[", "{}", "{ a }", "]", "{@mpn}", "{a in }"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		p, err := ParsePattern(s)
		if err != nil {
			return
		}
		again, err := ParsePattern(p.String())
		if err != nil || again.String() != p.String() {
			t.Fatalf("%q is written back as %q, which reads as %v, %v", s, p, again, err)
		}
		p.Fill(map[string]Value{"a": {Type: Text, Text: "x"}})
	})
}

func TestAPatternSaysWhereItIsWrong(t *testing.T) {
	for pattern, says := range map[string]string{
		"RES {resistance": "the { at character 5", "RES ] {case}": "a ] without its [ at character 5", "[ {case}": "the [ at character 1", "[a[b]]": "a [ inside another at character 3",
		"{resistance in mm}": "shows {resistance} in \"mm\" at character 1", "A {colour}": "{colour} at character 3, which is not in the template",
	} {
		doc := Starter()
		d, err := doc.drawer("resistors")
		require.NoError(t, err)
		d.Description = pattern
		_, err = New(doc)
		require.Error(t, err, pattern)
		assert.Contains(t, err.Error(), says)
		assert.Contains(t, err.Error(), `the description pattern of the drawer "resistors"`)
	}
	doc := Starter()
	d, err := doc.drawer("chip-resistors")
	require.NoError(t, err)
	d.Description = "{resistance as marking} {power in mW}[ {height in mil}]"
	cab, err := New(doc)
	require.NoError(t, err)
	tpl, _ := cab.Template("chip-resistors")
	read := func(key, text string) Value { s, _ := tpl.Slot(key); v, _ := s.Read(text, measure.Options{}); return v }
	assert.Equal(t, "4k7 125mW 20mil", tpl.Describe(map[string]Value{"resistance": read("resistance", "4.7 kΩ"), "power": read("power", "1/8 W"), "height": read("height", "0.508 mm")}))
}

func TestAChildNarrowsAndNeverContradicts(t *testing.T) {
	for name, c := range map[string]struct {
		change func(*Document)
		says   string
	}{
		"a default outside the choices": {func(d *Document) {
			w, _ := d.drawer("chip-resistors")
			w.Parameters = []Use{{Key: "mounting", Choices: []string{"surface"}, Default: "panel"}}
		}, `the default of "mounting" (from "electrical") does not fit`},
		"another class": {func(d *Document) { w, _ := d.drawer("resistors"); w.Class = "mechanical" }, `"resistors" is mechanical, but "passives", which it lies in, is electrical`},
		"a wider choice": {func(d *Document) {
			w, _ := d.drawer("chip-resistors")
			w.Parameters = []Use{{Key: "mounting", Choices: []string{"velcro"}}}
		}, "a drawer may only narrow what it inherits"},
		"a designer without a drawing": {func(d *Document) { w, _ := d.drawer("resistors"); w.Designer = []string{"voltage-rating"} }, "which its drawing does not show"},
		"a unit of something else":     {func(d *Document) { p, _ := d.parameter("height"); p.Show = "V" }, `is shown in "V", which is no unit of length`},
		"a column that is not there":   {func(d *Document) { w, _ := d.drawer("resistors"); w.Columns = []string{"colour"} }, `lists the column "colour"`},
	} {
		doc := Starter()
		c.change(&doc)
		_, err := New(doc)
		if assert.Error(t, err, name) {
			assert.Contains(t, err.Error(), c.says, name)
		}
	}
	_, err := Parse([]byte("format: jolly-cabinet/1\nbuiltOn: nothing\n"))
	assert.ErrorContains(t, err, "the one that is there is called starter")
	cab, err := Parse([]byte("format: jolly-cabinet/1\nbuiltOn: starter\nparameters: [{key: power, synonyms: [Watts]}]\ndrawers: [{key: resistors, prefix: HR}]\nwithout: [varistors]\n"))
	require.NoError(t, err)
	p, _ := cab.Parameter("power")
	assert.Contains(t, p.Synonyms, "Watts")
	assert.Equal(t, "Power rating", p.Label, "what the document does not say stays")
	tpl, _ := cab.Template("chip-resistors")
	assert.Equal(t, "HR-00001", tpl.PartNumber(1))
	_, gone := cab.Template("varistors")
	assert.False(t, gone)
}

func TestWhatAValueCanBeIsSaidOfEveryMeasureOfTheStarterCabinet(t *testing.T) {
	c, err := New(Starter())
	require.NoError(t, err)
	for _, p := range c.Document.Parameters {
		if p.Type == Measure {
			assert.True(t, p.usual.Set, "%s has no usual range", p.Key)
		}
	}
	for _, x := range []struct{ drawer, key, text, problem string }{
		{"chip-resistors", "power", "600 W", "doubt"}, {"chip-resistors", "power", "250 mW", ""}, {"leaded-resistors", "power", "600 W", ""},
		{"chip-resistors", "tolerance", "±5 V", "doubt"}, {"chip-resistors", "tolerance", "-1 %", "doubt"}, {"chip-resistors", "tolerance", "1 %", ""}, {"chip-resistors", "temperature-range", "-300 to 85 °C", "doubt"},
		{"mosfets", "drain-source-voltage", "-20 V", ""}, {"mosfets", "drain-source-voltage", "-20 kV", ""}, {"mosfets", "drain-source-voltage", "-200 kV", "doubt"}, {"ceramic-capacitors", "voltage-rating", "-50 V", "doubt"},
		{"ferrite-beads", "impedance", "600 Ω @ 100 MHz", ""}, {"ferrite-beads", "impedance", "600 Ω", ""}, {"ferrite-beads", "impedance", "30 Ω @ 25 MHz", "other-condition"},
		{"crystals", "frequency-tolerance", "±10 ppm", ""}, {"ceramic-capacitors", "case", "0603 (1608 Metric)", ""},
	} {
		tpl, ok := c.Template(x.drawer)
		require.True(t, ok, x.drawer)
		slot, ok := tpl.Slot(x.key)
		require.True(t, ok, x.key)
		v, problem := slot.Read(x.text, measure.Options{})
		switch {
		case x.problem == "":
			assert.Nil(t, problem, "%s %s: %v", x.key, x.text, problem)
			assert.NotEqual(t, Raw, v.Type)
		case assert.NotNil(t, problem, "%s of %s was read as %s", x.text, x.key, v):
			assert.True(t, strings.HasPrefix(problem.Kind, x.problem), "%s: %s", x.text, problem.Kind)
			assert.Equal(t, Value{Type: Raw, Text: x.text}, v, "what was written is kept")
		}
	}
	tpl, _ := c.Template("ceramic-capacitors")
	slot, _ := tpl.Slot("capacitance")
	v, _ := slot.Read("47 µF", measure.Options{})
	assert.NotEmpty(t, tpl.UnusualInCase(&slot, v, Value{Type: Text, Text: "0201"}))
	assert.Empty(t, tpl.UnusualInCase(&slot, v, Value{Type: Text, Text: "1206"}))
	assert.Empty(t, tpl.UnusualInCase(&slot, v, Value{Type: Text, Text: "SOT-23"}), "nobody said what goes there")
	_, err = New(Document{Format: Format, Parameters: []Parameter{{Key: "a", Label: "A", Type: Text, Signless: true}}})
	assert.ErrorContains(t, err, "signless")
	_, err = New(Document{Format: Format, Parameters: []Parameter{{Key: "a", Label: "A", Type: Measure, Of: "power"}}, Drawers: []Drawer{{Key: "d", Label: "D", Parameters: []Use{{Key: "a", UsualIn: map[string]string{"0402": "1 V to 2 V"}}}}}})
	assert.ErrorContains(t, err, "usual range")
}

// The schema forbids what it does not name, so it has to name every key that documents may have.
func TestTheSchemaNamesEveryKey(t *testing.T) {
	var schema struct {
		Properties map[string]struct {
			Items struct{ Properties map[string]json.RawMessage }
		}
	}
	require.NoError(t, json.Unmarshal([]byte(Schema), &schema))
	var uses struct {
		Items struct{ Properties map[string]json.RawMessage }
	}
	require.NoError(t, json.Unmarshal(schema.Properties["drawers"].Items.Properties["parameters"], &uses))
	for _, c := range []struct {
		of    reflect.Type
		named map[string]json.RawMessage
	}{{reflect.TypeFor[Parameter](), schema.Properties["parameters"].Items.Properties}, {reflect.TypeFor[Drawer](), schema.Properties["drawers"].Items.Properties}, {reflect.TypeFor[Use](), uses.Items.Properties}} {
		for i := range c.of.NumField() {
			if key, _, _ := strings.Cut(c.of.Field(i).Tag.Get("json"), ","); key != "" {
				assert.Contains(t, c.named, key, "%s.%s", c.of.Name(), key)
			}
		}
	}
}

func TestOtherSpellingsOfAChoice(t *testing.T) {
	cab, err := New(Starter())
	require.NoError(t, err)
	for _, c := range []struct{ param, text, want string }{
		{"dielectric", "NP0", "C0G"}, {"dielectric", "npo", "C0G"}, {"dielectric", "x7r", "X7R"}, {"mounting", "SMD", "surface"}, {"mounting", "pth", "through hole"},
		{"colour", "gray", "grey"}, {"channel", "P-channel", "P"}, {"orientation", "Right angle", "horizontal"}, {"fuse-characteristic", "TT", "very slow"},
	} {
		p, ok := cab.Parameter(c.param)
		require.True(t, ok)
		v, problem := p.Read(c.text, measure.Options{})
		require.Nil(t, problem, c.text)
		assert.Equal(t, Value{Type: Choice, Text: c.want}, v)
	}
	p, _ := cab.Parameter("dielectric")
	_, problem := p.Read("CH", measure.Options{})
	require.NotNil(t, problem, "JIS CH allows twice the drift of C0G")
	_, err = New(Document{Format: Format, Parameters: []Parameter{{Key: "colour", Label: "Colour", Type: Choice, Choices: []string{"red"}, Also: map[string]string{"rot": "rouge"}}}})
	assert.ErrorContains(t, err, "another spelling")
}

func TestYesAndNoInFiveLanguages(t *testing.T) {
	p := Parameter{Key: "rohs", Label: "RoHS", Type: YesNo}
	for text, want := range map[string]bool{"yes": true, "Ja": true, "oui": true, "Sí": true, "sì": true, "x": true, "no": false, "Nein": false, "non": false, "0": false} {
		v, problem := p.Read(text, measure.Options{})
		require.Nil(t, problem, text)
		assert.Equal(t, Value{Type: YesNo, Yes: want}, v, text)
	}
	_, problem := p.Read("exempt", measure.Options{})
	assert.NotNil(t, problem)
}
