package intake

import (
	"encoding/binary"
	"slices"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
)

// Teller finds the words that tell a row of a table from all its others: what identifies it where that is enough, else as few
// more cells as do. Number and place of the row are never among them, so that the words find it in the next file too.
type Teller struct {
	t      *Table
	cols   map[string]int
	ids    [][]int // sets of columns that identify a row, the best first
	mapped []int   // other columns that the crosswalk uses
	rest   []int
	groups map[string]map[string][]int32 // set of columns → texts → places of the rows
}

// NewTeller returns the teller of a table whose fields a crosswalk maps.
func NewTeller(t *Table, cw crosswalk.Crosswalk) *Teller {
	k := &Teller{t: t, cols: t.byName(), groups: map[string]map[string][]int32{}}
	set := func(fields ...string) {
		var cols []int
		for n, f := range fields {
			col, ok := k.cols[f]
			if !ok && n == 0 {
				return
			}
			if ok {
				cols = append(cols, col)
			}
		}
		k.ids = append(k.ids, cols)
	}
	set(cw.Take.MPN, cw.Take.Manufacturer)
	set(cw.Take.Number)
	set(cw.Take.SupplierNumber)
	offered := cw.Take.Offered()
	used := slices.DeleteFunc(cw.Take.Fields(), func(f string) bool { return slices.Contains(offered, f) })
	for _, r := range cw.Fields {
		used = append(used, r.Inputs()...)
	}
	var last []int // what is offered today is otherwise tomorrow
	for i, h := range t.Header {
		switch {
		case k.cols[h] != i: // the second of a name says nothing that can be named
		case h != "" && slices.Contains(offered, h):
			last = append(last, i)
		case h != "" && slices.Contains(used, h):
			k.mapped = append(k.mapped, i)
		default:
			k.rest = append(k.rest, i)
		}
	}
	k.rest = append(k.rest, last...)
	return k
}

// manyAlike is how many rows may share what identifies them before all their cells are told at once.
const manyAlike = 50

// Tell returns the words of the row at a place. Where several rows say the same in every cell, nth says which of those it is, from 1.
func (k *Teller) Tell(at int) (w decision.Words, nth int) {
	cols := k.base(at)
	alike := k.group(cols, at)
	for _, more := range [][]int{k.mapped, k.rest} { // at once where one after the other would take long
		if len(alike) > manyAlike {
			cols = union(cols, more)
			alike = k.group(cols, at)
		}
	}
	cols = slices.Clone(cols)
	for _, more := range [][]int{k.mapped, k.rest} {
		for _, col := range more {
			if len(alike) == 1 {
				break
			}
			same := make([]int32, 0, len(alike))
			for _, o := range alike {
				if k.t.cell(int(o), col) == k.t.cell(at, col) {
					same = append(same, o)
				}
			}
			if len(same) < len(alike) {
				alike, cols = same, append(cols, col)
			}
		}
	}
	if len(alike) > 1 { // nothing else tells them apart
		nth = slices.Index(alike, int32(at)) + 1
	}
	w = decision.Words{}
	for _, col := range cols {
		w[k.t.Header[col]] = k.t.texts[k.t.cell(at, col)]
	}
	return w, nth
}

// base are the columns that identify a row: the first set that is filled, else all that are mapped, else all.
func (k *Teller) base(at int) []int {
	for _, set := range k.ids {
		if k.t.cell(at, set[0]) != 0 {
			return set
		}
	}
	for _, col := range k.mapped {
		if k.t.cell(at, col) != 0 {
			return k.mapped
		}
	}
	return k.all()
}

// union is a and what of b is not in it.
func union(a, b []int) []int {
	out := slices.Clone(a)
	for _, col := range b {
		if !slices.Contains(a, col) {
			out = append(out, col)
		}
	}
	return out
}

func (k *Teller) all() []int { return slices.Concat(k.mapped, k.rest) }

// group lists the places of the rows that have the cells of the row at a place in some columns.
func (k *Teller) group(cols []int, at int) []int32 {
	set := string(k.key(cols, func(i int) uint32 { return uint32(cols[i]) }))
	g, ok := k.groups[set]
	if !ok {
		g = make(map[string][]int32, k.t.Len())
		for o := range k.t.Len() {
			key := k.key(cols, func(i int) uint32 { return k.t.cell(o, cols[i]) })
			g[string(key)] = append(g[string(key)], int32(o))
		}
		k.groups[set] = g
	}
	return g[string(k.key(cols, func(i int) uint32 { return k.t.cell(at, cols[i]) }))]
}

func (k *Teller) key(cols []int, of func(i int) uint32) []byte {
	out := make([]byte, 0, 4*len(cols))
	for i := range cols {
		out = binary.BigEndian.AppendUint32(out, of(i))
	}
	return out
}
