package bom

import (
	"fmt"
	"slices"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lookup"
)

// Use is what one board takes of a part, and where.
type Use struct {
	Rows        []int    `json:"rows" doc:"Of the BOM's file; none where the board takes it only by way of others"`
	By          []string `json:"by,omitempty" doc:"The other boards by way of which it is taken, beside the board's own lines"`
	Designators []string `json:"designators"`
	Pieces      int64    `json:"pieces" doc:"Of one board"`
	Amounts     []string `json:"amounts,omitempty" doc:"What is not counted in pieces, such as 0.3 m"`
	In          []string `json:"in,omitempty" doc:"The variants of the board that take it; left out: all"`
	Revision    int      `json:"revision" doc:"Of the part that the lines are pinned to, or that is in use; 0: it was not released"`
}

// Uses lists what one board takes of each part, and of each other BOM, by its ID: of lines that are linked and fitted in any variant. Its pieces are those of one variant, or of several
// of the one that takes most.
func Uses(lines []Pinned, variants ...string) map[string]Use {
	out, everywhere := map[string]Use{}, map[string]bool{}
	pieces := mostOf(variants, func(variant string) map[string]int64 {
		n := map[string]int64{}
		for i := range lines {
			l := &lines[i]
			if id, _ := l.takes(); id != "" && l.Amount == "" && l.is(variant) {
				n[id] += int64(l.Quantity)
			}
		}
		return n
	})
	for i := range lines {
		l := &lines[i]
		id, revision := l.takes()
		if id == "" {
			continue
		}
		u := out[id]
		u.Designators = append(u.Designators, l.Designators...)
		switch { // the lines of another board are changed there alone
		case l.Of == "":
			u.Rows, u.Revision = append(u.Rows, l.Row), revision
		case !slices.Contains(u.By, l.Of):
			if u.By = append(u.By, l.Of); len(u.Rows) == 0 {
				u.Revision = revision
			}
		}
		if l.Amount != "" {
			u.Amounts = append(u.Amounts, l.Amount)
		}
		u.Pieces = pieces[id]
		everywhere[id] = everywhere[id] || l.In == nil
		for _, name := range l.In {
			if !slices.Contains(u.In, name) {
				u.In = append(u.In, name)
			}
		}
		out[id] = u
	}
	for id, u := range out {
		slices.SortFunc(u.Designators, ByDesignator)
		if everywhere[id] {
			u.In = nil
			out[id] = u
		}
	}
	return out
}

// takes is what a fitted line takes, with its revision: a part, or another BOM.
func (l *Pinned) takes() (id string, revision int) {
	switch {
	case l.NotFitted:
	case l.Part != nil:
		return l.Part.ID, l.Part.Revision
	case l.Board != nil:
		return l.Board.ID, l.Board.Revision
	}
	return "", 0
}

// Standing in for a part on a line: what the line says otherwise than the record that would take its place. That the line names the part itself, by its
// number, MPN, maker or supplier number, is no fact: those are what is replaced.
func standsAgainst(tally []Beside) (out []string) {
	for _, b := range tally {
		switch Role(b.Param) {
		case Number, MPN, Manufacturer, SupplierNumber:
			continue
		}
		switch b.Says {
		case Contradicts:
			out = append(out, b.Param+": "+b.Text+" against "+b.Record)
		case NotUnderstood:
			out = append(out, b.Text+" is not understood")
		}
	}
	return out
}

// Instead says what of some lines speaks against a record that is to stand in for theirs, each thing once; nothing where it fits them all.
func Instead(lines []Line, e *lookup.Entry, lib Library, cab *cabinet.Cabinet, known Known) (against []string) {
	m := newMatcher(lib, cab, known)
	for _, l := range lines {
		for _, a := range standsAgainst(m.tally(l, e)) {
			if !slices.Contains(against, a) {
				against = append(against, a)
			}
		}
	}
	return against
}

// Differs says in which of the parameters that matter two records differ: those that identify parts of the first one's drawer, its value and its case.
func Differs(was, now *lookup.Entry, cab *cabinet.Cabinet) (out []string) {
	t, ok := cab.Template(was.Drawer)
	if !ok || was.Drawer != now.Drawer {
		return []string{"another kind of part"}
	}
	for _, k := range mattering(t) {
		a, b := was.Value(k), now.Value(k)
		if a.Meant() == b.Meant() {
			continue
		}
		label := k
		if s, ok := t.Slot(k); ok {
			label = s.Label
		}
		out = append(out, fmt.Sprintf("%s: %s, and was %s", label, shownOr(b), shownOr(a)))
	}
	return out
}

func shownOr(v cabinet.Value) string {
	if v.IsBlank() {
		return "not known"
	}
	return v.String()
}
