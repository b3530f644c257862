package intake

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
)

// sheetOf builds an intake of resistors and capacitors with columns as a spreadsheet may have left them.
func sheetOf(t *testing.T, rows ...string) *Result {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	cw, err := crosswalk.Parse([]byte(`
format: jolly-crosswalk/1
supplier: X
take: { mpn: MPN, manufacturer: Maker, supplierNumber: Order }
drawer: ceramic-capacitors
fields: [{ from: C, to: capacitance }, { from: V, to: voltage-rating }, { from: Die, to: dielectric }, { from: Size, to: case }, { from: Tol, to: tolerance }]
`))
	require.NoError(t, err)
	table := NewTable(strings.Split("MPN|Maker|Order|C|V|Die|Size|Tol", "|"))
	for i, r := range rows {
		table.Add(Row{Number: i + 2, Cells: strings.Split(r, "|")})
	}
	return Build(Input{Table: table, Crosswalk: cw, Cabinet: cab})
}

func causes(r *Result) (out []string) {
	for _, f := range r.Findings {
		if !slices.Contains(out, f.Cause) {
			out = append(out, f.Cause)
		}
	}
	return out
}

func TestWhatSpreadsheetsDoToFilesIsFoundWithItsColumn(t *testing.T) {
	good := "KL-603-1|Kelpline|100234|100 nF|50 V|X7R|0603|10 %"
	assert.NotContains(t, strings.Join(causes(sheetOf(t, good)), " "), "spreadsheet")
	for row, want := range map[string]string{
		"1.2E+11|Kelpline|100234|100 nF|50 V|X7R|0603|10 %":            "spreadsheet-number:MPN",
		"4,7E+10|Kelpline|100234|100 nF|50 V|X7R|0603|10 %":            "spreadsheet-number:MPN",
		"2026-03-01 00:00:00|Kelpline|1|100 nF|50 V|X7R|0603|10 %":     "spreadsheet-date:MPN",
		"01-Mar|Kelpline|100234|100 nF|50 V|X7R|0603|10 %":             "spreadsheet-date:MPN",
		"3-Mrz-26|Kelpline|1|100 nF|50 V|X7R|0603|10 %":                "",
		"KL-603-2|Kelpline|1.00234E+07|100 nF|50 V|X7R|0603|10 %":      "spreadsheet-number:Order",
		"KL-603-2|Kelpline|100234|100 nF|50 V|X7R|402|10 %":            "spreadsheet-zeros:Size",
		"KL-603-2|Kelpline|100234|100 nF|50 V|X7R|603|10 %":            "spreadsheet-zeros:Size",
		"KL-603-2|Kelpline|100234|2026-04-07|50 V|X7R|0603|10 %":       "spreadsheet-date:C",
		"KL-603-2|Kelpline|100234||100 nF|50 V|X7R|0603":               "shifted-cells",
		"KL-603-2|Kelpline|100234|50 V|X7R|0603|10 %|":                 "shifted-cells",
		"KL-603-2|Kelpline|100234|100 nF|50 V|X7R|0603 (1608 Metric)|": "",
	} {
		got := causes(sheetOf(t, good, row))
		if want == "" {
			assert.NotContains(t, strings.Join(got, " "), "spreadsheet", row)
			continue
		}
		assert.Contains(t, got, want, row)
	}
}

func TestBothCasesOfACellAreTaken(t *testing.T) {
	r := sheetOf(t, "KL-603-1|Kelpline|100234|100 nF|50 V|X7R|0603 (1608 Metric)|10 %", "KL-402-1|Kelpline|100235|100 nF|50 V|X7R|0402 metric|10 %")
	assert.Equal(t, []string{"0603", "1608"}, []string{r.Content(0).Values["case"].Text, r.Content(0).Values["case-metric"].Text})
	assert.Equal(t, []string{"01005", "0402"}, []string{r.Content(1).Values["case"].Text, r.Content(1).Values["case-metric"].Text})
}

func TestOneDecimalCommaMakesAPointBesideItADoubt(t *testing.T) {
	r := sheetOf(t, "A-1|K|1|0,47 µF|50 V|X7R|0603|10 %", "A-2|K|2|4.700 µF|50 V|X7R|0603|10 %", "A-3|K|3|4,7 µF|50 V|X7R|0603|10 %")
	assert.Equal(t, "470 nF", r.Content(0).Values["capacitance"].String())
	assert.Equal(t, cabinet.Raw, r.Content(1).Values["capacitance"].Type, "4.700 may be four thousand")
	assert.Equal(t, "4.7 µF", r.Content(2).Values["capacitance"].String())
	alone := sheetOf(t, "A-2|K|2|4.700 µF|50 V|X7R|0603|10 %")
	assert.Equal(t, "4.7 µF", alone.Content(0).Values["capacitance"].String())
}

func TestValuesThatDoNotGoIntoTheirCaseAreFound(t *testing.T) {
	r := sheetOf(t, "A-1|K|1|471 µF|50 V|X7R|0402|10 %", "A-2|K|2|10 µF|6.3 V|X5R|0402|20 %")
	var odd []int
	for _, f := range r.Findings {
		if f.Cause == "unusual:capacitance" {
			odd = append(odd, f.Row)
		}
	}
	assert.Equal(t, []int{2}, odd)
}

func TestFactsOfDescriptionsThatNothingUsedAreCounted(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	cw, err := crosswalk.Parse([]byte("format: jolly-crosswalk/1\nsupplier: X\ntake: { mpn: MPN, manufacturer: Maker, description: Text }\ndrawer: chip-resistors\nfields: [{ from: R, to: resistance }]\n"))
	require.NoError(t, err)
	table := NewTable([]string{"MPN", "Maker", "R", "Text"})
	table.Add(Row{Number: 2, Cells: []string{"TW-1", "Tidewright", "10 kΩ", "RES 10k 1% 0603 100 mW"}})
	r := Build(Input{Table: table, Crosswalk: cw, Cabinet: cab})
	assert.Equal(t, []string{"1%", "0603", "100 mW"}, r.Unused(0))
	assert.Equal(t, 3, r.Coverage()[0].Unused)
	got := map[string]string{}
	for _, g := range Suggest(table, cw, crosswalk.Known{Cabinet: cab, Drawers: []string{"chip-resistors"}}) {
		if g.Fact {
			rule, ok := g.Rule()
			require.True(t, ok)
			slot, _ := cab.Parameter(g.To)
			v, note, problem := rule.Read(slot, "RES 10k 1% 0603 100 mW", 0)
			require.Nil(t, problem, g.To)
			got[g.To] = v.String()
			assert.NotEmpty(t, note+g.Reason)
		}
	}
	assert.Equal(t, map[string]string{"tolerance": "±1 %", "case": "0603", "power": "100 mW"}, got)
}
