package intake

import (
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/part"
)

func TestTheNearestChoiceIsOfferedWhereThereIsOne(t *testing.T) {
	colours := []string{"red", "amber", "green", "warm white", "white", "infrared", "RGB"}
	for text, want := range map[string]string{
		"redd": "red", "gren": "green", "Amber": "amber", "warmwhite": "warm white", "warm_white": "warm white", "Warm-White": "warm white", "warm/white": "warm white", "whit": "white", "infra red": "infrared", "RGBW": "RGB", "x": "", "blue": "", "re": "red", "r": "", "purple": "", "greenish": "green", "": "", "rgb": "RGB", "wwwwwww": "",
	} {
		assert.Equal(t, want, nearestChoice(text, colours), "%q", text)
	}
	assert.Equal(t, "", nearestChoice("X5X", []string{"X5R", "X5S"}), "two are as near")
	assert.Equal(t, "X5R", nearestChoice("X5R", []string{"X5R", "X5S"}))
	assert.Equal(t, "", nearestChoice("ab", []string{"abcdef"}), "two letters begin many words")
	assert.Equal(t, "abc", nearestChoice("abcdef", []string{"abc"}))
	assert.Equal(t, "", nearestChoice("abcdef", []string{"ab"}))
}

func TestUnitsThatAFieldMayMean(t *testing.T) {
	for _, c := range []struct {
		field string
		p     cabinet.Parameter
		want  string
	}{
		{"Cap (nF)", cabinet.Parameter{Of: "capacitance"}, "nF F mF µF kF pF"}, {"Cap", cabinet.Parameter{Of: "capacitance"}, "F mF µF kF nF pF"}, {"Length", cabinet.Parameter{Of: "length", Show: "mm"}, "mm m µm km nm pm"}, {"Pull", cabinet.Parameter{Of: "voltage", AssumeUnit: "mV"}, "mV V µV kV nV pV"},
		{"Pull-in (mm)", cabinet.Parameter{Of: "voltage"}, "V mV µV kV nV pV"},
	} {
		assert.Equal(t, c.want, strings.Join(unitsIn(c.field, c.p), " "), c.field)
	}
}

// What a required parameter may be filled from: another field of the file, or the text of the rows.
func TestABlankThatIsRequiredIsFilledFromWhatTheFileHas(t *testing.T) {
	lines := []string{"Kind|Maker|MPN|Text|Resistance value", "Chip R|Tern|T-1|RES 4k7 1% 0805|4k7", "Chip R|Tern|T-2|RES 10k 1% 0603|10k", "Chip R|Tern|T-3|RES odd|1k", "MLCC|Tern|T-4|CAP 100n 50V X7R 0603|"}
	r := sheetBy(t, "format: jolly-crosswalk/1\nsupplier: Tern Quay\ntake: { kind: Kind, manufacturer: Maker, mpn: MPN, description: Text }\nkinds: { Chip R: chip-resistors, MLCC: ceramic-capacitors }\nfields: [{ from: Text, to: case, piece: { fact: true } }]\n", lines...)
	var labels []string
	for _, c := range finding.Group(r.Findings) {
		if !strings.HasPrefix(c.Cause, "required:") {
			continue
		}
		for _, m := range r.Mends(c) {
			if m.Change != nil && m.Change.Rule != nil && m.Needs == "" {
				labels = append(labels, c.Cause+" "+m.Label)
			}
		}
	}
	assert.ElementsMatch(t, []string{
		`required:chip-resistors.resistance Fill it from the field "Resistance value"`, `required:chip-resistors.resistance Take it out of the field "Text", where 2 of 3 rows say it`, `required:chip-resistors.tolerance Take it out of the field "Text", where 2 of 3 rows say it`,
		`required:ceramic-capacitors.capacitance Take it out of the field "Text", where 1 of 1 rows say it`, `required:ceramic-capacitors.voltage-rating Take it out of the field "Text", where 1 of 1 rows say it`, `required:ceramic-capacitors.dielectric Take it out of the field "Text", where 1 of 1 rows say it`,
	}, labels)
}

// starter is the starter cabinet, which is made once.
var starter = sync.OnceValues(func() (*cabinet.Cabinet, error) { return cabinet.New(cabinet.Starter()) })

// sheetBy builds a table of lines, cells parted by bars, under a crosswalk and the starter cabinet.
func sheetBy(t *testing.T, cw string, lines ...string) *Result {
	return sheetIn(t, Input{}, cw, lines...)
}

func sheetIn(t *testing.T, in Input, text string, lines ...string) *Result {
	t.Helper()
	cw, err := crosswalk.Parse([]byte(text))
	require.NoError(t, err)
	return sheetUnder(t, in, cw, lines...)
}

func sheetUnder(t *testing.T, in Input, cw crosswalk.Crosswalk, lines ...string) *Result {
	t.Helper()
	cab, err := starter()
	require.NoError(t, err)
	in.File, in.Name, in.Cabinet, in.Crosswalk, in.Table = "f", "f.csv", cab, cw, NewTable(strings.Split(lines[0], "|"))
	for i, l := range lines[1:] {
		in.Table.Add(Row{Number: i + 2, Cells: strings.Split(l, "|")})
	}
	return Build(in)
}

const tern = "format: jolly-crosswalk/1\nsupplier: Tern Quay\ntake: { number: No, manufacturer: Maker, mpn: MPN, supplierNumber: Order, description: Text, datasheet: Sheet }\ndrawer: chip-resistors\nfields: [{ from: Ohms, to: resistance }, { from: Tol, to: tolerance }, { from: Size, to: case }]\n"

func TestTextsThatAreTooLongAreBlockedByName(t *testing.T) {
	long, fits := strings.Repeat("x", part.MaxText+1), strings.Repeat("y", part.MaxText)
	for what, row := range map[string]string{
		"the description": "|Tern|T-1|1|" + long + "||1k|1%|0805", "the manufacturer part number": "|Tern|" + long + "|1|||1k|1%|0805", "the manufacturer": "|" + long + "|T-1|1|||1k|1%|0805", "the supplier's number": "|Tern|T-1|" + long + "|||1k|1%|0805", "Case": "|Tern|T-1|1|||1k|1%|" + long,
	} {
		r := sheetBy(t, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", row)
		assert.Equal(t, Blocked, r.Candidates[0].State, what)
		assert.Contains(t, r.Candidates[0].Why, what+" is longer than")
	}
	r := sheetBy(t, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", "|Tern|"+fits+"|"+fits+"|"+fits+"||1k|1%|0805")
	assert.Equal(t, New, r.Candidates[0].State, r.Candidates[0].Why)
}

func TestNumbersThatRunAheadOfTheirCounter(t *testing.T) {
	for number, ahead := range map[string]bool{"R-10004": false, "R-10005": true, "r-99999": true, "R-5": false, "X-99999": false, "R99999": false, "R-9999x": false, "R-99999999999999999999": false, "": false} {
		r := sheetIn(t, Input{Next: map[string]int64{"R": 5}}, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", number+"|Tern|T-1|1|||1k|1%|0805")
		got := slices.ContainsFunc(r.Findings, func(f finding.Finding) bool { return f.Cause == "number-ahead" })
		assert.Equal(t, ahead, got, number)
	}
}

// Which values are told to be none that parts come in: IEC 60063 has a series for each tolerance.
func TestPreferredNumbersFollowTheTolerance(t *testing.T) {
	for row, says := range map[string]string{
		"4.7k|5%": "", "4.8k|5%": "in no series", "4.75k|1%": "", "4.75k|5%": "and ±5 % parts come in E24", "5.1k|5%": "", "5.1k|10%": "", "4.7k|1%": "", "4.75k|": "", "4.8k|": "in no series", "4.87k|2%": "", "4.99k|2%": "and ±2 % parts come in E48", "10k|0.1%": "",
	} {
		ohms, tol, _ := strings.Cut(row, "|")
		r := sheetBy(t, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", fmt.Sprintf("|Tern|T-1|1|||%s|%s|0805", ohms, tol))
		got := ""
		for _, f := range r.Findings {
			if strings.HasPrefix(f.Cause, "not-preferred") {
				got += f.What
			}
		}
		if says == "" {
			assert.Empty(t, got, row)
		} else {
			assert.Contains(t, got, says, row)
		}
	}
}

// The value of a row and its own words.
func TestARowIsLaidBesideItsOwnWords(t *testing.T) {
	for text, odd := range map[string]bool{"RES 4k7 1%": false, "RES 4.7k": false, "RES 4.8k": true, "RES 472": false, "RES 473 1%": true, "nothing of it": false, "RES 4.7k or 4.8k": false, "100nF": false, "RES 4700 ohm": false, "": false} {
		r := sheetBy(t, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", "|Tern|T-1|1|"+text+"||4.7 kΩ|1%|0805")
		got := slices.ContainsFunc(r.Findings, func(f finding.Finding) bool { return strings.HasPrefix(f.Cause, "neighbour") })
		assert.Equal(t, odd, got, "%q", text)
	}
}

func TestAFetchedDatasheetGoesOntoThePart(t *testing.T) {
	in := Input{Fetched: map[string]Fetched{"a.pdf": {File: part.File{Hash: "h", Name: "a.pdf"}}, "b.pdf": {}}}
	r := sheetIn(t, in, tern, "No|Maker|MPN|Order|Text|Sheet|Ohms|Tol|Size", "|Tern|T-1|1||a.pdf|1k|1%|0805", "|Tern|T-2|2||b.pdf|2k|1%|0805", "|Tern|T-3|3|||3k|1%|0805")
	assert.Equal(t, []part.File{{Hash: "h", Name: "a.pdf"}}, r.Content(0).Datasheets)
	assert.Empty(t, r.Content(1).Datasheets)
	assert.Empty(t, r.Content(2).Datasheets)
	into, _ := r.Merge(0, part.Content{Drawer: "chip-resistors", Datasheets: []part.File{{Hash: "own"}}})
	assert.Equal(t, "own", into.Datasheets[0].Hash, "a part keeps its own")
	into, _ = r.Merge(0, part.Content{Drawer: "chip-resistors"})
	assert.Equal(t, "h", into.Datasheets[0].Hash)
}

// A number without a unit under a heading that names one: that is offered before all that the number might mean.
func TestTheUnitThatAHeadingNamesIsOfferedFirst(t *testing.T) {
	for heading, first := range map[string]string{
		"R/kΩ":       `Without a unit, kΩ is meant: "12" becomes 12 kΩ`,
		"R (mΩ) typ": `Without a unit, mΩ is meant: "12" becomes 12 mΩ`,
		"R [MΩ]":     `Without a unit, MΩ is meant: "12" becomes 12 MΩ`,
		"R, mW":      `Read the field as though the unit is Ω: "12" becomes 12 Ω`, // of another kind
		"R":          `Read the field as though the unit is Ω: "12" becomes 12 Ω`,
	} {
		r := sheetUnder(t, Input{}, crosswalk.Crosswalk{Supplier: "Tern Quay", Drawer: "chip-resistors", Take: crosswalk.Take{Manufacturer: "Maker", MPN: "MPN"}, Fields: []crosswalk.Rule{{From: heading, To: "resistance"}}},
			"Maker|MPN|"+heading, "Tern|T-1|12")
		for _, c := range finding.Group(r.Findings) {
			if strings.HasPrefix(c.Cause, "doubt") {
				assert.Equal(t, first, r.Mends(c)[0].Label, heading)
			}
		}
		assert.Equal(t, cabinet.Raw, r.Value(0, "resistance").Type, heading)
	}
}
