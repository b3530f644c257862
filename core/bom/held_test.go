package bom

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/decision"
	"jollydrawer/core/finding"
	"jollydrawer/core/lookup"
)

func TestABoardHoldsOnToTheRevisionsItWasFrozenWith(t *testing.T) {
	part := func(id string, revision int) *lookup.Entry {
		return &lookup.Entry{ID: id, Number: "EW-" + id, Revision: revision}
	}
	vs := []Verdict{
		{Line: &Line{Row: 2, Quantity: 1}, Kind: Linked, Part: part("a", 3)}, {Line: &Line{Row: 3, Quantity: 1}, Kind: Linked, Part: part("a", 3)}, {Line: &Line{Row: 4, Quantity: 1}, Kind: Linked, Part: part("b", 2)},
		{Line: &Line{Row: 5, Quantity: 1}, Kind: Linked, Part: part("c", 1)}, {Line: &Line{Row: 6, Quantity: 1}, Kind: Proposed, Part: part("d", 4)}, {Line: &Line{Row: 7, Quantity: 1}, Kind: Missing},
	}
	held := Held{"a": 2, "b": 2, "c": 5, "d": 1, "gone": 1} // c: a revision that is no longer in use, as after a take-back
	assert.Equal(t, []string{"a"}, held.Behind(vs))
	var revisions []int
	for _, p := range held.Pin(vs) {
		if p.Part != nil {
			revisions = append(revisions, p.Part.Revision)
		}
	}
	assert.Equal(t, []int{2, 2, 2, 1}, revisions, "what is behind stays where it was; what is not is as it is")
	assert.Equal(t, Held{"a": 2, "b": 2, "c": 1}, HeldBy(held.Pin(vs)))
	assert.Equal(t, 3, PinAll(vs)[0].Part.Revision, "verdicts stay as they are")
	f := held.Finding(&vs[0], nil)
	require.NotNil(t, f)
	assert.Equal(t, []any{finding.Warning, "behind", 2, "the board holds on to revision 2 of EW-a, and revision 3 is in use"}, []any{f.Severity, f.Cause, f.Row, f.What})
	f = held.Finding(&vs[0], map[string]string{"a": "withdrawn"})
	assert.Equal(t, []any{finding.Error, "pin-withdrawn"}, []any{f.Severity, f.Cause})
	for _, i := range []int{2, 3, 4, 5} {
		assert.Nil(t, held.Finding(&vs[i], nil), i)
	}
	assert.Nil(t, Held(nil).Finding(&vs[0], nil), "a board that was never frozen holds on to nothing")
	for _, cause := range []string{"behind", "pin-withdrawn"} {
		assert.Contains(t, Causes, cause, "a house may say how bad it takes it")
	}
}

// A waiver is of one finding of one line as it was seen: it counts for nothing once the line, the record or what was found is another.
func TestAWaiverOfAFindingFallsWithWhatItWasGivenFor(t *testing.T) {
	line := func() *Verdict {
		return &Verdict{Line: &Line{Row: 2, Designators: []string{"R1", "R2"}, Value: "10k"}, Kind: Linked, Part: &lookup.Entry{ID: "a", Number: "EW-a", Revision: 1}}
	}
	single := finding.Finding{Severity: finding.Note, Cause: "single-source", What: "it has one source"}
	short := finding.Finding{Severity: finding.Warning, Cause: "stock-short", What: "suppliers have 40 of it"}
	var given []decision.Record
	for _, f := range []finding.Finding{single, short} {
		d := Accept(line(), f, "agreed with purchasing")
		d.By = "Maren"
		given = append(given, d)
	}
	for name, c := range map[string]struct {
		change func(v *Verdict, f *finding.Finding)
		waived [2]bool
	}{
		"as it was":           {func(*Verdict, *finding.Finding) {}, [2]bool{true, true}},
		"in another row":      {func(v *Verdict, _ *finding.Finding) { v.Line.Row = 40 }, [2]bool{true, true}},
		"another stock":       {func(_ *Verdict, f *finding.Finding) { f.What += " by now" }, [2]bool{false, true}},
		"another value":       {func(v *Verdict, _ *finding.Finding) { v.Line.Value = "12k" }, [2]bool{}},
		"one designator more": {func(v *Verdict, _ *finding.Finding) { v.Line.Designators = append(v.Line.Designators, "R3") }, [2]bool{}},
		"a newer revision":    {func(v *Verdict, _ *finding.Finding) { v.Part.Revision = 2 }, [2]bool{}},
		"another record":      {func(v *Verdict, _ *finding.Finding) { v.Part.ID = "b" }, [2]bool{}},
		"another cause":       {func(_ *Verdict, f *finding.Finding) { f.Cause = "obsolete" }, [2]bool{}},
	} {
		for i, f := range []finding.Finding{single, short} {
			v := line()
			c.change(v, &f)
			got := AcceptedIn(given).Mark(v, []finding.Finding{f})[0].Waived
			want := map[bool]string{true: "agreed with purchasing (Maren)"}[c.waived[i]]
			assert.Equal(t, want, got, "%s: %s", name, f.Cause)
		}
	}
	given[0].Withdrawn = "Tove"
	assert.Empty(t, AcceptedIn(given).Mark(line(), []finding.Finding{single})[0].Waived)
	all := []finding.Finding{short}
	assert.NotEmpty(t, AcceptedIn(given).Mark(line(), all)[0].Waived)
	assert.Empty(t, all[0].Waived, "what was found stays as it was found")
}
