package intake

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

func TestASheetNamesItsParts(t *testing.T) {
	for _, c := range []struct {
		text, mpn string
		names     bool
	}{
		{"Tidewright TW series", "TW-0805-4K7-F", true},
		{"Baureihe TW: Dickschichtwiderstände", "TW-0805-4K7-F", true},
		{"Tidewright TW series", "TX-0805-4K7-F", false},
		{"Ordering: TW0805xxxx, TW1206xxxx", "TW0805-4K7", true},
		{"Ordering: TW1206xxxx", "TW0805-4K7", false},
		{"KL□□□□ ceramic capacitors", "KL0805-104", true},
		{"CUAD24 analog to digital converter", "CUAD24", true},
		{"CUAD24 analog to digital converter", "CUAD-24/TR", true},
		{"CUAD24PWR in TSSOP", "CUAD24", true},
		{"CUAD16 analog to digital converter", "CUAD24", false},
		{"PW-M2-05   M2   5 mm", "PW-M2-05", true},
		{"PW-M2-05   M2   5 mm", "PW-M2-06", false},
		{"for all parts of the house", "FOR-12A", false},
		{"see the table 1234 below", "1234567", true},
		{"see the table 1234 below", "123456789", false},
		{"", "X1", false},
	} {
		assert.Equal(t, c.names, ReadSheet([]string{c.text}).Names(c.mpn), "%q of %q", c.mpn, c.text)
	}
}

// Datasheets with a table of order numbers: of rows whose value is the line's none is doubted, and of wrong ones each is; rows of other
// series are told.
func TestSheetsSpeakAgainstWrongValues(t *testing.T) {
	cab, err := cabinet.Parse([]byte(cabinetText))
	require.NoError(t, err)
	cw := madeCrosswalk(t)
	cw.Take.Datasheet = "Colour"
	for seed := range uint64(40) {
		d := &measuretest.Draws{State: seed}
		table := NewTable(madeHeader)
		lines := []string{"Kelpline KQ series", "Thick film, 50 V, -55 to 155 °C", "Order number   Resistance   Power"}
		wrong, other := map[int]bool{}, map[int]bool{}
		for n := range 30 {
			ohms := 10 + d.IntN(990)
			mpn := fmt.Sprintf("KQ%03d-%d", n, ohms)
			said := ohms
			switch d.IntN(10) {
			case 0:
				said += 1 + d.IntN(50)
				wrong[n+2] = true
			case 1:
				mpn, other[n+2] = fmt.Sprintf("ZZ%03d", n), true
			}
			if !other[n+2] && d.IntN(5) > 0 || wrong[n+2] {
				lines = append(lines, fmt.Sprintf("%s   %d%s   0.%d W", mpn, said, []string{"R", " Ω", " Ohm"}[d.IntN(3)], 1+d.IntN(5)))
			}
			table.Add(Row{Number: n + 2, Cells: []string{"", "Res", "Kelpline", mpn, "", fmt.Sprintf("%d Ohm", ohms), "", "", "sheet", ""}})
		}
		in := Input{File: "f", Name: "f.csv", Table: table, Crosswalk: cw, Cabinet: cab, Fetched: map[string]Fetched{"sheet": {File: part.File{Hash: "h", Name: "kq.pdf"}, Text: ReadSheet([]string{strings.Join(lines, "\n")})}}}
		r := Build(in)
		gotWrong, gotOther := map[int]bool{}, map[int]bool{}
		for _, f := range findingsOf(r, "datasheet-says:resistance") {
			gotWrong[f.Row] = true
		}
		for _, f := range findingsOf(r, "datasheet-other:kq.pdf") {
			gotOther[f.Row] = true
		}
		require.Equal(t, wrong, gotWrong, "seed %d", seed)
		require.Equal(t, other, gotOther, "seed %d", seed)
		in.Fetched = map[string]Fetched{"sheet": {File: part.File{Hash: "h", Name: "kq.pdf"}, Text: ReadSheet([]string{" \n", ""})}}
		r = Build(in)
		require.Len(t, findingsOf(r, "datasheet-no-text"), 30)
		require.Empty(t, findingsOf(r, "datasheet-other", "datasheet-says"))
	}
}
