package bom

import (
	"cmp"
	"slices"

	"jollydrawer/core/cabinet"
)

// functions finds parts of a board that are equal in what identifies their kind, such as three 4.7 kΩ 0805 1 % of different makers: each is ordered, stored and
// loaded by itself, and one of them would do. The later ones are told of the first.
func functions(all []Verdict, equal *equals) {
	equal.mu.Lock()
	defer equal.mu.Unlock()
	for _, f := range functionsOf(all, equal) {
		for _, i := range f[1:] {
			equal.tell(all, i, f[0], "function-twice", "%s is equal in what identifies its kind to %s in row %d", "put one of them in the place of the other, where nothing else speaks against it")
		}
	}
}

// functionsOf are the functions of a board that are bought as several parts: of each the place of the first line of every part, in the order of the board. The lock of
// equal is held.
func functionsOf(all []Verdict, equal *equals) (out [][]int) {
	const none = -1
	type group struct{ first, next, more int } // its first line, the next group of its bucket, and its list among the functions
	var groups []group
	heads := make([]int, 0, len(all)) // of each bucket the first of its groups
	seen := make([]bool, 0, len(all)) // by part
	for i := range all {
		v := &all[i]
		if v.Kind != Linked || v.Part == nil {
			continue
		}
		p := equal.placeOf(v.Part)
		for len(seen) <= p.part {
			seen = append(seen, false)
		}
		if seen[p.part] {
			continue
		}
		seen[p.part] = true
		if p.bucket < 0 {
			continue
		}
		for len(heads) <= p.bucket {
			heads = append(heads, none)
		}
		at, last := heads[p.bucket], none
		for at != none && !equal.to(all[groups[at].first].Part, v.Part) {
			last, at = at, groups[at].next
		}
		switch {
		case at == none:
			if last == none {
				heads[p.bucket] = len(groups)
			} else {
				groups[last].next = len(groups)
			}
			groups = append(groups, group{i, none, none})
		case groups[at].more == none:
			groups[at].more = len(out)
			out = append(out, []int{groups[at].first, i})
		default:
			out[groups[at].more] = append(out[groups[at].more], i)
		}
	}
	slices.SortFunc(out, func(a, b []int) int { return cmp.Compare(a[0], b[0]) })
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
		for i, at := range g {
			v, alike := &all[at], true
			for _, k := range g[:i] {
				o := &all[k] // equal to the first is not yet equal to each other, where one leaves something open
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
