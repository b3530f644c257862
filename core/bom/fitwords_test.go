package bom

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"
)

// How five languages turn an act into its opposite, written down a second time.
var (
	leavingOff = map[string][]string{ // forms → the acts that they take
		"do not %s|don't %s|Do Not %s|DO NOT %s|never %s":                  {"fit", "populate", "place", "install", "mount", "stuff", "load", "assemble", "solder", "insert"},
		"not %s|Not %s|not to be %s|is not %s|part not %s|not yet %s|un%s": {"fitted", "populated", "placed", "installed", "mounted", "stuffed", "loaded", "assembled"},
		"no %s|No-%s|no%s|NO%s":                                            {"fit", "pop", "stuff", "populate"},
		"nicht %s|Nicht %s|wird nicht %s|nicht mehr %s|Bauteil nicht %s":   {"bestückt", "montiert", "eingelötet", "bestücken", "einlöten", "verbaut"},
		"nicht zu %s":                     {"bestücken", "montieren", "löten"},
		"ne pas %s|à ne pas %s|Ne pas %s": {"monter", "implanter", "câbler", "souder", "placer"},
		"non %s|Non %s":                   {"monté", "implanté", "câblé", "soudé", "montato", "popolato", "saldato", "montare", "assemblato"},
		"no %s|No %s|sin %s":              {"montar", "poblar", "colocar", "montado", "poblado", "instalado"},
		"da non %s":                       {"montare", "saldare", "assemblare"},
		"%s|(%s)|[%s]|%s.":                {"DNP", "DNF", "DNI", "DNS", "DNM", "DNL", "dnp", "dnm"},
	}
	// words around an act that are about something else
	aboutOther = []string{"see 4.2", "no lead", "do not wash", "place close to U1", "not magnetic", "mount last", "fit with heatsink", "no substitutes", "hand soldered", "no load current 5 mA", "without mounting holes", "not for new designs", "nicht waschen", "non magnetic", "sin plomo", "assembled in 2024", "DNPX"}
)

func leavingOffs() (out []string) {
	for forms, acts := range leavingOff {
		for _, form := range strings.Split(forms, "|") {
			for _, act := range acts {
				out = append(out, fmt.Sprintf(form, act))
			}
		}
	}
	return out
}

func fittingOf(l Line) string {
	switch {
	case l.FitAsk != "":
		return "ask"
	case l.NotFitted:
		return NotFitted
	}
	return Fitted
}

// Whoever writes that a part is left off is understood, in whatever words: over a column, in a cell of it, as a remark, beside a value.
func TestLeavingOffIsUnderstoodInItsForms(t *testing.T) {
	for _, said := range leavingOffs() {
		over := columnsOf(t, said, "x", "")
		assert.Equal(t, NotFitted, fittingOf(ReadLine(2, []string{"R1", "10k", "x"}, over)), "over a tick: %s", said)
		assert.Equal(t, Fitted, fittingOf(ReadLine(2, []string{"R1", "10k", ""}, over)), "over nothing: %s", said)
		for _, heading := range []string{"Fitted", "Bestückt", "DNP", "Remark", "Zzz", "Option"} {
			l := ReadLine(2, []string{"R1", "10k", said}, columnsOf(t, heading, said, "yes"))
			assert.Equal(t, NotFitted, fittingOf(l), "below %s: %s: %s", heading, said, l.FitAsk)
		}
		if strings.HasSuffix(said, ".") {
			continue
		}
		for _, form := range []string{"10k %s", "10k (%s)", "%s 10k", "10k, %s", "10k [%s]", "10k/%s"} {
			l := ReadLine(2, []string{"R1", fmt.Sprintf(form, said), ""}, columnsOf(t, "Remark", "", ""))
			assert.Equal(t, []string{NotFitted, "10k"}, []string{fittingOf(l), l.Value}, "%s: %s", form, said)
		}
		assert.Equal(t, "ask", fittingOf(ReadLine(2, []string{"R1", "10k", said + " in rev B of Tern 7"}, columnsOf(t, "Remark", "", ""))), said)
	}
}

func TestWhatIsSaidOfOtherThingsLeavesAPartOn(t *testing.T) {
	for _, said := range aboutOther {
		for _, heading := range []string{"Remark", "Description"} {
			l := ReadLine(2, []string{"R1", "10k", said}, columnsOf(t, heading, said, ""))
			assert.Equal(t, Fitted, fittingOf(l), "%s: %s", said, l.FitAsk)
		}
	}
	rapid.Check(t, func(t *rapid.T) { // no text of words that have nothing to do with it
		words := rapid.SliceOfN(rapid.SampledFrom([]string{"ceramic", "10", "not", "magnetic", "with", "heatsink", "no", "lead", "side", "A", "4k7", "0603", "un", "do", "C0G"}), 1, 6).Draw(t, "words")
		if s := sayingOf(strings.Join(words, " ")); s.off || s.on {
			t.Fatalf("%q: %+v", words, s)
		}
	})
}

// What may mean it and may not is asked for.
func TestWhatMayBeLeftOffIsAsked(t *testing.T) {
	for _, c := range [][4]string{ // heading, cell, value, what is known then
		{"Mounting", "no", "10k", NotFitted}, {"Placement", "no", "10k", NotFitted}, {"Loaded", "yes", "10k", Fitted}, {"À monter", "non", "10k", NotFitted}, {"Da montare", "no", "10k", NotFitted}, {"実装", "×", "10k", "ask"},
		{"Include in BOM", "no", "10k", NotFitted}, {"Exclude from assembly", "x", "10k", NotFitted}, {"Mount", "SMD", "10k", Fitted}, {"Assembly", "top", "10k", Fitted},
		{"Fitted", "n.f.", "10k", NotFitted}, {"Fitted", "0.0", "10k", "ask"}, {"Fitted", "×", "10k", "ask"}, {"Fitted", "☒", "10k", "ask"}, {"Fitted", "x\u0336", "10k", "ask"}, {"Fitted", "no (rev B)", "10k", "ask"}, {"Fitted", "DNP?", "10k", "ask"}, {"Fitted", "never", "10k", "ask"},
		{"Fit option", "A", "10k", "ask"}, {"Configuration", "B", "10k", "ask"}, {"Option", "yes", "10k", "ask"}, {"Skip", "x", "10k", "ask"}, {"Include", "no", "10k", "ask"}, {"Optional", "x", "10k", "ask"}, {"Note", "x", "10k", Fitted},
		{"Remark", "optional", "10k", "ask"}, {"Remark", "fit if needed", "10k", "ask"}, {"Remark", "optional heatsink", "10k", Fitted}, {"Remark", "fitted: no", "10k", NotFitted}, {"Remark", "Omit for production", "10k", "ask"}, {"Remark", "VAT excluded", "10k", Fitted},
		{"MPN", "DNP", "10k", NotFitted}, {"MPN", "DNP-4401", "10k", Fitted}, {"Order code", "not fitted", "10k", NotFitted}, {"Manufacturer", "DNP", "10k", "ask"}, {"Quantity", "0", "10k", "ask"},
		{"Remark", "", "NF", "ask"}, {"Remark", "", "N/I", "ask"}, {"Remark", "", "not used", "ask"}, {"Remark", "", "10k NP", "ask"}, {"Remark", "", "10k (NF)", "ask"}, {"Remark", "", "630 nm", Fitted}, {"Remark", "", "10 NF", Fitted}, {"Remark", "", "NC", Fitted}, {"Remark", "", "10k optional", "ask"},
		{"Remark", "", "10k DNP?", "ask"}, {"Remark", "", "10kDNP", "ask"}, {"Remark", "", "DNP10k", "ask"}, {"Remark", "", "10k (DNP) 1%", NotFitted}, {"Remark", "", "DNP-100", Fitted},
	} {
		l := ReadLine(2, []string{"R1", c[2], c[1]}, columnsOf(t, c[0], c[1], ""))
		assert.Equal(t, c[3], fittingOf(l), "%s: %q, value %q: %s", c[0], c[1], c[2], l.FitAsk)
	}
	signs := columnsOf(t, "Include", "✓", "✗")
	assert.Equal(t, "ask", fittingOf(ReadLine(2, []string{"R1", "10k", "✗"}, signs)), "signs below a heading that nobody knows")
	l := ReadLine(2, []string{"C1", "10u NP", ""}, columnsOf(t, "Remark", "", ""))
	assert.Equal(t, Fitted, fittingOf(l), "a capacitor may have no polarity")
	l = ReadLine(2, []string{"R1", "10k (DNP) 1%", ""}, columnsOf(t, "Remark", "", ""))
	assert.Equal(t, "10k 1%", l.Value)
}

func TestTerseTextsSayNothingOfFitting(t *testing.T) {
	for text, want := range map[string]bool{"4.7k": true, "R0603": true, "330R": true, "4k7": true, "0": true, "": true, "10kDNP": false, "NF": false, "n.f.": false, "N/F": false, "100nF": false, "10k NP": false, "DNP": false, "x": false} {
		assert.Equal(t, want, terse(text), text)
		if want {
			assert.False(t, mayMeanOff(text, nil) || leftOff(text), text)
		}
	}
}

// A board may have several columns about fitting, and each is read.
func TestEachOfSeveralColumnsAboutFittingIsRead(t *testing.T) {
	_, cab := house(t)
	rows := [][]string{{"R1", "10k", "yes", "no", ""}, {"R2", "10k", "yes", "yes", ""}, {"R3", "10k", "yes", "", "x"}}
	cols, err := FindColumns([]string{"Designator", "Value", "Fitted", "Populate", "DNI"}, rows, cab)
	assert.NoError(t, err)
	cols = cols.Seen(rows)
	for i, want := range []string{"ask", Fitted, "ask"} {
		assert.Equal(t, want, fittingOf(ReadLine(i, rows[i], cols)), "%v", rows[i])
	}
	said := cols.With(map[int]Column{3: {At: 3, Role: Remark, Because: "Maren said so"}}).Seen(rows)
	assert.Equal(t, Fitted, fittingOf(ReadLine(0, rows[0], said)))
}

// Whatever stands in the cells of a file, reading it ends, leaves the designators countable, and says of a line in one way only whether it is fitted.
func FuzzFitting(f *testing.F) {
	for _, seed := range []string{"DNP", "10k (do not load)", "all but C", "A, B", "..2", "1.2.1", "x\u0336", "不贴", "Qty Lite", "Fitted (y/n)", "not not fitted no"} {
		f.Add(seed, seed)
	}
	f.Fuzz(func(t *testing.T, heading, cell string) {
		s := sayingOf(cell)
		if s.plainly() && (s.on || s.doubt || s.rest) {
			t.Fatalf("%q: %+v", cell, s)
		}
		if rest, off, ask := markedOff(cell); off && (ask || rest == "" || len(rest) > len(cell)) {
			t.Fatalf("%q: %q", cell, rest)
		}
		cols := Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "Qty", Role: Quantity}, {At: 2, Heading: "Value", Role: Value}, {At: 3, Heading: heading}, {At: 4, Heading: "Level", Role: Level}, {At: 5, Heading: "Variant", Role: Variants}}
		rows := [][]string{{"A1, A2", "2", "", "x", "1", "A"}, {"R1", "1", cell, cell, cell, cell}, {"R2", "", "10k", "", "2", "B"}}
		cols.asTheyDiffer(rows)
		cols = cols.Seen(rows)
		var lines []Line
		for i, r := range rows {
			lines = append(lines, ReadLine(i+2, r, cols))
		}
		Nest(lines, cols)
		TellApart(lines)
		for _, l := range lines {
			if l.Pieces() < 0 || l.In != nil && len(l.In) == len(cols.Variants()) && len(l.In) > 0 {
				t.Fatalf("%q %q: %+v", heading, cell, l)
			}
		}
	})
}
