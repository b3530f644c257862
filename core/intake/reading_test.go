package intake

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
)

func TestALineIsTakenApartWhereItsNameEnds(t *testing.T) {
	for text, want := range map[string][]Field{
		"Resistance: 4k7":                      {{"Resistance", "4k7"}},
		"Resistance:\n4k7\nTolerance:\n1 %":    {{"Resistance", "4k7"}, {"Tolerance", "1 %"}},
		"Resistance:":                          {{"", "Resistance:"}}, // a name at the end has nothing beside it
		"RES 4k7 1 % 0603":                     {{"", "RES 4k7 1 % 0603"}},
		"Case   0603\nPower   0.1 W":           {{"Case", "0603"}, {"Power", "0.1 W"}},
		"Case   0603":                          {{"", "Case   0603"}}, // one line with gaps is a text
		"| Case | 0603 |\n| Power | 0.1 W |":   {{"Case", "0603"}, {"Power", "0.1 W"}},
		"Case\t0603\r\nPower\t0.1 W\r\n":       {{"Case", "0603"}, {"Power", "0.1 W"}},
		"Case\t0603\t0805":                     {{"Case", "0603, 0805"}},
		"\t0603\n":                             {{"", "0603"}},
		"A\tB\tC\n1\t2\t3":                     {{"A", "1"}, {"B", "2"}, {"C", "3"}},
		"A\tB\tC\tD\n1\t2\t3":                  {{"A", "1"}, {"B", "2"}, {"C", "3"}},
		"A\tB\tC\n1\t\t3":                      {{"A", "1"}, {"C", "3"}},
		"A\tB\n1\t2":                           {{"A", "B"}, {"1", "2"}}, // two and two are names and values
		"A\tB\tC\n1\t2\t3\t4":                  {{"A", "B, C"}, {"1", "2, 3, 4"}},
		"A\tB\tC\n1\t2":                        {{"A", "B, C"}, {"1", "2"}},
		"Case: 0603\n\n \nPower : 0.1 W: good": {{"Case", "0603"}, {"Power", "0.1 W: good"}},
		"":                                     nil,
	} {
		assert.Equal(t, want, ReadFields(text), "%q", text)
	}
	assert.Len(t, ReadFields(strings.Repeat("A: b\n", maxFields+1)), maxFields)
}

func TestNamesThatMayBeSlipsOfOneAnother(t *testing.T) {
	for _, one := range []struct {
		a, b  string
		alike bool
	}{
		{"tidewright", "tidewrigth", true}, // two neighbours swapped
		{"tidewright", "tidewrght", true},
		{"tidewright", "tdewrght", true},
		{"tidewright", "tdewrgh", false},
		{"kelp", "kelb", true}, {"kel", "keb", false}, {"kelp", "kebb", false},
		{"kelpline", "kelplineltd", true}, {"kelp", "kelpline", false}, {"kelpl", "kelpline", true},
		{"abcdefg", "abcdeXY", false}, {"abcdefgh", "abcdefXY", true},
		{"same", "same", true},
	} {
		assert.Equal(t, one.alike, alikeNames(one.a, one.b), "%s %s", one.a, one.b)
		assert.Equal(t, one.alike, alikeNames(one.b, one.a), "%s %s", one.b, one.a)
	}
	for _, one := range []struct {
		a, b string
		n    int
	}{{"", "", 0}, {"", "abc", 3}, {"abc", "", 3}, {"abc", "acb", 1}, {"ab", "ba", 1}, {"abc", "axc", 1}, {"abc", "abxc", 1}, {"kitten", "sitting", 3}, {"abcd", "badc", 2}, {"ca", "abc", 3}} {
		assert.Equal(t, one.n, distance(one.a, one.b), "%s %s", one.a, one.b)
	}
}

func TestAPieceOfATextStandsBetweenBlanks(t *testing.T) {
	for _, one := range []struct {
		text, piece string
		yes         bool
	}{
		{"RES 10k 1%", "10k", true}, {"10k 1%", "10k", true}, {"RES 10k", "10k", true}, {"10k", "10k", true},
		{"RES 110k", "10k", false}, {"RES 10k5", "10k", false}, {"RES", "10k", false}, {"RES 10k", "", false},
	} {
		assert.Equal(t, one.yes, names(one.text, one.piece), "%q in %q", one.piece, one.text)
	}
}

func TestADrawerIsFoundByItsWords(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	s := newSorter(cab)
	for _, one := range []struct {
		text          string
		among         []string
		drawer, saids string
	}{
		{"Chip resistors", nil, "chip-resistors", "chip resistor"},
		{"a resistor, of chip kind", nil, "chip-resistors", "resistor"},
		{"Resistors", nil, "", ""}, // there are several of them
		{"Resistors", []string{"chip-resistors"}, "chip-resistors", "resistor"},
		{"Chip resistors", []string{"fuses"}, "", ""},
		{"glass", nil, "", ""},
		{"", nil, "", ""},
		{"the of and", nil, "", ""},
	} {
		d, said := s.drawer(one.text, one.among)
		assert.Equal(t, one.drawer, d, one.text)
		if one.saids != "" {
			assert.Contains(t, said, strings.Fields(one.saids)[0], one.text)
		}
	}
	assert.Equal(t, []string{"chip", "resistor", "glass", "gas"}, sortingWords("Chip-Resistors and the GLASS of gas"))
	all := s.candidates("resistors")
	assert.True(t, all["chip-resistors"] && all["leaded-resistors"])
	assert.False(t, all["fuses"])
	assert.Empty(t, s.candidates(""))
}

func TestADesignatorsLettersHelpToSort(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	byLetter := newSorter(cab).letters
	alone := ""
	for l, drawers := range byLetter {
		if len(drawers) == 1 && (alone == "" || l < alone) {
			alone = l
		}
	}
	require.NotEmpty(t, alone, "some letters name one drawer")
	for _, ref := range []string{alone + "12", strings.ToLower(alone) + "1", alone + "?", alone + " 7", alone} {
		r := sortedBy(t, cab, []string{"", "", ref})
		assert.Equal(t, byLetter[alone][0], r.Drawer, ref)
		assert.Equal(t, "its designator letter is "+alone, r.Because)
	}
	assert.Empty(t, sortedBy(t, cab, []string{"", "", "?12"}).Drawer)
	assert.Equal(t, "chip-resistors", sortedBy(t, cab, []string{"Resistor SMD", "", "R12"}).Drawer)
	assert.Empty(t, sortedBy(t, cab, []string{"Resistor SMD", "", alone + "12"}).Drawer, "the letter speaks against the words")
}

func TestANumberFarAheadOfTheCounterIsAsked(t *testing.T) {
	for number, ahead := range map[string]bool{"R-10004": false, "R-10005": true, "R-99999": true, "R-00004": false, "R-1x005": false} {
		r := build(t, nil, Edits{}, append([]string{number}, row("Res", "Tidewright", "A", "", "4k7", "0,1", "2012")[1:]...))
		says := ""
		for _, f := range r.Findings {
			if f.Cause == "number-ahead" {
				says = f.What
			}
		}
		assert.Equal(t, ahead, says != "", "%s: %s", number, says)
		if number == "R-10005" {
			assert.Contains(t, says, fmt.Sprintf("lies %d numbers ahead", 10_000))
		}
	}
}

// sortedBy is the candidate that one row of kind, description and designator makes.
func sortedBy(t *testing.T, cab *cabinet.Cabinet, cells []string) Candidate {
	t.Helper()
	cw, err := crosswalk.Parse([]byte("format: jolly-crosswalk/1\nsupplier: X\ntake: {kind: K, description: D, designator: Ref}\n"))
	require.NoError(t, err)
	table := NewTable([]string{"K", "D", "Ref"})
	table.Add(Row{Number: 2, Cells: cells})
	return Build(Input{Table: table, Crosswalk: cw, Cabinet: cab}).Candidates[0]
}

// However a heading and its row are parted, each cell is read under its own heading; a table of several parts is counted, never read as one.
func TestATableOfAnyFormIsReadUnderItsHeadings(t *testing.T) {
	type column struct{ head, cell string }
	sources := []column{{"Manufacturer", "Tidewright"}, {"Hersteller", "Kelp & Sohn"}, {"Brand", "Prontor"}, {"MPN", "TW-0805/4K7"}, {"Herstellernummer", "KL 22"}, {"Mfr Part No.", "PX-80"}, {"Order No", "ML-010"}}
	others := []column{{"Resistance", "4.7 kΩ"}, {"Focal length", "80 mm"}, {"Toleranz", "±1 %"}, {"Leistung", "0,125 W"}, {"Temp. range", "-55 ... +155 °C"}, {"Remark", "AEC; two reels, taped"}, {"Glass", "crown"}, {"Lead style", "gull | wing"}, {"Case", `3" reel`}}
	rapid.Check(t, func(t *rapid.T) {
		by := rapid.SampledFrom([]string{"\t", ";", ",", " | "}).Draw(t, "parted by")
		fit := slices.DeleteFunc(slices.Clone(others), func(c column) bool { return by == " | " && strings.Contains(c.cell, "|") }) // bars know no quotes
		some := append([]column{rapid.SampledFrom(sources).Draw(t, "source")}, rapid.SliceOfNDistinct(rapid.SampledFrom(fit), 2, 6, func(c column) string { return c.head }).Draw(t, "columns")...)
		some = rapid.Permutation(some).Draw(t, "order")
		held := func(cell string) string {
			if by == "\t" || by == " | " || !strings.ContainsAny(cell, by+`"`) {
				return cell
			}
			return `"` + strings.ReplaceAll(cell, `"`, `""`) + `"`
		}
		var heads, row []string
		var want []Field
		for _, c := range some {
			heads, row = append(heads, held(c.head)), append(row, held(c.cell))
			want = append(want, Field{c.head, c.cell})
		}
		frame := func(l string) string { return l }
		rule := ""
		if by == " | " && rapid.Bool().Draw(t, "framed") {
			frame = func(l string) string { return "| " + l + " |" }
			rule = "\n|" + strings.Repeat("---|", len(some))
		}
		text := frame(strings.Join(heads, by)) + rule
		line := "\n" + frame(strings.Join(row, by))
		n := rapid.IntRange(1, 4).Draw(t, "parts")
		assert.Equal(t, want, ReadFields(text+line), "%s%s", text, line)
		assert.Equal(t, n, PartsIn(text+strings.Repeat(line, n)), "%s", text)
	})
	for _, text := range []string{"RES 4k7, 1 %, 0603", "RES 4k7, 1 %, 0603\nRES 10k, 5 %, 0805\nRES 1k, 1 %, 0402", "Resistance: 4k7\nMPN: X\nCase: 0603", "Parameter\tMin\tMax\nVoltage\t1 V\t2 V\nCurrent\t1 A\t2 A", "MPN\tTW-1\nMaker\tTidewright\nCase\t0603", "", "MPN\tTW-1\tKL-1\nResistance\t1 k\t1 k\nCase\t0603\t0603", "Maker\tTidewright\tKelpline\nMPN\tTW\tKL\nCase\t0603\t0603"} {
		assert.Equal(t, 1, PartsIn(text), text)
	}
}
