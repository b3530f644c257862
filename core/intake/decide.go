package intake

import (
	"maps"
	"slices"
	"time"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/part"
)

// Decider makes decisions about the rows of one file, in the words of the rows.
type Decider struct {
	By    string    // who decides
	At    time.Time // when
	In    string    // number of the intake
	Scope string    // whose file it is

	t    *Table
	take crosswalk.Take
	read []string // fields that fill parameters
	tell *Teller
	cols map[string]int
}

// NewDecider returns the decider of a file whose fields a crosswalk maps.
func NewDecider(t *Table, cw crosswalk.Crosswalk) *Decider {
	d := &Decider{t: t, take: cw.Take, tell: NewTeller(t, cw), cols: t.byName()}
	for _, r := range cw.Fields {
		d.read = append(d.read, r.Inputs()...)
	}
	return d
}

// record is a decision about a row with what was seen of it; ok is false where the file has no such row.
func (d *Decider) record(kind decision.Kind, row int, seen ...string) (r decision.Record, ok bool) {
	at := d.t.At(row)
	if at < 0 {
		return r, false
	}
	r = decision.Record{Kind: kind, Scope: d.Scope, By: d.By, At: d.At, In: d.In}
	w, nth := d.tell.Tell(at)
	r.About, r.Nth = w.String(), nth
	evidence := decision.Words{}
	for _, field := range seen {
		if _, ok := d.cols[field]; ok {
			evidence[field] = d.cell(at, field)
		}
	}
	r.Evidence = evidence.String()
	if s := (part.Source{Manufacturer: d.cell(at, d.take.Manufacturer), MPN: d.cell(at, d.take.MPN)}); part.NormaliseMPN(s.MPN) != "" {
		r.Source = s.Key()
	}
	return r, true
}

func (d *Decider) cell(at int, field string) string {
	if col, ok := d.cols[field]; ok {
		return d.t.texts[d.t.cell(at, col)]
	}
	return ""
}

// Out decides that a row is not wanted.
func (d *Decider) Out(row int) (decision.Record, bool) { return d.record(decision.Out, row) }

// Drawer decides where a row goes.
func (d *Decider) Drawer(row int, drawer string) (decision.Record, bool) {
	r, ok := d.record(decision.Drawer, row, d.take.Kind, d.take.Description)
	r.Outcome = drawer
	return r, ok
}

// Settle decides what becomes of a row that the library has, or that is like a part, as long as the row says what it says of the part.
func (d *Decider) Settle(row int, as Decision) (decision.Record, bool) {
	r, ok := d.record(decision.Settle, row, d.read...)
	r.Outcome, r.Reason = as.As, as.Why
	return r, ok
}

// Cell decides what stands in a cell instead of what the file says; why may be blank.
func (d *Decider) Cell(row int, field, text, why string) (decision.Record, bool) {
	r, ok := d.record(decision.Cell, row, field)
	r.Field, r.Outcome, r.Reason = field, text, why
	return r, ok
}

// Accept decides that a finding of a row is as it should be, as long as the field that it is about says what it says.
func (d *Decider) Accept(row int, cause, field, why string) (decision.Record, bool) {
	r, ok := d.record(decision.Accept, row, field)
	r.Field, r.Reason = cause, why
	return r, ok
}

// Put keeps decisions, each in the place of an earlier one about the same.
func (k *Kept) Put(made ...decision.Record) {
	at := make(map[string]bool, len(made))
	for _, r := range made {
		at[r.Subject()] = true
	}
	k.Decided = slices.DeleteFunc(slices.Clone(k.Decided), func(r decision.Record) bool { return at[r.Subject()] })
	last := map[string]int{}
	for i, r := range made {
		last[r.Subject()] = i
	}
	for i, r := range made {
		if last[r.Subject()] == i {
			k.Decided = append(k.Decided, r)
		}
	}
}

// Withdraw takes decisions back that hold for rows of a file, and returns them. which says of a decision and a row that it goes.
func (k *Kept) Withdraw(t *Table, which func(r *decision.Record, row int) bool) (gone []decision.Record) {
	places := k.places(t, t.byName())
	var left []decision.Record
	for i := range k.Decided {
		r := &k.Decided[i]
		if slices.ContainsFunc(places[i], func(at int32) bool { return which(r, int(t.numbers[at])) }) {
			gone = append(gone, *r)
		} else {
			left = append(left, *r)
		}
	}
	k.Decided = left
	return gone
}

// Drop takes decisions back whether or not the file has their rows, and returns them.
func (k *Kept) Drop(which func(r *decision.Record) bool) (gone []decision.Record) {
	var left []decision.Record
	for i := range k.Decided {
		if r := &k.Decided[i]; which(r) {
			gone = append(gone, *r)
		} else {
			left = append(left, *r)
		}
	}
	k.Decided = left
	return gone
}

// Old says whether something was decided by row numbers, which CarryOver puts right.
func (k *Kept) Old() bool {
	return len(k.LeaveOut)+len(k.Drawers)+len(k.Cells)+len(k.Decide) > 0 || slices.ContainsFunc(k.Waive, func(w Waiver) bool { return len(w.Rows) > 0 })
}

// CarryOver turns what was decided about rows by their numbers, before decisions hung on words, into decisions about the rows of
// those numbers, and returns them. When they were made nobody kept, nor mostly who made them.
func (k *Kept) CarryOver(d *Decider) (made []decision.Record) {
	if !k.Old() {
		return nil
	}
	by := *d
	by.By, by.At = "", time.Time{}
	d = &by
	put := func(r decision.Record, ok bool) {
		if ok {
			made = append(made, r)
		}
	}
	for _, row := range k.LeaveOut {
		put(d.Out(row))
	}
	for _, row := range slices.Sorted(maps.Keys(k.Drawers)) {
		put(d.Drawer(row, k.Drawers[row]))
	}
	for _, row := range slices.Sorted(maps.Keys(k.Cells)) {
		for _, field := range slices.Sorted(maps.Keys(k.Cells[row])) {
			put(d.Cell(row, field, k.Cells[row][field], ""))
		}
	}
	for _, row := range slices.Sorted(maps.Keys(k.Decide)) {
		put(d.Settle(row, k.Decide[row]))
	}
	var whole []Waiver
	for _, w := range k.Waive {
		if len(w.Rows) == 0 {
			whole = append(whole, w)
		}
		for _, row := range w.Rows {
			r, ok := d.Accept(row, w.Cause, "", w.Why)
			r.By = w.Who
			put(r, ok)
		}
	}
	k.LeaveOut, k.Drawers, k.Cells, k.Decide, k.Waive = nil, nil, nil, nil, whole
	k.Put(made...)
	return made
}
