package bom

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// What people write over such a column and into it, by what it says. Which word is which is written down here a second time.
var (
	headingsOfFitted = []string{"Fitted", "fit", "Populate", "Populated?", "Mounted", "Bestückt", "Bestückung", "Monté", "Montado", "In BOM", "On board", "Populate (Y/N)", "Installed", "Bestückt (j/n)", "Fitted yes/no", "Montado (sí/no)", "Mounted [1/0]"}
	headingsOfLeft   = []string{"DNP", "DNF", "dni", "Do not populate", "Do Not Fit", "Not fitted", "not mounted", "Nicht bestückt", "Unbestückt", "Non monté", "No montar", "Non montato", "Exclude from BOM", "Exclude from board", "NoPop", "Unpopulated", "DNP?", "Don't populate", "DNP / DNF", "DNP (x)", "Do not fit (y/n)", "DNP [Y/N]", "Part is DNP", "DNP/DNI", "Not fitted (X)", "Nicht bestückt (j/n)"}
	ticks            = []string{"yes", "Y", "x", "X", "1", "true", "TRUE", "ja", "J", "oui", "sí", "si", "✓", "✔", "wahr", "vrai"}
	crosses          = []string{"no", "N", "0", "false", "FALSE", "nein", "non", "✗", "-", "falsch", "faux", "none"}
	saysFitted       = []string{"fitted", "Populated", "mounted", "placed", "bestückt", "montiert", "monté", "montado", "montato", "pop"}
	saysLeft         = []string{"DNP", "dnf", "DNI", "NF", "not fitted", "do not populate", "Not Mounted", "unbestückt", "nicht bestückt", "n.b.", "non monté", "no montar", "non montato", "unpopulated", "NP"}
	saysNothing      = []string{"A", "optional", "see note", "?", "2", "maybe", "F", "rev B only", "o"}
)

func columnsOf(t *testing.T, heading string, cells ...string) Columns {
	t.Helper()
	_, cab := house(t)
	sample := [][]string{}
	for i, c := range cells {
		sample = append(sample, []string{fmt.Sprintf("R%d", i+1), "10k", c})
	}
	cols, err := FindColumns([]string{"Designator", "Value", heading}, sample, cab)
	require.NoError(t, err)
	return cols.Seen(sample)
}

// Every heading with every word has one answer, and a word that says nothing is asked for.
func TestMarksAreReadByTheirHeading(t *testing.T) {
	for _, h := range [][]string{headingsOfFitted, headingsOfLeft} {
		left := &h[0] == &headingsOfLeft[0]
		for _, heading := range h {
			for list, off := range map[*[]string]bool{&ticks: left, &crosses: !left, &saysFitted: false, &saysLeft: true} {
				for _, cell := range *list {
					cols := columnsOf(t, heading, cell, "DNP", "fitted")
					l := ReadLine(2, []string{"R1", "10k", cell}, cols)
					assert.Equal(t, off, l.NotFitted, "%s: %s (%s)", heading, cell, cols[2].Role)
					assert.Empty(t, l.FitAsk, "%s: %s", heading, cell)
				}
			}
			for _, cell := range saysNothing {
				l := ReadLine(2, []string{"R1", "10k", cell}, columnsOf(t, heading, cell, "DNP"))
				assert.Contains(t, l.FitAsk, "does not say", "%s: %s", heading, cell)
			}
		}
	}
}

func TestAnEmptyCellMeansWhatTheOthersLetItMean(t *testing.T) {
	ask := "the cell in Fitted is empty"
	for name, c := range map[string]struct {
		heading string
		cells   []string
		off     bool
		ask     string
	}{
		"nobody ticks anything":              {"Fitted", []string{"", ""}, false, ""},
		"only what is left off is marked":    {"Fitted", []string{"", "no"}, false, ""},
		"both are marked":                    {"Fitted", []string{"", "yes", "no"}, false, ""},
		"only what is fitted is ticked":      {"Fitted", []string{"", "x", "x"}, false, ask},
		"only what is fitted is named":       {"Fitted", []string{"", "fitted"}, false, ask},
		"the column names what is left off":  {"DNP", []string{"", "x"}, false, ""},
		"it names it with a word":            {"DNP", []string{"", "DNP"}, false, ""},
		"a heading that stands there again":  {"Fitted", []string{"", "Fitted", "no"}, false, ""},
		"an empty cell of an unticked board": {"Do not fit", []string{"", ""}, false, ""},
	} {
		l := ReadLine(2, []string{"R1", "10k", ""}, columnsOf(t, c.heading, c.cells...))
		assert.Equal(t, c.off, l.NotFitted, name)
		assert.True(t, strings.HasPrefix(l.FitAsk, c.ask) && (c.ask != "" || l.FitAsk == ""), "%s: %s", name, l.FitAsk)
	}
	for _, blank := range []string{Fitted, NotFitted} { // a person's word
		cols := columnsOf(t, "Fitted", "", "x").With(map[int]Column{2: {At: 2, Role: Fit, Blank: blank}}).Seen([][]string{{"R1", "10k", ""}, {"R2", "10k", "x"}})
		l := ReadLine(2, []string{"R1", "10k", ""}, cols)
		assert.Equal(t, blank == NotFitted, l.NotFitted)
		assert.Empty(t, l.FitAsk)
	}
}

func TestACrossThatMayBeATickIsAskedFor(t *testing.T) {
	assert.Contains(t, ReadLine(2, []string{"R1", "10k", "x"}, columnsOf(t, "Fitted", "x", "✓")).FitAsk, "cross or a tick")
	assert.Empty(t, ReadLine(2, []string{"R1", "10k", "✓"}, columnsOf(t, "Fitted", "x", "✓")).FitAsk)
	assert.Empty(t, ReadLine(2, []string{"R1", "10k", "x"}, columnsOf(t, "Fitted", "x", "no")).FitAsk)
}

func TestAHeadingThatNamesBothSidesAsksWhatAMarkMeans(t *testing.T) {
	for _, h := range []string{"Fitted / DNP", "Fit or DNP", "Fitted/Not fitted", "Bestückt / nicht bestückt", "Populate (DNP = no)"} {
		cols := columnsOf(t, h, "x", "DNP", "fitted")
		for cell, want := range map[string]string{"x": "ask", "no": "ask", "1": "ask", "DNP": NotFitted, "not fitted": NotFitted, "fitted": Fitted, "": Fitted} {
			l := ReadLine(2, []string{"R1", "10k", cell}, cols)
			got := map[bool]string{true: NotFitted, false: Fitted}[l.NotFitted]
			if l.FitAsk != "" {
				got = "ask"
			}
			assert.Equal(t, want, got, "%s: %q (%s)", h, cell, cols[2].Role)
		}
	}
	for _, h := range []string{"Exclude VAT", "Comment", "Price excluded", "Omit from quote"} {
		assert.NotContains(t, []Role{Fit, Unfit}, columnsOf(t, h, "yes", "no")[2].Role, h)
	}
}

// Which variant of a board is built nobody said: where lines differ in it, that is asked, and not once a person confirmed that the column is a remark.
func TestAColumnOfVariantsIsNotPassedOver(t *testing.T) {
	for _, h := range []string{"Option", "Config", "Fit option", "Konfiguration", "Variant code", "Opzione"} {
		sample := [][]string{{"R1", "10k", "A"}, {"R2", "10k", ""}, {"R3", "10k", "A, B"}}
		cols := columnsOf(t, h, "A", "", "A, B")
		for i, row := range sample {
			assert.Equal(t, row[2] != "", ReadLine(i, row, cols).FitAsk != "", "%s: %q", h, row[2])
		}
		said := cols.With(map[int]Column{2: {At: 2, Role: Remark, Because: "Maren said so"}}).Seen(sample)
		assert.Empty(t, ReadLine(2, sample[0], said).FitAsk, h)
		assert.Empty(t, ReadLine(2, sample[0], columnsOf(t, h, "A", "A")).FitAsk, "all lines are of one variant")
	}
	assert.Empty(t, ReadLine(2, []string{"R1", "10k", "A"}, columnsOf(t, "Note", "A", "")).FitAsk)
}

func TestAHeadingWithoutASingleMarkBelowItIsARemark(t *testing.T) {
	assert.Equal(t, Remark, columnsOf(t, "Mount", "SMD", "THT")[2].Role)
	assert.Equal(t, Remark, columnsOf(t, "Assembly", "top", "bottom")[2].Role)
	assert.Equal(t, Fit, columnsOf(t, "Assembly", "top", "DNP")[2].Role)
	assert.Equal(t, Unfit, columnsOf(t, "DNP", "optional")[2].Role, "a column that names what is left off is never passed over")
}

// A mark beside a value leaves the value as it was, wherever it stands; what only looks like one stays.
func TestMarksBesideValues(t *testing.T) {
	marks := []string{"DNP", "dnp", "DNF", "not fitted", "Do not populate", "nicht bestückt", "Unbestückt", "non monté", "no montar", "non montato"}
	values := []string{"10k", "100 nF", "4u7/16V", "TW-0805-4K7", "0.1µF", "1N4148", "0R"}
	rapid.Check(t, func(t *rapid.T) {
		m, v := rapid.SampledFrom(marks).Draw(t, "mark"), rapid.SampledFrom(values).Draw(t, "value")
		text := fmt.Sprintf(rapid.SampledFrom([]string{"%s %s", "%s (%s)", "%s, %s", "%s/%s", "%s - %s", "%s [%s]", "%s_%s", "%s;%s", "%s(%s)", "%s *%s*"}).Draw(t, "form"), v, m)
		if rapid.Bool().Draw(t, "first") {
			text = fmt.Sprintf(rapid.SampledFrom([]string{"%s %s", "(%s) %s", "%s/%s", "%s: %s", "[%s]%s", "%s - %s"}).Draw(t, "form"), m, v)
		}
		rest, off, _ := markedOff(text)
		if rest != v || !off {
			t.Fatalf("%q: %q %v", text, rest, off)
		}
	})
	for _, v := range append(values, "10 nF", "22p NP0", "10u NP", "relay NC", "NB21", "DNP-100", "DNPX", "XDNP", "0.1DNP", "10nf", "open frame", "", "DNP") {
		rest, off, _ := markedOff(v)
		assert.Equal(t, v, rest)
		assert.False(t, off, v)
	}
}

func TestMarksInOtherColumns(t *testing.T) {
	cols := Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "Value", Role: Value}, {At: 2, Heading: "Note", Role: Remark}, {At: 3, Heading: "Text", Role: Description}, {At: 4, Heading: "Fitted", Role: Fit}}
	for name, c := range map[string]struct {
		cells    []string
		off, ask bool
	}{
		"a remark that is the mark":                  {[]string{"R1", "10k", "DNP", "", ""}, true, false},
		"a remark that speaks of it":                 {[]string{"R1", "10k", "DNP in rev B", "", ""}, false, true},
		"a description that ends in it":              {[]string{"R1", "10k", "", "RES 10k 1% DNP", ""}, false, true},
		"a remark, and the column says it is fitted": {[]string{"R1", "10k", "not fitted", "", "yes"}, false, true},
		"the column has said it already":             {[]string{"R1", "10k", "DNP since rev B", "", "yes"}, false, false},
		"a value with a mark against a tick":         {[]string{"R1", "10k DNP", "", "", "yes"}, false, true},
		"a value with a mark and a cross":            {[]string{"R1", "10k DNP", "", "", "no"}, true, false},
		"nothing":                                    {[]string{"R1", "10k", "see DNPX", "nominal", ""}, false, false},
	} {
		l := ReadLine(2, c.cells, cols)
		assert.Equal(t, c.off, l.NotFitted, name)
		assert.Equal(t, c.ask, l.FitAsk != "", "%s: %s", name, l.FitAsk)
	}
	two := Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "Fitted", Role: Fit}, {At: 2, Heading: "DNP", Role: Unfit}}
	assert.True(t, ReadLine(2, []string{"R1", "no", "x"}, two).NotFitted)
	assert.Equal(t, "Fitted says that it is fitted, and DNP says that it is not fitted", ReadLine(2, []string{"R1", "yes", "x"}, two).FitAsk)
}

// A line of which nobody knows whether it is fitted is a finding, and no revision is made of it as a promise.
func TestALineThatMayBeFittedHindersARevision(t *testing.T) {
	lib, cab := house(t)
	cols := columnsOf(t, "Fitted", "perhaps", "no")
	l := ReadLine(2, []string{"R1", "10k", "perhaps"}, cols)
	l.Number = "R-00001"
	vs := Reconcile([]Line{l}, lib, cab, Known{Columns: cols})
	require.NotEmpty(t, vs[0].Findings)
	assert.Equal(t, "fitted-unclear", vs[0].Findings[0].Cause)
	var causes []string
	for _, h := range Hindrances(vs) {
		causes = append(causes, h.Cause)
	}
	assert.Contains(t, causes, "fitted-unclear")
}
