package series

import (
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/part"
)

func TestASeriesIsTidiedAndChecked(t *testing.T) {
	c := Content{Manufacturer: " Tidewright  Ltd ", Name: "TW-0805  series", Members: []string{"TW-0805-1K0", "TW0805 1K0", " ", "tw-0805-2k0"}, Datasheets: []part.File{{Hash: "a", Name: "x.pdf"}, {Hash: "a", Name: "y.pdf"}}}
	c.Tidy()
	require.NoError(t, c.Check())
	assert.Equal(t, Content{Manufacturer: "Tidewright Ltd", Name: "TW-0805", Members: []string{"TW-0805-1K0", "tw-0805-2k0"}, Datasheets: []part.File{{Hash: "a", Name: "x.pdf"}}}, c)
	assert.Equal(t, "Tidewright Ltd: TW-0805", c.Number())
	assert.Equal(t, []string{"tidewright|TW08051K0", "tidewright|TW08052K0"}, c.Keys())
	for _, x := range []struct {
		bad  Content
		says string
	}{
		{Content{Name: "TW"}, "name it"}, {Content{Manufacturer: "Ltd", Name: "--"}, "has a name"}, {Content{Manufacturer: strings.Repeat("a", 80), Name: strings.Repeat("b", 60)}, "longer than 118"},
		{Content{Manufacturer: "T", Name: "N", Members: make([]string, MaxMembers+1)}, "at most 5000 members"}, {Content{Manufacturer: "T", Name: "N", Datasheets: make([]part.File, 21)}, "at most 20 datasheets"},
		{Content{Manufacturer: "T", Name: "N", Members: []string{strings.Repeat("x", 201)}}, "longer than 200 bytes"},
	} {
		assert.ErrorContains(t, x.bad.Check(), x.says)
	}
}

// What the numbers of a series begin with, cut at a border; and what a number begins with by itself.
func TestStems(t *testing.T) {
	for _, x := range []struct{ mpns, stem string }{
		{"TW-0805-1K0-F TW-0805-22K-F", "TW-0805"}, {"KL104 KL224", "KL"}, {"KL104A KL104B", "KL104"}, {"ABC1 ABD1", ""}, {"QX-1 QX-1", "QX-1"}, {"12A 12B", "12"}, {"MS0805A1 MS0805A2", "MS0805A"}, {"A1 B1", ""}, {"GR2-10uF GR2-10nF", "GR2-10"},
	} {
		var items []Item
		for m := range strings.FieldsSeq(x.mpns) {
			items = append(items, Item{MPN: m})
		}
		assert.Equal(t, x.stem, stem(items), x.mpns)
	}
	for mpn, want := range map[string]string{"TW-0805-1K": "", "KLM-104": "KLM", "TW0805F": "TW0805", "K104X": "", "104": "", "ABCDEF": "", "SMX9-1": "SMX9", "": "", "-KL": ""} {
		assert.Equal(t, want, head(mpn), mpn)
	}
}

// Made libraries with known series: named by a parameter, sharing a file, sharing a stem. Each source is proposed where it belongs and once;
// sources that belong nowhere are not; what is in a series is not proposed again; further members go to the series that is there.
func TestProposalsFindTheSeriesOfAMadeLibrary(t *testing.T) {
	for seed := range uint64(60) {
		d := &measuretest.Draws{State: seed*7 + 1}
		var items []Item
		want := map[string]string{} // MPN → series, as made
		var have []Content
		for n := range 3 + d.IntN(5) {
			maker := []string{"Tidewright", "Quaymark Ltd", "Lee Shore"}[d.IntN(3)]
			letters := string(rune('B'+n)) + string(rune('K'+d.IntN(9))) + "Q" // a stem of its own
			name, how := letters, d.IntN(3)
			file := part.File{Hash: fmt.Sprint("h", n), Name: letters + ".pdf"}
			size := 3 + d.IntN(8)
			kept := d.IntN(4) == 0 && how < 2
			var members []string
			for k := range size {
				it := Item{Manufacturer: maker, MPN: fmt.Sprintf("%s-%d%c%d", letters, 10+d.IntN(80), 'A'+rune(k), k)}
				if maker == "Quaymark Ltd" && d.IntN(2) == 0 {
					it.Manufacturer = "QUAYMARK"
				}
				switch how {
				case 0:
					it.Series = name
				case 1:
					it.Sheets = []part.File{{Hash: "own" + it.MPN, Name: "own.pdf"}, file}
				}
				members = append(members, it.MPN)
				want[it.MPN] = part.NormaliseMaker(maker) + "/" + name
				items = append(items, it)
			}
			if kept { // the house has the series with some of its members
				c := Content{Manufacturer: maker, Name: name, Members: members[:2]}
				if how == 1 {
					c.Datasheets = []part.File{file}
				}
				for _, m := range members[:2] {
					delete(want, m)
				}
				have = append(have, c)
			}
		}
		for n := range 5 { // alone
			items = append(items, Item{Manufacturer: "Lee Shore", MPN: fmt.Sprintf("%c%dZ", 'P'+rune(n), 100+n), Sheets: []part.File{{Hash: fmt.Sprint("alone", n)}}})
		}
		got := map[string]string{}
		for _, p := range Propose(items, have) {
			assert.NotEmpty(t, p.Why)
			for _, m := range p.Members {
				assert.Empty(t, got[m], "%s is proposed twice", m)
				got[m] = part.NormaliseMaker(p.Manufacturer) + "/" + p.Name
			}
			at := slices.IndexFunc(have, func(c Content) bool { return c.Number() == p.Number() })
			assert.Equal(t, at >= 0, p.Into != "", p.Number())
		}
		require.Equal(t, want, got, "seed %d", seed)
	}
}
