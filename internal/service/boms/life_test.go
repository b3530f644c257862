package boms_test

import (
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/lifecycles"
	"jollydrawer/internal/wire"
)

// secondPerson is a house where a BOM is frozen by somebody who is no author of it, once a second person signed it and every line is settled.
func secondPerson(h housetest.House) {
	h.Lifecycle("boms", "from: [draft, in review], to: released, note: true, who: { role: engineer }",
		"from: [in review], to: released, note: true, who: { role: engineer, notAuthor: true }, gates: [{ gate: settled, waive: { role: librarian } }, { gate: review }]", "counting: numbers", "counting: letters")
}

const twoLines = "Ref,Qty,Value,MPN\n\"R1,R2\",2,4k7,TW-4K7\nR3,1,10k,TW-10K\n"

// A BOM goes the way of every other thing: asked about, looked through by a second person, frozen by somebody who did not make it, withdrawn with a reason.
func TestABOMIsFrozenAfterASecondPersonLookedThroughIt(t *testing.T) {
	h := housetest.Open(t)
	p := released(t, h, "4k7", "TW-4K7")
	released(t, h, "10k", "TW-10K")
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	secondPerson(h)
	f, err := h.Files.Keep(t.Context(), ines, "a.csv", strings.NewReader(twoLines))
	require.NoError(t, err)
	b, err := h.BOMs.Bring(t.Context(), ines, wire.NewBOM{Name: "Board A", FileHash: f.Hash, FileName: f.Name})
	require.NoError(t, err)
	assert.Equal(t, []any{"draft", "active"}, []any{b.States.Status.Key, b.States.Standing.Key})
	fresh := func() wire.BOM {
		t.Helper()
		now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		return now
	}
	freeze := func(c deed.Call) error {
		_, err := h.BOMs.Freeze(t.Context(), c, b.ID, fresh().Version, wire.FreezeBOM{Note: "first build"})
		return err
	}
	move := func(c deed.Call, key, note string) error {
		_, err := h.Lifecycles.Move(t.Context(), c, wire.MoveThings{Move: key, Note: note, Things: []wire.PartBase{{ID: b.ID, Version: fresh().Version}}})
		return err
	}
	assert.Contains(t, housetest.Fails(t, freeze(tomas), "not-ready").Error(), `it is in the state "Draft", and "Freeze" does not begin there`)
	require.NoError(t, move(ines, "ask for review", ""))
	q, err := h.Lifecycles.Queue(t.Context(), tomas, lifecycles.QueueQuery{Mine: true})
	require.NoError(t, err)
	require.Len(t, q.Items, 1)
	assert.Equal(t, []any{"bom", "Board A", []string{"Ines"}}, []any{q.Items[0].Kind, q.Items[0].Number, q.Items[0].Authors})

	// what is being looked at stays as it is; for how many boards it is bought is none of it
	no, err := h.BOMs.Choose(t.Context(), ines, b.ID, fresh().Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}}})
	housetest.Fails(t, err, "not-to-change")
	assert.Empty(t, no.ID)
	_, err = h.BOMs.Remove(t.Context(), ines, b.ID, fresh().Version)
	housetest.Fails(t, err, "not-to-change")
	_, err = h.Lifecycles.Prove(t.Context(), ines, b.ID, fresh().Version, wire.Prove{Boards: 4, Which: "lot 1"})
	housetest.Fails(t, err, "built-of-revision")
	_, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, fresh().Version, wire.BOMBuild{Boards: 20})
	require.NoError(t, err)

	assert.Contains(t, housetest.Fails(t, freeze(tomas), "not-ready").Error(), "nobody has reviewed it")
	r, err := h.Lifecycles.Review(t.Context(), tomas, b.ID)
	require.NoError(t, err)
	var says []string
	for _, i := range r.Items {
		says = append(says, i.Label+": "+i.Text)
	}
	assert.Equal(t, []string{"R1 R2: " + p.Number + " revision 1, " + p.Released.Description + ": 2 pieces", "R3: EW-R-00002 revision 1, RES 10kΩ ±1% 0805: 1 piece"}, says)
	_, err = h.Lifecycles.Sign(t.Context(), tomas, b.ID, r.Version, wire.SignReview{Against: "drawing 4, sheet 2"})
	housetest.Fails(t, err, "list-open")
	_, err = h.Lifecycles.Sign(t.Context(), tomas, b.ID, fresh().Version, wire.SignReview{Against: "drawing 4, sheet 2", All: true})
	require.NoError(t, err)
	housetest.Fails(t, freeze(ines), "move-author")

	// a part of it that is released anew is another revision than was signed
	e := p.Released.Edit()
	e.Values["tolerance"] = "1 %"
	p, err = h.Parts.Save(t.Context(), h.Me, p.ID, p.Version, e)
	require.NoError(t, err)
	_, err = h.Lifecycles.Release(t.Context(), h.Me, p.ID, p.Version, wire.Release{Note: "tolerance"})
	require.NoError(t, err)
	assert.Contains(t, housetest.Fails(t, freeze(tomas), "not-ready").Error(), "it was changed since Tomas signed it")
	r, err = h.Lifecycles.Review(t.Context(), tomas, b.ID)
	require.NoError(t, err)
	assert.Equal(t, []bool{false, true}, []bool{r.Items[0].Mine, r.Items[1].Mine}, "only what changed is looked at again")
	_, err = h.Lifecycles.Sign(t.Context(), tomas, b.ID, r.Version, wire.SignReview{Against: "drawing 4, sheet 2", All: true})
	require.NoError(t, err)
	require.NoError(t, freeze(tomas))
	now := fresh()
	assert.Equal(t, []any{1, "released", "A", (*wire.State)(nil)}, []any{now.Revision, now.States.Status.Key, now.States.Label, now.States.Draft})
	revisions, err := h.BOMs.Revisions(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"A", "released"}, []any{revisions.Items[0].Label, revisions.Items[0].State.Key})

	// withdrawn with a reason; the next one is B and takes its place
	require.NoError(t, move(ines, "withdraw", "R3 is wrong"))
	revisions, err = h.BOMs.Revisions(t.Context(), h.Me, b.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{"withdrawn", "R3 is wrong"}, []any{revisions.Items[0].State.Key, revisions.Items[0].Why})
	require.NoError(t, move(ines, "end", "a newer board took over"))
	assert.Equal(t, "not built any more", fresh().States.Standing.Key)
	found, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, found.Different)
	life, err := h.Lifecycles.Life(t.Context(), ines, b.ID, 5)
	require.NoError(t, err)
	assert.Equal(t, []string{}, life.Authors, "what was frozen has no authors that change it any more")
	assert.NotEmpty(t, life.Trail)
}

// Open lines keep a BOM from being frozen where the house says so, whatever reason somebody gives; who may waives that, and the waiver falls with another open line.
func TestAHouseMayWantEveryLineSettled(t *testing.T) {
	h := housetest.Open(t)
	released(t, h, "4k7", "TW-4K7")
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	secondPerson(h)
	b := h.Board(t, "Board A", twoLines)
	fresh := func() wire.BOM {
		now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		return now
	}
	_, err := h.Lifecycles.Move(t.Context(), ines, wire.MoveThings{Move: "ask for review", Things: []wire.PartBase{{ID: b.ID, Version: b.Version}}})
	require.NoError(t, err)
	_, err = h.Lifecycles.Sign(t.Context(), tomas, b.ID, fresh().Version, wire.SignReview{Against: "the drawing", All: true})
	require.NoError(t, err)
	anyway := wire.FreezeBOM{Note: "first", Anyway: "the bench has it"}
	_, err = h.BOMs.Freeze(t.Context(), tomas, b.ID, fresh().Version, anyway)
	assert.Contains(t, housetest.Fails(t, err, "not-ready").Error(), "a line is open: ")
	_, err = h.Lifecycles.Waive(t.Context(), tomas, b.ID, fresh().Version, wire.WaiveGate{Gate: "settled", Why: "the bench has it"})
	housetest.Fails(t, err, "move-role")
	_, err = h.Lifecycles.Waive(t.Context(), h.Me, b.ID, fresh().Version, wire.WaiveGate{Gate: "settled", Why: "the bench has it"})
	require.NoError(t, err)
	_, err = h.BOMs.Freeze(t.Context(), tomas, b.ID, fresh().Version, anyway)
	require.NoError(t, err)
	assert.Equal(t, "A", fresh().States.Label)
}

// Two who freeze the same BOM at once, on two instances, make one revision; and nothing that its author changed meanwhile slips in.
func TestNobodyFreezesWhatWasNotSigned(t *testing.T) {
	h := housetest.Open(t)
	p := released(t, h, "4k7", "TW-4K7")
	released(t, h, "10k", "TW-10K")
	other := h.Beside()
	ines, tomas, vera := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer), h.As("vera", deed.Engineer)
	secondPerson(h)
	for round := range 6 {
		b := h.Board(t, "Board "+string(rune('A'+round)), twoLines)
		b, err := h.BOMs.Choose(t.Context(), ines, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}}})
		require.NoError(t, err)
		now := func() wire.BOM {
			x, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
			require.NoError(t, err)
			return x
		}
		move := func(key string) {
			_, err := h.Lifecycles.Move(t.Context(), ines, wire.MoveThings{Move: key, Note: "again", Things: []wire.PartBase{{ID: b.ID, Version: now().Version}}})
			require.NoError(t, err)
		}
		move("ask for review")
		_, err = h.Lifecycles.Sign(t.Context(), tomas, b.ID, now().Version, wire.SignReview{Against: "the drawing", All: true})
		require.NoError(t, err)
		seen := now()
		var wg sync.WaitGroup
		errs := make([]error, 3)
		wg.Go(func() {
			_, errs[0] = h.BOMs.Freeze(t.Context(), tomas, b.ID, seen.Version, wire.FreezeBOM{Note: "one"})
		})
		wg.Go(func() {
			_, errs[1] = other.BOMs.Freeze(t.Context(), vera, b.ID, seen.Version, wire.FreezeBOM{Note: "two"})
		})
		wg.Go(func() {
			_, errs[2] = other.Lifecycles.Move(t.Context(), ines, wire.MoveThings{Move: "send back", Note: "wait", Things: []wire.PartBase{{ID: b.ID, Version: seen.Version}}})
		})
		wg.Wait()
		done := 0
		for _, err := range errs {
			if err == nil {
				done++
			}
		}
		assert.Equal(t, 1, done, "%v", errs)
		all, err := h.BOMs.Revisions(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		assert.Len(t, all.Items, map[bool]int{true: 0, false: 1}[errs[2] == nil])
	}
}
