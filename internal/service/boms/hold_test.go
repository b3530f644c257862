package boms_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/core/finding"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// again releases a part anew, with another rating.
func again(t *testing.T, h housetest.House, p wire.Part, power string) wire.Part {
	t.Helper()
	now, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	e := now.Released.Edit()
	e.Values["power"] = power
	e.Sources[0].MPN += "X"
	now, err = h.Parts.Save(t.Context(), h.Me, now.ID, now.Version, e)
	require.NoError(t, err)
	now, err = h.Lifecycles.Release(t.Context(), h.Me, now.ID, now.Version, wire.Release{Note: power})
	require.NoError(t, err)
	return now
}

func found(l wire.BOMLine, cause string) *finding.Finding {
	for i := range l.Findings {
		if l.Findings[i].Cause == cause {
			return &l.Findings[i]
		}
	}
	return nil
}

// What a board was frozen with it holds on to, until somebody moves it on: of one part, or of all. The next revision is what its lines say they are.
func TestNothingOfABoardMovesOnByItself(t *testing.T) {
	h := housetest.Open(t)
	p, q := released(t, h, "4k7", "TW-4K7"), released(t, h, "10k", "TW-10K")
	b := h.Board(t, "Board A", "Ref,Qty,Number\n\"R1,R2\",2,"+p.Number+"\nR3,1,"+q.Number+"\n")
	now := func() wire.BOM {
		t.Helper()
		x, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		return x
	}
	freeze := func() wire.FrozenBOM {
		t.Helper()
		x, err := h.BOMs.Freeze(t.Context(), h.Me, b.ID, now().Version, wire.FreezeBOM{Note: "a build"})
		require.NoError(t, err)
		f, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, x.Revision)
		require.NoError(t, err)
		return f
	}
	pins := func(f wire.FrozenBOM) (out []int) {
		for _, l := range f.Lines {
			out = append(out, l.Part.Revision)
		}
		return out
	}
	first := freeze()
	assert.Equal(t, []int{1, 1}, pins(first))
	_, err := h.BOMs.MoveOn(t.Context(), h.Me, b.ID, now().Version, wire.MoveOnParts{})
	housetest.Fails(t, err, "not-behind")
	again(t, h, p, "250 mW")
	again(t, h, q, "500 mW")

	x := now()
	assert.Equal(t, []int{1, 1}, []int{x.Lines[0].Held, x.Lines[1].Held})
	assert.Equal(t, "the board holds on to revision 1 of "+p.Number+", and revision 2 is in use", found(x.Lines[0], "behind").What)
	second := freeze()
	assert.Equal(t, []int{1, 1}, pins(second), "a build anew is of the same parts")
	for i := range second.Lines {
		assert.Equal(t, first.Lines[i].Part, second.Lines[i].Part, "the older revision with its own hash, words and source")
	}
	_, err = h.BOMs.MoveOn(t.Context(), h.Me, b.ID, now().Version, wire.MoveOnParts{Parts: []string{"EW-R-09999"}})
	housetest.Fails(t, err, "not-behind")
	_, err = h.BOMs.MoveOn(t.Context(), h.Me, b.ID, x.Version, wire.MoveOnParts{})
	housetest.Fails(t, err, "changed-meanwhile")
	x, err = h.BOMs.MoveOn(t.Context(), h.Me, b.ID, now().Version, wire.MoveOnParts{Parts: []string{q.Number}})
	require.NoError(t, err)
	assert.Equal(t, []int{1, 0}, []int{x.Lines[0].Held, x.Lines[1].Held})
	third := freeze()
	assert.Equal(t, []int{1, 2}, pins(third))
	assert.Equal(t, "TW-10KX", third.Lines[1].Part.MPN)
	c, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 2}, wire.BOMAt{BOM: b.ID})
	require.NoError(t, err)
	require.Len(t, c.Changes, 1, "what is compared with what it is now holds on as well")
	assert.Equal(t, []string{bom.OtherRev}, c.Changes[0].What)

	// a withdrawn revision that a board holds on to is an error, which says so
	older, err := h.Parts.Get(t.Context(), h.Me, p.ID)
	require.NoError(t, err)
	_, err = h.Lifecycles.MovePart(t.Context(), h.Me, p.ID, older.Version, wire.MoveThing{Move: "withdraw", Note: "wrong case", Revision: "1"})
	require.NoError(t, err)
	f := found(now().Lines[0], "pin-withdrawn")
	require.NotNil(t, f)
	assert.Equal(t, finding.Error, f.Severity)
	_, err = h.BOMs.MoveOn(t.Context(), h.Me, b.ID, now().Version, wire.MoveOnParts{})
	require.NoError(t, err)
	assert.Equal(t, []int{2, 2}, pins(freeze()))
	verified, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, verified.Different)
	_, err = h.BOMs.MoveOn(t.Context(), h.As("rita", deed.Reader), b.ID, now().Version, wire.MoveOnParts{})
	housetest.Fails(t, err, "not-allowed")
}

// A finding is accepted with a reason, line by line or by cause; it counts no more, and stays visible with who said so, as long as it is what it was.
func TestFindingsAreAcceptedByCause(t *testing.T) {
	h := housetest.Open(t)
	p, q := released(t, h, "4k7", "TW-4K7"), released(t, h, "10k", "TW-10K")
	for _, x := range []wire.Part{p, q} {
		x, err := h.Parts.Get(t.Context(), h.Me, x.ID)
		require.NoError(t, err)
		_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, x.ID, x.Version, wire.Standing{Standing: "obsolete", Why: "ended"})
		require.NoError(t, err)
	}
	b := h.Board(t, "Board A", twoLines)
	assert.Equal(t, 2, b.Findings)
	_, err := h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "nothing", Why: "x"})
	housetest.Fails(t, err, "no-such-finding")
	_, err = h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "obsolete", Rows: []int{9}, Why: "x"})
	housetest.Fails(t, err, "no-such-finding")
	b, err = h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "obsolete", Rows: []int{2}, Why: "the last build"})
	require.NoError(t, err)
	assert.Equal(t, []any{1, "the last build (" + h.Me.Actor.Name + ")", ""}, []any{b.Findings, found(b.Lines[0], "obsolete").Waived, found(b.Lines[1], "obsolete").Waived})
	b, err = h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "obsolete", Why: "the last build"})
	require.NoError(t, err)
	assert.Equal(t, 0, b.Findings)
	f, err := h.Files.Keep(t.Context(), h.Me, "next.csv", strings.NewReader(twoLines))
	require.NoError(t, err)
	checked, err := h.BOMs.Check(t.Context(), h.Me, wire.CheckBOM{BOM: b.ID, FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	assert.False(t, checked.Fails, "a build server hears of what was accepted as accepted")

	open := h.Board(t, "Board B", "Ref,Qty,Value,MPN\nR1,1,33k,TW-4K7\n")
	_, err = h.BOMs.Waive(t.Context(), h.Me, open.ID, open.Version, wire.WaiveFindings{Cause: "value", Why: "x"})
	housetest.Fails(t, err, "line-open")
	b = next(t, h, b, "Ref,Qty,Value,MPN\n\"R1,R2\",2,4k7,TW-4K7\nR3,1,10k 1 %,TW-10K\n")
	assert.Equal(t, []bool{true, false}, []bool{found(b.Lines[0], "obsolete").Waived != "", found(b.Lines[1], "obsolete").Waived != ""}, "a line that says something else is looked at again")
	b, err = h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "obsolete"})
	require.NoError(t, err)
	_, err = h.BOMs.Waive(t.Context(), h.Me, b.ID, b.Version, wire.WaiveFindings{Cause: "obsolete"})
	assert.ErrorContains(t, err, "Nobody accepted", "what nobody gave is not taken back")
	assert.Equal(t, 2, b.Findings)
}

// How bad findings are is the house's to say, in every BOM and for every check; a check may still bring a document of its own.
func TestAHouseSaysHowBadItTakesFindings(t *testing.T) {
	h := housetest.Open(t)
	released(t, h, "4k7", "TW-4K7")
	released(t, h, "10k", "TW-10K")
	b := h.Board(t, "Board A", twoLines)
	require.NotNil(t, found(b.Lines[0], "single-source"))
	usual, err := h.BOMs.Severities(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Equal(t, []any{0, finding.Note}, []any{usual.Version, usual.Usual["single-source"]})
	engineer := h.As("ines", deed.Engineer)
	document := wire.SeveritiesEdit{Text: "format: jolly-severities/1\nfail: warning\ncauses: {single-source: error}\n"}
	_, err = h.BOMs.ApplySeverities(t.Context(), engineer, 0, document)
	housetest.Fails(t, err, "not-allowed")
	_, err = h.BOMs.ApplySeverities(t.Context(), h.Me, 0, wire.SeveritiesEdit{Text: "format: jolly-severities/1\ncauses: {nonsense: error}\n"})
	assert.Contains(t, housetest.Fails(t, err, "severities-wrong").Error(), "no cause of findings")
	kept, err := h.BOMs.ApplySeverities(t.Context(), h.Me, 0, document)
	require.NoError(t, err)
	assert.Contains(t, kept.Text, "single-source: error")
	_, err = h.BOMs.ApplySeverities(t.Context(), h.Me, 0, wire.SeveritiesEdit{Text: "format: jolly-severities/1\n"})
	housetest.Fails(t, err, "changed-meanwhile")
	b, err = h.BOMs.Get(t.Context(), engineer, b.ID)
	require.NoError(t, err)
	assert.Equal(t, finding.Error, found(b.Lines[0], "single-source").Severity)
	f, err := h.Files.Keep(t.Context(), h.Me, "a.csv", strings.NewReader(twoLines))
	require.NoError(t, err)
	check := wire.CheckBOM{FileHash: f.Hash, FileName: f.Name}
	checked, err := h.BOMs.Check(t.Context(), h.Me, check)
	require.NoError(t, err)
	assert.True(t, checked.Fails)
	check.Severities = "format: jolly-severities/1\n"
	checked, err = h.BOMs.Check(t.Context(), h.Me, check)
	require.NoError(t, err)
	assert.False(t, checked.Fails, "what a check brings along counts for it")
}
