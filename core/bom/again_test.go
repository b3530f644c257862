package bom

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"jollydrawer/core/decision"
)

// A board that is laid beside the library again after decisions has the verdicts of one that is laid there for the first time, whatever was decided, by whom, in which
// order; and what was there before stays as it was.
func TestABoardLaidAgainIsAsIfForTheFirstTime(t *testing.T) {
	w, lines := keptBoard(t)
	lines = lines[:70]
	for i := range lines {
		if i%17 == 0 { // lines without designators are told apart by what they say
			lines[i].Designators, lines[i].Written = nil, ""
		}
	}
	known := Known{Columns: madeColumns}
	first := Begin(lines, w.index, w.cab, known)
	for i := range first.each { // room behind the findings of a line, in which those of two boards could meet
		if f := first.each[i].Findings; len(f) > 0 {
			first.each[i].Findings = slices.Grow(f, 4)
		}
	}
	rapid.Check(t, func(t *rapid.T) {
		r := first
		got, want := [][]Verdict{first.Verdicts()}, [][]Verdict{Reconcile(lines, w.index, w.cab, Known{Columns: madeColumns})}
		var all []decision.Record
		for range rapid.IntRange(1, 4).Draw(t, "rounds") {
			for range rapid.IntRange(0, 6).Draw(t, "decisions") {
				l := lines[rapid.IntRange(0, len(lines)-1).Draw(t, "line")]
				d := decision.Record{Kind: decision.Line, About: l.About(), Evidence: l.Evidence(), Outcome: w.parts[rapid.IntRange(0, len(w.parts)-1).Draw(t, "part")].number, By: rapid.SampledFrom([]string{"Maren", "Tove"}).Draw(t, "by")}
				switch rapid.IntRange(0, 6).Draw(t, "how") {
				case 0:
					d.Outcome, d.Reason = decision.NoPart, "a label"
				case 1:
					d.Evidence = "what it said once"
				case 2:
					d.Outcome = "gone"
				case 3:
					if len(l.Designators) == 0 {
						d.About, d.Evidence = rapid.SampledFrom(l.abouts()).Draw(t, "about"), l.evidence(false)
					}
				case 4:
					d.Kind = decision.Accept
				case 5:
					d.Reason, d.Against = "because", []string{"value: 1 against 2"}
				}
				all = decision.WithAll(all, []decision.Record{d})
			}
			if len(all) > 0 && rapid.Bool().Draw(t, "withdraw") {
				all, _ = decision.Without(all, decision.Line, all[rapid.IntRange(0, len(all)-1).Draw(t, "which")].About)
			}
			r = r.Again(all)
			known.Decisions = all
			got, want = append(got, r.Verdicts()), append(want, Reconcile(lines, w.index, w.cab, known))
		}
		assert.Equal(t, want, got, "each as it was, whatever came after it")
	})
}
