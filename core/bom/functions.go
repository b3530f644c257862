package bom

import (
	"fmt"
	"hash/maphash"
	"slices"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
)

// equals remembers of records which are equal in what identifies their kind. Records do not change, so that what was found of two holds whenever a board is laid beside the
// library again.
type equals struct {
	cab  *cabinet.Cabinet
	seed maphash.Seed

	mu   sync.Mutex
	keys map[*lookup.Entry]uint64
	two  map[[2]*lookup.Entry]bool
}

func newEquals(cab *cabinet.Cabinet) *equals {
	return &equals{cab: cab, seed: maphash.MakeSeed(), keys: map[*lookup.Entry]uint64{}, two: map[[2]*lookup.Entry]bool{}}
}

// keyOf is the same for records that may be equal: of one drawer, with the same value and case; 0 for one that is equal to none.
func (q *equals) keyOf(e *lookup.Entry) uint64 {
	key, known := q.keys[e]
	if known {
		return key
	}
	if t, ok := q.cab.Template(e.Drawer); ok && len(t.Identity) > 0 && !e.Value(t.Leading).IsBlank() {
		key = maphash.Comparable(q.seed, [2]cabinet.Value{e.Value(t.Leading).Meant(), e.Value(t.Case).Meant()}) ^ maphash.String(q.seed, e.Drawer) | 1
	}
	q.keys[e] = key
	return key
}

// to says whether a record is equal to another.
func (q *equals) to(a, b *lookup.Entry) bool {
	is, known := q.two[[2]*lookup.Entry{a, b}]
	if !known {
		is = len(Differs(a, b, q.cab)) == 0
		q.two[[2]*lookup.Entry{a, b}] = is
	}
	return is
}

// functions finds parts of a board that are equal in what identifies their kind, such as three 4.7 kΩ 0805 1 % of different makers: each is ordered, stored and
// loaded by itself, and one of them would do. The later ones are told of the first.
func functions(all []Verdict, equal *equals) {
	for _, f := range functionsOf(all, equal) {
		for _, v := range f[1:] {
			v.say(finding.Note, "function-twice", fmt.Sprintf("%s is equal in what identifies its kind to %s in row %d", v.Part.Number, f[0].Part.Number, f[0].Line.Row), "put one of them in the place of the other, where nothing else speaks against it")
		}
	}
}

// functionsOf are the functions of a board that are bought as several parts: of each the first line of every part, in the order of the board.
func functionsOf(all []Verdict, equal *equals) (out [][]*Verdict) {
	equal.mu.Lock()
	defer equal.mu.Unlock()
	at := map[uint64][]int{} // places in groups, by drawer, value and case
	var groups [][]*Verdict
	seen := map[string]bool{}
	for i := range all {
		v := &all[i]
		if v.Kind != Linked || v.Part == nil || seen[v.Part.ID] {
			continue
		}
		seen[v.Part.ID] = true
		key := equal.keyOf(v.Part)
		if key == 0 {
			continue
		}
		twice := false
		for _, k := range at[key] {
			if equal.to(groups[k][0].Part, v.Part) {
				groups[k] = append(groups[k], v)
				twice = true
				break
			}
		}
		if !twice {
			at[key] = append(at[key], len(groups))
			groups = append(groups, []*Verdict{v})
		}
	}
	for _, g := range groups {
		if len(g) > 1 {
			out = append(out, g)
		}
	}
	return out
}

// Function is one function of a board that is bought as several parts.
type Function struct {
	Parts []string         // records, by ID, in the order of the board
	Rows  map[string][]int // of the lines of each
}

// Functions are the functions of a board that are bought as several parts, each equal to all others of it in what identifies its kind.
func Functions(all []Verdict, cab *cabinet.Cabinet) (out []Function) {
	for _, g := range functionsOf(all, newEquals(cab)) {
		f := Function{Rows: map[string][]int{}}
		for i, v := range g {
			alike := true
			for _, o := range g[:i] { // equal to the first is not yet equal to each other, where one leaves something open
				alike = alike && len(Differs(o.Part, v.Part, cab)) == 0 && len(Differs(v.Part, o.Part, cab)) == 0
			}
			if alike {
				f.Parts, f.Rows[v.Part.ID] = append(f.Parts, v.Part.ID), []int{}
			}
		}
		if len(f.Parts) < 2 {
			continue
		}
		for i := range all {
			if v := &all[i]; v.Kind == Linked && v.Part != nil {
				if rows, of := f.Rows[v.Part.ID]; of {
					f.Rows[v.Part.ID] = append(rows, v.Line.Row)
				}
			}
		}
		out = append(out, f)
	}
	return out
}

// United are lines with one part in the place of some others, where they are the board's own.
func United(lines []Pinned, keep *Pin, instead []string) []Pinned {
	out := make([]Pinned, len(lines))
	for i, l := range lines {
		if l.Part != nil && l.Of == "" && slices.Contains(instead, l.Part.ID) { // what another board is made of is that one's matter
			l.Part = keep
		}
		out[i] = l
	}
	return out
}
