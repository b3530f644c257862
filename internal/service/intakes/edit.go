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
	"jollydrawer/core/decision"
	"jollydrawer/core/intake"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Edit changes what people decided about an intake: its rows, its mapping, its layout.
func (s *Intakes) Edit(ctx context.Context, c deed.Call, id store.ID, version int, asked wire.IntakeEdit) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpIntakeEdit); err != nil {
		return wire.Intake{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Intake{}, err
	}
	cab, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Intake{}, err
	}
	lay, err := s.crosswalkOf(ctx, doc)
	if err != nil {
		return wire.Intake{}, err
	}
	by, err := s.decider(ctx, c, h, doc, lay.cw)
	if err != nil {
		return wire.Intake{}, err
	}
	in := spelled{IntakeEdit: asked}
	var ahead *evaluation // what the intake is afterwards
	key := ""
	if doc.Taken == nil && h.Version == version {
		was, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return wire.Intake{}, err
		}
		if in, err = s.spellOut(ctx, doc, was, asked); err != nil { // what is seen now becomes what is decided
			return wire.Intake{}, err
		}
		if err := checkCells(by.table, in.Cells); err != nil {
			return wire.Intake{}, err
		}
		if key, err = s.keyOf(ctx, id, version+1, ch.Revision, lay.head); err != nil {
			return wire.Intake{}, err
		}
		moved, now, err := s.leaving(ctx, was, h, doc, &in, by, lay)
		if err == nil {
			err = leavesSettled(h, moved, in)
		}
		if err != nil {
			return wire.Intake{}, err
		}
		by.now = now.result
		if now.cabRev == ch.Revision && in.Layout == nil && in.Mapped == nil { // of another layout, the crosswalk may be another
			if err := s.lookOver(ctx, now); err != nil {
				return wire.Intake{}, err
			}
			ahead = now
		}
	}
	after, err := deed.Do(ctx, s.Desk, c, deed.OpIntakeEdit, "intake", []any{id, version, asked}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindIntake, id, version)
		if err != nil {
			return 0, err
		}
		doc, err := s.intakeDoc(t.Reader, h)
		if err != nil {
			return 0, err
		}
		made, gone, err := edited(h, &doc, in, by, lay.cw, cab)
		if err != nil {
			return 0, err
		}
		if err := keepDecisions(t, h, c, made, gone); err != nil {
			return 0, err
		}
		doc.Cabinet = ch.Revision
		if err := deed.SaveDraft(t, &h, intakeFormat, doc); err != nil {
			return 0, err
		}
		err = t.Update(&h, "decided", editDetail(in.IntakeEdit))
		return h.Version, err
	})
	if err != nil {
		return wire.Intake{}, err
	}
	if ahead != nil && after == version+1 { // not worked out once more
		ahead.key = key
		s.hold(ahead)
		s.mu.Lock()
		s.tried = heldTry{} // it is made
		s.mu.Unlock()
	}
	return s.Get(ctx, c, id)
}

// edited makes an edit in the document of an intake, where it can be made, and returns the decisions that it makes and takes back.
func edited(h store.Head, doc *intakeDoc, in spelled, by decider, cw crosswalk.Crosswalk, cab *cabinet.Cabinet) (made, gone []decision.Record, err error) {
	if doc.Taken != nil {
		return nil, nil, deed.Fault(deed.Invalid, "taken-in", h.Number+" was taken in; it no longer changes.", "Open a new intake.")
	}
	if made, gone, err = decide(doc, in, by); err != nil {
		return nil, nil, err
	}
	if len(in.Changes) == 0 { // taking one back is always possible, also where the rest no longer fits
		return made, gone, nil
	}
	with, err := cw.With(doc.Changes)
	if err == nil {
		err = with.CheckAgainst(cab)
	}
	if err != nil {
		return nil, nil, deed.Fault(deed.Invalid, "change-wrong", "The change was not made: "+err.Error()+".", "")
	}
	return made, gone, nil
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
	if in.Choice != nil {
		all, now, err := s.withChoice(ctx, was, h, doc, *in.Choice)
		if err != nil {
			return wire.IntakeTried{}, err
		}
		return tried(h, was, all, now, in), nil
	}
	edit, err := s.spellOut(ctx, doc, was, in.IntakeEdit)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	lay, err := s.crosswalkOf(ctx, doc)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	by, err := s.decider(ctx, c, h, doc, lay.cw)
	if err == nil {
		err = checkCells(by.table, edit.Cells)
	}
	if err != nil {
		return wire.IntakeTried{}, err
	}
	all, now, err := s.leaving(ctx, was, h, doc, &edit, by, lay)
	if err != nil {
		return wire.IntakeTried{}, err
	}
	out := tried(h, was, all, now, in)
	if len(edit.wide) > 0 {
		out.Elsewhere, err = s.elsewhere(ctx, h, doc, was, edit.wide)
	}
	return out, err
}

// withChoice works out what an intake would be with another choice in the cabinet.
func (s *Intakes) withChoice(ctx context.Context, was *evaluation, h store.Head, doc intakeDoc, in intake.NewChoice) ([]intake.Moved, *evaluation, error) {
	with, ok := was.cab.Document.WithChoice(in.Parameter, strings.TrimSpace(in.Choice), in.Drawers...)
	if !ok {
		return nil, nil, deed.Fault(deed.Invalid, "no-choice", fmt.Sprintf("The parameter dictionary has no choice %q.", in.Parameter), "")
	}
	cab, err := cabinet.New(with)
	if err != nil {
		return nil, nil, deed.Fault(deed.Invalid, "cabinet-wrong", "The choice cannot be added: "+err.Error()+".", "")
	}
	lay, err := s.crosswalkOf(ctx, doc)
	if err != nil {
		return nil, nil, err
	}
	now := s.begin(h.ID, cab, was.cabRev, lay)
	if err := s.build(ctx, now, doc); err != nil {
		return nil, nil, err
	}
	return intake.Compare(was.result, now.result), now, nil
}

// tried is what a preview shows of the rows that become something else.
func tried(h store.Head, was *evaluation, all []intake.Moved, now *evaluation, in wire.IntakeTry) wire.IntakeTried {
	out := wire.IntakeTried{Version: h.Version, Rows: len(all), Before: was.result.Counts, After: now.result.Counts, Moved: []intake.Moved{}, Loses: []string{}}
	for _, m := range all {
		if m.Settled != "" {
			out.Settled++
		}
	}
	out.LeftOut, out.Lost, out.Loses = intake.Loses(all)
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
	return out
}

// heldTry is an edit that was worked out and not made.
type heldTry struct {
	key   string
	moved []intake.Moved
	now   *evaluation
}

// lookedAt works an edit out, or returns what was worked out last where that was the same edit under the same circumstances: what somebody
// looks at is mostly what they do next. Edits that decide about rows are worked out anew, because decisions say when they were made.
func (s *Intakes) lookedAt(ctx context.Context, was *evaluation, h store.Head, doc intakeDoc, in spelled, by decider, lay layoutOf) ([]intake.Moved, *evaluation, error) {
	if !widely(in.IntakeEdit) || len(in.LeaveOut)+len(in.Rows)+len(in.Cells)+len(in.TakeBack)+len(in.goes) > 0 || in.Waive != nil {
		return s.becomes(ctx, was, h, doc, in, by, lay)
	}
	asked := in.IntakeEdit
	asked.EvenSettled, asked.KeepSettled, asked.EvenRows = false, false, nil
	raw, err := json.Marshal(asked)
	if err != nil {
		return nil, nil, err
	}
	key := was.key + string(raw)
	s.mu.Lock()
	held := s.tried
	s.mu.Unlock()
	if held.key == key && held.now.answers.Hold() {
		return held.moved, held.now, nil
	}
	moved, now, err := s.becomes(ctx, was, h, doc, in, by, lay)
	if err == nil {
		s.mu.Lock()
		s.tried = heldTry{key, moved, now}
		s.mu.Unlock()
	}
	return moved, now, err
}

// becomes works an edit out without making it: the rows that become something else than they were, and the intake afterwards, whose findings
// nobody has looked over.
func (s *Intakes) becomes(ctx context.Context, was *evaluation, h store.Head, doc intakeDoc, in spelled, by decider, lay layoutOf) (all []intake.Moved, now *evaluation, err error) {
	doc.Edits, doc.Changes = doc.Edits.Apart(), slices.Clip(doc.Changes) // the document itself stays what it is
	made, gone, err := edited(h, &doc, in, by, lay.cw, was.cab)
	if err != nil {
		return nil, nil, err
	}
	if in.Layout != nil || in.Mapped != nil { // other headings, or another way to read them
		if lay, err = s.crosswalkOf(ctx, doc); err != nil {
			return nil, nil, err
		}
	}
	now = s.begin(h.ID, was.cab, was.cabRev, lay)
	if len(made)+len(gone) == 0 && in.Waive == nil && len(in.DropWaivers) == 0 && in.Layout == nil && in.Mapped == nil { // what was decided lies on the rows as it did
		now.edits, now.standings = was.edits.Under(doc.Edits), was.standings
	}
	if err := s.build(ctx, now, doc); err != nil {
		return nil, nil, err
	}
	return intake.Compare(was.result, now.result), now, nil
}

// leaving works an edit out, with what settled rows are kept at where it leaves them alone.
func (s *Intakes) leaving(ctx context.Context, was *evaluation, h store.Head, doc intakeDoc, in *spelled, by decider, lay layoutOf) ([]intake.Moved, *evaluation, error) {
	moved, now, err := s.lookedAt(ctx, was, h, doc, *in, by, lay)
	if err == nil && in.KeepSettled {
		if in.pins = pins(was, moved, in.EvenRows); len(in.pins) > 0 {
			return s.becomes(ctx, was, h, doc, *in, by, lay)
		}
	}
	return moved, now, err
}

// widely says whether an edit reaches rows that it does not name: by a rule, or by how all rows of a kind are settled.
func widely(in wire.IntakeEdit) bool {
	return len(in.Changes) > 0 || len(in.DropChanges) > 0 || in.Known != "" || in.Like != "" || len(in.Policies) > 0 || in.LeaveCause != "" || in.SettleCause != nil
}

// leavesSettled refuses an edit that changes rows which somebody settled, other than those that it names.
func leavesSettled(h store.Head, moved []intake.Moved, in spelled) error {
	if in.EvenSettled || !widely(in.IntakeEdit) {
		return nil
	}
	named := map[int]bool{}
	for _, r := range slices.Concat(in.Rows, in.TakeBack, in.EvenRows) {
		named[r] = true
	}
	for _, cell := range in.Cells {
		named[cell.Row] = true
	}
	if says := settledRows(moved, named); says != "" {
		return deed.Fault(deed.Clash, "settled", fmt.Sprintf("Nothing was changed in %s: it would change %s.", h.Number, says), "Look at them with a try, and say that settled rows may change too.")
	}
	return nil
}

// settledRows says how many of the rows that change somebody settled, but for those that were named, and which the first ones are; blank where
// there are none.
func settledRows(moved []intake.Moved, named map[int]bool) string {
	var says []string
	count := 0
	for _, m := range moved {
		if m.Settled == "" || named[m.Row] {
			continue
		}
		if count++; count <= 3 {
			v := m.Moves[slices.IndexFunc(m.Moves, func(v intake.Move) bool { return v.Settled != "" })]
			says = append(says, fmt.Sprintf("row %d, %s from %s to %s (%s)", m.Row, v.What, cmp.Or(v.From, "blank"), cmp.Or(v.To, "blank"), v.Settled))
		}
	}
	if count == 0 {
		return ""
	}
	rows := "1 row"
	if count > 1 {
		rows = fmt.Sprintf("%d rows", count)
	}
	if count > len(says) {
		says = append(says, fmt.Sprintf("and %d more", count-len(says)))
	}
	return fmt.Sprintf("%s that somebody settled: %s", rows, strings.Join(says, "; "))
}

// checkCells refuses corrections of cells that the file does not have.
func checkCells(t *intake.Table, cells []wire.CellEdit) error {
	for _, c := range cells {
		if t.At(c.Row) < 0 || !slices.Contains(t.Header, c.Field) {
			return deed.Fault(deed.Invalid, "no-cell", fmt.Sprintf("The file has no field %q in a row %d; nothing was saved.", c.Field, c.Row), "Look at the row again.")
		}
	}
	return nil
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
	put("evenRows", len(in.EvenRows))
	if in.Waive != nil {
		out["waived"] = in.Waive.Cause + ": " + in.Waive.Why
	}
	return out
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
