package bom

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"
)

// What may be otherwise between two BOMs.
const (
	Added      = "added"
	Removed    = "removed"
	OtherPart  = "part"     // another part
	OtherLink  = "linked"   // linked to a record on one side only, and the file says the same on both
	OtherRev   = "revision" // the same part in another revision
	OtherText  = "text"     // the same part, and the file says it in other words
	OtherFit   = "fitted"
	OtherCount = "quantity" // where it is not told by the designators
	OtherIn    = "variant"  // in other variants of the board
)

// Change is what became otherwise for some designators, which were in one line and are in one now.
type Change struct {
	What        []string `json:"what" doc:"added, removed, part, linked, revision, text, fitted, quantity, variant"`
	Designators []string `json:"designators"`
	Before      *Pinned  `json:"before,omitempty" doc:"The line as it was"`
	After       *Pinned  `json:"after,omitempty" doc:"The line as it is"`
}

// Renumbered proposes that designators are the same places under new numbers: a part that lost some and got others. It is a proposal and changes nothing.
type Renumbered struct {
	From []string `json:"from"`
	To   []string `json:"to"`
	Part string   `json:"part" doc:"Which part they have, in words"`
}

// Comparison is what two BOMs differ in.
type Comparison struct {
	Same       int          `json:"same" doc:"Designators that are as they were"`
	Changes    []Change     `json:"changes" doc:"In the order of their designators"`
	Renumbered []Renumbered `json:"renumbered"`
}

// Major lists what of a comparison makes a revision more than a small step: other parts, places, pieces or variants. A newer revision of a part, and other words for the
// same part, are small.
func (c Comparison) Major() (out []string) {
	small := []string{OtherRev, OtherText, OtherLink}
	for _, x := range c.Changes {
		for _, w := range x.What {
			if !slices.Contains(small, w) && !slices.Contains(out, w) {
				out = append(out, w)
			}
		}
	}
	return out
}

// spot is where a designator stands.
type spot struct{ before, after int } // lines; -1: none

// stands are the lines of both BOMs in which something is: a designator mostly stands in one, but one that is written twice, or what has none, stands in several.
type stands struct{ before, after []int }

// spots pairs the lines of both sides: those that say the same, then those of the same variants, then as they follow each other.
func (s *stands) spots(before, after []Pinned) (out []spot) {
	if len(s.before) == 1 && len(s.after) == 1 {
		return []spot{{s.before[0], s.after[0]}}
	}
	gone, come := s.before, s.after
	for _, sign := range []func(*Pinned) string{allOf, variantsOf, func(*Pinned) string { return "" }} {
		gone, come = paired(gone, come, func(i int) string { return sign(&before[i]) }, func(i int) string { return sign(&after[i]) }, &out)
	}
	for _, i := range gone {
		out = append(out, spot{i, -1})
	}
	for _, i := range come {
		out = append(out, spot{-1, i})
	}
	return out
}

// paired pairs lines of the same sign in their order, and returns those that are left.
func paired(gone, come []int, signGone, signCome func(int) string, out *[]spot) (goneLeft, comeLeft []int) {
	by := map[string][]int{}
	for _, i := range come {
		by[signCome(i)] = append(by[signCome(i)], i)
	}
	taken := map[int]bool{}
	for _, i := range gone {
		if list := by[signGone(i)]; len(list) > 0 {
			*out, by[signGone(i)] = append(*out, spot{i, list[0]}), list[1:]
			taken[list[0]] = true
		} else {
			goneLeft = append(goneLeft, i)
		}
	}
	return goneLeft, slices.DeleteFunc(slices.Clone(come), func(i int) bool { return taken[i] })
}

// allOf is all of a line that a comparison looks at.
func allOf(l *Pinned) string {
	rev := 0
	if l.Part != nil {
		rev = l.Part.Revision
	} else if l.Board != nil {
		rev = l.Board.Revision
	}
	return fmt.Sprint(of(l), "\n", rev, said(l), "\n", l.NotFitted, l.Amount, l.Quantity-len(l.Designators), variantsOf(l), l.Board)
}

func variantsOf(l *Pinned) string { return strings.Join(l.In, "\x01") }

// Compare lays two BOMs beside each other, by designator; lines without one by what they are of.
func Compare(before, after []Pinned) Comparison {
	out := Comparison{Changes: []Change{}, Renumbered: []Renumbered{}}
	at := map[string]*stands{}
	var order []string
	for side, lines := range [][]Pinned{before, after} {
		for i := range lines {
			for _, key := range keysOf(&lines[i]) {
				s := at[key]
				if s == nil {
					s = &stands{}
					at[key], order = s, append(order, key)
				}
				list := &s.before
				if side == 1 {
					list = &s.after
				}
				if n := len(*list); n == 0 || (*list)[n-1] != i { // twice in one line is once
					*list = append(*list, i)
				}
			}
		}
	}
	groups := map[spot]*Change{}
	var all []*Change
	for _, key := range order {
		for _, s := range at[key].spots(before, after) {
			c := groups[s]
			if c == nil {
				c = changeAt(s, before, after)
				groups[s] = c
				all = append(all, c)
			}
			if !strings.HasPrefix(key, "\x00") {
				c.Designators = append(c.Designators, key)
			}
			if len(c.What) == 0 {
				out.Same++
			}
		}
	}
	for _, c := range all {
		if len(c.What) > 0 {
			slices.SortFunc(c.Designators, ByDesignator)
			out.Changes = append(out.Changes, *c)
		}
	}
	slices.SortStableFunc(out.Changes, func(a, b Change) int { return ByDesignator(first(a.Designators), first(b.Designators)) })
	out.Renumbered = append(out.Renumbered, renumbered(out.Changes)...)
	return out
}

// changeAt is what became otherwise between a line and the one that stands in its place.
func changeAt(s spot, before, after []Pinned) *Change {
	switch {
	case s.before < 0:
		return &Change{What: []string{Added}, Designators: []string{}, After: &after[s.after]}
	case s.after < 0:
		return &Change{What: []string{Removed}, Designators: []string{}, Before: &before[s.before]}
	}
	b, a := &before[s.before], &after[s.after]
	return &Change{What: otherwise(b, a), Designators: []string{}, Before: b, After: a}
}

func first(list []string) string {
	if len(list) == 0 {
		return "\uffff" // behind all that have some
	}
	return list[0]
}

// keysOf is what a line is found by in another BOM: its designators, or what it is of.
func keysOf(l *Pinned) []string {
	if len(l.Designators) > 0 {
		return l.Designators
	}
	return []string{"\x00" + of(l)}
}

// of is what a line asks for: its part, or else what the file says of it.
func of(l *Pinned) string {
	if l.Part != nil {
		return "part " + l.Part.ID
	}
	if l.Board != nil {
		return "board " + l.Board.ID
	}
	return said(l)
}

func said(l *Pinned) string {
	return spaced([]string{l.Number, l.MPN, l.Manufacturer, l.Value, l.Package, l.Description})
}

// otherwise says in what two lines differ; nothing where they do not.
func otherwise(a, b *Pinned) (out []string) {
	out = []string{}
	switch {
	case (a.Board == nil) != (b.Board == nil), a.Board != nil && (a.Board.ID != b.Board.ID || a.Board.Variant != b.Board.Variant):
		out = append(out, OtherPart)
	case a.Board != nil && a.Board.Revision != b.Board.Revision:
		out = append(out, OtherRev)
	case (a.Part == nil) != (b.Part == nil) && said(a) == said(b):
		out = append(out, OtherLink)
	case (a.Part == nil) != (b.Part == nil), a.Part != nil && a.Part.ID != b.Part.ID, a.Part == nil && said(a) != said(b):
		out = append(out, OtherPart)
	case a.Part != nil && a.Part.Revision != b.Part.Revision:
		out = append(out, OtherRev)
		if said(a) != said(b) {
			out = append(out, OtherText)
		}
	case said(a) != said(b):
		out = append(out, OtherText)
	}
	if a.NotFitted != b.NotFitted {
		out = append(out, OtherFit)
	}
	if !slices.Equal(a.In, b.In) {
		out = append(out, OtherIn)
	}
	if a.Amount != b.Amount || a.Quantity-len(a.Designators) != b.Quantity-len(b.Designators) {
		out = append(out, OtherCount)
	}
	return out
}

// renumbered pairs the designators that a part lost with those that it got, in their order, where they are as many.
func renumbered(changes []Change) (out []Renumbered) {
	type pair struct {
		lost, got []string
		part      string
	}
	at := map[string]*pair{}
	var order []string
	for _, c := range changes {
		l := cmp.Or(c.Before, c.After)
		if c.Before != nil && c.After != nil || len(c.Designators) == 0 {
			continue
		}
		key := of(l) + "\x00" + strconv.FormatBool(l.NotFitted)
		p := at[key]
		if p == nil {
			p = &pair{part: inWords(l)}
			at[key], order = p, append(order, key)
		}
		if c.Before != nil {
			p.lost = append(p.lost, c.Designators...)
		} else {
			p.got = append(p.got, c.Designators...)
		}
	}
	for _, key := range order {
		p := at[key]
		if len(p.lost) == 0 || len(p.lost) != len(p.got) {
			continue
		}
		slices.SortFunc(p.lost, ByDesignator)
		slices.SortFunc(p.got, ByDesignator)
		if lettersSame(p.lost, p.got) {
			out = append(out, Renumbered{p.lost, p.got, p.part})
		}
	}
	return out
}

func lettersSame(a, b []string) bool {
	for i := range a {
		if letterOf(a[i]) != letterOf(b[i]) {
			return false
		}
	}
	return true
}

// inWords names what a line is of.
func inWords(l *Pinned) string {
	if l.Part != nil {
		return strings.TrimSpace(l.Part.Number + " " + l.Part.Description)
	}
	if l.Board != nil {
		return l.Board.Name
	}
	return strings.Join(strings.Fields(strings.Join([]string{l.Number, l.MPN, l.Value, l.Package, l.Description}, " ")), " ")
}

// ByDesignator orders designators as people do: by place and letters, then by number, then by the letter of a unit.
func ByDesignator(a, b string) int {
	placeA, lettersA, numberA, restA := parted(a)
	placeB, lettersB, numberB, restB := parted(b)
	return cmp.Or(cmp.Compare(placeA, placeB), cmp.Compare(lettersA, lettersB), cmp.Compare(numberA, numberB), cmp.Compare(restA, restB), cmp.Compare(a, b))
}

func parted(d string) (place, letters string, number int, rest string) {
	if i := strings.LastIndexByte(d, '/'); i >= 0 {
		place, d = d[:i], d[i+1:]
	}
	i := strings.IndexFunc(d, digit)
	if i < 0 {
		return place, d, 0, ""
	}
	k := i
	for k < len(d) && d[k] >= '0' && d[k] <= '9' {
		k++
	}
	number, _ = strconv.Atoi(d[i:k])
	return place, d[:i], number, d[k:]
}

func digit(r rune) bool { return r >= '0' && r <= '9' }
