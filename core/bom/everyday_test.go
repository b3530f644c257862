package bom

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/measure"
	"jollydrawer/core/part"
)

// stocked is a library of which the texts hold words that anybody uses.
func stocked(t *testing.T) (*lookup.Index, *cabinet.Cabinet) {
	t.Helper()
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	x := lookup.New()
	x.SetCabinet(cab)
	n := 0
	for _, tpl := range cab.Templates() {
		if !tpl.Leaf || tpl.Designator == "" {
			continue
		}
		for i := range tpl.Slots {
			s := &tpl.Slots[i]
			if s.Type != cabinet.Text || s.Key == tpl.Case {
				continue
			}
			for _, text := range []string{"supervisor with watchdog", "front end for the mast", "driver by hand or from stock", "set of the station's own", "screw without print"} {
				v, problem := s.Read(text, measure.Options{})
				require.Nil(t, problem)
				n++
				e := lookup.NewEntry(part.Content{Drawer: tpl.Key, Values: map[string]cabinet.Value{s.Key: v}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: "TW-T" + string(rune('A'+n%26)) + strings.Repeat("Q", n/26)}}})
				e.ID = "t" + string(rune('A'+n%26)) + strings.Repeat("q", n/26)
				e.Number, e.Standing, e.Revision, e.Version = e.ID, lifecycle.Active, 1, 1
				x.Put(e)
			}
		}
	}
	require.Greater(t, n, 20)
	return x, cab
}

// What a box holds beside its board is in the BOM too. A word that some record happens to have, above all one that only joins others, makes it none of the library's parts:
// nothing is proposed that a person might accept with fifty others.
func TestEverydayLinesAreTakenForNoPart(t *testing.T) {
	index, cab := stocked(t)
	columns := Columns{{At: 0, Heading: "Ref", Role: Designator}, {At: 1, Heading: "Text", Role: Description}}
	things := []string{"label", "mounting plate", "manual", "screw", "washer", "sticker", "bag", "carton", "foam insert", "cover", "gasket", "strap", "pole clamp", "nameplate", "hinge", "grease", "warranty card", "cord grip", "lens hood", "desiccant", "bottom shell", "leaflet", "Deckel", "étiquette", "tapa", "front panel", "hand grip", "station plate", "print"}
	tails := []string{"with the station's name", "for the mast", "and its cover", "of the housing", "by the workshop", "without print", "from stock", "to be fitted by hand", "as agreed with production", "mit Aufdruck", "für den Deckel", "avec sa vis", "voor de mast", "para la tapa", "med tryck", "at the rear", "or equal", "one per box", "see drawing", "which is in the set of the house"}
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SampledFrom(things).Draw(t, "thing") + " " + rapid.SampledFrom(tails).Draw(t, "tail")
		l := Line{Row: 2, Quantity: 1, Description: text}
		if rapid.Bool().Draw(t, "placed") {
			l.Designators = []string{rapid.SampledFrom([]string{"ZZ1", "AX2", "MP3", "BX7"}).Draw(t, "designator")}
		}
		v := Reconcile([]Line{l}, index, cab, Known{Columns: columns})[0]
		assert.NotEqual(t, Linked, v.Kind, text)
		for _, e := range append(v.Options, v.Part) {
			if e == nil {
				continue
			}
			agree := 0
			for _, b := range Lay(l, e, index, cab, Known{Columns: columns}) {
				if b.Says == Agrees {
					agree++
				}
				if words := strings.Fields(b.Text); len(words) == 1 && connective[strings.ToLower(words[0])] {
					assert.Equal(t, Unused, b.Says, "%q in %q", b.Text, text)
				}
			}
			assert.GreaterOrEqual(t, agree, 2, "%q is proposed %s on one word", text, e.Number)
		}
	})
	for text, proposed := range map[string]bool{"supervisor watchdog": true, "watchdog": false, "with the of": false, "10k": true} { // what says enough is still proposed, and what has a value
		l := Line{Row: 2, Quantity: 1, Description: text}
		if text == "10k" {
			w := newWorld(t, 11, 14)
			l = Line{Row: 2, Quantity: 1, Value: "10 kΩ", Package: "0805"}
			v := Reconcile([]Line{l}, w.index, w.cab, Known{Columns: madeColumns})[0]
			assert.Contains(t, []Kind{Proposed, Several}, v.Kind, "%v", v.Evidence)
			continue
		}
		v := Reconcile([]Line{l}, index, cab, Known{Columns: columns})[0]
		assert.Equal(t, proposed, v.Kind == Proposed || v.Kind == Several, "%s: %v", text, v.Evidence)
	}
}
