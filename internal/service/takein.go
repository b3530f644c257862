package service

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/core/intake"
	"jollydrawer/core/origin"
	"jollydrawer/internal/jobs"
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
func (s *Service) TakeIn(ctx context.Context, c Call, id store.ID, version int, in wire.TakeIn) (wire.Job, error) {
	if err := allow(c, OpIntakeTakeIn); err != nil {
		return wire.Job{}, err
	}
	if c.Deed.IsZero() {
		c.Deed = store.NewID()
	}
	if j, err := s.Store.JobOfDeed(ctx, c.Deed); err == nil {
		if j.Head != id {
			return wire.Job{}, sentence(store.ErrReused, "intake")
		}
		return jobView(j), nil
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Job{}, err
	}
	if doc.Taken != nil {
		return wire.Job{}, fault(Clash, "taken-in", h.Number+" was taken in already; nothing was changed.", "Look at what it made.")
	}
	if h.Version != version {
		return wire.Job{}, sentence(store.ErrConflict, "intake")
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.Job{}, err
	}
	if err := ready(e, in); err != nil {
		return wire.Job{}, err
	}
	now := store.Stamp(s.Now())
	payload, err := json.Marshal(takeInPayload{id, version, in, now})
	if err != nil {
		return wire.Job{}, err
	}
	return s.addJob(ctx, store.Job{Kind: jobTakeIn, Deed: c.Deed, Account: c.Actor.ID, Head: id, Payload: string(payload), Total: int64(e.result.Counts[intake.New] + e.result.Counts[intake.Update] + e.result.Counts[intake.Alternate]), Created: now, Updated: now})
}

// addJob puts a job in line and answers with it; where the deed has one already, with that.
func (s *Service) addJob(ctx context.Context, j store.Job) (wire.Job, error) {
	j.ID, j.State = store.NewID(), store.JobWaiting
	if err := s.Store.AddJob(ctx, &j); err != nil {
		if again, e := s.Store.JobOfDeed(ctx, j.Deed); e == nil {
			return jobView(again), nil
		}
		return wire.Job{}, sentence(err, "job")
	}
	s.Jobs.Wake()
	return jobView(j), nil
}

// ready says why an intake cannot be taken in as it is.
func ready(e *evaluation, in wire.TakeIn) error {
	if e.problem != nil {
		return e.problem
	}
	if e.digest != in.Digest {
		return fault(Clash, "preview-stale", "The library, the crosswalk or the rows changed since you looked; nothing was taken in.", "Look at the preview again.")
	}
	if n := e.result.Counts[intake.Blocked] + e.result.Counts[intake.Unsorted]; n > 0 && !in.LeaveBlocked {
		return fault(Invalid, "rows-blocked", fmt.Sprintf("%d rows cannot be taken in; nothing was changed.", n), "Mend them, or say that they are to be left out.")
	}
	return nil
}

// runTakeIn is the job: it works the intake out again, reserves numbers, stages the parts and switches them visible.
func (s *Service) runTakeIn(ctx context.Context, j store.Job, progress jobs.Progress) error {
	var p takeInPayload
	if err := json.Unmarshal([]byte(j.Payload), &p); err != nil {
		return err
	}
	h, doc, err := s.loadIntake(ctx, p.Intake)
	if err != nil {
		return err
	}
	if doc.Taken != nil || h.Version != p.Version {
		return fault(Clash, "changed-meanwhile", "The intake was changed or taken in by somebody else meanwhile; nothing was taken in.", "Look at it again.")
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return err
	}
	if err := ready(e, p.Request); err != nil {
		return err
	}
	parts, err := s.newParts(ctx, e, h, doc)
	if err != nil {
		return err
	}
	revised, err := s.revisedParts(ctx, e, h, doc)
	if err != nil {
		return err
	}
	total := int64(len(parts) + len(revised))
	if err := progress(0, total); err != nil {
		return err
	}
	d, err := s.newDeed(Call{Actor: Actor{ID: j.Account}, Deed: j.Deed}, OpIntakeTakeIn, p)
	if err != nil {
		return err
	}
	d.At = p.At
	staging, err := s.Store.Stage(ctx, d, parts, "made by intake", func(done int) error { return progress(int64(done), total) })
	if err != nil {
		return takeInRefused(err)
	}
	trail, err := s.Store.StageUpdates(ctx, d, staging, revised, "changed by intake", func(done int) error { return progress(int64(len(parts)+done), total) })
	if err != nil {
		return takeInRefused(err)
	}
	out := takenIn(e, h, parts, revised)
	var cwRaw []byte
	var cwHash store.Hash
	if len(doc.Changes) > 0 {
		raw, hash, err := document.Canonical(e.cw)
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
	_, err = s.Store.Switch(ctx, d, staging, len(parts), func(t *store.Tx) (any, error) {
		if err := t.EndJob(j, string(result)); err != nil {
			return nil, err
		}
		h, err := t.HeadAt(store.KindIntake, p.Intake, p.Version)
		if err != nil {
			return nil, err
		}
		for i := range parts {
			if parts[i].Twin {
				if err := t.SetSources(parts[i].Head.ID, parts[i].Sources, true); err != nil {
					return nil, err
				}
			}
		}
		if err := t.SwitchUpdates(staging, revised, trail); err != nil {
			return nil, err
		}
		if cwRaw != nil {
			if _, err := applyDocument(t, store.KindCrosswalk, doc.Supplier, crosswalk.Format, e.cwBase, cwRaw, cwHash); err != nil {
				return nil, err
			}
		}
		if err := saveDoc(t, &h, intakeFormat, doc); err != nil {
			return nil, err
		}
		return out, t.Update(&h, "taken in", map[string]any{"parts": len(parts), "updated": len(revised), "counts": out.Counts, "crosswalk": doc.Taken.Crosswalk, "cabinet": e.cabRev})
	})
	return takeInRefused(err)
}

func takenIn(e *evaluation, h store.Head, parts []store.NewPart, revised []store.Revised) wire.TakenIn {
	out := wire.TakenIn{Intake: h.Number, Parts: len(parts), Updated: len(revised), Counts: map[string]int{}, Numbers: []string{}, Changed: []string{}}
	for _, st := range intake.States {
		out.Counts[string(st)] = e.result.Counts[st]
	}
	for i := range parts[:min(len(parts), 100)] {
		out.Numbers = append(out.Numbers, parts[i].Head.Number)
	}
	for i := range revised[:min(len(revised), 100)] {
		out.Changed = append(out.Changed, revised[i].Head.Number)
	}
	if len(parts) > 0 {
		out.First, out.Last = parts[0].Head.Number, parts[len(parts)-1].Head.Number
	}
	return out
}

func takeInRefused(err error) error {
	switch {
	case errors.Is(err, store.ErrSourceTaken):
		return fault(Clash, "source-taken", "Somebody else brought in one of the same parts meanwhile; nothing was taken in.", "Look at the preview again.")
	case errors.Is(err, store.ErrNumberTaken):
		return fault(Clash, "number-taken", "One of the part numbers was taken meanwhile; nothing was taken in.", "Try again; a number the file brings shows up in the preview.")
	case errors.Is(err, store.ErrConflict):
		return fault(Clash, "changed-meanwhile", "The intake was changed, stopped or taken in by somebody else meanwhile; nothing was taken in.", "Look at it again.")
	}
	return err
}

// newParts turns the new candidates into parts with numbers of their own.
func (s *Service) newParts(ctx context.Context, e *evaluation, h store.Head, doc intakeDoc) ([]store.NewPart, error) {
	need, given := map[string]int{}, []string{}
	for i := range e.result.Candidates {
		c := &e.result.Candidates[i]
		if c.State != intake.New {
			continue
		}
		t, _ := e.cab.Template(c.Drawer)
		switch {
		case c.Number != "":
			given = append(given, c.Number)
		case t.Prefix == "":
			return nil, fault(Invalid, "no-prefix", fmt.Sprintf("The drawer %s has no prefix for part numbers; nothing was taken in.", t.Label), "Give it one in the cabinet.")
		default:
			need[t.Prefix]++
		}
	}
	// Counters step past the numbers that the file brings before any is reserved, so that the two never meet.
	s.stepPast(ctx, e.cab, given...)
	next := map[string]int64{}
	for prefix, n := range need {
		first, err := s.Store.ReserveNumbers(ctx, prefix, n)
		if err != nil {
			return nil, err
		}
		next[prefix] = first
	}
	parts := make([]store.NewPart, 0, e.result.Counts[intake.New])
	for i := range e.result.Candidates {
		c := &e.result.Candidates[i]
		if c.State != intake.New {
			continue
		}
		number := c.Number
		if number == "" {
			t, _ := e.cab.Template(c.Drawer)
			number = t.PartNumber(next[t.Prefix])
			next[t.Prefix]++
		}
		content := e.result.Content(i)
		raw, hash, err := document.Canonical(content)
		if err != nil {
			return nil, err
		}
		how, err := json.Marshal(e.result.Origins(i))
		if err != nil {
			return nil, err
		}
		detail := map[string]any{"intake": h.Number, "file": doc.FileName, "row": c.Row}
		decided := doc.Edits.Decide[c.Row]
		if decided.As == intake.Separate {
			detail["keptSeparate"] = decided.Why
		}
		n := store.NewPart{Head: store.Head{ID: store.NewID(), Kind: store.KindPart, Number: number, Drawer: c.Drawer}, Detail: detail, Twin: decided.As == intake.Separate,
			Content: store.Content{ID: store.NewID(), Hash: store.Hash(hash), Format: partFormat, Template: e.cabRev, Bytes: raw, Origins: how}}
		for _, src := range content.Sources {
			n.Sources = append(n.Sources, src.Key())
		}
		parts = append(parts, n)
	}
	return parts, nil
}

// revisedParts makes new drafts of the parts that rows update, or become another source of. The draft of a part is what
// is changed where it has one, else what is released.
func (s *Service) revisedParts(ctx context.Context, e *evaluation, h store.Head, doc intakeDoc) ([]store.Revised, error) {
	rowsOf := map[store.ID][]int{}
	var ids []store.ID
	for i := range e.result.Candidates {
		c := &e.result.Candidates[i]
		if c.Part == "" || c.State != intake.Update && c.State != intake.Alternate {
			continue
		}
		id, err := store.ParseID(c.Part)
		if err != nil {
			return nil, err
		}
		if rowsOf[id] == nil {
			ids = append(ids, id)
		}
		rowsOf[id] = append(rowsOf[id], i)
	}
	if len(ids) == 0 {
		return nil, nil
	}
	heads, err := s.Store.HeadsByID(ctx, ids)
	if err != nil {
		return nil, err
	}
	drafts := make([]store.ID, 0, len(heads))
	for _, p := range heads {
		drafts = append(drafts, draftOf(p))
	}
	contents, err := s.Store.Contents(ctx, drafts)
	if err != nil {
		return nil, err
	}
	if len(heads) != len(ids) {
		return nil, store.ErrConflict
	}
	out := make([]store.Revised, 0, len(heads))
	for _, p := range heads {
		was := contents[draftOf(p)]
		content, how, err := decodePart(was)
		if err != nil {
			return nil, err
		}
		if how == nil {
			how = origins{}
		}
		r := store.Revised{Head: p}
		var changes []string
		var fileRows []int
		for _, i := range rowsOf[p.ID] {
			c := &e.result.Candidates[i]
			if c.Version != p.Version {
				return nil, store.ErrConflict
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
			return nil, err
		}
		origins, err := json.Marshal(how)
		if err != nil {
			return nil, err
		}
		r.Content = store.Content{ID: store.NewID(), Hash: store.Hash(hash), Format: partFormat, Template: e.cabRev, Bytes: raw, Origins: origins}
		r.Uses = usesOf(content)
		r.Detail = map[string]any{"intake": h.Number, "file": doc.FileName, "rows": fileRows, "changes": changes[:min(len(changes), 50)], "before": p.Draft.String()}
		out = append(out, r)
	}
	return out, nil
}

func jobView(j store.Job) wire.Job {
	out := wire.Job{ID: j.ID.String(), Kind: j.Kind, State: j.State, Done: j.Done, Total: j.Total, Error: j.Error}
	var t wire.TakenIn
	if j.Kind == jobTakeIn && j.State == store.JobDone && json.Unmarshal([]byte(j.Result), &t) == nil {
		out.TakenIn = &t
	}
	var f wire.Fetched
	if j.Kind == jobFetch && j.State == store.JobDone && json.Unmarshal([]byte(j.Result), &f) == nil {
		out.Fetched = &f
	}
	var ch wire.Changed
	if j.Kind == jobChange && j.State == store.JobDone && json.Unmarshal([]byte(j.Result), &ch) == nil {
		out.Changed = &ch
	}
	return out
}

// Job returns a job.
func (s *Service) Job(ctx context.Context, c Call, id store.ID) (wire.Job, error) {
	if err := allow(c, OpRead); err != nil {
		return wire.Job{}, err
	}
	j, err := s.Store.Job(ctx, id)
	return jobView(j), sentence(err, "job")
}

// StopJob asks for a job to be stopped; what it was doing leaves nothing behind.
func (s *Service) StopJob(ctx context.Context, c Call, id store.ID) (wire.Job, error) {
	if err := allow(c, OpIntakeTakeIn); err != nil {
		return wire.Job{}, err
	}
	if err := s.Store.StopJob(ctx, id); err != nil {
		return wire.Job{}, sentence(err, "job")
	}
	return s.Job(ctx, c, id)
}
