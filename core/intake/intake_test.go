package intake

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/part"
)

const cabinetText = `
format: jolly-cabinet/1
parameters:
  - { key: resistance, label: Resistance, type: measure, of: resistance, usual: 1 mΩ to 1 GΩ, synonyms: [Resistance value] }
  - { key: capacitance, label: Capacitance, type: measure, of: capacitance }
  - { key: power, label: Power, type: measure, of: power }
  - { key: case, label: Case, type: text }
drawers:
  - { key: all, label: All, digits: 4, parameters: [{ key: case }] }
  - { key: resistors, label: Resistors, parent: all, prefix: R, leading: resistance, identity: [resistance], description: "RES {resistance}[ {power}][ {case}]", parameters: [{ key: resistance, required: true, preferred: true }, { key: power }] }
  - { key: capacitors, label: Capacitors, parent: all, prefix: C, leading: capacitance, parameters: [{ key: capacitance, required: true }] }
`

const crosswalkText = `
format: jolly-crosswalk/1
supplier: Marsh Lane
decimalMark: comma
take: { number: No, kind: Kind, manufacturer: Maker, mpn: MPN, supplierNumber: Order }
kinds: { Res: resistors, Cap: capacitors }
manufacturers: { TIDEWRIGHT: Tidewright }
fields:
  - { from: Value, to: "@leading" }
  - { from: Pwr, to: power, unit: W }
  - { from: Size, to: case, caseSystem: metric, words: { big: "1206" } }
`

// library is a made-up library: parts by source key.
type library map[string]Existing

func (l library) Source(key string) (Existing, bool) { e, ok := l[key]; return e, ok }
func (l library) Numbered(n string) (Existing, bool) {
	for _, e := range l {
		if e.Number == n {
			return e, true
		}
	}
	return Existing{}, false
}
func (l library) Makers() (out []string) {
	for _, e := range l {
		for _, s := range e.Content.Sources {
			out = append(out, s.Manufacturer)
		}
	}
	return out
}
func (l library) Like(drawer string, keys []string) func(func(string) cabinet.Value) []string {
	return func(value func(string) cabinet.Value) (out []string) {
		for _, e := range l {
			same := e.Content.Drawer == drawer
			for _, k := range keys {
				same = same && e.Content.Values[k] == value(k)
			}
			if same {
				out = append(out, e.Number)
			}
		}
		return out
	}
}

// holding is a library with the parts that a build would make.
func holding(r *Result) library {
	l := library{}
	for i, c := range r.Candidates {
		if c.State == New {
			p := r.Content(i)
			key := "none|" + string(rune('a'+i))
			if len(p.Sources) > 0 {
				key = p.Sources[0].Key()
			}
			l[key] = Existing{ID: "id" + key, Number: "R-000" + string(rune('1'+i)), Version: 1, Content: p}
		}
	}
	return l
}

var header = []string{"No", "Kind", "Maker", "MPN", "Order", "Value", "Pwr", "Size", "Colour"}

func build(t *testing.T, lib library, edits Edits, rows ...[]string) *Result {
	t.Helper()
	return buildWith(t, lib, edits, nil, rows...)
}

func buildWith(t *testing.T, lib library, edits Edits, changes []crosswalk.Change, rows ...[]string) *Result {
	t.Helper()
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	cw, err := crosswalk.Parse([]byte(crosswalkText))
	require.NoError(t, err)
	cw, err = cw.With(changes)
	require.NoError(t, err)
	require.NoError(t, cw.CheckAgainst(cab))
	table := NewTable(header)
	for i, r := range rows {
		table.Add(Row{Number: i + 2, Cells: r})
	}
	return Build(Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Library: lib, Edits: edits, Next: map[string]int64{"R": 5}})
}

func row(kind, maker, mpn, order, value, power, size string) []string {
	return []string{"", kind, maker, mpn, order, value, power, size, "blue"}
}

func TestRowsBecomeCandidates(t *testing.T) {
	r := build(t, nil, Edits{}, row("Res", "TIDEWRIGHT", "TW-1", "A1", "4,7 kΩ", "1/8", "2012"), row("Cap", "Kelpline", "K-1", "A2", "0,1 µF", "", "big"))
	require.Len(t, r.Candidates, 2)
	c := r.Candidates[0]
	assert.Equal(t, New, c.State)
	assert.Equal(t, "RES 4.7kΩ 125mW 0805", r.Content(0).Description)
	assert.Equal(t, []part.Source{{Manufacturer: "Tidewright", MPN: "TW-1", Numbers: []part.Number{{Supplier: "Marsh Lane", Number: "A1"}}}}, r.Content(0).Sources)
	assert.Equal(t, "2012", r.Origins(0)["values.case"].Written, "what was received is kept")
	assert.Contains(t, r.Origins(0)["values.case"].Rule, "metric 2012 is inch 0805")
	assert.Equal(t, "100 nF", r.Value(1, "capacitance").String())
	assert.Equal(t, "1206", r.Value(1, "case").Text)
	assert.Equal(t, []string{"Colour"}, r.Unmapped, "what was not mapped is shown, not lost")
}

func TestRowsThatCannotBeTakenInAreBlockedWithTheReason(t *testing.T) {
	good := row("Res", "Tidewright", "TW-1", "A1", "4,7 kΩ", "", "")
	for cause, rows := range map[string][][]string{
		"no-mpn":          {row("Res", "Tidewright", " - ", "", "1 Ω", "", "")},
		"no-manufacturer": {row("Res", "", "TW-1", "", "1 Ω", "", "")},
		"mpn-two-values":  {good, row("Res", "tidewright ltd", "tw1", "A2", "4,8 kΩ", "", "")},
		"number-twice":    {append([]string{"N1"}, good[1:]...), append([]string{"n1"}, row("Res", "Tidewright", "TW-2", "", "1 Ω", "", "")[1:]...)},
	} {
		r := build(t, nil, Edits{}, rows...)
		var causes []string
		for _, f := range r.Findings {
			if f.Severity == finding.Error {
				causes = append(causes, f.Cause)
			}
		}
		assert.Contains(t, causes, cause)
		assert.Positive(t, r.Counts[Blocked], cause)
		assert.Zero(t, r.Counts[New]*btoi(cause == "mpn-two-values"), "neither of two that contradict each other is taken")
	}
}

func btoi(b bool) int {
	if b {
		return 1
	}
	return 0
}

func TestTheSameDataAgainChangesNothing(t *testing.T) {
	rows := [][]string{row("Res", "Tidewright", "TW-1", "A1", "4,7 kΩ", "", ""), row("Res", "Tidewright", "tw 1", "A2", "4k7", "", "")}
	first := build(t, nil, Edits{}, rows...)
	assert.Equal(t, map[State]int{New: 1, Repeat: 1}, first.Counts)
	assert.Len(t, first.Content(0).Sources[0].Numbers, 2, "another order number of the same part is kept")
	lib := holding(first)
	again := build(t, lib, Edits{}, rows...)
	assert.Equal(t, map[State]int{Known: 1, Repeat: 1}, again.Counts)
	assert.Empty(t, again.Findings)
	elsewhere := build(t, lib, Edits{}, row("Res", "Tidewright", "TW-1", "B9", "4k7", "", ""))
	assert.Equal(t, Known, elsewhere.Candidates[0].State)
	assert.Contains(t, elsewhere.Findings[0].What, "under B9, which its record does not say", "nothing that is left aside goes unsaid")
	changed := build(t, lib, Edits{}, row("Res", "Tidewright", "TW-1", "A1", "5,1 kΩ", "", ""))
	assert.Equal(t, Differs, changed.Candidates[0].State)
	assert.Contains(t, changed.Candidates[0].Why, "resistance 4.7 kΩ, not 5.1 kΩ")
}

func TestWhatTheLibraryHasIsSettledByPolicyOrByRow(t *testing.T) {
	lib := holding(build(t, nil, Edits{}, row("Res", "Tidewright", "TW-1", "A1", "4,7 kΩ", "", "")))
	next := row("Res", "Tidewright", "TW-1", "A2", "5,1 kΩ", "1/8", "")
	for policy, want := range map[string][]Change{
		Replace: {{"resistance", "4.7 kΩ", "5.1 kΩ"}, {"power", "", "125 mW"}, {"supplier number", "", "Marsh Lane A2"}},
		Fill:    {{"power", "", "125 mW"}, {"supplier number", "", "Marsh Lane A2"}},
		Ask:     nil, Keep: nil,
	} {
		r := build(t, lib, Edits{Known: policy}, next)
		assert.Equal(t, want, r.Candidates[0].Changes, policy)
		if len(want) > 0 {
			p, how := r.Merge(0, lib["tidewright|TW1"].Content)
			assert.Equal(t, "125 mW", p.Values["power"].String())
			assert.Equal(t, "1/8", how["values.power"].Written)
			assert.Len(t, p.Sources[0].Numbers, 2)
			assert.Len(t, lib["tidewright|TW1"].Content.Values, 1, "the library's own content is not touched")
		}
	}
	r := build(t, lib, Edits{Known: Replace, Fields: map[string]string{"resistance": Keep}}, next)
	assert.Equal(t, []Change{{"power", "", "125 mW"}, {"supplier number", "", "Marsh Lane A2"}}, r.Candidates[0].Changes, "a parameter may be settled apart")
	assert.Equal(t, map[string]int{"resistance": 1, "power": 1}, r.Differing)
	r = build(t, lib, Edits{Known: Replace, Decide: map[int]Decision{2: {As: Separate, Why: "another plant"}}}, next)
	assert.Equal(t, New, r.Candidates[0].State, "a row's own decision goes before the policy")
	like := row("Res", "Kelpline", "K-7", "Z1", "4k7", "", "")
	r = build(t, lib, Edits{}, like)
	assert.Equal(t, New, r.Candidates[0].State)
	assert.Equal(t, "like-library", r.Findings[1].Cause, "equal in the identifying parameters is said, not decided")
	r = build(t, lib, Edits{Like: AsSource}, like, row("Res", "Curlew", "C-1", "", "8k2", "", ""), row("Res", "Kelpline", "K-8", "", "8,2 kΩ", "", ""))
	assert.Equal(t, []State{Alternate, New, Alternate}, []State{r.Candidates[0].State, r.Candidates[1].State, r.Candidates[2].State})
	assert.Len(t, r.Content(1).Sources, 2, "a later row joins the part that an earlier one makes")
}

func TestUnreadValuesAreKeptAndNamed(t *testing.T) {
	r := build(t, nil, Edits{}, row("Res", "Tidewright", "TW-1", "", "10 nF", "", ""), row("Res", "Tidewright", "TW-2", "", "1.000 Ω", "", ""))
	for i := range r.Candidates {
		assert.Equal(t, New, r.Candidates[i].State)
		assert.Equal(t, cabinet.Raw, r.Value(i, "resistance").Type)
	}
	causes := finding.Group(r.Findings)
	values := 0
	for _, c := range causes {
		if c.Param == "resistance" {
			values++
		}
	}
	assert.Equal(t, 2, values, "two reasons are two causes")
}

func TestChecksSayWhatIsOdd(t *testing.T) {
	text := func(n string, cells ...string) []string { return append([]string{n}, cells...) }
	for cause, rows := range map[string][][]string{
		"no-drawer:Odd": {row("Odd", "Tidewright", "TW-1", "", "1 Ω", "", "")},
		"doubt (it lies outside of what is usual (1 mΩ to 1 GΩ)):Value→resistance": {row("Res", "Tidewright", "TW-1", "", "5 GΩ", "", "")},
		"not-preferred:resistance":       {row("Res", "Tidewright", "TW-1", "", "4711 Ω", "", "")},
		"maker-spelling:tidewrigth":      {row("Res", "Tidewright", "TW-1", "", "1 Ω", "", ""), row("Res", "Tidewright", "TW-2", "", "2 Ω", "", ""), row("Res", "Tidewright", "TW-3", "", "3 Ω", "", ""), row("Res", "Tidewrigth", "TW-4", "", "10 Ω", "", "")},
		"header-again":                   {header},
		"like-row":                       {row("Res", "Tidewright", "TW-1", "", "1 Ω", "", ""), row("Res", "Kelpline", "K-1", "", "1R", "", "")},
		"number-ahead":                   {text("R-99999", "Res", "Tidewright", "TW-1", "", "1 Ω", "", "", "")},
		"required:resistors.resistance":  {row("Res", "Tidewright", "TW-1", "", "", "", "")},
		"neighbour:resistors":            {row("Res", "Tidewright", "TW-1", "", "10 kΩ", "", "RES 1k 1%")},
		"datasheet:nobody answers there": {row("Res", "Tidewright", "TW-1", "dead", "10 kΩ", "", "")},
	} {
		changes := []crosswalk.Change{}
		if cause == "neighbour:resistors" {
			changes = []crosswalk.Change{{Take: map[string]string{"description": "Size"}}}
		}
		cab, err := cabinet.Parse([]byte(cabinetText))
		require.NoError(t, err)
		cw, err := crosswalk.Parse([]byte(crosswalkText))
		require.NoError(t, err)
		if cause == "datasheet:nobody answers there" {
			changes = append(changes, crosswalk.Change{Take: map[string]string{"datasheet": "Order", "supplierNumber": ""}})
		}
		cw, err = cw.With(changes)
		require.NoError(t, err)
		table := NewTable(header)
		for i, r := range rows {
			table.Add(Row{Number: i + 2, Cells: r})
		}
		r := Build(Input{Table: table, Crosswalk: cw, Cabinet: cab, Library: library{}, Next: map[string]int64{"R": 5}, Fetched: map[string]Fetched{"dead": {Problem: "nobody answers there"}}})
		var causes []string
		for _, f := range r.Findings {
			causes = append(causes, f.Cause)
		}
		assert.Contains(t, causes, cause)
		waived := Build(Input{Table: table, Crosswalk: cw, Cabinet: cab, Library: library{}, Next: map[string]int64{"R": 5}, Fetched: map[string]Fetched{"dead": {Problem: "nobody answers there"}},
			Edits: Edits{Waive: []Waiver{{Cause: cause, Why: "looked at", Who: "Maren"}}}})
		for _, f := range waived.Findings {
			if f.Cause == cause && f.Severity != finding.Error {
				assert.Equal(t, "looked at (Maren)", f.Waived)
			}
		}
	}
}

func TestRowsAreSortedByWhatTheySay(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	cw, err := crosswalk.Parse([]byte("format: jolly-crosswalk/1\nsupplier: X\ntake: {kind: K, description: D, designator: Ref}\nsorting: [{field: D, has: odd one, drawer: fuses}]\nfields: [{from: C, to: capacitance}, {from: V, to: voltage-rating}, {from: Die, to: dielectric}]\n"))
	require.NoError(t, err)
	table := NewTable([]string{"K", "D", "Ref", "C", "V", "Die"})
	for i, c := range []struct {
		cells           []string
		drawer, because string
	}{
		{[]string{"Chip resistors", "", "", "", "", ""}, "chip-resistors", `its kind says "chip resistor"`},
		{[]string{"", "Schottky diode 40 V", "", "", "", ""}, "schottky-diodes", `its description says "schottky diode"`},
		{[]string{"", "the odd one", "", "", "", ""}, "fuses", `D has "odd one"`},
		{[]string{"", "", "", "1 µF", "50 V", "X7R"}, "ceramic-capacitors", "it alone has all of the filled fields: capacitance, voltage-rating, dielectric"},
		{[]string{"", "", "", "1 µF", "50 V", ""}, "", ""},
		{[]string{"Resistor", "electrolytic capacitor", "", "", "", ""}, "", ""},
		{[]string{"Zwölfkant", "", "", "", "", ""}, "", ""},
	} {
		table.Add(Row{Number: i + 2, Cells: c.cells})
		r := Build(Input{Table: table, Crosswalk: cw, Cabinet: cab})
		got := r.Candidates[i]
		assert.Equal(t, c.drawer, got.Drawer, c.cells)
		assert.Equal(t, c.because, got.Because, c.cells)
	}
}

func TestEachMendSettlesItsCause(t *testing.T) {
	odd := build(t, nil, Edits{}, row("Odd", "Kelpline", "K-1", "", "1k", "", ""))
	assert.Equal(t, "drawer", odd.Mends(finding.Cause{Cause: "no-drawer:Odd", Severity: finding.Error})[0].Needs)
	assert.Equal(t, Unsorted, odd.Candidates[0].State)
	sorted := build(t, nil, Edits{}, row("Resistor", "Kelpline", "K-1", "", "1k", "", ""))
	assert.Equal(t, `its kind says "resistor"`, sorted.Candidates[0].Because, "a kind that can only be one drawer needs no mend")
	for name, c := range map[string]struct {
		cause, label string
		rows         [][]string
	}{
		"a doubt":        {"doubt", "Read the field as though", [][]string{row("Cap", "Kelpline", "K-1", "", "104", "", "")}},
		"a unit":         {"doubt", "Without a unit, Ω is meant", [][]string{row("Res", "Kelpline", "K-1", "", "12", "", "")}},
		"a maker":        {"maker-spelling", "Kelplin\" is Kelpline", [][]string{row("Res", "Kelpline", "K-1", "", "1k", "", ""), row("Res", "Kelpline", "K-2", "", "2k", "", ""), row("Res", "Kelpline", "K-3", "", "3k", "", ""), row("Res", "Kelplin", "K-4", "", "4k", "", "")}},
		"a fact":         {"unreadable", "Take the one value out of the text", [][]string{row("Res", "Kelpline", "K-1", "", "chip 4.7 kΩ thick film", "", "")}},
		"out of the way": {"unreadable", "Leave the field out", [][]string{row("Res", "Kelpline", "K-1", "", "red", "", "")}},
	} {
		before := build(t, nil, Edits{}, c.rows...)
		settled := false
		for _, cause := range finding.Group(before.Findings) {
			if !strings.HasPrefix(cause.Cause, c.cause) {
				continue
			}
			for _, m := range before.Mends(cause) {
				if m.Change == nil || !strings.Contains(m.Label, c.label) {
					continue
				}
				after := buildWith(t, nil, Edits{}, []crosswalk.Change{*m.Change}, c.rows...)
				for _, f := range after.Findings {
					assert.NotEqual(t, cause.Cause, f.Cause, name)
				}
				settled = true
			}
		}
		assert.True(t, settled, "%s: %v", name, finding.Group(before.Findings))
	}
}

func TestCoverageAndSamplesShowWhatARuleDoes(t *testing.T) {
	r := build(t, nil, Edits{}, row("Res", "Kelpline", "K-1", "", "1k", "1/8", ""), row("Res", "Kelpline", "K-2", "", "odd", "", ""))
	c := r.Coverage()
	require.Len(t, c, 1)
	assert.Equal(t, "Resistors", c[0].Label)
	assert.Equal(t, Covered{Key: "resistance", Label: "Resistance", From: []string{"Value"}, Filled: 1, Unread: 1, Required: true}, c[0].Parameters[1])
	samples, good, bad := r.Samples(crosswalk.Rule{From: "Value", To: "resistance"}, 10)
	assert.Equal(t, []int{1, 1}, []int{good, bad})
	assert.Equal(t, "odd", samples[0].Written, "what cannot be read comes first")
	assert.Equal(t, "1 kΩ", samples[1].Value)
	one, two := r.Digest(), build(t, nil, Edits{}, row("Res", "Kelpline", "K-1", "", "1k", "1/8", ""), row("Res", "Kelpline", "K-2", "", "odder", "", "")).Digest()
	assert.NotEqual(t, one, two)
}

func TestAPastedTextBecomesAPart(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	want := map[string]string{"resistance": "4.7 kΩ", "tolerance": "±1 %", "power": "125 mW", "case": "0805"}
	for name, text := range map[string]string{
		"one line":         "RES 4.7 kΩ 1% 0.125 W 0805",
		"two columns":      "Category\tChip resistor\nResistance\t4.7 kOhms\nTolerance\t±1%\nPower rating\t0.125W\nCase\t0805\nManufacturer\tTidewright\nMfr Part No.\tTW-1\nStock\t1200",
		"names and values": "Type of part: chip resistors\nResistance: 4k7\nTol: 1 %\nP: 1/8 W\nCase: 0805\n",
		"header and row":   "Category\tResistance\tTolerance\tPower\tCase\nChip resistor\t4k7\t1 %\t125 mW\t0805",
	} {
		p := Paste(ReadFields(text), cab, nil, map[bool]string{true: "chip-resistors"}[name == "one line"])
		got := map[string]string{}
		for _, v := range p.Values {
			got[v.Key] = v.Value
			assert.NotEmpty(t, v.Why)
		}
		assert.Equal(t, want, got, name)
		assert.Equal(t, "chip-resistors", p.Drawer, name)
	}
	p := Paste(ReadFields("Category\tChip resistor\nResistance\t4.7 kOhms\nManufacturer\tTidewright\nMfr Part No.\tTW-1\nStock\t1200"), cab, nil, "")
	assert.Equal(t, part.Source{Manufacturer: "Tidewright", MPN: "TW-1"}, p.Source)
	assert.Equal(t, []Field{{"Stock", "1200"}}, p.Unused, "what is not wanted is shown")
	assert.Contains(t, p.ByHand, "case")
	assert.Empty(t, Paste(ReadFields("nothing of use"), cab, nil, "").Drawer)
}

func FuzzPaste(f *testing.F) {
	cab, err := cabinet.New(cabinet.Starter())
	if err != nil {
		f.Fatal(err)
	}
	f.Add("RES 4.7 kΩ 1% 0.125 W 0805")
	f.Add("Name:\tvalue\n\n: \n|a|b|")
	f.Fuzz(func(t *testing.T, text string) {
		p := Paste(ReadFields(text), cab, nil, "")
		for _, v := range p.Values {
			if v.Key == "" || v.Written == "" {
				t.Fatalf("%+v", v)
			}
		}
	})
}

func TestPeopleDecideAboutRows(t *testing.T) {
	odd := row("Odd", "Tidewright", "TW-1", "", "1 Ω", "", "")
	r := build(t, nil, Edits{LeaveOut: []int{3}, Drawers: map[int]string{2: "resistors"}}, odd, odd)
	assert.Equal(t, []State{New, LeftOut}, []State{r.Candidates[0].State, r.Candidates[1].State})
	assert.Equal(t, "put there by hand", r.Candidates[0].Because)
	r = build(t, nil, Edits{Cells: map[int]map[string]string{2: {"Kind": "Res", "Value": "2k2"}}}, odd)
	assert.Equal(t, "2.2 kΩ", r.Value(0, "resistance").String(), "a cell that was corrected counts")
	row, corrected, ok := r.Cells(2)
	assert.True(t, ok)
	assert.Equal(t, "Odd", row.Cells[1], "the file keeps what it said")
	assert.Equal(t, "2k2", corrected["Value"])
}

func FuzzCrosswalkParse(f *testing.F) {
	f.Add([]byte(crosswalkText))
	f.Fuzz(func(_ *testing.T, raw []byte) { _, _ = crosswalk.Parse(raw) })
}
