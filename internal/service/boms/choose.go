package boms

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/decision"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// editedBOM finds a BOM that somebody is about to change, and reads its file.
func (s *BOMs) editedBOM(ctx context.Context, c deed.Call, key string) (h store.Head, f bomFile, cab *cabinet.Cabinet, err error) {
	if err = deed.Allow(c, deed.OpBOMEdit); err != nil {
		return h, f, cab, err
	}
	h, doc, err := s.findBOM(ctx, key)
	if err != nil {
		return h, f, cab, err
	}
	f, cab, err = s.fileOf(ctx, h, doc)
	return h, f, cab, err
}

// Choose accepts records for lines, or takes choices back, and keeps what is to be learned from them. Every part named must still be there.
func (s *BOMs) Choose(ctx context.Context, c deed.Call, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	id, _, err := s.choose(ctx, c, key, version, in)
	if err != nil {
		return wire.BOM{}, err
	}
	return s.Get(ctx, c, id.String())
}

// ChooseSome does the same and answers with the lines alone that may be otherwise by it, where it can tell: a page that shows the version which was named has the rest.
func (s *BOMs) ChooseSome(ctx context.Context, c deed.Call, key string, version int, in wire.BOMChoices) (wire.BOM, error) {
	id, before, err := s.choose(ctx, c, key, version, in)
	if err != nil {
		return wire.BOM{}, err
	}
	return s.getSome(ctx, c, id.String(), "", &before)
}

// choose does it, and says what the board was like before.
func (s *BOMs) choose(ctx context.Context, c deed.Call, key string, version int, in wire.BOMChoices) (id store.ID, before keptVerdicts, err error) {
	if slices.ContainsFunc(in.Choose, func(ch wire.BOMChoice) bool { return ch.Learn == wire.LearnLink }) {
		if err := deed.Allow(c, deed.OpCrosswalk); err != nil {
			return id, before, err
		}
	}
	h, f, cab, err := s.editedBOM(ctx, c, key)
	if err != nil {
		return id, before, err
	}
	var made chosen
	boards := map[string]store.Head{} // other BOMs, as they are named
	prepare := func() error {
		now, doc, err := s.seen(ctx, h.ID, version)
		if err != nil { // the file may be another
			return err
		}
		for _, ch := range in.Choose {
			if ch.Board == "" {
				continue
			}
			if boards[ch.Board], err = s.otherBoard(ctx, h.ID, ch.Board); err != nil {
				return err
			}
		}
		var bad *deed.Error
		if made, bad = s.decisions(c, learning{bom: now.Number, file: f, cab: cab, doc: doc, boards: boards}, in); len(bad.Places) > 0 {
			return bad
		}
		return nil
	}
	before, _ = s.keptOf(h.ID, version)
	for again := 0; ; again++ {
		_, err = deed.DoAfter(ctx, s.Desk, c, deed.OpBOMEdit, "BOM", []any{h.ID, version, in}, prepare, func(t *store.Tx) (int, error) {
			h, doc, err := at(t, h.ID, version)
			if err != nil {
				return 0, err
			}
			if err := s.mayChange(t, c, h); err != nil {
				return 0, err
			}
			if err := s.stand(t.Reader, made.parts, lifecycle.ForbidChoose); err != nil {
				return 0, err
			}
			doc.carry(f.lines)
			doc.Decisions = decision.WithAll(doc.Decisions, made.lines)
			for _, r := range in.Withdraw {
				var had bool
				l, _ := f.line(r)
				if doc.Decisions, had = decision.Without(doc.Decisions, decision.Line, l.About()); !had && len(l.Designators) == 0 {
					doc.Decisions, _ = decision.Without(doc.Decisions, decision.Line, "") // as it was kept before such lines were told apart
				}
			}
			if err := deed.SaveDraft(t, &h, bomFormat, doc); err != nil {
				return 0, err
			}
			if err := t.SetUses(h.ID, chosenWord, doc.uses()); err != nil {
				return 0, err
			}
			if len(made.readings) > 0 {
				if err := teach(t, f, doc.Origin, made.readings); err != nil {
					return 0, err
				}
			}
			return h.Version, t.Update(&h, "records chosen", map[string]any{"chosen": len(made.lines), "withdrawn": len(in.Withdraw), "taught": len(made.readings)})
		})
		if len(made.readings) == 0 || again == 20 || !deed.Clashed(err) {
			break
		}
		if _, _, seen := s.seen(ctx, h.ID, version); seen != nil { // it is the BOM that is another, and no readings that somebody taught meanwhile
			break
		}
	}
	if err != nil {
		return id, before, err
	}
	return h.ID, before, nil
}

// at is a BOM that is changed, at the version that was seen.
func at(t *store.Tx, id store.ID, version int) (h store.Head, doc bomDoc, err error) {
	if h, err = t.HeadAt(store.KindBOM, id, version); err != nil {
		return h, doc, err
	}
	c, err := t.Content(h.Draft)
	err = deed.Decode(c, err, &doc)
	return h, doc, err
}

// stand refuses choices of records that are other than what the decision was made on, or whose state forbids it.
func (s *BOMs) stand(r store.Reader, chosen []*lookup.Entry, act string) error {
	rules, err := s.policy.Rules(r)
	if err != nil {
		return err
	}
	seen := map[store.ID]*lookup.Entry{}
	var ids []store.ID
	for _, e := range chosen {
		id, err := store.ParseID(e.ID)
		if err != nil {
			return err
		}
		if seen[id] == nil {
			seen[id], ids = e, append(ids, id)
		}
	}
	heads, err := r.HeadsByID(ids)
	if err != nil {
		return err
	}
	for _, h := range heads {
		if e := seen[h.ID]; h.Version != e.Version || store.Gone(h.Standing) {
			return deed.Fault(deed.Clash, "record-changed", e.Number+" was changed by somebody else meanwhile; nothing was saved.", "Look at the line again: what the record says may be otherwise now.")
		}
		if err := rules.Forbids(h, act); err != nil {
			return err
		}
	}
	return nil
}

// chosen is what is kept of choices.
type chosen struct {
	lines    []decision.Record
	readings []decision.Record
	parts    []*lookup.Entry
}

// learning is the BOM that choices are made for.
type learning struct {
	bom  string
	file bomFile
	cab  *cabinet.Cabinet
	doc  bomDoc

	boards map[string]store.Head // other BOMs, as they are named
}

// decisions makes of choices what is kept of them: the line by its designators, what it said, and what in it speaks against
// the part and was accepted with a reason; and what is learned.
func (s *BOMs) decisions(c deed.Call, of learning, in wire.BOMChoices) (out chosen, bad *deed.Error) {
	bad = deed.Fault(deed.Invalid, "choices-wrong", "Nothing was saved:", "")
	wrong := func(i int, field, format string, args ...any) {
		bad.Places = append(bad.Places, wire.ProblemDetail{Location: fmt.Sprintf("choose[%d].%s", i, field), Message: fmt.Sprintf(format, args...)})
	}
	settled := map[string]bool{} // lines that somebody answered, or answers with another choice of these
	for _, d := range of.doc.Decisions {
		settled[d.About] = settled[d.About] || d.Kind == decision.Line && d.Withdrawn == ""
	}
	for _, ch := range in.Choose {
		l, _ := of.file.line(ch.Row)
		settled[l.About()] = true
	}
	for i, ch := range in.Choose {
		l, there := of.file.line(ch.Row)
		if there && ch.Learn != "" && l.Silent() {
			wrong(i, "learn", "row %d: the line says nothing of the part, so that there is nothing by which another could be known", ch.Row)
			continue
		}
		if ch.Board != "" {
			switch board := of.boards[ch.Board]; {
			case !there:
				wrong(i, "row", "the BOM has no line in row %d", ch.Row)
			case ch.Part != "" || ch.None:
				wrong(i, "board", "row %d: it is a part, another BOM, or none", ch.Row)
			case ch.Learn != "":
				wrong(i, "learn", "row %d: that a line is another BOM is said for each board", ch.Row)
			case l.Assembly:
				wrong(i, "board", "row %d: it is made of the lines below it", ch.Row)
			default:
				s.answer(c, of, ch, l, decision.Record{Outcome: bom.BoardOutcome(board.ID.String(), strings.Join(strings.Fields(ch.Variant), " ")), Reason: deed.Said(ch.Reason)}, settled, &out)
			}
			continue
		}
		if ch.None {
			switch reason := deed.Said(ch.Reason); {
			case !there:
				wrong(i, "row", "the BOM has no line in row %d", ch.Row)
			case ch.Part != "":
				wrong(i, "part", "row %d: it is a part, or none", ch.Row)
			case reason == "":
				wrong(i, "reason", "row %d: say what it is, as it is no part of the library", ch.Row)
			default:
				s.answer(c, of, ch, l, decision.Record{Outcome: decision.NoPart, Reason: reason}, settled, &out)
				if ch.Learn != "" {
					s.learn(c, of, bom.LearnNone(l, ch.Learn == wire.LearnLink), &out)
				}
			}
			continue
		}
		e, known := s.index.ByID(ch.Part)
		if !known {
			e, known = s.index.ByNumber(ch.Part)
		}
		switch {
		case !known:
			wrong(i, "part", "row %d: there is no part %s", ch.Row, ch.Part)
			continue
		case !there:
			wrong(i, "row", "the BOM has no line in row %d", ch.Row)
			continue
		}
		tally := bom.Lay(l, e, s.index, of.cab, bom.Known{Columns: of.file.columns})
		v := bom.Verdict{Tally: tally}
		against := v.Against()
		reason := deed.Said(ch.Reason)
		if len(against) > 0 && reason == "" {
			wrong(i, "reason", "row %d: the line contradicts %s (%s): say why it is meant all the same", ch.Row, e.Number, strings.Join(against, "; "))
			continue
		}
		s.answer(c, of, ch, l, decision.Record{Outcome: e.ID, Against: against, Reason: reason}, settled, &out)
		out.parts = append(out.parts, e)
		if ch.Learn != "" {
			s.learn(c, of, bom.Learn(l, e, tally, ch.Learn == wire.LearnLink, of.cab), &out)
		}
	}
	return out, bad
}

// answer keeps what was said of a line, and of those that ask for the same where it is said of them too.
func (s *BOMs) answer(c deed.Call, of learning, ch wire.BOMChoice, l bom.Line, what decision.Record, settled map[string]bool, out *chosen) {
	keep := func(l bom.Line) {
		d := what
		d.Kind, d.About, d.Evidence, d.By, d.At = decision.Line, l.About(), l.Evidence(), c.Actor.Name, s.Now().UTC()
		out.lines = append(out.lines, d)
	}
	keep(l)
	if !ch.Alike || l.Silent() {
		return
	}
	asks := bom.Asks(l)
	for _, o := range of.file.lines {
		if o.Row != l.Row && bom.Asks(o) == asks && !settled[o.About()] {
			keep(o)
		}
	}
}

// learn keeps a reading with who taught it where.
func (s *BOMs) learn(c deed.Call, of learning, r decision.Record, out *chosen) {
	r.By, r.At, r.In = c.Actor.Name, s.Now().UTC(), of.bom
	out.readings = append(out.readings, r)
}
