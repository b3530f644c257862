package bom

import (
	"fmt"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jollydrawer/core/lookup"
)

// However the pieces of a part are parted into lines, its uses are the same: all designators, in order, and the sum of the pieces.
func TestUsesAreWhatTheLinesSayTogether(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		want := map[string][]string{}
		pieces := map[string]int64{}
		var lines []Pinned
		next := 1
		for row := range rapid.IntRange(0, 30).Draw(t, "lines") {
			l := Pinned{Row: row + 2, NotFitted: rapid.IntRange(0, 4).Draw(t, "fit") == 0}
			for range rapid.IntRange(0, 4).Draw(t, "designators") {
				l.Designators = append(l.Designators, fmt.Sprintf("R%d", next))
				next++
			}
			l.Quantity = len(l.Designators)
			if part := rapid.IntRange(0, 4).Draw(t, "part"); part > 0 {
				l.Part = &Pin{ID: fmt.Sprint(part), Revision: part}
			}
			amount := rapid.IntRange(0, 6).Draw(t, "amount") == 0
			if amount {
				l.Amount = "0.3 m"
			}
			if l.Part != nil && !l.NotFitted {
				want[l.Part.ID] = append(want[l.Part.ID], l.Designators...)
				if !amount {
					pieces[l.Part.ID] += int64(l.Quantity)
				}
			}
			lines = append(lines, l)
		}
		// the same lines in any order say the same
		for _, list := range [][]Pinned{lines, reversed(lines)} {
			got := Uses(list)
			if len(got) != len(want) {
				t.Fatalf("%d parts, not %d", len(got), len(want))
			}
			for id, u := range got {
				if !slices.Equal(u.Designators, want[id]) || u.Pieces != pieces[id] || fmt.Sprint(u.Revision) != id {
					t.Fatalf("%s: %+v, want %v %d", id, u, want[id], pieces[id])
				}
			}
		}
	})
}

func entryOf(w *world, p *madePart) *lookup.Entry {
	e, _ := w.index.ByNumber(p.number)
	return e
}

func reversed(list []Pinned) []Pinned {
	out := slices.Clone(list)
	slices.Reverse(out)
	return out
}

// A part fits the lines of an equal one, and says what is otherwise where it does not. The names of the old part do not count.
func TestWhatSpeaksAgainstAPartThatStandsIn(t *testing.T) {
	w := newWorld(t, 31, 5)
	same, other := 0, 0
	for n, p := range w.parts {
		l := Line{Row: n + 2, Designators: []string{p.t.Designator + "1"}, Number: p.number, MPN: p.mpn, Manufacturer: p.maker, Value: p.values[p.t.Leading].String(), Package: p.values[p.t.Case].String()}
		known := Known{Columns: madeColumns}
		e, _ := w.index.ByNumber(p.number)
		assert.Empty(t, Instead([]Line{l}, e, w.index, w.cab, known), p.number)
		for _, o := range w.parts {
			if o == p || o.t != p.t {
				continue
			}
			was, e := e, entryOf(w, o)
			differs := Differs(was, e, w.cab)
			assert.Equal(t, Matters(was, w.cab) == Matters(e, w.cab), len(differs) == 0, "%v", differs)
			against := Instead([]Line{l}, e, w.index, w.cab, known)
			switch {
			case o.values[p.t.Leading].Meant() == p.values[p.t.Leading].Meant() && o.values[p.t.Case].Meant() == p.values[p.t.Case].Meant():
				same++
				assert.Empty(t, against, "%s instead of %s: %+v", o.number, p.number, l)
			case o.values[p.t.Case].Meant() != p.values[p.t.Case].Meant() && !o.values[p.t.Case].IsBlank() && !p.values[p.t.Case].IsBlank():
				other++
				assert.NotEmpty(t, against, "%s instead of %s: %+v", o.number, p.number, l)
			}
		}
	}
	t.Logf("%d equal ones, %d of another case", same, other)
	assert.Greater(t, other, 300)
	assert.Greater(t, same, 5)
}
