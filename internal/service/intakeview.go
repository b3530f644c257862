package service

import (
	"cmp"
	"maps"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/finding"
	"jollydrawer/core/intake"
	"jollydrawer/core/origin"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

func intakeView(h store.Head, doc intakeDoc) wire.Intake {
	out := wire.Intake{ID: h.ID.String(), Number: h.Number, Version: h.Version, Supplier: doc.Supplier, FileHash: doc.FileHash, FileName: doc.FileName, State: "open", Over: doc.Over,
		Updated: h.Updated, Fields: []string{}, Unmapped: []string{}, Samples: map[string][]string{}, Suggestions: []crosswalk.Suggestion{}, Counts: map[string]int{}, Causes: []wire.Cause{},
		Coverage: []intake.Coverage{}, Changes: []string{}, Waived: append([]intake.Waiver{}, doc.Edits.Waive...), Known: cmp.Or(doc.Edits.Known, intake.Ask), Like: doc.Edits.Like, Policies: map[string]string{}, Differing: map[string]int{}}
	maps.Copy(out.Policies, doc.Edits.Fields)
	for _, ch := range doc.Changes {
		out.Changes = append(out.Changes, ch.Sentence())
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
	for _, f := range e.byRow[k.Row] {
		r.Findings = append(r.Findings, e.result.Findings[f])
	}
	return r
}
