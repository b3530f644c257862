package intakes

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Edit changes what people decided about an intake: its rows, its mapping, its layout.
func (s *Intakes) Edit(ctx context.Context, c deed.Call, id store.ID, version int, in wire.IntakeEdit) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return wire.Intake{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Intake{}, err
	}
	if (in.Suggested || in.LeaveCause != "") && doc.Taken == nil && h.Version == version { // what is seen now becomes what is asked for
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return wire.Intake{}, err
		}
		in = s.spellOut(e, in)
	}
	if err := s.checkCells(ctx, doc, in.Cells); err != nil {
		return wire.Intake{}, err
	}
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Intake{}, err
	}
	cw, wh, err := s.crosswalkOf(ctx, doc.Supplier)
	if err != nil {
		return wire.Intake{}, err
	}
	var ahead *evaluation // what the intake is afterwards, where it was worked out for the look at what is settled
	key := ""
	if widely(in) && doc.Taken == nil && h.Version == version {
		if key, err = s.keyOf(ctx, id, version+1, ch.Revision, wh.Revision); err != nil {
			return wire.Intake{}, err
		}
		was, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return wire.Intake{}, err
		}
		moved, now, err := s.becomes(ctx, c, was, h, doc, in, cw, wh)
		if err == nil {
			err = leavesSettled(h, moved, in)
		}
		if err != nil {
			return wire.Intake{}, err
		}
		if now.cabRev == ch.Revision {
			ahead = now
		}
	}
	after, err := deed.Do(ctx, s.Desk, c, deed.OpIntakeEdit, "intake", []any{id, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindIntake, id, version)
		if err != nil {
			return 0, err
		}
		doc, err := s.intakeDoc(t.Reader, h)
		if err != nil {
			return 0, err
		}
		if err := edited(h, &doc, in, c.Actor.Name, cw, cab); err != nil {
			return 0, err
		}
		doc.Cabinet = ch.Revision
		if err := deed.SaveDraft(t, &h, intakeFormat, doc); err != nil {
			return 0, err
		}
		err = t.Update(&h, "decided", editDetail(in))
		return h.Version, err
	})
	if err != nil {
		return wire.Intake{}, err
	}
	if ahead != nil && after == version+1 { // not worked out once more
		ahead.key = key
		s.hold(ahead)
	}
	return s.Get(ctx, c, id)
}

// edited makes an edit in the document of an intake, where it can be made.
func edited(h store.Head, doc *intakeDoc, in wire.IntakeEdit, who string, cw crosswalk.Crosswalk, cab *cabinet.Cabinet) error {
	if doc.Taken != nil {
		return deed.Fault(deed.Invalid, "taken-in", h.Number+" was taken in; it no longer changes.", "Open a new intake.")
	}
	if err := decide(doc, in, who); err != nil {
		return err
	}
	if len(in.Changes) == 0 { // taking one back is always possible, also where the rest no longer fits
		return nil
	}
	with, err := cw.With(doc.Changes)
	if err == nil {
		err = with.CheckAgainst(cab)
	}
	if err != nil {
		return deed.Fault(deed.Invalid, "change-wrong", "The change was not made: "+err.Error()+".", "")
	}
	return nil
}

// Try says what an edit would do, row by row, and changes nothing.
func (s *Intakes) Try(ctx context.Context, c deed.Call, id store.ID, in wire.IntakeTry) (wire.IntakeTried, error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return wire.IntakeTried{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	was, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	edit := s.spellOut(was, in.IntakeEdit)
	if err := s.checkCells(ctx, doc, edit.Cells); err != nil {
		return wire.IntakeTried{}, err
	}
	cw, wh, err := s.crosswalkOf(ctx, doc.Supplier)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	all, now, err := s.becomes(ctx, c, was, h, doc, edit, cw, wh)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	out := wire.IntakeTried{Version: h.Version, Rows: len(all), Before: was.result.Counts, After: now.result.Counts, Moved: []intake.Moved{}}
	for _, m := range all {
		if m.Settled != "" {
			out.Settled++
		}
	}
	limit := in.Limit
	if limit == 0 {
		limit = 200
	}
	if in.Offset < len(all) {
		out.Moved = all[in.Offset:min(in.Offset+limit, len(all))]
	}
	if now.problem != nil {
		out.Problem = deed.SentenceOf(now.problem)
	}
	return out, nil
}

// becomes works an edit out without making it: the rows that become something else than they were, and the intake afterwards.
func (s *Intakes) becomes(ctx context.Context, c deed.Call, was *evaluation, h store.Head, doc intakeDoc, in wire.IntakeEdit, cw crosswalk.Crosswalk, wh store.Head) (all []intake.Moved, now *evaluation, err error) {
	if doc, err = cloned(doc); err != nil { // what was read of the store may be shared
		return nil, nil, err
	}
	if err := edited(h, &doc, in, c.Actor.Name, cw, was.cab); err != nil {
		return nil, nil, err
	}
	now = s.begin(h.ID, was.cab, was.cabRev, cw, wh)
	if err := s.workOut(ctx, now, doc); err != nil {
		return nil, nil, err
	}
	return intake.Compare(was.result, now.result), now, nil
}

// widely says whether an edit reaches rows that it does not name: by a rule, or by how all rows of a kind are settled.
func widely(in wire.IntakeEdit) bool {
	return !in.EvenSettled && (len(in.Changes) > 0 || in.Known != "" || in.Like != "" || len(in.Policies) > 0 || in.LeaveCause != "")
}

// leavesSettled refuses an edit that changes rows which somebody settled, other than those that it names.
func leavesSettled(h store.Head, moved []intake.Moved, in wire.IntakeEdit) error {
	named := map[int]bool{}
	for _, r := range slices.Concat(in.Rows, in.TakeBack) {
		named[r] = true
	}
	for _, cell := range in.Cells {
		named[cell.Row] = true
	}
	var says []string
	count := 0
	for _, m := range moved {
		if m.Settled == "" || named[m.Row] {
			continue
		}
		if count++; count <= 3 {
			v := m.Moves[0]
			says = append(says, fmt.Sprintf("row %d, %s from %s to %s (%s)", m.Row, v.What, cmp.Or(v.From, "blank"), cmp.Or(v.To, "blank"), m.Settled))
		}
	}
	if count == 0 {
		return nil
	}
	rows := "1 row"
	if count > 1 {
		rows = fmt.Sprintf("%d rows", count)
	}
	if count > len(says) {
		says = append(says, fmt.Sprintf("and %d more", count-len(says)))
	}
	return deed.Fault(deed.Clash, "settled", fmt.Sprintf("Nothing was changed in %s: it would change %s that somebody settled: %s.", h.Number, rows, strings.Join(says, "; ")), "Look at them with a try, and say that settled rows may change too.")
}

// cloned is a document that shares nothing with another.
func cloned(doc intakeDoc) (out intakeDoc, err error) {
	raw, err := json.Marshal(doc)
	if err == nil {
		err = json.Unmarshal(raw, &out)
	}
	return out, err
}

// checkCells refuses corrections of cells that the file does not have.
func (s *Intakes) checkCells(ctx context.Context, doc intakeDoc, cells []wire.CellEdit) error {
	if len(cells) == 0 {
		return nil
	}
	t, _, err := s.tableOf(ctx, doc.FileHash, doc.Layout)
	if err != nil {
		return deed.Sentence(err, "file")
	}
	for _, c := range cells {
		if t.At(c.Row) < 0 || !slices.Contains(t.Header, c.Field) {
			return deed.Fault(deed.Invalid, "no-cell", fmt.Sprintf("The file has no field %q in a row %d; nothing was saved.", c.Field, c.Row), "Look at the row again.")
		}
	}
	return nil
}

// spellOut puts rows and rules in the place of "all rows of the cause" and "what is suggested".
func (s *Intakes) spellOut(e *evaluation, in wire.IntakeEdit) wire.IntakeEdit {
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
	return in
}

func editDetail(in wire.IntakeEdit) map[string]any {
	out := map[string]any{}
	put := func(key string, n int) {
		if n > 0 {
			out[key] = n
		}
	}
	put("leftOut", len(in.LeaveOut))
	put("takenBack", len(in.TakeBack)+len(in.DropChanges)+len(in.DropWaivers))
	put("rows", len(in.Rows))
	put("cells", len(in.Cells))
	var says []string
	for _, ch := range in.Changes {
		if len(says) < 20 {
			says = append(says, ch.Sentence())
		}
	}
	for key, v := range map[string]string{"changes": strings.Join(says, "; "), "drawer": in.Drawer, "known": in.Known, "like": in.Like} {
		if v != "" {
			out[key] = v
		}
	}
	if in.Layout != nil {
		out["layout"] = in.Layout
	}
	if in.EvenSettled {
		out["evenSettled"] = true
	}
	if in.Waive != nil {
		out["waived"] = in.Waive.Cause + ": " + in.Waive.Why
	}
	return out
}

// decide makes an edit in the document.
func decide(doc *intakeDoc, in wire.IntakeEdit, who string) error {
	ed := &doc.Edits
	out := map[int]bool{}
	for _, r := range append(slices.Clone(ed.LeaveOut), in.LeaveOut...) {
		out[r] = true
	}
	if ed.Drawers == nil {
		ed.Drawers = map[int]string{}
	}
	if ed.Decide == nil {
		ed.Decide = map[int]intake.Decision{}
	}
	if ed.Cells == nil {
		ed.Cells = map[int]map[string]string{}
	}
	for _, r := range in.TakeBack {
		delete(out, r)
		delete(ed.Drawers, r)
		delete(ed.Decide, r)
		delete(ed.Cells, r)
	}
	if in.Decide != nil {
		switch in.Decide.As {
		case intake.Replace, intake.Fill, intake.Keep, intake.AsSource:
		case intake.Separate:
			if deed.Said(in.Decide.Why) == "" {
				return deed.Fault(deed.Invalid, "no-reason", "A part that stands beside another with the same manufacturer part number needs a reason.", "Say in a few words why.")
			}
		default:
			return deed.Fault(deed.Invalid, "decision-unknown", fmt.Sprintf("A row cannot be settled as %q.", in.Decide.As), "Use replace, fill, keep, separate or alternate.")
		}
	}
	for _, r := range in.Rows {
		if in.Drawer != "" {
			ed.Drawers[r] = in.Drawer
		}
		if in.Decide != nil {
			ed.Decide[r] = *in.Decide
		}
	}
	for _, cell := range in.Cells {
		if cell.Undo {
			if delete(ed.Cells[cell.Row], cell.Field); len(ed.Cells[cell.Row]) == 0 {
				delete(ed.Cells, cell.Row)
			}
			continue
		}
		if ed.Cells[cell.Row] == nil {
			ed.Cells[cell.Row] = map[string]string{}
		}
		ed.Cells[cell.Row][cell.Field] = strings.TrimSpace(cell.Text)
	}
	ed.LeaveOut = ed.LeaveOut[:0]
	for r := range out {
		ed.LeaveOut = append(ed.LeaveOut, r)
	}
	slices.Sort(ed.LeaveOut)
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
			return deed.Fault(deed.Invalid, "policy-unknown", fmt.Sprintf("A parameter cannot be settled as %q.", how), "Use replace, fill, keep or ask.")
		}
	}
	if in.Like != "" {
		ed.Like = strings.TrimPrefix(in.Like, "new")
	}
	if in.Layout != nil {
		if doc.Layout.Sheet != in.Layout.Sheet || doc.Layout.Inside != in.Layout.Inside { // the rows are others: what was decided about them means nothing now
			ed.LeaveOut, ed.Drawers, ed.Decide, ed.Cells = nil, nil, nil, nil
		}
		doc.Layout = *in.Layout
	}
	var err error
	if doc.Changes, err = without(doc.Changes, in.DropChanges, "change"); err != nil {
		return err
	}
	doc.Changes = append(doc.Changes, in.Changes...)
	if ed.Waive, err = without(ed.Waive, in.DropWaivers, "waiver"); err != nil {
		return err
	}
	if in.Waive != nil {
		ed.Waive = append(ed.Waive, intake.Waiver{Cause: in.Waive.Cause, Rows: in.Waive.Rows, Why: in.Waive.Why, Who: who})
	}
	return nil
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

// TryRule says what a rule would do to an intake's rows, before and after, without changing anything.
func (s *Intakes) TryRule(ctx context.Context, c deed.Call, id store.ID, in wire.RuleTry) (wire.RuleTried, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.RuleTried{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.RuleTried{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.RuleTried{}, err
	}
	out := wire.RuleTried{Samples: []intake.Sample{}}
	with, err := e.cw.With([]crosswalk.Change{{Rule: &in.Rule}})
	if err == nil {
		err = with.CheckAgainst(e.cab)
	}
	if err != nil {
		out.Problem = "The rule cannot be used yet: " + err.Error() + "."
		return out, nil
	}
	out.Samples, out.Read, out.Unread = e.result.Samples(in.Rule, 12)
	return out, nil
}
