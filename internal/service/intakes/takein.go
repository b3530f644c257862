package intakes

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"iter"
	"slices"
	"time"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/intake"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

const jobTakeIn = "take-in"

type takeInPayload struct {
	Intake  store.ID
	Version int
	Request wire.TakeIn
	At      time.Time
}

// TakeIn starts taking an intake in. The answer is the job that does it; the same deed sent again gives the same job.
func (s *Intakes) TakeIn(ctx context.Context, c deed.Call, id store.ID, version int, in wire.TakeIn) (wire.Job, error) {
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpIntakeTakeIn, Kind: jobTakeIn, Head: id, About: jobTakeIn + " " + id.String(), Prepare: func(at time.Time) (any, int64, error) {
		h, doc, err := s.loadIntake(ctx, id)
		if err != nil {
			return nil, 0, err
		}
		if doc.Taken != nil {
			return nil, 0, deed.Fault(deed.Clash, "taken-in", h.Number+" was taken in already; nothing was changed.", "Look at what it made.")
		}
		if h.Version != version {
			return nil, 0, deed.Sentence(store.ErrConflict, "intake")
		}
		e, err := s.evaluate(ctx, h, doc)
		if err != nil {
			return nil, 0, err
		}
		if err := ready(e, in); err != nil {
			return nil, 0, err
		}
		if len(doc.Changes) > 0 && !in.EvenSettled { // they become the crosswalk's, and other intakes of the layout may lie open
			if err := s.leavesSettledElsewhere(ctx, applied(e), id); err != nil {
				return nil, 0, err
			}
		}
		n := e.result.Counts
		return takeInPayload{id, version, in, at}, int64(n[intake.New] + n[intake.Update] + n[intake.Alternate]), nil
	}})
}

// applied is the crosswalk that an intake's changes make, with the headings that tell its layout.
func applied(e *evaluation) crosswalk.Crosswalk {
	cw := e.cw
	cw.Headings = slices.DeleteFunc(slices.Clone(e.table.Header), func(h string) bool { return h == "" })
	return cw
}

// ready says why an intake cannot be taken in as it is.
func ready(e *evaluation, in wire.TakeIn) error {
	if e.problem != nil {
		return e.problem
	}
	if e.digest != in.Digest {
		return deed.Fault(deed.Clash, "preview-stale", "The library, the crosswalk or the rows changed since you looked; nothing was taken in.", "Look at the preview again.")
	}
	if n := e.result.Counts[intake.Blocked] + e.result.Counts[intake.Unsorted]; n > 0 && !in.LeaveBlocked {
		return deed.Fault(deed.Invalid, "rows-blocked", fmt.Sprintf("%d rows cannot be taken in; nothing was changed.", n), "Mend them, or say that they are to be left out.")
	}
	return nil
}

// runTakeIn is the job: it works the intake out again, reserves numbers, stages the parts and switches them visible.
func (s *Intakes) runTakeIn(ctx context.Context, j store.Job, progress jobs.Progress) error {
	s.taking.Add(1)
	defer s.taking.Add(-1)
	var p takeInPayload
	if err := json.Unmarshal([]byte(j.Payload), &p); err != nil {
		return err
	}
	h, doc, err := s.loadIntake(ctx, p.Intake)
	if err != nil {
		return err
	}
	if doc.Taken != nil || h.Version != p.Version {
		return deed.Fault(deed.Clash, "changed-meanwhile", "The intake was changed or taken in by somebody else meanwhile; nothing was taken in.", "Look at it again.")
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return err
	}
	if err := ready(e, p.Request); err != nil {
		return err
	}
	made, err := s.reserve(ctx, e)
	if err != nil {
		return err
	}
	revised, ids, err := partsOf(e)
	if err != nil {
		return err
	}
	total := int64(len(made) + len(ids))
	if err := progress(0, total); err != nil {
		return err
	}
	d, err := s.NewDeed(deed.Call{Actor: deed.Actor{ID: j.Account}, Deed: j.Deed}, deed.OpIntakeTakeIn, p)
	if err != nil {
		return err
	}
	d.At = p.At
	out, err := s.takenIn(ctx, e, h, made, ids)
	if err != nil {
		return err
	}
	var cwRaw []byte
	var cwHash store.Hash
	if len(doc.Changes) > 0 {
		raw, hash, err := document.Canonical(applied(e))
		if err != nil {
			return err
		}
		cwRaw, cwHash, out.Revision = raw, store.Hash(hash), e.cwRev+1
	}
	result, err := json.Marshal(out)
	if err != nil {
		return err
	}
	defer s.forget(p.Intake)
	doc.Taken = &takenDoc{Crosswalk: e.cwRev, Cabinet: e.cabRev, Deed: d.ID, Result: out}
	if out.Revision > 0 {
		doc.Taken.Crosswalk = out.Revision
	}
	doc.Changes = nil // they are the crosswalk's own now
	all := func(yield func(store.Staged, error) bool) {
		for p, err := range newParts(e, h, doc, made) {
			if !yield(p, err) {
				return
			}
		}
		s.revisedParts(ctx, d.Account, e, h, doc, revised, ids)(yield)
	}
	_, err = s.Store.Bulk(ctx, d, all, func(done int) error { return progress(int64(done), total) }, func(t *store.Tx) (any, error) {
		if err := t.EndJob(j, string(result)); err != nil {
			return nil, err
		}
		if err := t.UnderCabinet(e.cabRev); err != nil {
			return nil, err
		}
		h, err := t.HeadAt(store.KindIntake, p.Intake, p.Version)
		if err != nil {
			return nil, err
		}
		if cwRaw != nil {
			if _, err := deed.Apply(t, store.KindCrosswalk, e.cw.Number(), crosswalk.Format, e.cwBase, cwRaw, cwHash); err != nil {
				return nil, err
			}
		}
		if err := deed.SaveDraft(t, &h, intakeFormat, doc); err != nil {
			return nil, err
		}
		return out, t.Update(&h, "taken in", map[string]any{"parts": len(made), "updated": out.Updated, "counts": out.Counts, "crosswalk": doc.Taken.Crosswalk, "cabinet": e.cabRev})
	})
	return takeInRefused(err)
}

// takenIn says what a take-in does: how many parts it makes and changes, and the first hundred of each.
func (s *Intakes) takenIn(ctx context.Context, e *evaluation, h store.Head, made []madePart, changed []store.ID) (wire.TakenIn, error) {
	out := wire.TakenIn{Intake: h.Number, Parts: len(made), Updated: len(changed), Counts: map[string]int{}, Numbers: []string{}, Changed: []string{}}
	heads, err := s.Store.Read(ctx).HeadsByID(changed[:min(len(changed), 100)])
	if err != nil {
		return out, err
	}
	for _, p := range heads {
		out.Changed = append(out.Changed, p.Number)
	}
	slices.Sort(out.Changed)
	for _, st := range intake.States {
		out.Counts[string(st)] = e.result.Counts[st]
	}
	for _, m := range made[:min(len(made), 100)] {
		out.Numbers = append(out.Numbers, m.number)
	}
	out.Stated = e.statedOf(made)
	if len(made) > 0 {
		out.First, out.Last = made[0].number, made[len(made)-1].number
	}
	return out, nil
}

func takeInRefused(err error) error {
	switch {
	case errors.Is(err, store.ErrSourceTaken):
		return deed.Fault(deed.Clash, "source-taken", "Somebody else brought in one of the same parts meanwhile; nothing was taken in.", "Look at the preview again.")
	case errors.Is(err, store.ErrNumberTaken):
		return deed.Fault(deed.Clash, "number-taken", "One of the part numbers was taken meanwhile; nothing was taken in.", "Try again; a number the file brings shows up in the preview.")
	case errors.Is(err, store.ErrCabinetMoved):
		return deed.Fault(deed.Clash, "preview-stale", "The templates were changed by somebody else meanwhile; nothing was taken in.", "Look at the preview again.")
	case errors.Is(err, store.ErrConflict):
		return deed.Fault(deed.Clash, "changed-meanwhile", "The intake was changed, stopped or taken in by somebody else meanwhile; nothing was taken in.", "Look at it again.")
	}
	return err
}

// madePart is a new candidate with its number.
type madePart struct {
	at     int
	number string
}

// reserve gives each new candidate its number.
func (s *Intakes) reserve(ctx context.Context, e *evaluation) ([]madePart, error) {
	need, given := map[string]int{}, []string{}
	out := make([]madePart, 0, e.result.Counts[intake.New])
	for i := range e.result.Candidates {
		c := &e.result.Candidates[i]
		if c.State != intake.New {
			continue
		}
		out = append(out, madePart{i, c.Number})
		t, _ := e.cab.Template(c.Drawer)
		switch {
		case c.Number != "":
			given = append(given, c.Number)
		case t.Prefix == "":
			return nil, deed.Fault(deed.Invalid, "no-prefix", fmt.Sprintf("The drawer %s has no prefix for part numbers; nothing was taken in.", t.Label), "Give it one in the cabinet.")
		default:
			need[t.Prefix]++
		}
	}
	// Counters step past the numbers that the file brings before any is reserved, so that the two never meet.
	s.parts.StepPast(ctx, e.cab, given...)
	next := map[string]int64{}
	for prefix, n := range need {
		first, err := s.Store.ReserveNumbers(ctx, prefix, n)
		if err != nil {
			return nil, err
		}
		next[prefix] = first
	}
	for i := range out {
		if out[i].number == "" {
			t, _ := e.cab.Template(e.result.Candidates[out[i].at].Drawer)
			out[i].number = t.PartNumber(next[t.Prefix])
			next[t.Prefix]++
		}
	}
	return out, nil
}

// newParts makes the new parts one after the other.
func newParts(e *evaluation, h store.Head, doc intakeDoc, made []madePart) iter.Seq2[store.Staged, error] {
	return func(yield func(store.Staged, error) bool) {
		for _, m := range made {
			if !yield(newPart(e, h, doc, m)) {
				return
			}
		}
	}
}

func newPart(e *evaluation, h store.Head, doc intakeDoc, m madePart) (out store.Staged, err error) {
	c := &e.result.Candidates[m.at]
	content, origins := e.result.Made(m.at)
	raw, hash, err := document.Canonical(content)
	if err != nil {
		return out, err
	}
	how, err := origin.AppendAll(nil, origins)
	if err != nil {
		return out, err
	}
	detail := map[string]any{"intake": h.Number, "file": doc.FileName, "row": c.Row}
	if d := e.edits.Decide[c.Row]; d.As == intake.Separate {
		detail["keptSeparate"], out.Twin = d.Why, true
	}
	c1 := store.Content{ID: store.NewID(), Hash: store.Hash(hash), Format: part.Format, Template: e.cabRev, Bytes: raw, Origins: how}
	out.Head = store.Head{ID: store.NewID(), Kind: store.KindPart, Number: m.number, Drawer: c.Drawer, Standing: string(lifecycle.Active), Draft: c1.ID}
	out.Contents, out.Uses, out.Action, out.Detail = []store.Content{c1}, parts.UsesOf(content, "draft"), "made by intake", detail
	out.Sources = content.SourceKeys()
	return out, nil
}

// partsOf lists the parts that rows update, or become another source of, and the rows of each.
func partsOf(e *evaluation) (rowsOf map[store.ID][]int, ids []store.ID, err error) {
	rowsOf = map[store.ID][]int{}
	for i := range e.result.Candidates {
		c := &e.result.Candidates[i]
		if c.Part == "" || c.State != intake.Update && c.State != intake.Alternate {
			continue
		}
		id, err := store.ParseID(c.Part)
		if err != nil {
			return nil, nil, err
		}
		if rowsOf[id] == nil {
			ids = append(ids, id)
		}
		rowsOf[id] = append(rowsOf[id], i)
	}
	return rowsOf, ids, nil
}

// revisedParts makes new drafts of parts one after the other. The draft of a part is what is changed where it has one,
// else what is released.
func (s *Intakes) revisedParts(ctx context.Context, by store.ID, e *evaluation, h store.Head, doc intakeDoc, rowsOf map[store.ID][]int, ids []store.ID) iter.Seq2[store.Staged, error] {
	return func(yield func(store.Staged, error) bool) {
		for list := range slices.Chunk(ids, 1000) {
			heads, err := s.Store.Read(ctx).HeadsByID(list)
			if err == nil && len(heads) != len(list) {
				err = store.ErrConflict
			}
			drafts := make([]store.ID, 0, len(heads))
			for _, p := range heads {
				drafts = append(drafts, p.Newest())
			}
			var contents map[store.ID]store.Content
			if err == nil {
				contents, err = s.Store.Read(ctx).Contents(drafts)
			}
			var rules policy.Rules
			if err == nil {
				rules, err = s.policy.Rules(s.Store.Read(ctx))
			}
			for _, p := range heads {
				err = errors.Join(err, rules.MayChange(p, by))
			}
			if err != nil {
				yield(store.Staged{}, err)
				return
			}
			for _, p := range heads {
				if !yield(revised(e, h, doc, p, contents[p.Newest()], rowsOf[p.ID])) {
					return
				}
			}
		}
	}
}

func revised(e *evaluation, h store.Head, doc intakeDoc, p store.Head, was store.Content, rows []int) (store.Staged, error) {
	r := store.Staged{Head: p, Action: "changed by intake", Clears: store.ClearsDraft}
	content, how, err := parts.Decode(was)
	if err != nil {
		return r, err
	}
	if how == nil {
		how = parts.Origins{}
	}
	var changes []string
	var fileRows []int
	for _, i := range rows {
		c := &e.result.Candidates[i]
		if c.Version != p.Version {
			return r, store.ErrConflict
		}
		var more map[string]origin.Origin
		content, more = e.result.Merge(i, content)
		for k, v := range more {
			how[k] = v
		}
		for _, ch := range c.Changes {
			changes = append(changes, fmt.Sprintf("%s: %s → %s", ch.Key, ch.Old, ch.New))
			if ch.Key == "source" {
				r.Sources = append(r.Sources, c.Source().Key())
			}
		}
		fileRows = append(fileRows, c.Row)
	}
	raw, hash, err := document.Canonical(content)
	if err != nil {
		return r, err
	}
	origins, err := json.Marshal(how)
	if err != nil {
		return r, err
	}
	c := store.Content{ID: store.NewID(), Hash: store.Hash(hash), Format: part.Format, Template: e.cabRev, Bytes: raw, Origins: origins}
	r.Contents, r.Uses, r.Head.Draft = []store.Content{c}, parts.UsesOf(content, "draft"), c.ID
	r.Detail = map[string]any{"intake": h.Number, "file": doc.FileName, "rows": fileRows, "changes": changes[:min(len(changes), 50)], "before": p.Draft.String()}
	return r, nil
}
