package cabinet

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

const changing = `
format: jolly-cabinet/1
parameters:
  - { key: power, label: Power, type: measure, of: power, show: mW, assumeUnit: W, usual: "1 mW to 10 W" }
  - { key: swing, label: Swing, type: measure, of: ratio, deviation: true, signless: true }
  - { key: case, label: Case, type: text }
  - { key: colour, label: Colour, type: choice, choices: [red, green] }
  - { key: low, label: Low, type: measure, of: power }
  - { key: high, label: High, type: measure, of: power }
drawers:
  - { key: all, label: All, digits: 5, case: case, parameters: [{ key: case }] }
  - { key: lamps, label: Lamps, parent: all, prefix: L, leading: power, description: "LAMP {power in W}[ {case}][ {colour}]", name: "{power as marking}", identity: [power, colour], drawing: [power, case], designer: [power], columns: [power, case], models: { names: { symbol: "Lamp {power}", landPattern: "L {case}", body: "B {power} {case}" } }, parameters: [{ key: power, preferred: true, usual: "1 mW to 5 W", usualIn: { "0402": "1 mW to 2 mW" } }, { key: colour, choices: [red], default: red }] }
  - { key: horns, label: Horns, parent: all, prefix: H, parameters: [{ key: swing }, { key: high }] }
`

func changed(t *testing.T, steps ...Step) (before, after Document) {
	t.Helper()
	c, err := Parse([]byte(changing))
	require.NoError(t, err)
	after, err = c.Document.Apply(steps)
	require.NoError(t, err)
	again, err := Parse([]byte(changing))
	require.NoError(t, err)
	assert.Equal(t, again.Document, c.Document, "the document that was changed stays")
	return c.Document, after
}

func drawerOf(t *testing.T, d Document, key string) Drawer {
	t.Helper()
	w, err := d.drawer(key)
	require.NoError(t, err)
	return *w
}

func keysOf(w Drawer) (keys []string) {
	for _, u := range w.Parameters {
		keys = append(keys, u.Key)
	}
	return keys
}

func TestARenamedKeyIsRenamedWhereverItStands(t *testing.T) {
	_, after := changed(t, Step{Do: Rename, Parameter: "power", To: "rated-power", Label: "Rated power"})
	w := drawerOf(t, after, "lamps")
	assert.Equal(t, "rated-power", w.Leading)
	assert.Equal(t, "LAMP {rated-power in W}[ {case}][ {colour}]", w.Description)
	assert.Equal(t, "{rated-power as marking}", w.Name)
	assert.Equal(t, ModelNames{Symbol: "Lamp {rated-power}", LandPattern: "L {case}", Body: "B {rated-power} {case}"}, w.Models.Names)
	for _, keys := range [][]string{w.Identity, w.Drawing, w.Designer, w.Columns, keysOf(w)} {
		assert.Equal(t, "rated-power", keys[0])
		assert.NotContains(t, keys, "power")
	}
	assert.Equal(t, []string{"rated-power", "colour"}, w.Identity)
	p, err := after.parameter("rated-power")
	require.NoError(t, err)
	assert.Equal(t, "Rated power", p.Label)
	assert.Equal(t, []string{"Power"}, p.Synonyms, "the old name still finds it")
	_, err = New(after)
	assert.NoError(t, err)

	_, after = changed(t, Step{Do: Rename, Parameter: "case", To: "package"})
	assert.Equal(t, "package", drawerOf(t, after, "all").Case)
	p, _ = after.parameter("package")
	assert.Equal(t, "Case", p.Label, "a label that is not named stays")
	assert.Empty(t, p.Synonyms)

	_, after = changed(t, Step{Do: Rename, Parameter: "case", Label: "Body size"}, Step{Do: Rename, Parameter: "case", Label: "Case"}, Step{Do: Rename, Parameter: "case", Label: "Body size"})
	p, _ = after.parameter("case")
	assert.Equal(t, "Body size", p.Label)
	assert.Equal(t, []string{"Case", "Body size"}, p.Synonyms, "each earlier name once")

	_, after = changed(t, Step{Do: Rename, Parameter: "case", Label: "Case", To: "case"})
	p, _ = after.parameter("case")
	assert.Empty(t, p.Synonyms, "nothing was renamed")
}

func TestARetypedParameterKeepsNothingOfItsOldType(t *testing.T) {
	_, after := changed(t, Step{Do: Retype, Parameter: "power", Type: Choice, Choices: []string{"1 W", "2 W"}})
	p, _ := after.parameter("power")
	assert.Equal(t, Parameter{Key: "power", Label: "Power", Type: Choice, Choices: []string{"1 W", "2 W"}}, *p)
	u := drawerOf(t, after, "lamps").Parameters[0]
	assert.Equal(t, Use{Key: "power"}, u, "ranges and preferred numbers mean nothing to a choice")
	assert.Equal(t, Use{Key: "colour", Choices: []string{"red"}, Default: "red"}, drawerOf(t, after, "lamps").Parameters[1], "and others are left alone")

	_, after = changed(t, Step{Do: Retype, Parameter: "swing", Type: Text})
	p, _ = after.parameter("swing")
	assert.False(t, p.Deviation || p.Signless)
	_, after = changed(t, Step{Do: Retype, Parameter: "swing", Type: Measure, Of: "voltage", AssumeUnit: "V"})
	p, _ = after.parameter("swing")
	assert.True(t, p.Deviation && p.Signless, "a measure may go on deviating")
	assert.Equal(t, "V", p.AssumeUnit)

	_, after = changed(t, Step{Do: Retype, Parameter: "power", Type: Measure, Of: "power"})
	p, _ = after.parameter("power")
	assert.Equal(t, "mW", p.Show, "the unit is one of the new dimension")
	assert.Equal(t, "1 mW to 10 W", p.Usual)
	assert.True(t, drawerOf(t, after, "lamps").Parameters[0].Preferred)
	_, after = changed(t, Step{Do: Retype, Parameter: "power", Type: Measure, Of: "voltage"})
	p, _ = after.parameter("power")
	assert.Empty(t, p.Show, "mW is no voltage")
	assert.Empty(t, p.Usual)
	_, after = changed(t, Step{Do: Unit, Parameter: "power", Show: "W", AssumeUnit: "mW"})
	p, _ = after.parameter("power")
	assert.Equal(t, []string{"W", "mW"}, []string{p.Show, p.AssumeUnit})
}

func TestASplitPutsNewParametersBesideTheOld(t *testing.T) {
	low, high := SplitOff{Parameter: "low", Take: "low"}, SplitOff{Parameter: "high", Take: "high"}
	_, after := changed(t, Step{Do: Split, Parameter: "power", Into: []SplitOff{low, high}})
	assert.Equal(t, []string{"power", "low", "high", "colour"}, keysOf(drawerOf(t, after, "lamps")))
	assert.Equal(t, []string{"swing", "high"}, keysOf(drawerOf(t, after, "horns")), "a drawer without it gets nothing")
	_, after = changed(t, Step{Do: Split, Parameter: "swing", Into: []SplitOff{high, low}})
	assert.Equal(t, []string{"swing", "low", "high"}, keysOf(drawerOf(t, after, "horns")), "what is there stays where it is")

	// What is there already may stand before it: the last place of the drawer is passed by none.
	c, err := Parse([]byte(changing))
	require.NoError(t, err)
	w, _ := c.Document.drawer("horns")
	w.Parameters = []Use{{Key: "high"}, {Key: "swing"}}
	after, err = c.Document.Apply([]Step{{Do: Split, Parameter: "swing", Into: []SplitOff{high, low}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"high", "swing", "low"}, keysOf(drawerOf(t, after, "horns")))
}

func TestRetiringTakesAParameterFromOneDrawerOrFromAll(t *testing.T) {
	_, after := changed(t, Step{Do: Retire, Parameter: "colour"})
	_, err := after.parameter("colour")
	assert.Error(t, err)
	w := drawerOf(t, after, "lamps")
	assert.Equal(t, []string{"power"}, keysOf(w))
	assert.Equal(t, []string{"power"}, w.Identity)
	_, after = changed(t, Step{Do: Retire, Parameter: "power", Drawer: "lamps"})
	_, err = after.parameter("power")
	assert.NoError(t, err, "the dictionary keeps it for others")
	w = drawerOf(t, after, "lamps")
	assert.Equal(t, []string{"colour"}, keysOf(w))
	assert.Equal(t, [][]string{{"colour"}, {"case"}, {}, {"case"}}, [][]string{w.Identity, w.Drawing, w.Designer, w.Columns})
	_, after = changed(t, Step{Do: Retire, Parameter: "high", Drawer: "horns"})
	assert.Equal(t, []string{"swing"}, keysOf(drawerOf(t, after, "horns")))
	assert.Equal(t, []string{"power", "colour"}, keysOf(drawerOf(t, after, "lamps")))
}

func TestAStepThatCannotBeTakenSaysWhatItLacks(t *testing.T) {
	c, err := Parse([]byte(changing))
	require.NoError(t, err)
	for _, one := range []struct {
		step Step
		says string
	}{
		{Step{Do: Move, To: "lamps"}, "say which parts"},
		{Step{Do: Move, Drawer: "horns"}, "say which drawer"},
		{Step{Do: Move, Parts: []string{"L-1"}}, "say which drawer"},
		{Step{Do: Move, Drawer: "horns", To: "nowhere"}, `no drawer "nowhere"`},
		{Step{Do: Move, Drawer: "nowhere", To: "horns"}, `no drawer "nowhere"`},
		{Step{Do: Redescribe}, "say which drawer"},
		{Step{Do: Redescribe, Drawer: "nowhere"}, `no drawer "nowhere"`},
		{Step{Do: Rename, Parameter: "gone", To: "x"}, `no parameter "gone"`},
		{Step{Do: Rename, Parameter: "power", To: "case"}, `a parameter "case" already`},
		{Step{Do: Retype, Parameter: "power"}, "say the new type"},
		{Step{Do: Split, Parameter: "power"}, "say which parameters take what"},
		{Step{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "gone", Take: "low"}}}, "add it to the dictionary first"},
		{Step{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "low", Take: "before"}}}, "need a mark"},
		{Step{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "low", Take: "after"}}}, "need a mark"},
		{Step{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "low", Take: "low", Mark: "/"}}}, "and only they"},
		{Step{Do: Split, Parameter: "low", Into: []SplitOff{{Parameter: "high", Take: "high"}}}, `no drawer uses "low"`},
		{Step{Do: Retire, Parameter: "power", Drawer: "horns"}, "retire it where it comes from"},
		{Step{Do: "melt", Parameter: "power"}, "there is no such step"},
	} {
		after, err := c.Document.Apply([]Step{{Do: Redescribe, Drawer: "all"}, one.step})
		require.ErrorContains(t, err, one.says, "%+v", one.step)
		assert.ErrorContains(t, err, "step 2 ("+one.step.Do+")")
		assert.Equal(t, c.Document, after, "and nothing is half done")
	}
	for _, ok := range []Step{{Do: Move, Parts: []string{"L-1"}, To: "horns"}, {Do: Move, Drawer: "lamps", To: "horns"}, {Do: Redescribe, Drawer: "lamps"},
		{Do: Split, Parameter: "colour", Into: []SplitOff{{Parameter: "case", Take: "before", Mark: "/"}, {Parameter: "low", Take: "after", Mark: "/"}}}} {
		_, err := c.Document.Apply([]Step{ok})
		assert.NoError(t, err, "%+v", ok)
	}
}

func TestOnlyWhatLeadsBackIsTakenBack(t *testing.T) {
	for _, one := range []struct {
		name  string
		steps []Step
		back  []Step // none: it is not taken back
	}{
		{"key and label", []Step{{Do: Rename, Parameter: "power", To: "p", Label: "P"}}, []Step{{Do: Rename, Parameter: "p", To: "power", Label: "Power"}}},
		{"label alone", []Step{{Do: Rename, Parameter: "power", Label: "P"}}, []Step{{Do: Rename, Parameter: "power", To: "power", Label: "Power"}}},
		{"two, the last first", []Step{{Do: Rename, Parameter: "power", To: "p"}, {Do: Rename, Parameter: "p", To: "q"}},
			[]Step{{Do: Rename, Parameter: "q", To: "p", Label: "Power"}, {Do: Rename, Parameter: "p", To: "power", Label: "Power"}}},
		{"unit", []Step{{Do: Unit, Parameter: "power", Show: "W"}}, []Step{{Do: Unit, Parameter: "power", Show: "mW", AssumeUnit: "W"}}},
		{"of a text", []Step{{Do: Retype, Parameter: "case", Type: Choice, Choices: []string{"0402"}}}, []Step{{Do: Retype, Parameter: "case", Type: Text}}},
		{"of a measure that has lost its range", []Step{{Do: Retype, Parameter: "power", Type: Text}}, nil},
		{"of a choice that a drawer had narrowed", []Step{{Do: Retype, Parameter: "colour", Type: Text}}, nil},
		{"of a measure that deviated", []Step{{Do: Retype, Parameter: "swing", Type: Text}}, nil},
		{"parts by name", []Step{{Do: Move, Drawer: "lamps", To: "horns", Parts: []string{"L-1"}}}, []Step{{Do: Move, Drawer: "horns", To: "lamps", Parts: []string{"L-1"}}}},
		{"parts without their drawer", []Step{{Do: Move, To: "horns", Parts: []string{"L-1"}}}, nil},
		{"a whole drawer", []Step{{Do: Move, Drawer: "lamps", To: "horns"}}, nil},
		{"descriptions", []Step{{Do: Redescribe, Drawer: "lamps"}}, []Step{{Do: Redescribe, Drawer: "lamps"}}},
		{"a split into what no drawer had", []Step{{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "low", Take: "low"}}}}, []Step{{Do: Retire, Parameter: "low", Drawer: "lamps"}}},
		{"a split into what a drawer had", []Step{{Do: Split, Parameter: "power", Into: []SplitOff{{Parameter: "high", Take: "high"}}}}, nil},
		{"retiring", []Step{{Do: Retire, Parameter: "low"}}, nil},
		{"an unknown parameter", []Step{{Do: Rename, Parameter: "gone", To: "x"}}, nil},
		{"a unit of an unknown parameter", []Step{{Do: Unit, Parameter: "gone"}}, nil},
		{"a type of an unknown parameter", []Step{{Do: Retype, Parameter: "gone", Type: Text}}, nil},
	} {
		t.Run(one.name, func(t *testing.T) {
			c, err := Parse([]byte(changing))
			require.NoError(t, err)
			back, ok := c.Document.Reverse(one.steps)
			assert.Equal(t, one.back != nil, ok)
			assert.Equal(t, one.back, back)
			if !ok {
				return
			}
			after, err := c.Document.Apply(one.steps)
			require.NoError(t, err)
			undone, err := after.Apply(back)
			require.NoError(t, err)
			for i := range undone.Parameters {
				undone.Parameters[i].Synonyms = nil
			}
			assert.Equal(t, c.Document.Drawers, undone.Drawers)
			assert.Equal(t, c.Document.Clone().Parameters, undone.Clone().Parameters)
		})
	}
}
