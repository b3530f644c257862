package bom

import (
	"fmt"
	"hash/maphash"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
)

// functions finds parts of a board that are equal in what identifies their kind, such as three 4.7 kΩ 0805 1 % of different makers: each is ordered, stored and
// loaded by itself, and one of them would do. The later ones are told of the first.
func functions(all []Verdict, cab *cabinet.Cabinet) {
	for _, f := range functionsOf(all, cab) {
		for _, v := range f[1:] {
			v.say(finding.Note, "function-twice", fmt.Sprintf("%s is equal in what identifies its kind to %s in row %d", v.Part.Number, f[0].Part.Number, f[0].Line.Row), "put one of them in the place of the other, where nothing else speaks against it")
		}
	}
}

// functionsOf are the functions of a board that are bought as several parts: of each the first line of every part, in the order of the board.
func functionsOf(all []Verdict, cab *cabinet.Cabinet) (out [][]*Verdict) {
	seed := maphash.MakeSeed()
	at := map[uint64][]int{} // places in groups, by drawer, value and case
	var groups [][]*Verdict
	seen := map[string]bool{}
	for i := range all {
		v := &all[i]
		if v.Kind != Linked || v.Part == nil || seen[v.Part.ID] {
			continue
		}
		seen[v.Part.ID] = true
		t, ok := cab.Template(v.Part.Drawer)
		if !ok || len(t.Identity) == 0 || v.Part.Value(t.Leading).IsBlank() {
			continue
		}
		key := maphash.Comparable(seed, [2]cabinet.Value{v.Part.Value(t.Leading).Meant(), v.Part.Value(t.Case).Meant()}) ^ maphash.String(seed, v.Part.Drawer)
		twice := false
		for _, k := range at[key] {
			if len(Differs(groups[k][0].Part, v.Part, cab)) == 0 {
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
	for _, g := range functionsOf(all, cab) {
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
