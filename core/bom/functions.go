package bom

import (
	"cmp"
	"fmt"
	"hash/maphash"
	"slices"
	"sync"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
)

// equals remembers of records which are equal in what identifies their kind. Records do not change, so that what was found of two holds whenever a board is laid beside the
// library again; and so does what lines were told by it.
type equals struct {
	cab  *cabinet.Cabinet
	seed maphash.Seed

	mu      sync.Mutex
	known   map[*lookup.Entry]place
	parts   map[string]int // by ID
	buckets map[uint64]int // by drawer, value and case
	two     map[[2]*lookup.Entry]bool
	told    map[about]telling
}

// place is where a record stands among those that may be equal: which part it is, and in which bucket of those with the same drawer, value and case; -1 for one that is equal
// to none.
type place struct{ part, bucket int }

// about is a line, by its place on the board, and what it is told of another.
type about struct {
	at    int
	cause string
}

// telling is what a line was told of another, by their records and rows.
type telling struct {
	part, first *lookup.Entry
	row         int
	finding     finding.Finding
}

// tell says something of a line and an earlier one, in the words that were used before where they are the same two. The lock is held.
func (q *equals) tell(all []Verdict, at, earlier int, cause, what, mend string) {
	v, first := &all[at], &all[earlier]
	is := about{at, cause}
	told, had := q.told[is]
	if !had || told.part != v.Part || told.first != first.Part || told.row != first.Line.Row {
		told = telling{v.Part, first.Part, first.Line.Row, finding.Finding{Severity: finding.Note, Cause: cause, Row: v.Line.Row, What: fmt.Sprintf(what, v.Part.Number, first.Part.Number, first.Line.Row), Mend: mend}}
		q.told[is] = told
	}
	v.Findings = append(v.Findings, told.finding)
}

// partsTwice says of lines that have the part of an earlier one.
func partsTwice(all []Verdict, equal *equals) {
	equal.mu.Lock()
	defer equal.mu.Unlock()
	first := make([]int, 0, len(all)) // by part: the place of its line behind 1
	for i := range all {
		v := &all[i]
		if v.Part == nil || v.Kind == Unfitted {
			continue
		}
		n := equal.placeOf(v.Part).part
		for len(first) <= n {
			first = append(first, 0)
		}
		if k := first[n] - 1; k >= 0 && !apart(v.Line.In, all[k].Line.In) {
			equal.tell(all, i, k, "part-twice", "%[1]s is also in row %[3]d", "join the two lines before ordering")
		} else {
			first[n] = i + 1
		}
	}
}

func newEquals(cab *cabinet.Cabinet) *equals {
	return &equals{cab: cab, seed: maphash.MakeSeed(), known: map[*lookup.Entry]place{}, parts: map[string]int{}, buckets: map[uint64]int{}, two: map[[2]*lookup.Entry]bool{}, told: map[about]telling{}}
}

func (q *equals) placeOf(e *lookup.Entry) place {
	p, known := q.known[e]
	if known {
		return p
	}
	p = place{len(q.parts), -1}
	if n, ok := q.parts[e.ID]; ok {
		p.part = n
	}
	q.parts[e.ID] = p.part
	if t, ok := q.cab.Template(e.Drawer); ok && len(t.Identity) > 0 && !e.Value(t.Leading).IsBlank() {
		key := maphash.Comparable(q.seed, [2]cabinet.Value{e.Value(t.Leading).Meant(), e.Value(t.Case).Meant()}) ^ maphash.String(q.seed, e.Drawer)
		n, ok := q.buckets[key]
		if !ok {
			n = len(q.buckets)
			q.buckets[key] = n
		}
		p.bucket = n
	}
	q.known[e] = p
	return p
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
