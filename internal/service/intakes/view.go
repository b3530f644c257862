package intakes

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/core/origin"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func intakeView(h store.Head, doc intakeDoc) wire.Intake {
	out := wire.Intake{ID: h.ID.String(), Number: h.Number, Version: h.Version, Supplier: doc.Supplier, FileHash: doc.FileHash, FileName: doc.FileName, State: "open", Over: doc.Over,
		Updated: h.Updated, Fields: []string{}, Unmapped: []string{}, Samples: map[string][]string{}, Suggestions: []crosswalk.Suggestion{}, Counts: map[string]int{}, Causes: []wire.Cause{},
		Coverage: []intake.Coverage{}, Changes: []string{}, Waived: []intake.Waiver{}, Decisions: map[string]int{}, Others: []string{}, Known: cmp.Or(doc.Edits.Known, intake.Ask), Like: doc.Edits.Like, Policies: map[string]string{}, Differing: map[string]int{}}
	maps.Copy(out.Policies, doc.Edits.Fields)
	for _, ch := range doc.Changes {
		said := ch.Sentence()
		if ch.By != "" {
			said += fmt.Sprintf(" (%s on %s)", ch.By, ch.At.UTC().Format(time.DateOnly))
		}
		out.Changes = append(out.Changes, said)
	}
	for _, w := range waivers(&doc.Edits) {
		out.Waived = append(out.Waived, w.Waiver)
	}
	if doc.Taken != nil {
		out.State, out.Counts, out.Taken = "taken in", doc.Taken.Result.Counts, &doc.Taken.Result
		if out.Taken.Changed == nil {
			out.Taken.Changed = []string{}
		}
	}
	if doc.Back != "" {
		out.State = "taken back"
	}
	return out
}

func rowView(e *evaluation, i int) wire.IntakeRow {
	k := &e.result.Candidates[i]
	r := wire.IntakeRow{Row: k.Row, State: string(k.State), Why: k.Why, Kind: k.Kind, Drawer: k.Drawer, Because: k.Because, Number: cmp.Or(k.Existing, k.Number), Manufacturer: k.Source().Manufacturer,
		MPN: k.Source().MPN, Values: map[string]string{}, Changes: append([]intake.Change{}, k.Changes...), Findings: []finding.Finding{}}
	if k.Drawer != "" {
		r.Description = e.result.Content(i).Description
		t, _ := e.cab.Template(k.Drawer)
		e.result.EachValue(i, func(key string, v cabinet.Value, _ origin.Origin, _ *cabinet.Problem) {
			slot, _ := t.Slot(key)
			r.Values[key] = slot.Shown(v)
		})
	}
	if r.Description == "" { // a row that is in no drawer yet shows what it says
		r.Description = rowText(e, i)
	}
	for _, f := range e.byRow[k.Row] {
		r.Findings = append(r.Findings, e.result.Findings[f])
	}
	return r
}

// rowText is what a row says in the file, apart from its source: its description, or its first cells.
func rowText(e *evaluation, i int) string {
	row := e.table.Row(i)
	take := e.cw.Take
	if at := slices.Index(e.table.Header, take.Description); at >= 0 && take.Description != "" && row.Cells[at] != "" {
		return row.Cells[at]
	}
	var out []string
	for n, cell := range row.Cells {
		if h := e.table.Header[n]; cell != "" && h != take.MPN && h != take.Manufacturer && len(out) < 6 {
			out = append(out, cell)
		}
	}
	return strings.Join(out, " · ")
}

// Get returns an intake with its counts and causes.
func (s *Intakes) Get(ctx context.Context, c deed.Call, id store.ID) (wire.Intake, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Intake{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.Intake{}, err
	}
	out := intakeView(h, doc)
	if job, err := s.Store.Read(ctx).LastJob(id); err == nil {
		v := s.work.Seen(ctx, job)
		out.Job = &v
	}
	if doc.Taken != nil {
		for _, n := range out.Counts {
			out.Rows += n
		}
		return out, nil
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return out, err
	}
	if e.problem != nil {
		out.Problem = e.problem.Error()
	}
	if doc.Cabinet > 0 && doc.Cabinet != e.cabRev {
		out.Notice = fmt.Sprintf("The cabinet changed since the intake was last edited (revision %d, now %d): the rows were checked again.", doc.Cabinet, e.cabRev)
	}
	out.Layout, out.Fields, out.Digest = &e.layout, append([]string{}, e.table.Header...), e.digest
	out.Unmapped = append(out.Unmapped, e.result.Unmapped...)
	out.Suggestions = append(out.Suggestions, e.suggest...)
	for i, some := range e.table.Samples(4) {
		out.Samples[e.table.Header[i]] = append([]string{}, some...)
	}
	out.Crosswalk, out.Revision, out.Mapped = &e.cw, e.cwRev, e.cw.Number()
	out.Others = append(out.Others, e.others...)
	out.Coverage = append(out.Coverage, e.coverage...)
	out.Causes = append(out.Causes, e.causes...)
	out.Differing = e.result.Differing
	out.Links, out.LinksDone = len(e.links), e.fetched
	for _, st := range e.standings {
		out.Decisions[string(st.Fate)]++
	}
	out.Rows = len(e.result.Candidates)
	for _, st := range intake.States {
		out.Counts[string(st)] = e.result.Counts[st]
	}
	return out, nil
}

// List lists the intakes, newest first, without working them out.
func (s *Intakes) List(ctx context.Context, c deed.Call, offset, limit int) (wire.IntakeList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.IntakeList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	hs, total, err := s.Store.Read(ctx).Heads(store.KindIntake, offset, limit)
	out := wire.IntakeList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.Intake{}}
	for _, h := range hs {
		doc, err := s.intakeDoc(s.Store.Read(ctx), h)
		if err != nil {
			return out, err
		}
		v := intakeView(h, doc)
		out.Items = append(out.Items, v)
	}
	return out, err
}

// Rows returns a page of rows, of one state or of all.
func (s *Intakes) Rows(ctx context.Context, c deed.Call, id store.ID, state, cause string, offset, limit int) (wire.IntakeRows, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.IntakeRows{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.IntakeRows{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.IntakeRows{}, err
	}
	offset, limit = deed.Page(offset, limit)
	out := wire.IntakeRows{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.IntakeRow{}}
	for i := range e.result.Candidates {
		k := &e.result.Candidates[i]
		if state != "" && string(k.State) != state || cause != "" && !slices.ContainsFunc(e.byRow[k.Row], func(f int) bool { return e.result.Findings[f].Cause == cause }) {
			continue
		}
		if out.Page.Total++; out.Page.Total <= offset || len(out.Items) >= limit {
			continue
		}
		out.Items = append(out.Items, rowView(e, i))
	}
	return out, nil
}

// Row returns one row with its cells as they came and where each of its values comes from.
func (s *Intakes) Row(ctx context.Context, c deed.Call, id store.ID, number int) (wire.IntakeRowDetail, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.IntakeRowDetail{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.IntakeRowDetail{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.IntakeRowDetail{}, err
	}
	row, corrected, ok := e.result.Cells(number)
	at := e.table.At(number)
	if !ok || at < 0 {
		return wire.IntakeRowDetail{}, deed.Fault(deed.Unknown, "not-found", fmt.Sprintf("%s has no row %d.", h.Number, number), "")
	}
	out := wire.IntakeRowDetail{IntakeRow: rowView(e, at), Cells: []wire.Cell{}, Origins: map[string]string{}, Decided: e.edits.Decide[number].As}
	for i, f := range e.table.Header {
		cell := wire.Cell{Field: f, Text: row.Cells[i]}
		if cell.Corrected, cell.Edited = corrected[f]; cell.Edited {
			cell.By = e.edits.Said(number, f)
		}
		out.Cells = append(out.Cells, cell)
	}
	if out.Drawer != "" {
		e.result.EachValue(at, func(key string, _ cabinet.Value, o origin.Origin, _ *cabinet.Problem) {
			text := o.Rule
			if o.Field != "" {
				text = fmt.Sprintf("%s: %q", o.Field, o.Written)
				if o.Rule != "" {
					text += "; " + o.Rule
				}
				if by := o.Correction(); by != "" {
					text += " (" + by + ")"
				}
			}
			out.Origins[key] = text
		})
	}
	return out, nil
}

// Findings returns a page of findings.
func (s *Intakes) Findings(ctx context.Context, c deed.Call, id store.ID, offset, limit int) (wire.FindingList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.FindingList{}, err
	}
	h, doc, err := s.loadIntake(ctx, id)
	if err != nil {
		return wire.FindingList{}, err
	}
	e, err := s.evaluate(ctx, h, doc)
	if err != nil {
		return wire.FindingList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	all := e.result.Findings
	out := wire.FindingList{Page: wire.Page{Offset: offset, Limit: limit, Total: len(all)}, Items: []finding.Finding{}}
	if offset < len(all) {
		out.Items = append(out.Items, all[offset:min(offset+limit, len(all))]...)
	}
	return out, nil
}
