package crosswalk

import (
	"fmt"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/internal/golden"
)

// lists reads the test sets: fields with their samples, by the drawers that the rows are in.
func lists(t *testing.T) (out []list) {
	t.Helper()
	for _, name := range []string{"fields", "fields-more", "fields-kept"} {
		set, err := os.ReadFile("testdata/" + name + ".yaml")
		require.NoError(t, err)
		var some []list
		require.NoError(t, yaml.Unmarshal(set, &some))
		out = append(out, some...)
	}
	return out
}

type list struct {
	Drawers []string
	Fields  []struct {
		Name, Right string
		Sample      []string
	}
}

func (l list) columns() (cols []Column) {
	for _, f := range l.Fields {
		cols = append(cols, Column{f.Name, f.Sample})
	}
	return cols
}

// TestWhatIsSuggestedAndWhy holds every suggestion for the test sets, with its reason, as somebody has read it: with the
// drawers known and without.
func TestWhatIsSuggestedAndWhy(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	var b strings.Builder
	for _, l := range lists(t) {
		for _, drawers := range [][]string{l.Drawers, nil} {
			fmt.Fprintf(&b, "in %s\n", strings.Join(drawers, ", "))
			for _, g := range Suggest(l.columns(), Known{Cabinet: cab, Drawers: drawers}) {
				fmt.Fprintf(&b, "  %s: %s %s, %s", g.Sure, g.From, g.To, g.Reason)
				for _, also := range []string{g.Unit, g.System} {
					if also != "" {
						fmt.Fprintf(&b, " [%s]", also)
					}
				}
				if g.Fact {
					b.WriteString(" [fact]")
				}
				b.WriteString("\n")
			}
		}
	}
	golden.Equal(t, "testdata/suggested.golden", b.String())
}

func suggested(t *testing.T, k Known, cols ...Column) map[string]Suggestion {
	t.Helper()
	if k.Cabinet == nil {
		cab, err := cabinet.New(cabinet.Starter())
		require.NoError(t, err)
		k.Cabinet = cab
	}
	out := map[string]Suggestion{}
	for _, g := range Suggest(cols, k) {
		out[g.From] = g
	}
	return out
}

func TestAnEarlierCrosswalkSaysWhereAFieldGoes(t *testing.T) {
	volts := Column{"Spannung X", []string{"50", "25", "16"}}
	one := Crosswalk{Supplier: "Pier 3", Fields: []Rule{{From: "spannung x", To: "voltage-rating", Unit: "V"}}}
	got := suggested(t, Known{Earlier: []Crosswalk{one}}, volts)
	assert.Equal(t, Suggestion{From: "Spannung X", To: "voltage-rating", Unit: "V", Sure: Certain, Reason: `the crosswalk of Pier 3 maps "spannung x" so`}, got["Spannung X"])
	two := Crosswalk{Supplier: "Quay 4", Fields: []Rule{{From: "Spannung X", To: "forward-voltage", Unit: "V"}}}
	assert.NotEqual(t, Certain, suggested(t, Known{Earlier: []Crosswalk{one, two}}, volts)["Spannung X"].Sure, "where they disagree none is followed")
	same := Crosswalk{Supplier: "Quay 4", Fields: []Rule{{From: "Spannung X", To: "voltage-rating", Unit: "V"}}}
	assert.Equal(t, "voltage-rating", suggested(t, Known{Earlier: []Crosswalk{one, same}}, volts)["Spannung X"].To)
	narrow := Crosswalk{Supplier: "Pier 3", Fields: []Rule{{From: "Spannung X", To: "voltage-rating", Unit: "V", Drawers: []string{"diodes"}}}}
	assert.Empty(t, suggested(t, Known{Earlier: []Crosswalk{narrow}}, volts), "a rule of one drawer says nothing of others")
	texts := Column{"Spannung X", []string{"blue", "red", "50"}}
	assert.Empty(t, suggested(t, Known{Earlier: []Crosswalk{one}}, texts), "and not against the values")
	gone := Crosswalk{Supplier: "Pier 3", Fields: []Rule{{From: "Spannung X", To: "no-such-parameter"}}}
	assert.Empty(t, suggested(t, Known{Earlier: []Crosswalk{gone}}, volts))
	leading := Crosswalk{Supplier: "Pier 3", Fields: []Rule{{From: "Haupt", To: Leading}}}
	assert.Equal(t, Leading, suggested(t, Known{Earlier: []Crosswalk{leading}}, Column{"Haupt", []string{"4k7", "1 µF"}})["Haupt"].To)
}

func TestWhatTheValuesContradictIsNotSuggested(t *testing.T) {
	many := func(n int) (out []string) {
		for i := range n {
			out = append(out, fmt.Sprintf("group %d", i))
		}
		return out
	}
	for _, one := range []struct {
		why string
		c   Column
		to  string
	}{
		{"a name alone is enough where there are no values", Column{"Resistance", nil}, "resistance"},
		{"values of another kind", Column{"Resistance", []string{"5 V", "3.3 V", "12 V"}}, ""},
		{"half of the values are enough for a name", Column{"Resistance", []string{"4k7", "?"}}, "resistance"},
		{"and less is not", Column{"Resistance", []string{"4k7", "blue", "red"}}, ""},
		{"a unit that cannot be", Column{"Resistance [V]", []string{"5", "3.3"}}, ""},
		{"forty kinds are kinds", Column{"Category", many(40)}, "take.kind"},
		{"more are something else", Column{"Category", many(41)}, ""},
		{"and so in German", Column{"Kategorie", many(41)}, ""},
		{"measures are no makers", Column{"Manufacturer", []string{"5 V", "6 V", "7 V"}}, ""},
		{"a running number is no house number", Column{"Teilenummer", []string{"1", "2", "3"}}, ""},
		{"PDF files are datasheets", Column{"Doc", []string{"a.pdf", "b.PDF", "http://x.example/c.pdf?x"}}, "take.datasheet"},
		{"six of seven are nearly all", Column{"Doc", []string{"a.pdf", "b.pdf", "c.pdf", "d.pdf", "e.pdf", "f.pdf", "x"}}, "take.datasheet"},
		{"five of six are not", Column{"Doc", []string{"a.pdf", "b.pdf", "c.pdf", "d.pdf", "e.pdf", "x"}}, ""},
		{"a price is an offer's", Column{"Price", []string{"0.10", "0.20"}}, "take.price"},
		{"nor has a field without a name", Column{"--", []string{"4k7"}}, ""},
	} {
		got := suggested(t, Known{}, one.c)
		assert.Equal(t, one.to, got[one.c.Name].To, "%s: %+v", one.why, got)
	}
}

// A heading that does not tell whose number it is fills the house's number only where the values are of the house's form: a seller's own numbers
// must never become ours without a person saying so.
func TestWhoseNumberItIs(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	house := cab.Prefixes()[0]
	foreign, ours := []string{"A-100", "A-101", "A-102"}, []string{house + "-00001", house + "-00002", "new"}
	for _, heading := range []string{"Part number", "Part no", "Article number", "Artikelnr", "Artikel-Nr.", "Teilenummer", "Numéro d'article", "Código de artículo", "Codice articolo"} {
		assert.Empty(t, suggested(t, Known{}, Column{heading, foreign}), heading)
		assert.Empty(t, suggested(t, Known{}, Column{heading, nil}), "%s without values", heading)
		assert.Equal(t, "take.number", suggested(t, Known{}, Column{heading, ours})[heading].To, heading)
	}
	for _, heading := range []string{"Our number", "Internal part number", "House part number", "Unsere Nummer", "Interne Nummer", "Sachnummer", "Notre référence", "Referencia interna", "Nuestra referencia", "Codice interno"} {
		assert.Equal(t, "take.number", suggested(t, Known{}, Column{heading, foreign})[heading].To, heading)
	}
}

func TestTwoLikelyFieldsForOnePlaceGetNeither(t *testing.T) {
	p := Column{"P1", []string{"±1 %", "±5 %", "±2 %"}}
	assert.Equal(t, "tolerance", suggested(t, Known{Drawers: []string{"chip-resistors"}}, p)["P1"].To)
	q := p
	q.Name = "P2"
	assert.Empty(t, suggested(t, Known{Drawers: []string{"chip-resistors"}}, p, q))
	sure := Column{"Tolerance", []string{"±1 %", "±5 %"}}
	got := suggested(t, Known{Drawers: []string{"chip-resistors"}}, p, sure)
	assert.Len(t, got, 1, "a likely one gives way to a certain one")
	assert.Equal(t, Certain, got["Tolerance"].Sure)
}

func TestARunningNumberCountsRows(t *testing.T) {
	s := suggester{}
	for _, one := range []struct {
		sample  []string
		running bool
	}{
		{[]string{"1", "2", "3"}, true}, {[]string{"1", " 2 ", "12"}, true}, {[]string{"1", "2", "13"}, false}, {[]string{"1", "2"}, false},
		{[]string{"1", "1", "2"}, false}, {[]string{"3", "2", "1"}, false}, {[]string{"1", "2", "x"}, false}, {nil, false},
	} {
		assert.Equal(t, one.running, s.running(Column{"No", one.sample}), "%v", one.sample)
	}
}

func TestWordsAreSharedByTheirBeginnings(t *testing.T) {
	for _, one := range []struct {
		a, b string
		n    int
	}{
		{"forward voltage", "forward current", 1}, {"forward voltage", "voltage forward", 2}, {"rated value", "rated value", 0}, {"temp range", "temperature", 1},
		{"tem", "temperature", 0}, {"temperature", "temp", 1}, {"v", "v", 0}, {"vf", "vf", 1}, {"", "x", 0},
	} {
		assert.Equal(t, one.n, sharedWords(strings.Fields(one.a), strings.Fields(one.b)), "%q %q", one.a, one.b)
	}
}

func TestTheSystemOfCasesIsWhatOnlyOneOfThemHas(t *testing.T) {
	s := suggester{}
	for _, one := range []struct {
		name   string
		sample []string
		inch   string // for a parameter of inch codes
		metric string // for one of metric codes
	}{
		{"Case", []string{"0805", "1206"}, "inch", "inch"},
		{"Case", []string{"2012", "3216"}, "metric", "metric"},
		{"Case", []string{"0402", "0603"}, "", ""},
		{"Case (metric)", []string{"0402", "0603"}, "metric", "metric"},
		{"Case (inch)", []string{"0402", "0603"}, "inch", "inch"},
		{"Case imperial", []string{"0402", "0603"}, "inch", "inch"},
		{"Case (metric)", []string{"0805"}, "inch", "inch"},
		{"Case (inch)", []string{"2012"}, "metric", "metric"},
		{"Case", []string{"0805", "2012"}, "", ""},
		{"Case", []string{"SOT-23", "SO-8"}, "inch", ""},
	} {
		assert.Equal(t, one.inch, s.system(Column{one.name, one.sample}, cabinet.Parameter{ChipCode: "inch"}), "%s %v", one.name, one.sample)
		assert.Equal(t, one.metric, s.system(Column{one.name, one.sample}, cabinet.Parameter{ChipCode: "metric"}), "%s %v", one.name, one.sample)
	}
	assert.Empty(t, s.system(Column{"Case", []string{"0805"}}, cabinet.Parameter{}))
}

func TestAColumnOfStatesIsToldByItsValues(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	for _, c := range []struct {
		heading string
		sample  []string
		to      string
		sure    string
	}{
		{"Status", []string{"Active", "NRND", "Obsolete"}, "take.state", Certain},
		{"Lifecycle", []string{"active"}, "take.state", Certain},
		{"Lebensphase", []string{"aktiv", "abgekündigt"}, "take.state", Likely},
		{"Status", []string{"ordered", "in stock"}, "", ""},
		{"Lifecycle", []string{"12 weeks", "3 years"}, "", ""},
	} {
		to, sure := "", ""
		for _, g := range Suggest([]Column{{Name: c.heading, Sample: c.sample}}, Known{Cabinet: cab}) {
			to, sure = g.To, g.Sure
		}
		assert.Equal(t, []any{c.to, c.sure}, []any{to, sure}, "%s %v", c.heading, c.sample)
	}
}

// Stock, price and currency are told from parameters by their names and what their values look like, and are places of their own.
func TestWhatAnOfferSaysIsNoParameter(t *testing.T) {
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	for _, x := range []struct {
		name   string
		sample []string
		to     string
	}{
		{"Stock", []string{"1200", "0", "35,000"}, "take.stock"}, {"In stock", []string{"1.200 pcs", "7"}, "take.stock"}, {"On hand", []string{"12"}, "take.stock"}, {"Lagerbestand", []string{"1200"}, "take.stock"},
		{"Unit price", []string{"0.012", "€ 0.40", "1,25 EUR"}, "take.price"}, {"Stückpreis", []string{"0,012"}, "take.price"}, {"Currency", []string{"EUR", "USD"}, "take.currency"}, {"Währung", []string{"EUR"}, "take.currency"}, {"Devise", []string{"€", "CHF"}, "take.currency"},
		{"Stock", []string{"yes", "no"}, ""}, {"Price", []string{"on request", "ask"}, ""}, {"Stock code", []string{"120044"}, "take.supplierNumber"}, {"Stock", []string{"SMD", "THT"}, ""}, {"Currency", []string{"5 A", "7 A"}, ""},
		{"Lagerbestand", []string{"viel", "wenig"}, ""}, {"MOQ", []string{"100"}, ""}, {"Packing", []string{"reel"}, ""},
	} {
		got := Suggest([]Column{{x.name, x.sample}}, Known{Cabinet: cab})
		to := ""
		if len(got) > 0 {
			to = got[0].To
		}
		assert.Equal(t, x.to, to, "%s %v", x.name, x.sample)
	}
}

// What a heading says beside a name makes it another thing, unless it is known to say nothing: no column of breakdown voltages or of second makers is taken for certain.
func TestAnAsideIsAPartOfTheHeading(t *testing.T) {
	volts, makers, numbers := []string{"50 V", "25 V", "16 V"}, []string{"Tidewright", "Whinchat Passive"}, []string{"TW-1", "TW-2", "TW-3"}
	for _, one := range []struct {
		plain, aside string
		values       []string
		to           string
	}{
		{"Manufacturer (main)", "Manufacturer (alternative)", makers, "take.manufacturer"}, {"Hersteller", "Hersteller (Ersatz)", makers, "take.manufacturer"}, {"MPN [required]", "MPN (old)", numbers, "take.mpn"},
		{"Voltage rating (V)", "Voltage rating (V) of the coil", volts, "voltage-rating"}, {"Resistance (Ω)", "Resistance (thermal)", []string{"4k7", "10k"}, "resistance"}, {"Resistance (max)", "Resistance (Ω) tolerance", []string{"4k7", "10k"}, "resistance"},
		{"Value (nominal)", "Value (EUR)", []string{"4k7", "10k"}, Leading}, {"Description (internal)", "", []string{"a part", "another"}, "take.description"},
	} {
		got := suggested(t, Known{}, Column{one.plain, one.values})
		assert.Equal(t, one.to, got[one.plain].To, one.plain)
		if one.aside != "" {
			g := suggested(t, Known{}, Column{one.aside, one.values})[one.aside]
			assert.False(t, g.To == one.to && g.Sure == Certain, "%s: %+v", one.aside, g)
		}
	}
}
