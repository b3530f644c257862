package boms_test

import (
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// released makes a resistor and releases it.
func released(t *testing.T, h housetest.House, ohms, mpn string) wire.Part {
	p := h.Make(housetest.Resistor(ohms, mpn))
	p, err := h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "first"})
	require.NoError(t, err)
	return p
}

// next lays another file in the place of a BOM's.
func next(t *testing.T, h housetest.House, b wire.BOM, text string) wire.BOM {
	f, err := h.Files.Keep(t.Context(), h.Me, "next.csv", strings.NewReader(text))
	require.NoError(t, err)
	b, err = h.BOMs.SetFile(t.Context(), h.Me, b.ID, b.Version, wire.BOMFile{FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	return b
}

func TestARevisionOfABOMStaysAsItWasWhileTheLibraryGoesOn(t *testing.T) {
	h := housetest.Open(t)
	p, q := released(t, h, "4k7", "TW-4K7"), released(t, h, "10k", "TW-10K")
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\n\"R1,R2\",2,4k7,TW-4K7\nR3,1,10k,TW-10K\n")
	b, err := h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first build"})
	require.NoError(t, err)
	assert.Equal(t, 1, b.Revision)
	first, err := h.BOMs.Revision(t.Context(), h.Me, "board a", 1)
	require.NoError(t, err)
	assert.Equal(t, []any{"first build", h.Me.Actor.Name, 2, 0}, []any{first.Note, first.By, len(first.Lines), len(first.Behind)})
	pin := first.Lines[0].Part
	assert.Equal(t, []any{p.Number, 1, "Tidewright", "TW-4K7"}, []any{pin.Number, pin.Revision, pin.Manufacturer, pin.MPN})
	assert.Len(t, pin.Hash, 64, "the exact content is named")

	e := housetest.Resistor("4k7", "TW-4K7")
	e.Values["tolerance"] = "1 %"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	p, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "tolerance"})
	require.NoError(t, err)
	_, err = h.Lifecycles.SetStanding(t.Context(), h.Me, q.ID, q.Version, wire.Standing{Standing: "obsolete", Why: "ended"})
	require.NoError(t, err)

	again, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, first.Lines, again.Lines, "what is frozen stays")
	assert.Equal(t, first.Hash, again.Hash)
	var says []string
	for _, d := range again.Behind {
		says = append(says, strings.Join(d.Designators, ",")+": "+strings.Join(d.Says, "; "))
	}
	assert.Equal(t, []string{"R1,R2: revision 2 is in use", "R3: it is obsolete"}, says)

	b, err = h.BOMs.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	b, err = h.BOMs.MoveOn(t.Context(), h.Me, b.ID, b.Version, wire.MoveOnParts{})
	require.NoError(t, err)
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "second build"})
	require.NoError(t, err)
	c, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 1}, wire.BOMAt{BOM: b.ID, Revision: 2})
	require.NoError(t, err)
	require.Len(t, c.Changes, 1)
	assert.Equal(t, []any{[]string{bom.OtherRev}, []string{"R1", "R2"}, 1, 2, 1}, []any{c.Changes[0].What, c.Changes[0].Designators, c.Changes[0].Before.Part.Revision, c.Changes[0].After.Part.Revision, c.Same})
	assert.Equal(t, []string{"Board A revision 1", "Board A revision 2"}, []string{c.From, c.To})
	all, err := h.BOMs.Revisions(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	require.Len(t, all.Items, 2)
	assert.Equal(t, all.Items[1].Hash, all.Items[0].Before, "each names the one before it")
	found, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, found.Different)
	for _, n := range []int{0, 3, -1} {
		_, err = h.BOMs.Revision(t.Context(), h.Me, b.ID, n)
		housetest.Fails(t, err, "no-revision")
	}
}

func TestAPromiseIsNotFrozenWithOpenLines(t *testing.T) {
	h := housetest.Open(t)
	p := released(t, h, "4k7", "TW-4K7")
	h.Make(housetest.Resistor("10k", "TW-10K"))
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN,Fit\nR1,1,4k7,TW-4K7,\nR2,1,10k,TW-10K,\nR3,1,33k,,\nR4,1,33k,,no\nR5,1,4k7,,\n")
	_, err := h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first"})
	e := housetest.Fails(t, err, "not-to-freeze")
	assert.Contains(t, e.Error(), "lines without a record: 2, lines whose record is not released: 1")
	assert.Len(t, e.Places, 3)
	_, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: " "})
	housetest.Fails(t, err, "note-missing")
	reader := h.As("rita", deed.Reader)
	_, err = h.BOMs.Freeze(t.Context(), reader, b.ID, b.Version, wire.FreezeBOM{Note: "first"})
	housetest.Fails(t, err, "not-allowed")
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first", Anyway: "the bench has them"})
	require.NoError(t, err)
	f, err := h.BOMs.Revision(t.Context(), reader, b.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, "the bench has them", f.Anyway)
	assert.Equal(t, p.Number, f.Lines[0].Part.Number)
	assert.Equal(t, 0, f.Lines[1].Part.Revision, "what is not released says so")
	assert.Nil(t, f.Lines[2].Part)
	assert.Nil(t, f.Lines[4].Part, "a proposal that nobody accepted is not pinned")
	assert.True(t, f.Lines[3].NotFitted)
	_, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version-1, wire.FreezeBOM{Note: "late", Anyway: "x"})
	housetest.Fails(t, err, "changed-meanwhile")
}

func TestALifecycleForbidsFreezing(t *testing.T) {
	h := housetest.Open(t)
	p := released(t, h, "4k7", "TW-4K7")
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-4K7\n")
	h.Lifecycle("parts", "key: obsolete,", "key: obsolete, forbids: [freeze],")
	_, err := h.Lifecycles.SetStanding(t.Context(), h.Me, p.ID, p.Version, wire.Standing{Standing: "obsolete", Why: "ended"})
	require.NoError(t, err)
	_, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "first"})
	assert.Contains(t, housetest.Fails(t, err, "state-forbids").What, "frozen into a BOM")
}

func TestOnlyOneOfManyWhoFreezeAtOnceMakesTheRevision(t *testing.T) {
	h := housetest.Open(t)
	released(t, h, "4k7", "TW-4K7")
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-4K7\n")
	var wait sync.WaitGroup
	errs := make([]error, 8)
	beside := h.Beside()
	for i := range errs {
		wait.Go(func() {
			at := h
			if i%2 == 1 {
				at = beside
			}
			_, errs[i] = at.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "at once"})
		})
	}
	wait.Wait()
	made := 0
	for _, err := range errs {
		if err == nil {
			made++
		} else {
			housetest.Fails(t, err, "changed-meanwhile")
		}
	}
	assert.Equal(t, 1, made)
	all, err := h.BOMs.Revisions(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Len(t, all.Items, 1)
}

func TestAnotherFileOfTheBoardKeepsWhatWasDecidedForLinesThatSayTheSame(t *testing.T) {
	h := housetest.Open(t)
	p := released(t, h, "4k7", "TW-4K7")
	b := h.Board(t, "Board A", "Ref,Qty,Value,Note\nR1,1,4k7,\nR2,1,4k7,\nR9,1,33k,\n")
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}, {Row: 3, Part: p.ID}}})
	require.NoError(t, err)
	before := b.Version
	b = next(t, h, b, "Some board\nRef,Qty,Value,Note\nR2,1,5k1,\nR1,1,4k7,moved\n,,,\nTotal,2,,\n")
	assert.Equal(t, "next.csv", b.FileName)
	require.Len(t, b.Lines, 2)
	assert.Equal(t, []any{"R2", "not in the library", "R1", "linked", true}, []any{b.Lines[0].Written, b.Lines[0].Verdict, b.Lines[1].Written, b.Lines[1].Verdict, b.Lines[1].Chosen})
	assert.Equal(t, []bom.Skipped{{Row: 6, Text: "Total 2", Why: "it is a sum"}}, b.Skipped)
	_, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, before, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Reason: "as before"}}})
	housetest.Fails(t, err, "changed-meanwhile")
	_, err = h.BOMs.SetFile(t.Context(), h.Me, b.ID, b.Version, wire.BOMFile{FileHash: strings.Repeat("0", 64), FileName: "x.csv"})
	require.Error(t, err)
	f, err := h.Files.Keep(t.Context(), h.Me, "no.csv", strings.NewReader("Item,Price\n1,2\n"))
	require.NoError(t, err)
	_, err = h.BOMs.SetFile(t.Context(), h.Me, b.ID, b.Version, wire.BOMFile{FileHash: f.Hash, FileName: f.Name})
	housetest.Fails(t, err, "no-designators")
	now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, b.Version, now.Version, "what was refused changed nothing")
}

func TestABOMIsRenamedAndANameIsGivenOnce(t *testing.T) {
	h := housetest.Open(t)
	a, b := h.Board(t, "Board A", "Ref,Qty\nR1,1\n"), h.Board(t, "Board B", "Ref,Qty\nR1,1\n")
	_, err := h.BOMs.Rename(t.Context(), h.Me, a.ID, a.Version, wire.BOMName{Name: "board b"})
	housetest.Fails(t, err, "name-taken")
	_, err = h.BOMs.Rename(t.Context(), h.Me, a.ID, a.Version, wire.BOMName{Name: "  "})
	housetest.Fails(t, err, "name-missing")
	a, err = h.BOMs.Rename(t.Context(), h.Me, a.ID, a.Version, wire.BOMName{Name: "Board C"})
	require.NoError(t, err)
	assert.Equal(t, "Board C", a.Name)
	_, err = h.BOMs.Get(t.Context(), h.Me, "board c")
	require.NoError(t, err)
	_, err = h.BOMs.Get(t.Context(), h.Me, "Board A")
	require.Error(t, err)
	_ = b
}

// What comes from outside may be as large as it likes, and is answered with a sentence.
func TestABOMBeyondAllMeasureIsRefusedInWords(t *testing.T) {
	h := housetest.Open(t)
	keep := func(text string) wire.File {
		f, err := h.Files.Keep(t.Context(), h.Me, "big.csv", strings.NewReader(text))
		require.NoError(t, err)
		return f
	}
	f := keep("Ref,Qty\n" + strings.Repeat("\""+strings.Repeat("R1-R1900,", 10)+"\",1\n", 11))
	_, err := h.BOMs.Bring(t.Context(), h.Me, wire.NewBOM{Name: "Many", FileHash: f.Hash, FileName: f.Name})
	assert.Contains(t, housetest.Fails(t, err, "bom-too-long").What, "designators")
	long := h.Board(t, "Long", "Ref,Qty,Description\n"+strings.Repeat("R1,1,"+strings.Repeat("x", 60_000)+"\n", 220))
	_, err = h.BOMs.Freeze(t.Context(), h.Me, long.ID, long.Version, wire.FreezeBOM{Note: "first", Anyway: "to see"})
	housetest.Fails(t, err, "bom-too-large")
	for _, name := range []string{"", "  \n ", "a\x00b", "\u009b"} {
		_, err = h.BOMs.Rename(t.Context(), h.Me, long.ID, long.Version, wire.BOMName{Name: name})
		housetest.Fails(t, err, "name-missing")
	}
	long, err = h.BOMs.Rename(t.Context(), h.Me, long.ID, long.Version, wire.BOMName{Name: "Long\r\nX-Header: \"1\"; filename=/etc/passwd"})
	require.NoError(t, err)
	assert.NotContains(t, long.Name, "\n")
}
