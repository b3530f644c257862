package intakes

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/decision"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// decider makes decisions about the rows of an intake.
type decider struct {
	*intake.Decider
	table *intake.Table
	now   *intake.Result // what the intake is with them, where that is worked out
}

func (s *Intakes) decider(ctx context.Context, c deed.Call, h store.Head, doc intakeDoc, cw crosswalk.Crosswalk) (decider, error) {
	t, _, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		if err = keepProblem(deed.Sentence(err, "file")); err != nil {
			return decider{}, err
		}
		t = intake.NewTable(nil) // a file that cannot be read has no rows to decide about; its layout can be changed
	}
	if with, err := cw.With(doc.Changes); err == nil {
		cw = with
	}
	d := decider{Decider: intake.NewDecider(t, cw), table: t}
	d.By, d.At, d.In, d.Scope = c.Actor.Name, time.Now().UTC().Truncate(time.Microsecond), h.Number, doc.Supplier
	return d, nil
}

// spelled is an edit with rows and rules in the place of "all rows of the cause" and "what is suggested".
type spelled struct {
	wire.IntakeEdit
	waived  map[int]string    // row → field that the accepted finding is about
	goes    []decision.Record // that are taken back
	carried []decision.Record // about rows of earlier files that the other layout has
	pins    []pin             // what settled rows are kept at
	wide    []said            // texts that are corrected everywhere
}

// mostAccepted is how many rows one accepting settles one by one. Where there are more it holds for the cause in this intake, and the
// next file asks again.
const mostAccepted = 5000

// spellOut says what is meant by an edit at the moment that it is seen.
func (s *Intakes) spellOut(ctx context.Context, doc intakeDoc, e *evaluation, asked wire.IntakeEdit) (in spelled, err error) {
	in = spelled{IntakeEdit: asked}
	if in.Layout != nil {
		other := doc
		other.Layout = *in.Layout
		if in.carried, err = s.remembered(ctx, other); err != nil {
			if err = keepProblem(deed.Sentence(err, "file")); err != nil {
				return in, err
			}
		}
	}
	if in.LeaveCause != "" {
		for _, f := range e.result.Findings {
			if f.Cause == in.LeaveCause && f.Row > 0 && f.Waived == "" {
				in.LeaveOut = append(in.LeaveOut, f.Row)
			}
		}
	}
	if in.Suggested {
		for _, g := range e.suggest {
			if g.Sure != crosswalk.Certain {
				continue
			}
			if rule, ok := g.Rule(); ok {
				in.Changes = append(in.Changes, crosswalk.Change{Rule: &rule})
			} else {
				in.Changes = append(in.Changes, crosswalk.Change{Take: map[string]string{strings.TrimPrefix(g.To, "take."): g.From}})
			}
		}
	}
	if w := in.Waive; w != nil {
		fields := map[int]string{}
		for _, f := range e.result.Findings {
			if f.Cause == w.Cause && f.Row > 0 && (len(w.Rows) == 0 && f.Waived == "" || slices.Contains(w.Rows, f.Row)) {
				fields[f.Row] = f.Field
			}
		}
		if len(fields) <= mostAccepted {
			in.waived = fields
		}
	}
	if d := in.SettleCause; d != nil {
		var rows []int
		for _, f := range e.result.Findings {
			if f.Cause == d.Cause && f.Row > 0 && f.Waived == "" {
				rows = append(rows, f.Row)
			}
		}
		switch {
		case len(rows) <= mostAccepted:
			in.Rows, in.Decide = append(slices.Clone(in.Rows), rows...), &intake.Decision{As: d.As}
		case strings.HasPrefix(d.Cause, "like-"):
			in.Like = d.As
		default:
			in.Known = d.As
		}
	}
	if d := in.Decided; d != nil {
		for _, at := range e.result.Contradicted(d.Cause) {
			switch d.As {
			case "again":
				in.Cells = append(in.Cells, wire.CellEdit{Row: at.Row, Field: at.By.Field, Text: at.By.Outcome, Why: at.By.Reason})
			case "withdraw":
				in.goes = append(in.goes, *at.By)
			}
		}
	}
	if in.Cells, err = in.everywhere(e); err != nil {
		return in, err
	}
	for _, id := range in.Withdraw {
		i := slices.IndexFunc(e.standings, func(s intake.Standing) bool { return decisionID(*s.Decision).String() == id })
		if i < 0 {
			return in, deed.Fault(deed.Invalid, "not-there", "There is no such decision in this intake; nothing was changed.", "Load the decisions again.")
		}
		in.goes = append(in.goes, *e.standings[i].Decision)
	}
	return in, nil
}

// decide makes an edit in the document of an intake.
func decide(doc *intakeDoc, in spelled, by decider) (made, gone []decision.Record, err error) {
	ed := &doc.Edits
	carried := ed.CarryOver(by.Decider)
	if made, gone, err = decideRows(ed, in, by); err != nil {
		return nil, nil, err
	}
	made = append(carried, made...) // what is decided now takes the place of what was
	if in.Known != "" {
		ed.Known = in.Known
	}
	for key, how := range in.Policies {
		switch how {
		case intake.Replace, intake.Fill, intake.Keep, intake.Ask:
			if ed.Fields == nil {
				ed.Fields = map[string]string{}
			}
			ed.Fields[key] = how
		case "":
			delete(ed.Fields, key)
		default:
			return nil, nil, deed.Fault(deed.Invalid, "policy-unknown", fmt.Sprintf("A parameter cannot be settled as %q.", how), "Use replace, fill, keep or ask.")
		}
	}
	if in.Like != "" {
		ed.Like = strings.TrimPrefix(in.Like, "new")
	}
	if in.Layout != nil { // what was decided about rows hangs on their words, and holds where they are found again
		doc.Layout = *in.Layout
		had := map[string]bool{}
		for i := range ed.Decided {
			had[ed.Decided[i].Subject()] = true
		}
		for _, r := range in.carried {
			if !had[r.Subject()] {
				ed.Decided = append(ed.Decided, r)
			}
		}
	}
	if in.Mapped != nil {
		if err = mappedOf(doc.Supplier, *in.Mapped); err != nil {
			return nil, nil, err
		}
		doc.Mapped = *in.Mapped
	}
	if doc.Changes, err = without(doc.Changes, in.DropChanges, "change"); err != nil {
		return nil, nil, err
	}
	for _, ch := range in.Changes {
		ch.By, ch.At = by.By, by.At
		doc.Changes = append(doc.Changes, ch)
	}
	return made, gone, nil
}

// decideRows makes and takes back decisions about rows and findings.
func decideRows(ed *intake.Kept, in spelled, by decider) (made, gone []decision.Record, err error) {
	if len(in.DropWaivers) > 0 {
		all := waivers(ed)
		left, err := without(all, in.DropWaivers, "waiver")
		if err != nil {
			return nil, nil, err
		}
		stays := map[string]bool{}
		for _, w := range left {
			stays[w.key()] = true
		}
		ed.Waive = slices.DeleteFunc(slices.Clone(ed.Waive), func(w intake.Waiver) bool { return !stays[waiver{Waiver: w}.key()] })
		gone = append(gone, ed.Drop(func(r *decision.Record) bool {
			return r.Kind == decision.Accept && !stays[waiverOf(r).key()]
		})...)
	}
	back := map[int]bool{}
	for _, r := range in.TakeBack {
		back[r] = true
	}
	cells := map[int]map[string]bool{}
	for _, cell := range in.Cells {
		if cells[cell.Row] == nil {
			cells[cell.Row] = map[string]bool{}
		}
		cells[cell.Row][cell.Field] = true
	}
	subjects := map[string]bool{}
	for _, r := range in.goes {
		subjects[r.Subject()] = true
	}
	if len(back)+len(cells)+len(subjects) > 0 {
		gone = append(gone, ed.Withdraw(by.table, func(r *decision.Record, row int) bool {
			return back[row] && r.Kind != decision.Accept || r.Kind == decision.Cell && cells[row][r.Field]
		})...)
		gone = append(gone, ed.Drop(func(r *decision.Record) bool { return subjects[r.Subject()] })...)
	}
	put := func(r decision.Record, ok bool) {
		if ok {
			made = append(made, r)
		}
	}
	for _, row := range in.LeaveOut {
		put(by.Out(row))
	}
	if in.Decide != nil {
		switch in.Decide.As {
		case intake.Replace, intake.Fill, intake.Keep, intake.AsSource:
		case intake.Separate:
			if deed.Said(in.Decide.Why) == "" {
				return nil, nil, deed.Fault(deed.Invalid, "no-reason", "A part that stands beside another with the same manufacturer part number needs a reason.", "Say in a few words why.")
			}
		default:
			return nil, nil, deed.Fault(deed.Invalid, "decision-unknown", fmt.Sprintf("A row cannot be settled as %q.", in.Decide.As), "Use replace, fill, keep, separate or alternate.")
		}
	}
	for _, row := range in.Rows {
		if in.Drawer != "" {
			put(by.Drawer(row, in.Drawer))
		}
		if in.Decide != nil {
			put(by.Settle(row, *in.Decide))
		}
	}
	for _, cell := range in.Cells {
		if cell.Undo {
			continue
		}
		r, ok := by.Cell(cell.Row, cell.Field, strings.TrimSpace(cell.Text), strings.TrimSpace(cell.Why))
		if by.now != nil {
			r.Claims = by.now.Settles(cell.Row, cell.Field)
		}
		put(r, ok)
	}
	for _, p := range in.pins {
		if p.field == "" {
			put(by.Drawer(p.row, p.text))
		} else {
			put(by.Cell(p.row, p.field, p.text, "kept as it was settled when a rule changed"))
		}
	}
	if w := in.Waive; w != nil {
		if in.waived == nil {
			ed.Waive = append(ed.Waive, intake.Waiver{Cause: w.Cause, Rows: w.Rows, Why: w.Why, Who: by.By})
		}
		for _, row := range slices.Sorted(maps.Keys(in.waived)) {
			put(by.Accept(row, w.Cause, in.waived[row], w.Why))
		}
	}
	ed.Put(made...)
	return made, gone, nil
}

// waiver is what somebody accepted with one reason: findings of a cause, of all rows or of some.
type waiver struct{ intake.Waiver }

func (w waiver) key() string { return w.Cause + "\x00" + w.Why + "\x00" + w.Who }

func waiverOf(r *decision.Record) waiver {
	return waiver{intake.Waiver{Cause: r.Field, Why: r.Reason, Who: r.By}}
}

// waivers lists what was accepted, in the order it was first; what was accepted row by row for one reason is one.
func waivers(k *intake.Kept) (out []waiver) {
	at := map[string]bool{}
	put := func(w waiver) {
		if !at[w.key()] {
			at[w.key()] = true
			out = append(out, w)
		}
	}
	for _, w := range k.Waive {
		put(waiver{w})
	}
	for i := range k.Decided {
		if r := &k.Decided[i]; r.Kind == decision.Accept {
			put(waiverOf(r))
		}
	}
	return out
}

// without drops the members of a list at some places.
func without[T any](list []T, drop []int, what string) ([]T, error) {
	var out []T
	for i, v := range list {
		if !slices.Contains(drop, i) {
			out = append(out, v)
		}
	}
	for _, i := range drop {
		if i < 0 || i >= len(list) {
			return nil, deed.Fault(deed.Invalid, "not-there", fmt.Sprintf("That %s is not there to be taken back; there are %d.", what, len(list)), "Load the intake again.")
		}
	}
	return out, nil
}
