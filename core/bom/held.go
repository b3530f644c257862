package bom

import (
	"fmt"

	"jollydrawer/core/finding"
)

// A board holds on to the exact revisions of parts that it was frozen with. Where newer ones are in use it is behind, until somebody moves it on, for one part, some or
// all: nothing moves by itself.

// Held are the revisions of parts, by the record's ID, that a board holds on to, and of other BOMs that it takes.
type Held map[string]int

// older is the revision that a verdict's record is held at, where a newer one is in use.
func (h Held) older(v *Verdict) (revision int, behind bool) {
	if v.Kind != Linked || v.Part == nil {
		return 0, false
	}
	at := h[v.Part.ID]
	return at, at > 0 && at < v.Part.Revision
}

// Behind lists the records of which lines hold on to an older revision, each once, in the order of the lines.
func (h Held) Behind(vs []Verdict) (ids []string) {
	seen := map[string]bool{}
	for i := range vs {
		if _, behind := h.older(&vs[i]); behind && !seen[vs[i].Part.ID] {
			seen[vs[i].Part.ID] = true
			ids = append(ids, vs[i].Part.ID)
		}
	}
	return ids
}

// Finding says that a line holds on to an older revision of its record; nothing where it does not. withdrawn is why that revision may not be used any more, by the
// record's ID.
func (h Held) Finding(v *Verdict, withdrawn map[string]string) *finding.Finding {
	at, behind := h.older(v)
	if !behind {
		return nil
	}
	f := finding.Finding{Severity: finding.Warning, Cause: "behind", Row: v.Line.Row, What: fmt.Sprintf("the board holds on to revision %d of %s, and revision %d is in use", at, v.Part.Number, v.Part.Revision), Mend: "look at what differs, and move it on"}
	if word := withdrawn[v.Part.ID]; word != "" {
		f.Severity, f.Cause, f.What = finding.Error, "pin-withdrawn", fmt.Sprintf("the board holds on to revision %d of %s, which is %s; revision %d is in use", at, v.Part.Number, word, v.Part.Revision)
	}
	return &f
}

// Pin makes of verdicts what is frozen of them, at the revisions that the board holds on to.
func (h Held) Pin(vs []Verdict) []Pinned {
	out := PinAll(vs)
	for i := range out {
		if at, behind := h.older(&vs[i]); behind {
			out[i].Part.Revision = at
		}
	}
	return out
}

// HeldBy are the revisions that lines are pinned to.
func HeldBy(lines []Pinned) Held {
	out := Held{}
	for i := range lines {
		if p := lines[i].Part; p != nil && p.Revision > 0 {
			out[p.ID] = p.Revision
		}
		if b := lines[i].Board; b != nil {
			out[b.ID] = b.Revision
		}
	}
	return out
}
