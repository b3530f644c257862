package bom

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// listCells are cells of a column that names the variants A, B and C, each with those that its line is in; "?" has to be asked about.
var listCells = [][2]string{
	{"A", "A"}, {"a", "A"}, {" A ", "A"}, {"A,B", "AB"}, {"A, B", "AB"}, {"A;B", "AB"}, {"A and B", "AB"}, {"A & B", "AB"}, {"A+B", "AB"}, {"A/B", "AB"}, {"A|B", "AB"}, {"A\nB", "AB"},
	{"A B", "AB"}, {"A  C", "AC"}, {"A B C", "ABC"}, {"A-C", "ABC"}, {"A–C", "ABC"}, {"A..C", "ABC"}, {"A to C", "ABC"}, {"A bis C", "ABC"}, {"A - B", "?"}, {"B-C", "BC"},
	{"all", "ABC"}, {"All variants", "ABC"}, {"every variant", "ABC"}, {"any", "ABC"}, {"alle Varianten", "ABC"}, {"toutes", "ABC"}, {"", "ABC"}, {"*", "ABC"}, {"A, B, C", "ABC"},
	{"A or B", "AB"}, {"A (optional)", "?"}, {"A?", "?"}, {"A, B?", "?"}, {"-B", "?"}, {"~B", "?"}, {"^B", "?"}, {"¬B", "?"}, {"!B", "AC"}, {"!A, !B", "C"}, {"≠B", "?"}, {"<>B", "?"}, {"!=B", "?"},
	{"w/o B", "AC"}, {"B excluded", "AC"}, {"excl. B", "AC"}, {"excluding B", "AC"}, {"B weglassen", "AC"}, {"B entfällt", "AC"}, {"not fitted in B", "AC"}, {"not in B", "AC"}, {"NF B", "AC"}, {"DNP B", "AC"}, {"DNP: B", "AC"},
	{"B: DNP", "AC"}, {"B DNP", "AC"}, {"B (DNP)", "AC"}, {"B not fitted", "AC"}, {"B n/a", "AC"}, {"remove for B", "AC"}, {"removed in B", "AC"}, {"B removed", "AC"}, {"B nicht bestückt", "AC"}, {"nicht in B", "AC"}, {"pas dans B", "AC"}, {"no en B", "AC"},
	{"A yes, B no", "?"}, {"A:1 B:0", "?"}, {"A=1;B=0", "?"}, {"A fitted B not fitted", "?"}, {"A 2x", "?"}, {"2xA", "?"}, {"A:2, B:4", "?"}, {"A x2", "?"},
	{"all but B", "AC"}, {"all but A and B", "C"}, {"all except A, B", "C"}, {"all except A/B", "C"}, {"All, not B", "AC"}, {"all (not B)", "AC"}, {"all without B", "AC"}, {"alle außer B", "AC"}, {"tous sauf B", "AC"}, {"todas excepto B", "AC"}, {"tutte tranne B", "AC"},
	{"everything except B", "AC"}, {"everywhere but B", "AC"}, {"other than B", "AC"}, {"all other than B", "AC"}, {"apart from B", "AC"}, {"all minus B", "AC"}, {"all - B", "AC"}, {"all−B", "AC"},
	{"A only", "A"}, {"only A", "A"}, {"A only!", "A"}, {"nur A", "A"}, {"just A", "A"}, {"only in A", "A"}, {"only for A and B", "AB"}, {"A exclusively", "A"}, {"exclusively A", "A"}, {"A and B only", "AB"},
	{"both A and B", "AB"}, {"both", "?"}, {"neither A nor B", "C"}, {"none of A, B", "C"}, {"none", ""}, {"none of them", ""}, {"no variant", ""}, {"-", "?"}, {"–", "?"}, {"n/a", "?"}, {"tbd", "?"}, {"?", "?"}, {"x", "?"}, {"0", "?"}, {"1", "?"}, {"yes", "?"}, {"no", "?"},
	{"DNP", "?"}, {"not fitted", ""}, {"see note", "?"}, {"A, see note 3", "?"}, {"A*", "?"}, {"A1", "?"}, {"A, A1", "?"}, {"Variant A", "A"}, {"variant A, variant B", "AB"}, {"Variants A and B", "AB"}, {"Var. A", "A"}, {"Variante A", "A"}, {"version A", "A"},
	{"A;all", "?"}, {"A, not B", "?"}, {"A not B", "?"}, {"A but not B", "?"}, {"A without B", "?"}, {"if A", "?"}, {"A if heated", "?"}, {"A (from lot 7)", "?"}, {"A from 2027", "?"}, {"A until B", "?"}, {"A instead of B", "?"}, {"A alternative B", "?"}, {"A, not yet B", "?"},
	{"D", "?"}, {"A, D", "?"}, {"AB", "?"}, {"ABC", "?"}, {"A,,B", "AB"}, {"A,B,", "AB"}, {"(A)", "?"}, {"[A]", "?"}, {"(A, B)", "AB"}, {"'A'", "A"}, {"\"A\", \"B\"", "AB"}, {"“A”", "A"}, {"A‚B", "?"}, {"А", "?"}, {"Ａ", "A"}, {"A、B", "AB"}, {"A，B", "AB"}, {"A　B", "AB"}, {"A\u00a0B", "AB"}, {"A\u200bB", "?"},
	{"not A and not B", "C"}, {"not A, not B", "C"}, {"not A, B", "C"}, {"not A or B", "C"}, {"no A", "BC"}, {"sin A", "BC"}, {"ohne A und B", "C"}, {"non A", "BC"}, {"unless A", "BC"}, {"A+", "?"}, {"+A", "?"}, {"+A +B", "?"}, {"+A -B", "?"},
}

// mayAsk are cells that a person reads at once, and that are asked about all the same.
var mayAsk = map[string]bool{"A-C": true, "A–C": true, "A..C": true, "A to C": true, "A bis C": true, "B-C": true, "NF B": true, "B n/a": true, "all−B": true, "A only!": true, "none of A, B": true}

// beside reads a cell of a column of variants beside plain ones.
func besidePlain(t *testing.T, cell string, plain ...string) (in string, names []string, line Line) {
	_, cab := house(t)
	var rows [][]string
	for _, p := range append(plain, cell) {
		rows = append(rows, []string{fmt.Sprintf("R%d", len(rows)+1), "10k", p})
	}
	lines, cols := readAll(t, cab, []string{"Designator", "Value", "Variant"}, rows)
	line = lines[len(plain)]
	for _, n := range cols.Variants() {
		if line.Is(n) && !line.NotFitted {
			in += n
		}
	}
	for i := range plain {
		assert.Empty(t, lines[i].FitAsk, "%q beside %q", plain[i], cell)
	}
	return in, cols.Variants(), line
}

func TestCellsOfVariantsAreReadOrAskedAbout(t *testing.T) {
	for _, c := range listCells {
		in, names, line := besidePlain(t, c[0], "A", "B", "C", "", "A, B", "B, C", "all")
		assert.Equal(t, []string{"A", "B", "C"}, names[:3], "%q", c[0])
		switch {
		case c[1] == "?" || mayAsk[c[0]]:
			assert.NotEmpty(t, line.FitAsk, "%q", c[0])
		default:
			assert.Empty(t, line.FitAsk, "%q", c[0])
			assert.Equal(t, c[1], in, "%q", c[0])
		}
	}
}

// A cell with a word or a sign that is neither a name of the column nor of lists is never read without a word, whatever stands beside it.
func TestAWordThatNobodyKnowsIsAskedAbout(t *testing.T) {
	known := []string{"A", "B", "C", "not", "all but", "only", ",", "and", "in", "variant", "DNP", "without"}
	rapid.Check(t, func(r *rapid.T) {
		words := rapid.SliceOfN(rapid.SampledFrom(known), 1, 5).Draw(r, "known")
		odd := rapid.SampledFrom([]string{"heated", "lot 7", "see", "2x", "~", "^", "=", "?", "*", "3", "D", "maybe", "later", "AC", "A2", "B-", "<", "if", "tbd", "→", "α", "optional"}).Draw(r, "odd")
		at := rapid.IntRange(0, len(words)).Draw(r, "at")
		cell := strings.Join(append(append(append([]string{}, words[:at]...), odd), words[at:]...), " ")
		_, names, line := besidePlain(t, cell, "A", "B", "C", "A, B", "B, C", "A, C")
		if line.FitAsk == "" {
			r.Fatalf("%q is read as %v of %v", cell, line.In, names)
		}
	})
}

// Names that have others in them are variants once somebody said so, or where more than one line has them and no other name is in them.
func TestNamesOfVariants(t *testing.T) {
	for name, c := range map[string]struct {
		cells []string
		said  bool
		names []string
		asked int
	}{
		"often":                      {[]string{"Lite", "Lite", "Pro", "Pro"}, false, []string{"Lite", "Pro"}, 0},
		"once each":                  {[]string{"Lite", "Pro"}, false, []string{"Lite", "Pro"}, 0},
		"one of them once":           {[]string{"Lite", "Lite", "Pro", "Pro", "Prro"}, false, []string{"Lite", "Pro", "Prro"}, 1},
		"a longer one":               {[]string{"Lite", "Lite", "Lite Plus", "Pro", "Pro", "Pro"}, false, []string{"Lite", "Pro"}, 1},
		"a longer one, said":         {[]string{"Lite", "Lite", "Lite Plus", "Pro", "Pro", "Pro"}, true, []string{"Lite", "Lite Plus", "Pro"}, 0},
		"a sign, said":               {[]string{"Lite", "Lite+", "Lite", "Lite+"}, true, []string{"Lite", "Lite+"}, 0},
		"spellings of one":           {[]string{"low-cost", "Low cost", "LOW_COST", "full", "full"}, false, []string{"low-cost", "full"}, 0},
		"numbers":                    {[]string{"1", "2", "1", "2", "1, 2"}, false, []string{"1", "2"}, 0},
		"a mark beside names":        {[]string{"A", "B", "A", "B", "1", "A", "B", "A"}, false, []string{"A", "B"}, 1},
		"what is open, whoever says": {[]string{"A", "B", "A?", "B", "A"}, true, []string{"A", "B"}, 1},
	} {
		sample := [][]string{}
		for _, cell := range c.cells {
			sample = append(sample, []string{cell})
		}
		l := listingOf(sample, 0, c.said)
		assert.Equal(t, c.names, l.names, name)
		assert.Equal(t, c.asked, l.odd, name)
	}
}

// Where the heading says "fitted in", an empty cell may mean every variant or none.
func TestAnEmptyCellBelowFittedIn(t *testing.T) {
	_, cab := house(t)
	header, rows := []string{"Designator", "Value", "Fitted in"}, [][]string{{"R1", "10k", "A"}, {"R2", "10k", "B"}, {"R3", "10k", ""}}
	lines, cols := readAll(t, cab, header, rows)
	assert.Equal(t, []string{"", "", "the cell in Fitted in is empty"}, []string{lines[0].FitAsk, lines[1].FitAsk, lines[2].FitAsk})
	cols[2].Because = "Maren said so"
	assert.Empty(t, ReadLine(4, rows[2], cols.Seen(rows)).FitAsk)
}

// Two columns whose headings differ in a name are of two variants, or are asked about; which marks stand below them does not matter.
func TestHeadingsOfVariants(t *testing.T) {
	_, cab := house(t)
	for _, c := range []struct {
		headings []string
		marks    [2]string // of what is in, and of what is not
		want     string    // the variants; "?": the lines are asked about
	}{
		{[]string{"Fitted A", "Fitted B"}, [2]string{"yes", "no"}, "A B"},
		{[]string{"A", "B"}, [2]string{"x", ""}, "?"},
		{[]string{"A", "B"}, [2]string{"yes", "no"}, "?"},
		{[]string{"Lite", "Pro"}, [2]string{"✓", ""}, "?"},
		{[]string{"Lite", "Pro"}, [2]string{"1", "0"}, "?"},
		{[]string{"Lite", "Pro"}, [2]string{"fitted", "DNP"}, "?"},
		{[]string{"Lite", "Pro"}, [2]string{"fitted", "not fitted"}, "?"},
		{[]string{"Variant 1", "Variant 2"}, [2]string{"x", ""}, "1 2"},
		{[]string{"Var A", "Var B"}, [2]string{"x", ""}, "A B"},
		{[]string{"Var. A", "Var. B"}, [2]string{"x", ""}, "A B"},
		{[]string{"Option A", "Option B"}, [2]string{"x", ""}, "?"},
		{[]string{"Config A", "Config B"}, [2]string{"x", ""}, "A B"},
		{[]string{"Version A", "Version B"}, [2]string{"x", ""}, "A B"},
		{[]string{"Qty A", "Qty B"}, [2]string{"1", ""}, "A B"},
		{[]string{"A qty", "B qty"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Qty/A", "Qty/B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Qty_A", "Qty_B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"QtyA", "QtyB"}, [2]string{"1", "0"}, "?"},
		{[]string{"Count A", "Count B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Pcs A", "Pcs B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Stück A", "Stück B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Stk. A", "Stk. B"}, [2]string{"1", "0"}, "A B"},
		{[]string{"Menge Lite", "Menge Pro"}, [2]string{"1", "-"}, "Lite Pro"},
		{[]string{"Quantity Lite", "Quantity Pro"}, [2]string{"1", "n/a"}, "?"},
		{[]string{"DNP A", "DNP B"}, [2]string{"", "x"}, "A B"},
		{[]string{"DNP_A", "DNP_B"}, [2]string{"", "DNP"}, "A B"},
		{[]string{"A DNP", "B DNP"}, [2]string{"0", "1"}, "A B"},
		{[]string{"Not fitted (A)", "Not fitted (B)"}, [2]string{"", "x"}, "A B"},
		{[]string{"No fit A", "No fit B"}, [2]string{"", "x"}, "A B"},
		{[]string{"Omit A", "Omit B"}, [2]string{"", "x"}, "A B"},
		{[]string{"Exclude from A", "Exclude from B"}, [2]string{"", "x"}, "A B"},
		{[]string{"A: fitted", "B: fitted"}, [2]string{"yes", "no"}, "A B"},
		{[]string{"Fit [A]", "Fit [B]"}, [2]string{"Y", "N"}, "A B"},
		{[]string{"Montiert Basis", "Montiert Voll"}, [2]string{"ja", "nein"}, "Basis Voll"},
		{[]string{"Monté Base", "Monté Plein"}, [2]string{"oui", "non"}, "Base Plein"},
		{[]string{"Montado Base", "Montado Full"}, [2]string{"sí", "no"}, "Base Full"},
		{[]string{"実装 A", "実装 B"}, [2]string{"✓", "✗"}, "A B"},
		{[]string{"Fitted Lite", "Fitted Lite Plus"}, [2]string{"yes", "no"}, "Lite Lite Plus"},
		{[]string{"Fitted 230V", "Fitted 115V"}, [2]string{"yes", "no"}, "230V 115V"},
		{[]string{"Fitted 4-20mA", "Fitted RS485"}, [2]string{"yes", "no"}, "4 20mA RS485"},
		{[]string{"Fitted EU", "DNP US"}, [2]string{"yes", "no"}, "?"},
		{[]string{"Fitted in rev 1", "Fitted in rev 2"}, [2]string{"yes", "no"}, "rev 1 rev 2"},
		{[]string{"Populate 2026", "Populate 2027"}, [2]string{"yes", "no"}, "2026 2027"},
		{[]string{"Installed qty", "Spare qty"}, [2]string{"1", "0"}, "?"},
		{[]string{"Qty lot 1", "Qty lot 2"}, [2]string{"1", "0"}, "lot 1 lot 2"},
		{[]string{"Qty left", "Qty right"}, [2]string{"1", "0"}, "left right"},
		{[]string{"Qty top", "Qty bottom"}, [2]string{"1", "0"}, "?"},
		{[]string{"Qty Holm", "Qty Skerry"}, [2]string{"1", "0"}, "Holm Skerry"},
	} {
		yes, no := c.marks[0], c.marks[1]
		rows := [][]string{{"R1", "10k", yes, no}, {"R2", "10k", no, yes}}
		for k := range 6 {
			rows = append(rows, []string{fmt.Sprintf("R%d", k+3), "10k", yes, yes})
		}
		lines, cols := readAll(t, cab, append([]string{"Designator", "Value"}, c.headings...), rows)
		names := cols.Variants()
		if c.want == "?" {
			assert.True(t, slices.ContainsFunc(lines, func(l Line) bool { return l.FitAsk != "" }), "%q: %q", c.headings, names)
			continue
		}
		assert.Equal(t, c.want, strings.Join(names, " "), "%q", c.headings)
		for i, want := range [][2]bool{{true, false}, {false, true}, {true, true}} {
			for k, name := range names {
				assert.Equal(t, want[k], lines[i].Is(name) && !lines[i].NotFitted, "%q: %q in %s", c.headings, lines[i].Cells, name)
			}
			assert.Empty(t, lines[i].FitAsk, "%q", c.headings)
		}
	}
}
