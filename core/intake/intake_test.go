package intake

import (
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
  - { key: resistance, label: Resistance, type: measure, of: resistance, synonyms: [Resistance value] }
  - { key: capacitance, label: Capacitance, type: measure, of: capacitance }
  - { key: power, label: Power, type: measure, of: power }
  - { key: case, label: Case, type: text }
drawers:
  - { key: all, label: All, digits: 4, parameters: [{ key: case }] }
  - { key: resistors, label: Resistors, parent: all, prefix: R, leading: resistance, description: "RES {resistance}[ {power}][ {case}]", parameters: [{ key: resistance, required: true }, { key: power }] }
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

type library map[string]part.Content

func (l library) BySource(key string) (string, part.Content, bool) {
	c, ok := l[key]
	return "R-0001", c, ok
}
func (l library) HasNumber(n string) bool { return n == "TAKEN" }

func build(t *testing.T, lib library, edits Edits, rows ...[]string) Result {
	t.Helper()
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	cw, err := crosswalk.Parse([]byte(crosswalkText))
	require.NoError(t, err)
	require.NoError(t, cw.CheckAgainst(cab))
	n := 0
	res, err := Build(Input{File: "f", Name: "f.csv", Header: []string{"No", "Kind", "Maker", "MPN", "Order", "Value", "Pwr", "Size", "Colour"}, Crosswalk: cw, Cabinet: cab, Library: lib, Edits: edits},
		func() (Row, bool) {
			if n++; n > len(rows) {
				return Row{}, false
			}
			return Row{Number: n + 1, Cells: rows[n-1]}, true
		})
	require.NoError(t, err)
	return res
}

func row(kind, maker, mpn, order, value, power, size string) []string {
	return []string{"", kind, maker, mpn, order, value, power, size, "blue"}
}

func TestRowsBecomeCandidates(t *testing.T) {
	r := build(t, nil, Edits{}, row("Res", "TIDEWRIGHT", "TW-1", "A1", "4,7 kΩ", "1/8", "2012"), row("Cap", "Kelpline", "K-1", "A2", "0,1 µF", "", "big"))
	require.Len(t, r.Candidates, 2)
	c := r.Candidates[0]
	assert.Equal(t, New, c.State)
	assert.Equal(t, "RES 4.7kΩ 125mW 0805", c.Content.Description)
	assert.Equal(t, []part.Source{{Manufacturer: "Tidewright", MPN: "TW-1", Numbers: []part.Number{{Supplier: "Marsh Lane", Number: "A1"}}}}, c.Content.Sources)
	assert.Equal(t, "2012", c.Origins["values.case"].Written, "what was received is kept")
	assert.Contains(t, c.Origins["values.case"].Rule, "metric 2012 is inch 0805")
	assert.Equal(t, "100 nF", r.Candidates[1].Content.Values["capacitance"].String())
	assert.Equal(t, "1206", r.Candidates[1].Content.Values["case"].Text)
	assert.Equal(t, []string{"Colour"}, r.Unmapped, "what was not mapped is shown, not lost")
}

func TestRowsThatCannotBeTakenInAreBlockedWithTheReason(t *testing.T) {
	good := row("Res", "Tidewright", "TW-1", "A1", "4,7 kΩ", "", "")
	for cause, rows := range map[string][][]string{
		"no-drawer:Odd":   {row("Odd", "Tidewright", "TW-1", "", "1 Ω", "", "")},
		"no-mpn":          {row("Res", "Tidewright", " - ", "", "1 Ω", "", "")},
		"no-manufacturer": {row("Res", "", "TW-1", "", "1 Ω", "", "")},
		"mpn-two-values":  {good, row("Res", "tidewright ltd", "tw1", "A2", "4,8 kΩ", "", "")},
		"number-twice":    {append([]string{"N1"}, good[1:]...), append([]string{"n1"}, row("Res", "Tidewright", "TW-2", "", "1 Ω", "", "")[1:]...)},
		"number-taken":    {{"TAKEN", "Res", "Tidewright", "TW-9", "", "1 Ω", "", "", ""}},
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
	assert.Len(t, first.Candidates[0].Content.Sources[0].Numbers, 2, "another order number of the same part is kept")
	lib := library{first.Candidates[0].Content.Sources[0].Key(): first.Candidates[0].Content}
	assert.Equal(t, map[State]int{Known: 1, Repeat: 1}, build(t, lib, Edits{}, rows...).Counts)
	assert.Empty(t, build(t, lib, Edits{}, rows...).Findings)
	elsewhere := build(t, lib, Edits{}, row("Res", "Tidewright", "TW-1", "B9", "4k7", "", ""))
	assert.Equal(t, Known, elsewhere.Candidates[0].State)
	assert.Contains(t, elsewhere.Findings[0].What, "under B9, which its record does not say", "nothing that is left aside goes unsaid")
	changed := build(t, lib, Edits{}, row("Res", "Tidewright", "TW-1", "A1", "5,1 kΩ", "", ""))
	assert.Equal(t, Differs, changed.Candidates[0].State)
	assert.Contains(t, changed.Candidates[0].Why, "resistance 4.7 kΩ, not 5.1 kΩ")
}

func TestUnreadValuesAreKeptAndNamed(t *testing.T) {
	r := build(t, nil, Edits{}, row("Res", "Tidewright", "TW-1", "", "10 nF", "", ""), row("Res", "Tidewright", "TW-2", "", "1.000 Ω", "", ""))
	for _, c := range r.Candidates {
		assert.Equal(t, New, c.State)
		assert.Equal(t, cabinet.Raw, c.Content.Values["resistance"].Type)
	}
	assert.Len(t, finding.Group(r.Findings), 2, "two reasons are two causes")
}

func TestPeopleDecideAboutRows(t *testing.T) {
	odd := row("Odd", "Tidewright", "TW-1", "", "1 Ω", "", "")
	r := build(t, nil, Edits{LeaveOut: []int{3}, Drawers: map[int]string{2: "resistors"}}, odd, odd)
	assert.Equal(t, []State{New, LeftOut}, []State{r.Candidates[0].State, r.Candidates[1].State})
}

func TestSuggestionsAreSilentWhereTheyAreNotSure(t *testing.T) {
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	got := map[string]string{}
	for _, s := range crosswalk.Suggest([]string{"Resistance value (Ω)", "Mfr Part No.", "Maker", "Stock", "CASE"}, cab) {
		got[s.From] = s.To
		assert.NotEmpty(t, s.Reason)
	}
	assert.Equal(t, map[string]string{"Resistance value (Ω)": "resistance", "Mfr Part No.": "take.mpn", "Maker": "take.manufacturer", "CASE": "case"}, got)
}

func FuzzCrosswalkParse(f *testing.F) {
	f.Add([]byte(crosswalkText))
	f.Fuzz(func(_ *testing.T, raw []byte) { _, _ = crosswalk.Parse(raw) })
}
