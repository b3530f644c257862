package cabinet

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure"
)

// starterSlot is a parameter as a drawer of the starter cabinet has it.
func starterSlot(t *testing.T, drawer, key string) Slot {
	t.Helper()
	c, err := New(Starter())
	require.NoError(t, err)
	tpl, ok := c.Template(drawer)
	require.True(t, ok)
	s, ok := tpl.Slot(key)
	require.True(t, ok)
	return s
}

func TestAPatternIsWrittenAsItWasRead(t *testing.T) {
	for _, text := range []string{"", "plain", "{a}", "{a in mW}", "{a as marking}", "x {a}[ {b in V}[", "[ {a}, {b}] end", "{a}{b}[{c}]"} {
		p, err := ParsePattern(text)
		if strings.Count(text, "[") != strings.Count(text, "]") {
			assert.Error(t, err, text)
			continue
		}
		require.NoError(t, err, text)
		assert.Equal(t, text, p.String())
	}
	p, err := ParsePattern("{a}[ {a in mW}[]") // a [ within a group
	assert.Error(t, err)
	assert.Nil(t, p)
	p, err = ParsePattern("{a} and {ab}[ {a as marking}]")
	require.NoError(t, err)
	p.rename("a", "new")
	assert.Equal(t, "{new} and {ab}[ {new as marking}]", p.String())
	for _, bad := range []string{"{ }", "{a b}", "{a[b}", "{a{b}"} {
		_, err = ParsePattern(bad)
		assert.ErrorContains(t, err, "names no parameter", bad)
	}
}

func TestAPatternShowsEachKindOfValueInItsWay(t *testing.T) {
	values := map[string]Value{
		"r": {Type: Measure, Measure: measure.MustParse("4.7 kΩ")}, "range": {Type: Measure, Measure: measure.MustParse("1 V to 5 V")},
		"t": {Type: Text, Text: "two words"}, "y": {Type: YesNo, Yes: true}, "raw": {Type: Raw, Text: "4.7 or so"},
	}
	for pattern, want := range map[string]string{
		"{r}":                 "4.7kΩ",
		"{r in Ω}":            "4700Ω",
		"{r as marking}":      "4k7",
		"{r in V}":            "4.7kΩ", // what cannot be shown so is shown as it is
		"{range as marking}":  values["range"].Measure.Short(),
		"{t}":                 "two words",
		"{t in mm}":           "two words",
		"{y}":                 "yes",
		"{raw}":               "",
		"a {raw} b":           "a b",
		"x[ {raw}]":           "x",
		"x[ {raw} {t}]":       "x two words",
		"x[ only words]":      "x", // a group shows when one of its values is there
		"{blank}[ {blank} y]": "",
	} {
		p, err := ParsePattern(pattern)
		require.NoError(t, err, pattern)
		assert.Equal(t, want, p.Fill(values), pattern)
	}
}

func TestAChipCaseFollowsItsOtherCode(t *testing.T) {
	inch, metric := starterSlot(t, "chip-resistors", "case"), starterSlot(t, "chip-resistors", "case-metric")
	for text, want := range map[string][2]string{
		"0603 (1608 Metric)": {"0603", "1608"},
		"0603":               {"0603", "0603"}, // a bare code is what it was written as
		"SOT-23":             {"SOT-23", "SOT-23"},
	} {
		for i, s := range []Slot{inch, metric} {
			v, problem := s.Read(text, measure.Options{})
			require.Nil(t, problem, text)
			assert.Equal(t, want[i], v.Text, "%s as %s", text, s.Key)
		}
	}
	c, err := New(Starter())
	require.NoError(t, err)
	tpl, _ := c.Template("chip-resistors")
	v := func(s string) Value { return Value{Type: Text, Text: s} }
	for _, one := range []struct{ inch, metric, wantInch, wantMetric, says string }{
		{"0603", "", "", "1608", ""},
		{"", "1608", "0603", "", ""},
		{"0603", "1608", "", "", ""},
		{"", "", "", "", ""},
		{"SOT-23", "", "", "", ""},
		{"", "special", "", "", ""},
		{"0603", "0603", "", "", "0603 inch is 1608 metric, and not 0603"},
		{"special", "1608", "", "", "1608 metric is 0603 inch, and not special"},
	} {
		values := map[string]Value{}
		if one.inch != "" {
			values["case"] = v(one.inch)
		}
		if one.metric != "" {
			values["case-metric"] = v(one.metric)
		}
		more, err := tpl.Derive(values)
		if one.says != "" {
			assert.ErrorContains(t, err, one.says)
			continue
		}
		require.NoError(t, err)
		want := map[string]Value{}
		if one.wantInch != "" {
			want["case"] = v(one.wantInch)
		}
		if one.wantMetric != "" {
			want["case-metric"] = v(one.wantMetric)
		}
		assert.Equal(t, len(want), len(more), "%+v", one)
		for k := range want {
			assert.Equal(t, want[k], more[k], "%+v", one)
		}
	}
	plain, err := Parse([]byte(sample))
	require.NoError(t, err)
	chips, _ := plain.Template("chips")
	more, err := chips.Derive(map[string]Value{"case": v("0603")})
	assert.NoError(t, err)
	assert.Empty(t, more, "without both codes there is nothing to follow")
}

func TestDaysAndLinksAreReadOneWayOnly(t *testing.T) {
	day, link := Parameter{Key: "d", Label: "Day", Type: Date}, Parameter{Key: "l", Label: "Sheet", Type: Link}
	for text, want := range map[string]string{
		"2026-02-03": "2026-02-03", "2026-02-03 04:05:06": "2026-02-03", "03.02.2026": "2026-02-03", "3 Feb 2026": "2026-02-03",
		"3 February 2026": "2026-02-03", "20260203": "2026-02-03",
		"02/03/2026": "", "2026-02-30": "", "3.2.26": "", "soon": "",
	} {
		v, problem := day.Read(text, measure.Options{})
		if want == "" {
			require.NotNil(t, problem, text)
			assert.Equal(t, "not-a-date", problem.Kind)
			assert.Equal(t, Value{Type: Raw, Text: text}, v, "it stays as it was written")
			continue
		}
		require.Nil(t, problem, text)
		assert.Equal(t, Value{Type: Date, Text: want}, v)
	}
	for text, good := range map[string]bool{
		"https://sheets.example/a.pdf": true, "http://sheets.example": true,
		"ftp://sheets.example/a": false, "sheets.example/a.pdf": false, "https://": false, "https:///a": false, "javascript:alert(1)": false, "http://[": false,
	} {
		v, problem := link.Read(text, measure.Options{})
		assert.Equal(t, good, problem == nil, text)
		assert.Equal(t, text, v.Text, "whatever it is, it stays")
		assert.Equal(t, good, v.Type == Link, text)
	}
}

func TestAValueOfAnotherTypeIsNamed(t *testing.T) {
	power := Parameter{Key: "power", Label: "Power", Type: Measure, Of: "power"}
	colour := Parameter{Key: "colour", Label: "Colour", Type: Choice, Choices: []string{"red", "green"}}
	for _, one := range []struct {
		p    Parameter
		v    Value
		says string
	}{
		{power, Value{Type: Measure, Measure: measure.MustParse("1 W")}, ""},
		{power, Value{Type: Measure, Measure: measure.MustParse("1 V")}, "Power is a power, and 1 V is a voltage"},
		{power, Value{Type: Text, Text: "1 W"}, "Power is a measure, not a text"},
		{power, Value{Type: Raw, Text: "1 or 2 W"}, `Power holds "1 or 2 W", which could not be read`},
		{colour, Value{Type: Choice, Text: "red"}, ""},
		{colour, Value{Type: Choice, Text: "green"}, ""},
		{colour, Value{Type: Choice, Text: "blue"}, `"blue" is not among the choices of Colour`},
	} {
		err := one.p.OfType(one.v)
		if one.says == "" {
			assert.NoError(t, err)
		} else {
			assert.EqualError(t, err, one.says)
		}
	}
	power.Show = "mW"
	assert.Equal(t, "1000 mW", power.Shown(Value{Type: Measure, Measure: measure.MustParse("1 W")}))
	assert.Equal(t, "1 V", power.Shown(Value{Type: Measure, Measure: measure.MustParse("1 V")}), "what has no such unit is shown as it is")
	assert.Equal(t, "red", colour.Shown(Value{Type: Choice, Text: "red"}))
}

func TestAConditionThatTheNameSaysIsNotSaidTwice(t *testing.T) {
	p := Parameter{Key: "i85", Label: "Current at 85 °C", Type: Measure, Of: "current", Under: "85 °C"}
	v, problem := p.Read("1 A @ 85 °C", measure.Options{})
	require.Nil(t, problem)
	assert.Equal(t, "1 A", v.String())
	v, problem = p.Read("1 A", measure.Options{})
	require.Nil(t, problem)
	assert.Equal(t, "1 A", v.String())
	v, problem = p.Read("2 A @ 25 °C", measure.Options{})
	require.NotNil(t, problem, "a current at another temperature is another current")
	assert.Equal(t, "other-condition", problem.Kind)
	assert.Equal(t, Value{Type: Raw, Text: "2 A @ 25 °C"}, v)
	p.Under = ""
	v, problem = p.Read("2 A @ 25 °C", measure.Options{})
	require.Nil(t, problem)
	assert.Equal(t, "2 A @ 25 °C", v.String())
	v, problem = p.Read("", measure.Options{})
	assert.Nil(t, problem)
	assert.True(t, v.IsBlank())
}

func TestTheLimitsOfACabinetAreWhereTheyAreSaidToBe(t *testing.T) {
	deep := func(n int) Document {
		d := Document{Format: Starter().Format, Parameters: []Parameter{{Key: "a", Label: "A", Type: Text}}}
		for i := range n {
			w := Drawer{Key: fmt.Sprintf("d%02d", i), Label: fmt.Sprintf("D%d", i)}
			if i > 0 {
				w.Parent = fmt.Sprintf("d%02d", i-1)
			}
			d.Drawers = append([]Drawer{w}, d.Drawers...) // the deepest is resolved first
		}
		return d
	}
	_, err := New(deep(maxDepth + 1))
	assert.NoError(t, err)
	_, err = New(deep(maxDepth + 2))
	assert.ErrorContains(t, err, "drawers deep")
	for digits, good := range map[int]bool{0: false, 1: true, 12: true, 13: false} {
		d := deep(1)
		d.Drawers[0].Prefix, d.Drawers[0].Digits = "A", digits
		_, err := New(d)
		assert.Equal(t, good, err == nil, "%d digits: %v", digits, err)
	}
	d := deep(1)
	d.Drawers[0].Parameters, d.Drawers[0].Drawing, d.Drawers[0].Designer = []Use{{Key: "a"}}, []string{"a"}, []string{"a"}
	_, err = New(d)
	assert.NoError(t, err)
	d.Drawers[0].Drawing = nil
	_, err = New(d)
	assert.ErrorContains(t, err, "which its drawing does not show")
}

func TestADocumentOnTheStarterCabinetChangesOnlyWhatItSays(t *testing.T) {
	c, err := Parse([]byte(`
format: jolly-cabinet/1
builtOn: starter
without: [crystals, oscillators]
parameters:
  - { key: power, label: Load, synonyms: [Load rating], usual: "1 µW to 1 kW" }
  - { key: house-note, label: House note, type: text }
drawers:
  - { key: chip-resistors, label: Chips, columns: [case], models: { symbol: Resistor, names: { body: "B {case}" } }, parameters: [{ key: house-note }, { key: case }] }
  - { key: own, label: Own, parent: electrical, parameters: [{ key: house-note }] }
`))
	require.NoError(t, err)
	starter := Starter()
	was, err := starter.parameter("power")
	require.NoError(t, err)
	p, err := c.Document.parameter("power")
	require.NoError(t, err)
	assert.Equal(t, "Load", p.Label)
	assert.Equal(t, was.Of, p.Of)
	assert.Equal(t, was.Help, p.Help)
	assert.Equal(t, append(append([]string(nil), was.Synonyms...), "Load rating"), p.Synonyms)
	assert.Equal(t, "1 µW to 1 kW", p.Usual)
	w, err := c.Document.drawer("chip-resistors")
	require.NoError(t, err)
	old, err := starter.drawer("chip-resistors")
	require.NoError(t, err)
	assert.Equal(t, []string{"Chips", old.Parent, old.Description, "Resistor", "B {case}"}, []string{w.Label, w.Parent, w.Description, w.Models.Symbol, w.Models.Names.Body})
	assert.Equal(t, old.Search, w.Search)
	assert.Equal(t, []string{"case"}, w.Columns)
	assert.Equal(t, append(keysOf(*old), "house-note"), keysOf(*w), "what is named again takes the place it had")
	for _, u := range w.Parameters {
		if u.Key == "case" {
			assert.False(t, u.Required, "and is as the document says")
		}
	}
	for _, gone := range []string{"crystals", "oscillators"} {
		_, ok := c.Template(gone)
		assert.False(t, ok)
	}
	own, ok := c.Template("own")
	require.True(t, ok)
	assert.Equal(t, []string{"electrical", "own"}, own.Path)
	_, err = Parse([]byte("format: jolly-cabinet/1\nbuiltOn: nothing\n"))
	assert.ErrorContains(t, err, "the one that is there is called starter")
}
