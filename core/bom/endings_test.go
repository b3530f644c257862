package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/decision"
)

func TestAnEndingLinksOnlyForTheMakerItWasConfirmedFor(t *testing.T) {
	x, cab := house(t)
	confirmed := func(maker, letters string) []decision.Record {
		d := Ending{maker, letters}.Of()
		d.By = "Maren"
		return []decision.Record{d}
	}
	for name, c := range map[string]struct {
		mpn, maker, value, size string
		packings                []decision.Record
		kind                    Kind
		asks                    string // the ending that a person may confirm
	}{
		"as it is":                                     {"TW-0805-4K7", "Tidewright", "4k7", "0805", nil, Linked, ""},
		"nobody confirmed it":                          {"TW-0805-4K7-TR", "Tidewright", "4k7", "0805", nil, Proposed, "TR"},
		"confirmed":                                    {"TW-0805-4K7-TR", "Tidewright", "4k7", "0805", confirmed("Tidewright", "TR"), Linked, ""},
		"confirmed, written otherwise":                 {"tw 0805 4k7/tr", "TIDEWRIGHT", "4k7", "0805", confirmed("tidewright", "tr"), Linked, ""},
		"confirmed, no maker in the line":              {"TW-0805-4K7TR", "", "", "", confirmed("Tidewright", "TR"), Linked, ""},
		"another ending is":                            {"TW-0805-4K7-TR", "Tidewright", "4k7", "0805", confirmed("Tidewright", "R"), Proposed, "TR"},
		"another maker's is":                           {"TW-0805-4K7-TR", "Tidewright", "4k7", "0805", confirmed("Kelpline", "TR"), Proposed, "TR"},
		"the line names another maker":                 {"TW-0805-4K7-TR", "Kelpline", "4k7", "0805", confirmed("Tidewright", "TR"), Proposed, ""},
		"the value contradicts":                        {"TW-0805-4K7-TR", "Tidewright", "5k6", "0805", confirmed("Tidewright", "TR"), Proposed, ""},
		"the package contradicts":                      {"TW-0805-4K7-TR", "Tidewright", "4k7", "0603", confirmed("Tidewright", "TR"), Proposed, ""},
		"longer than endings are":                      {"TW-0805-4K7-TR123", "Tidewright", "", "", confirmed("Tidewright", "TR123"), Missing, ""},
		"a part that has the ending in its own number": {"TW-0805-10K", "Tidewright", "10k", "0805", confirmed("Tidewright", "K"), Linked, ""},
	} {
		t.Run(name, func(t *testing.T) {
			l := Line{Row: 2, MPN: c.mpn, Manufacturer: c.maker, Value: c.value, Package: c.size, Designators: []string{"R1"}, Quantity: 1}
			v := Reconcile([]Line{l}, x, cab, Known{Packings: c.packings})[0]
			assert.Equal(t, c.kind, v.Kind, "%v %v", v.Evidence, v.Tally)
			if c.asks == "" {
				assert.Nil(t, v.Ending)
				return
			}
			require.NotNil(t, v.Ending)
			assert.Equal(t, Ending{"Tidewright", c.asks}, *v.Ending)
		})
	}
}

func TestAnEndingThatTwoMakersMayMeanNeedsBoth(t *testing.T) {
	x, cab := house(t)
	e, _ := x.ByNumber("R-001")
	two := *e
	two.Sources, two.Version = append(two.Sources[:1:1], two.Sources[0]), e.Version+1
	two.Sources[1].Manufacturer = "Whinchat"
	x.Put(&two)
	l := Line{Row: 2, MPN: "TW-0805-4K7-TR", Designators: []string{"R1"}, Quantity: 1}
	one := Ending{"Tidewright", "TR"}.Of()
	v := Reconcile([]Line{l}, x, cab, Known{Packings: []decision.Record{one}})[0]
	assert.Equal(t, Proposed, v.Kind)
	require.NotNil(t, v.Ending)
	assert.Equal(t, "Whinchat", v.Ending.Maker)
	v = Reconcile([]Line{l}, x, cab, Known{Packings: []decision.Record{one, Ending{"Whinchat", "TR"}.Of()}})[0]
	assert.Equal(t, Linked, v.Kind, "%v", v.Tally)
}
