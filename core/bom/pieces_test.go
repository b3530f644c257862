package bom

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/measure"
)

// What a package cell names, by the inch code; several where it is open, none where it contradicts itself.
func TestChipCasesOfPackageCells(t *testing.T) {
	for text, want := range map[string]string{
		"0603": "0603/0201", "R0603": "0603/0201", "0603 metric": "0201", "metric 0603": "0201", "chip metric 0603": "0201", "chip 0603 metric": "0201", "R_0603_1608Metric": "0603", "0603_1608": "0603", "smd 0805 inch": "0805", "C 1608 mm": "0603",
		"imperial 0402 chip": "0402", "0603/2012": "none", "0402 1005": "0402", "RESC1608X55N": "0603", "lib:RESC1608X55N": "0603", "T1206": "1206", "FB 0603": "0603/0201", "SOT-23": "no", "chip": "no", "metric": "no", "12345": "no", "": "no", "QFN3225": "no", "0603 inch 1608 metric": "0603",
	} {
		cases, open, found := caseWords(text)
		got := "no"
		if found {
			got = "none"
			var all []string
			for _, c := range cases {
				all = append(all, c.Inch)
			}
			if len(all) > 0 {
				got = strings.Join(all, "/")
			}
		}
		assert.Equal(t, want, got, text)
		assert.Equal(t, len(cases) > 1, open, text)
	}
}

func TestNumbersOfOurFormAreKnown(t *testing.T) {
	_, cab := house(t)
	own := OwnNumbers(cab) // prefix R, three digits
	for text, want := range map[string]bool{"R-001": true, "r 001": true, "R001": true, "R-1": false, "R-01": false, "R-0001": true, "R-1234567": true, "R-12345678": false, "RR-001": false, "X-001": false, "001": false, "R-": false, "": false, "R-001A": false} {
		assert.Equal(t, want, own(text), text)
	}
}

func TestWhatAnMPNHasMoreThanTheRecord(t *testing.T) {
	x, cab := bench(t)
	e, _ := x.ByNumber("R-00001") // TW-0603-10K
	for mpn, want := range map[string]string{"TW-0603-10K-TR": "TR", "tw060310k/t": "T", "TW-0603-10K-ABCD": "ABCD", "TW-0603-10K-ABCDE": "", "TW-0603-10K": "", "TW-0603-10": "", "XX-0603-10K-TR": ""} {
		got := ""
		if all := endings(e, mpn); len(all) > 0 {
			got = all[0].Letters
			assert.Equal(t, "Tidewright", all[0].Maker)
		}
		assert.Equal(t, want, got, mpn)
	}
	assert.True(t, sells(e, "TW 0603 10k"))
	short := released(t, cab, "R-9", "chip-resistors", "resistance=1k", "Tern", "A12")
	assert.False(t, sells(short, "A12"), "three characters are a word")
	four := released(t, cab, "R-8", "chip-resistors", "resistance=1k", "Tern", "A123")
	assert.True(t, sells(four, "A-123"))
}

func TestDesignatorsThatStandTwiceAreNamedWithTheirPlace(t *testing.T) {
	x, cab := bench(t)
	line := func(row int, refs ...string) Line {
		return Line{Row: row, Designators: refs, Quantity: len(refs), MPN: "TW-0603-10K", Manufacturer: "Tidewright", Value: "10k"}
	}
	vs := Reconcile([]Line{line(2, "R1", "R2"), line(3, "R3", "R3"), line(4, "R2")}, x, cab, Known{})
	said := func(v Verdict) (out []string) {
		for _, f := range v.Findings {
			if f.Cause == "designator-twice" || f.Cause == "part-twice" {
				out = append(out, f.What)
			}
		}
		return out
	}
	assert.Empty(t, said(vs[0]))
	assert.Equal(t, []string{"the designator R3 is also in the same row", "R-00001 is also in row 2"}, said(vs[1]))
	assert.Equal(t, []string{"the designator R2 is also in row 2", "R-00001 is also in row 2"}, said(vs[2]))
}

// How a record's value stands to what a line says.
func TestARecordsValueBesideALines(t *testing.T) {
	more := &cabinet.Slot{Parameter: cabinet.Parameter{Key: "v", Type: cabinet.Measure, Of: "voltage", Better: "more"}}
	plain := &cabinet.Slot{Parameter: cabinet.Parameter{Key: "v", Type: cabinet.Measure, Of: "voltage"}}
	signless := &cabinet.Slot{Parameter: cabinet.Parameter{Key: "v", Type: cabinet.Measure, Of: "voltage", Signless: true}}
	for _, c := range []struct {
		slot       *cabinet.Slot
		said, have string
		want       Says
	}{
		{plain, "5 V", "5 V", Agrees}, {plain, "5 V", "6 V", Contradicts}, {more, "5 V", "6 V", Better}, {more, "6 V", "5 V", Contradicts}, {more, "5 V", "-6 V", Better}, {plain, "5 V", "-5 V", Contradicts}, {signless, "5 V", "-5 V", Agrees}, {signless, "5 V", "-6 V", Contradicts},
		{plain, "5 V", "≤ 5 V", Agrees}, {plain, "≥ 5 V", "5 V", Agrees}, {plain, "≤ 5 V", "≥ 5 V", Contradicts}, {plain, "5 V", "4 to 6 V", Agrees}, {plain, "4 V", "4 to 6 V", Agrees}, {plain, "6 V", "4 to 6 V", Agrees}, {plain, "7 V", "4 to 6 V", Contradicts}, {plain, "3 V", "4 to 6 V", Contradicts},
		{plain, "4 to 6 V", "4 to 6 V", Agrees}, {plain, "4 to 5 V", "4 to 6 V", Contradicts}, {plain, "5 V", "3.3 V, 5 V", Agrees}, {plain, "3.3 V", "3.3 V, 5 V", Agrees}, {plain, "4 V", "3.3 V, 5 V", Contradicts},
		{plain, "5 V @ 25 °C", "5 V", Agrees}, {plain, "5 V @ 25 °C", "5 V @ 85 °C", Contradicts}, {plain, "5 A", "5 V", NotUnderstood},
	} {
		got := compare(c.slot, measure.MustParse(c.said), cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse(c.have)})
		assert.Equal(t, c.want, got, "%s beside %s", c.said, c.have)
	}
	tol := &cabinet.Slot{Parameter: cabinet.Parameter{Key: "t", Type: cabinet.Measure, Of: "ratio", Deviation: true}}
	for _, c := range []struct {
		said string
		want Says
	}{{"5 %", Agrees}, {"±5 %", Agrees}, {"±1 %", Contradicts}, {"10 %", Contradicts}} {
		assert.Equal(t, c.want, compare(tol, measure.MustParse(c.said), cabinet.Value{Type: cabinet.Measure, Measure: measure.MustParse("±5 %")}), c.said)
	}
}

func TestAChoiceIsKnownByItsNamesAndByTwoAtOnce(t *testing.T) {
	_, cab := bench(t)
	choice := func(param, word string) string {
		p, ok := cab.Parameter(param)
		require.True(t, ok, param)
		c, ok := choiceOf(&p, word)
		assert.Equal(t, ok, c != "", "%s of %s", word, param)
		return c
	}
	for _, c := range []struct{ param, word, want string }{
		{"dielectric", "X7R", "X7R"}, {"dielectric", "np0", "C0G"}, {"dielectric", "C0G/NP0", "C0G"}, {"dielectric", "NP0/C0G", "C0G"}, {"dielectric", "C0G/X7R", ""}, {"dielectric", "X7R/", "X7R"}, {"dielectric", "C0G/NP0/COG", ""}, {"dielectric", "", ""}, {"dielectric", "-", ""},
		{"mounting", "SMD", "surface"}, {"mounting", "through-hole", "through hole"}, {"mounting", "press fit", "press-fit"}, {"resistor-technology", "Thick-Film", "thick film"}, {"colour", "warm white", "warm white"}, {"colour", "warm", ""},
	} {
		got, _ := choiceOf(mustParameter(t, cab, c.param), c.word)
		if c.want == "" {
			_, ok := choiceOf(mustParameter(t, cab, c.param), c.word)
			assert.False(t, ok, "%s of %s", c.word, c.param)
			continue
		}
		assert.Equal(t, c.want, got, "%s of %s", c.word, c.param)
		assert.Equal(t, c.want, choice(c.param, c.word))
	}
}

func mustParameter(t *testing.T, cab *cabinet.Cabinet, key string) *cabinet.Parameter {
	p, ok := cab.Parameter(key)
	require.True(t, ok, key)
	return &p
}

// Words that are a choice together are one piece, wherever they stand.
func TestWordsOfAChoiceAreOnePiece(t *testing.T) {
	x, cab := bench(t)
	m := newMatcher(x, cab, Known{Columns: benchColumns})
	for text, want := range map[string]string{
		"thick film 10k": "thick film|10k", "10k thick film": "10k|thick film", "very thick film": "very|thick film", "thick  film": "thick  film", "thick, film": "thick, film", "thick 10k film": "thick|10k|film", "thick": "thick", "reverse logarithmic taper": "reverse logarithmic|taper", "RES thin-film": "RES|thin-film",
	} {
		var got []string
		for _, f := range m.read.read(Description, "Text", "", "", text) {
			got = append(got, f.text)
			assert.Equal(t, text[f.from:f.to], f.text)
		}
		assert.Equal(t, want, strings.Join(got, "|"), text)
	}
}

func TestAColumnOfMakersNumbersIsKnownByItsCells(t *testing.T) {
	_, cab := house(t)
	r := &columnReader{cab: cab, own: OwnNumbers(cab)}
	for want, cells := range map[bool][]string{true: {"TW-1", "KL55A", "X9"}, false: {"TW 1", "KL 55", "hello"}} {
		var sample [][]string
		for _, c := range cells {
			sample = append(sample, []string{"R1", c})
		}
		assert.Equal(t, want, r.makersNumbers(sample, 1), "%v", cells)
		assert.False(t, r.makersNumbers(sample, 2), "there is no such column")
		assert.False(t, r.makersNumbers([][]string{{"R1", " "}}, 1), "blank cells are none")
	}
	roles := func(rows ...[]string) Role {
		c, err := FindColumns([]string{"Ref", "Part number"}, rows, cab)
		require.NoError(t, err)
		return c[1].Role
	}
	assert.Equal(t, MPN, roles([]string{"R1", "TW-1A"}, []string{"R2", "KL55A"}, []string{"R3", "X9B"}))
	assert.Equal(t, Number, roles([]string{"R1", "TW-1A"}, []string{"R2", "KL55A"}), "two cells say too little")
	assert.Equal(t, Number, roles([]string{"R1", "TW-1A"}, []string{"R2", "R-001"}, []string{"R3", "X9B"}), "one of ours")
}

// What is confirmed of a packing counts for the maker that it was confirmed for.
func TestAPackingNeedsTheMakerThatTheLineNames(t *testing.T) {
	x, cab := bench(t)
	e, _ := x.ByNumber("R-00001")
	d := Ending{Maker: "Tidewright", Letters: "TR"}.Of()
	d.By = "Maren"
	m := newMatcher(x, cab, Known{})
	m.packings[d.Key()] = &d
	for _, c := range []struct {
		mpn, maker string
		ok         bool
	}{{"TW-0603-10K-TR", "", true}, {"TW-0603-10K-TR", "TIDEWRIGHT", true}, {"TW-0603-10K-TR", "Kelpline", false}, {"TW-0603-10K-XX", "", false}, {"TW-0603-10K", "", false}} {
		who, ok := m.packed(Line{MPN: c.mpn, Manufacturer: c.maker}, e)
		assert.Equal(t, c.ok, ok, "%+v", c)
		if c.ok {
			assert.Equal(t, "Maren", who)
		}
	}
}
