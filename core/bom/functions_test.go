package bom

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
)

// Of every part of a made library there is a second record of another maker: each is told of the first on a board with both, and of nothing else.
func TestOneFunctionBoughtAsSeveralParts(t *testing.T) {
	w := newWorld(t, 41, 2)
	var lines []Line
	want := map[string]string{} // number of the second → of the first that equals it
	by := map[string]string{}
	for n, p := range w.parts {
		e := lookup.NewEntry(part.Content{Drawer: p.t.Key, Values: p.values, Sources: []part.Source{{Manufacturer: "Sandpiper Electronics", MPN: "SP-" + p.mpn}}})
		e.ID, e.Number, e.Standing, e.Revision, e.Version = p.number+"-2", p.number+"-2", lifecycle.Active, 1, 1
		w.index.Put(e)
		for k, mpn := range []string{p.mpn, "SP-" + p.mpn} {
			maker := []string{p.maker, "Sandpiper Electronics"}[k]
			lines = append(lines, Line{Row: len(lines) + 2, Designators: []string{p.t.Designator + string(rune('1'+k)) + strings.Repeat("0", n%3) + string(rune('1'+n%9))}, MPN: mpn, Manufacturer: maker})
		}
		if len(p.t.Identity) == 0 || p.values[p.t.Leading].IsBlank() {
			continue
		}
		was, _ := w.index.ByNumber(p.number)
		key := Matters(was, w.cab)
		for _, number := range []string{p.number, e.Number} {
			if by[key] != "" {
				want[number] = by[key]
			} else {
				by[key] = number
			}
		}
	}
	told := 0
	vs := Reconcile(lines, w.index, w.cab, Known{Columns: madeColumns})
	united := map[string]bool{}
	for _, f := range Functions(vs, w.cab) {
		pins := PinAll(vs)
		keep, _ := w.index.ByID(f.Parts[0])
		one := United(pins, PinOf(keep), f.Parts[1:])
		others := slices.Clone(pins)
		for i := range others {
			others[i].Of = "Head revision 1"
		}
		assert.Equal(t, others, United(others, PinOf(keep), f.Parts[1:]), "what another board is made of stays")
		for i := range vs {
			id := vs[i].Part.ID
			rows, of := f.Rows[id]
			assert.Equal(t, of, slices.Contains(rows, vs[i].Line.Row), "the rows of a function are those of its parts")
			if was := pins[i].Part.ID; was != f.Parts[0] && of {
				united[vs[i].Part.Number] = true
				assert.Equal(t, f.Parts[0], one[i].Part.ID)
			} else {
				assert.Equal(t, was, one[i].Part.ID)
			}
			assert.Equal(t, id, pins[i].Part.ID, "what was worked out stays as it is")
		}
	}
	for number := range united {
		assert.NotEmpty(t, want[number], number)
	}
	assert.Greater(t, len(united), 40)
	for _, v := range vs {
		if v.Kind != Linked {
			t.Fatalf("%+v is %s: %v", *v.Line, v.Kind, v.Evidence)
		}
		said := ""
		for _, f := range v.Findings {
			if f.Cause == "function-twice" {
				said = f.What
			}
		}
		if first := want[v.Part.Number]; first == "" {
			assert.Empty(t, said, v.Part.Number)
		} else {
			told++
			assert.Contains(t, said, " to "+first+" in row ", v.Part.Number)
		}
	}
	assert.Greater(t, told, 50)
}
