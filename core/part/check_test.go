package part

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/measure"
)

// whole is a part that nothing is wrong with.
func whole(t *testing.T) (Content, *cabinet.Template) {
	t.Helper()
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	c := starterPart(t, cab, "chip-resistors", map[string]string{"resistance": "4k7", "tolerance": "1%", "power": "1/8 W", "case": "0805", "case-metric": "2012", "mounting": "surface", "resistor-technology": "thick film"})
	c.Datasheets = []File{{Hash: "h", Name: "tw.pdf"}}
	c.Symbol, c.LandPattern, c.Body = &Model{ID: "s", Name: "R", Revision: 1}, &Model{ID: "l", Name: "Chip", Revision: 2}, &Model{ID: "b", Name: "Block", Revision: 1}
	tpl, _ := cab.Template("chip-resistors")
	return c, tpl
}

func TestEachThingThatIsWrongIsNamedOnceAndAlone(t *testing.T) {
	type found struct {
		severity finding.Severity
		cause    string
		field    string
	}
	for name, one := range map[string]struct {
		spoil func(*Content)
		want  []found
	}{
		"nothing":                        {func(*Content) {}, nil},
		"a required value is blank":      {func(c *Content) { delete(c.Values, "case") }, []found{{finding.Error, "required:case", "case"}}},
		"a wish is blank":                {func(c *Content) { delete(c.Values, "power") }, nil},
		"a value was never read":         {func(c *Content) { c.Values["power"] = cabinet.Value{Type: cabinet.Raw, Text: "some"} }, []found{{finding.Error, "value:power", "power"}}},
		"two values that nobody wants":   {func(c *Content) { c.Values["z"], c.Values["a"] = c.Values["case"], c.Values["case"] }, []found{{finding.Error, "not-in-template:a", "a"}, {finding.Error, "not-in-template:z", "z"}}},
		"two case codes that differ":     {func(c *Content) { c.Values["case-metric"] = cabinet.Value{Type: cabinet.Text, Text: "1608"} }, []found{{finding.Error, "case-codes", "case"}}},
		"no source":                      {func(c *Content) { c.Sources = nil }, []found{{finding.Warning, "no-source", "sources"}}},
		"a source without a maker":       {func(c *Content) { c.Sources[0].Manufacturer = " " }, []found{{finding.Error, "source-incomplete", "sources"}}},
		"a source without a number":      {func(c *Content) { c.Sources[0].MPN = "" }, []found{{finding.Error, "source-incomplete", "sources"}}},
		"a source twice":                 {func(c *Content) { c.Sources = append(c.Sources, Source{Manufacturer: "TIDEWRIGHT", MPN: "tw1"}) }, []found{{finding.Error, "source-twice", "sources"}}},
		"two sources":                    {func(c *Content) { c.Sources = append(c.Sources, Source{Manufacturer: "Kelpline", MPN: "tw1"}) }, nil},
		"no datasheet":                   {func(c *Content) { c.Datasheets = nil }, []found{{finding.Note, "no-datasheet", "datasheets"}}},
		"no symbol":                      {func(c *Content) { c.Symbol = nil }, []found{{finding.Warning, "no-symbol", "symbol"}}},
		"no land pattern":                {func(c *Content) { c.LandPattern = nil }, []found{{finding.Warning, "no-land-pattern", "land pattern"}}},
		"no body":                        {func(c *Content) { c.Body = nil }, []found{{finding.Warning, "no-body", "body"}}},
		"a block for a body":             {func(c *Content) { c.Body.StandIn = true }, []found{{finding.Warning, "stand-in", "body"}}},
		"a body that is not released":    {func(c *Content) { c.Body.Revision, c.Body.StandIn = 0, true }, []found{{finding.Error, "model-unreleased", "body"}}},
		"a pin map that is not released": {func(c *Content) { c.PinMap = &Model{Name: "P"} }, []found{{finding.Error, "model-unreleased", "pin map"}}},
		"a pin map":                      {func(c *Content) { c.PinMap = &Model{Name: "P", Revision: 1} }, nil},
		"another land pattern that is not released": {func(c *Content) {
			c.OtherLands = []OtherLand{{For: "hand", Model: Model{Name: "L"}}, {For: "wave", Model: Model{Name: "W", Revision: 1}}}
		},
			[]found{{finding.Error, "model-unreleased", "land pattern"}}},
	} {
		t.Run(name, func(t *testing.T) {
			c, tpl := whole(t)
			one.spoil(&c)
			var got []found
			for _, f := range Check(c, tpl) {
				got = append(got, found{f.Severity, f.Cause, f.Field})
				assert.NotEmpty(t, f.Mend)
			}
			assert.Equal(t, one.want, got)
		})
	}
}

func TestATextIsTooLongFromTheFirstByteTooMany(t *testing.T) {
	full, over := strings.Repeat("x", MaxText), strings.Repeat("x", MaxText+1)
	for want, put := range map[string]func(c *Content, s string){
		"description":           func(c *Content, s string) { c.Description = s },
		"values.note":           func(c *Content, s string) { c.Values["note"] = cabinet.Value{Type: cabinet.Text, Text: s} },
		"sources[0]":            func(c *Content, s string) { c.Sources[0].MPN = s },
		"sources[1]":            func(c *Content, s string) { c.Sources = append(c.Sources, Source{Manufacturer: s}) },
		"sources[0].numbers":    func(c *Content, s string) { c.Sources[0].Numbers = []Number{{Supplier: "a", Number: s}} },
		"datasheets[0]":         func(c *Content, s string) { c.Datasheets[0].Name = s },
		"description by a name": func(c *Content, s string) { c.Name = s },
	} {
		c, _ := whole(t)
		put(&c, full)
		assert.Empty(t, c.TooLong(), want)
		put(&c, over)
		assert.NotEmpty(t, c.TooLong(), want)
		if want != "description by a name" && want != "sources[1]" {
			assert.Equal(t, want, c.TooLong())
		}
	}
	c, _ := whole(t)
	c.Sources[0].Numbers = []Number{{Supplier: strings.Repeat("x", MaxText+1), Number: "1"}}
	assert.Equal(t, "sources[0].numbers", c.TooLong())
	c.Sources[0].Numbers = make([]Number, 100)
	assert.Empty(t, c.TooLong())
	c.Sources[0].Numbers = make([]Number, 101)
	assert.Equal(t, "sources[0]", c.TooLong())
}

func TestCleaningDropsBlanksAndKeepsZeros(t *testing.T) {
	c := Content{Description: " a b ", Name: "\tn\n", Sources: []Source{{Manufacturer: " Kelpline ", MPN: " K-1 "}}, Values: map[string]cabinet.Value{
		"zero": {Type: cabinet.Measure, Measure: measure.MustParse("0 Ω")}, "no": {Type: cabinet.YesNo}, "number": {Type: cabinet.Number}, "text": {Type: cabinet.Text, Text: "x"},
		"blank": {}, "spaces": {Type: cabinet.Text, Text: "  "}, "raw": {Type: cabinet.Raw, Text: " "}, "link": {Type: cabinet.Link},
	}}
	c.Clean()
	assert.Equal(t, []string{"a b", "n"}, []string{c.Description, c.Name})
	assert.Equal(t, []Source{{Manufacturer: "Kelpline", MPN: "K-1"}}, c.Sources)
	for _, k := range []string{"zero", "no", "number", "text"} {
		assert.Contains(t, c.Values, k)
	}
	for _, k := range []string{"blank", "spaces", "raw", "link"} {
		assert.NotContains(t, c.Values, k)
	}
}

func TestASplitTakesItsPieceOrSaysThatThereIsNone(t *testing.T) {
	m := func(s string) cabinet.Value {
		return cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse(s)}
	}
	for _, one := range []struct {
		v          cabinet.Value
		take, mark string
		want       string // blank: there is none
	}{
		{m("2.7 to 5.5 V"), "low", "", "2.7 V"}, {m("2.7 to 5.5 V"), "high", "", "5.5 V"}, {m("2.7 to 5.5 V"), "nominal", "", ""},
		{m("≥ 3 V"), "low", "", "3 V"}, {m("≥ 3 V"), "high", "", ""}, {m("≤ 3 V"), "high", "", "3 V"}, {m("≤ 3 V"), "low", "", ""},
		{m("5 V"), "nominal", "", "5 V"}, {m("5 V"), "low", "", ""}, {m("5 V"), "high", "", ""},
		{m("10 kΩ ±5 %"), "tolerance", "", "±5 %"}, {m("10 kΩ ±5 %"), "nominal", "", "10 kΩ"}, {m("10 kΩ"), "tolerance", "", ""},
		{m("10 pF ±0.5 pF"), "tolerance", "", "±0.5 pF"},
		{m("2 A @ 25 °C"), "condition", "", "25 °C"}, {m("2 A"), "condition", "", ""}, {m("2 A"), "other", "", ""},
		{cabinet.Value{Type: cabinet.Text, Text: "2 A"}, "nominal", "", ""},
		{cabinet.Value{Type: cabinet.Text, Text: "SO-8 / 1.27 mm / x"}, "before", "/", "SO-8"},
		{cabinet.Value{Type: cabinet.Text, Text: "SO-8 / 1.27 mm / x"}, "after", "/", "1.27 mm / x"},
		{cabinet.Value{Type: cabinet.Text, Text: "SO-8"}, "before", "/", ""},
	} {
		got, ok := take(one.v, cabinet.SplitOff{Take: one.take, Mark: one.mark})
		assert.Equal(t, one.want != "", ok, "%s of %s", one.take, one.v)
		if ok {
			assert.Equal(t, one.want, got, "%s of %s", one.take, one.v)
		}
	}
}

func TestANumberThatIsReadAnewStaysTheNumberItWas(t *testing.T) {
	for _, text := range []string{"1", "12", "1000", "1234567"} {
		from, to := after(t, cabinet.Step{Do: cabinet.Retype, Parameter: "current-gain", Type: cabinet.Measure, Of: "length", AssumeUnit: "mm"})
		p, ok := from.Parameter("current-gain")
		require.True(t, ok)
		require.Equal(t, cabinet.Number, p.Type)
		v, problem := p.Read(text, measure.Options{Mark: measure.MarkPoint})
		require.Nil(t, problem, text)
		now, losses, _ := Change(Content{Drawer: "bipolar-transistors", Values: map[string]cabinet.Value{"current-gain": v}}, "R-1",
			[]cabinet.Step{{Do: cabinet.Retype, Parameter: "current-gain", Type: cabinet.Measure, Of: "length", AssumeUnit: "mm"}}, from, to)
		assert.Empty(t, losses, text)
		want := measure.Parse(text+" mm", measure.Options{Mark: measure.MarkPoint}).Measure
		assert.Equal(t, want.String(), now.Values["current-gain"].String(), text)
	}
}
