package answers

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
)

// filtering is a supplier with filters, and the crosswalk that joins them to parameters.
var filtering = connection.Document{Supplier: "Quay", Ask: map[string]connection.Request{connection.Words: {}, connection.ByFacts: {}},
	Facts: connection.Facts{Equals: "{field}={text}", Least: "{field}>={text}", Most: "{field}<={text}", Units: map[string]string{"R": "Ω", "Tol": "%"}}}

var joined = crosswalk.Crosswalk{Format: crosswalk.Format, Layout: "answers", Kinds: map[string]string{"Resistors": "chip-resistors", "Caps": "ceramic-capacitors", "MLCC": "ceramic-capacitors"},
	Fields: []crosswalk.Rule{{From: "R", To: "resistance"}, {From: "Tol", To: "tolerance"}, {From: "Size", To: "case", Words: map[string]string{"2012/0805": "0805"}}, {From: "U", To: "voltage-rating"}, {From: "Diel", To: "dielectric"}}}

func TestASupplierIsAskedByItsFiltersForWhatIsCertain(t *testing.T) {
	cab := starter(t)
	for _, c := range []struct {
		text, words, class string
		facts              []string
	}{
		{"4k7 0805 1%", "", "", []string{"R=4700", "Size=2012/0805", "Tol=1"}},
		{"resistor 4k7", "", "Resistors", []string{"R=4700"}},
		{"resistance 4k7", "", "", []string{"R=4700"}},
		{"resistance >= 1k", "", "", []string{"R>=1000"}},
		{"resistance 1k..10k", "", "", []string{"R>=1000", "R<=10000"}},
		{"capacitor >=25V X7R", "capacitor", "", []string{"U>=25 V", "Diel=X7R"}}, // two of its kinds are ours: the word stays
		{"capacitor 100n", "capacitor 100n", "", nil},                             // no field says a capacitance
		{"4k7 or 5k1 0805", "", "", []string{"Size=2012/0805"}},
		{"not 0805 4k7", "", "", []string{"R=4700"}},
		{"0805 something odd", "0805 something odd", "", nil}, // words are taken less strictly
		{"0805 >=25V something odd", "something odd", "", []string{"Size=2012/0805", "U>=25 V"}},
		{"0603 4k7", "0603 4k7", "", nil}, // a code of both systems
		{"capacitor X7R", "capacitor", "", []string{"Diel=X7R"}},
		{"np0 resistor", "", "Resistors", []string{"Diel=C0G"}},
		{"resistor", "resistor", "", nil},
		{"TW-0805", "TW-0805", "", nil},
	} {
		q := Question(&filtering, joined, cab, lookup.Tell(cab, c.text), c.text)
		kind := connection.ByFacts
		if c.facts == nil {
			kind = connection.Words
		}
		assert.Equal(t, connection.Question{Kind: kind, Words: c.words, Class: c.class, Facts: c.facts}, q, c.text)
	}
	words := connection.Document{Supplier: "Quay", Ask: map[string]connection.Request{connection.Words: {}}}
	for text, want := range map[string]string{"4k7 0805 1%": "4k7 0805 1%", "capacitor >=25V X7R": "capacitor X7R", "0805 not X7R": "0805", ">=25V": ">=25V", "4k7 or 5k1 0805": "0805"} {
		assert.Equal(t, connection.Question{Kind: connection.Words, Words: want}, Question(&words, joined, cab, lookup.Tell(cab, text), text), text)
	}
}

// Where two fields may be meant, neither is asked for.
func TestAFactThatMayMeanTwoFieldsIsAskedForInWords(t *testing.T) {
	cab := starter(t)
	two := joined
	two.Fields = append([]crosswalk.Rule{{From: "DCR", To: "dc-resistance"}}, joined.Fields...)
	q := Question(&filtering, two, cab, lookup.Tell(cab, "4k7 0805"), "4k7 0805")
	assert.Equal(t, connection.Question{Kind: connection.Words, Words: "4k7 0805"}, q)
	one := filtering
	one.Facts.Fields = []string{"R", "Size"}
	q = Question(&one, two, cab, lookup.Tell(cab, "4k7 0805"), "4k7 0805")
	assert.Equal(t, "4k7 0805", q.Words, "a field that has no filter may be meant all the same")
	q = Question(&one, two, cab, lookup.Tell(cab, "resistor 4k7"), "resistor 4k7")
	assert.Equal(t, []string{"R=4700"}, q.Facts, "the leading parameter of the kind")
}

// What is asked for in a unit is the value that was asked for.
func TestFiltersSayTheValueThatWasAskedFor(t *testing.T) {
	cab := starter(t)
	rapid.Check(t, func(t *rapid.T) {
		m := measure.Parse(fmt.Sprintf("%d %sΩ", rapid.IntRange(1, 9999).Draw(t, "n"), rapid.SampledFrom([]string{"", "k", "M", "m"}).Draw(t, "prefix")), measure.Options{}).Measure
		q := Question(&filtering, joined, cab, lookup.Tell(cab, "resistance "+m.String()), "")
		require.Len(t, q.Facts, 1, m.String())
		back := measure.Parse(q.Facts[0][len("R="):]+" Ω", measure.Options{})
		require.Equal(t, measure.Read, back.Outcome)
		assert.True(t, m.Same(back.Measure), "%s became %s", m, q.Facts[0])
	})
}
