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

func newEquals(cab *cabinet.Cabinet) *equals {
	return &equals{cab: cab, seed: maphash.MakeSeed(), known: map[*lookup.Entry]place{}, parts: map[string]int{}, buckets: map[uint64]int{}, two: map[[2]*lookup.Entry]bool{}, told: map[about]telling{}}
}

// placeOf finds the place of a record, and remembers it. The lock is held, as below.
func (q *equals) placeOf(e *lookup.Entry) place {
	p, known := q.known[e]
	if known {
		return p
	}
	p = place{ordinal(q.parts, e.ID), -1}
	if t, ok := q.cab.Template(e.Drawer); ok && len(t.Identity) > 0 && !e.Value(t.Leading).IsBlank() {
		p.bucket = ordinal(q.buckets, maphash.Comparable(q.seed, [2]cabinet.Value{e.Value(t.Leading).Meant(), e.Value(t.Case).Meant()})^maphash.String(q.seed, e.Drawer))
	}
	q.known[e] = p
	return p
}

// ordinal is the number of a key, the next one where it has none yet.
func ordinal[K comparable](m map[K]int, key K) int {
	n, ok := m[key]
	if !ok {
		n = len(m)
		m[key] = n
	}
	return n
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

// about is a line, by its place on the board, and what it is told of another.
type about struct {
	at    int
	cause string
}

// telling is what a line was told of another, by their records and rows, and all that was said of it then.
type telling struct {
	part, first *lookup.Entry
	row         int
	finding     finding.Finding
	before, all []finding.Finding
}

// tell says something of a line and an earlier one, in the words that were used before where they are the same two: nothing of a large board is written anew for a
// decision on one of its lines. The lock is held.
func (q *equals) tell(all []Verdict, at, earlier int, cause, what, mend string) {
	v, first := &all[at], &all[earlier]
	is := about{at, cause}
	told, had := q.told[is]
	same := had && told.part == v.Part && told.first == first.Part && told.row == first.Line.Row
	if !same {
		told = telling{part: v.Part, first: first.Part, row: first.Line.Row, finding: finding.Finding{Severity: finding.Note, Cause: cause, Row: v.Line.Row, What: fmt.Sprintf(what, v.Part.Number, first.Part.Number, first.Line.Row), Mend: mend}}
	}
	if n := len(v.Findings); !same || len(told.before) != n || n > 0 && &told.before[0] != &v.Findings[0] {
		told.before, told.all = v.Findings, slices.Concat(v.Findings, []finding.Finding{told.finding})
		q.told[is] = told
	}
	v.Findings = slices.Clip(told.all)
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
