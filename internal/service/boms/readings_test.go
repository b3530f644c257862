package boms_test

import (
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// What a person teaches once holds for the next files of the same layout and origin, for as far as they said, and can be taken back.
func TestWhatIsTaughtHoldsForTheNextFileOfTheOrigin(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	const text = "Ref,Qty,Value,Package,Zzz\nR1,1,zqwombat,0805,\nR2,1,zqwombat,0805,\nR3,1,zqwombat,0603,\nR4,1,zqwombat,0805,\n"
	b := h.Board(t, "Board A", text)
	assert.NotEqual(t, "linked", b.Lines[0].Verdict)
	assert.Equal(t, 2, b.Lines[0].Alike, "R2 and R4 ask for the same, R3 for another package")
	b, err := h.BOMs.SetOrigin(t.Context(), h.Me, b.ID, b.Version, wire.BOMOrigin{Origin: "  Harbour   office "})
	require.NoError(t, err)
	assert.Equal(t, "Harbour office", b.Origin)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Alike: true, Learn: "link"}}})
	require.NoError(t, err)
	assert.Equal(t, []bool{true, true, false, true}, []bool{b.Lines[0].Chosen, b.Lines[1].Chosen, b.Lines[2].Chosen, b.Lines[3].Chosen})

	next := func(name, origin, text string) wire.BOM {
		b := h.Board(t, name, text)
		b, err := h.BOMs.SetOrigin(t.Context(), h.Me, b.ID, b.Version, wire.BOMOrigin{Origin: origin})
		require.NoError(t, err)
		return b
	}
	again := next("Board B", "harbour OFFICE", "Ref,Qty,Value,Package,Zzz\nR7,1,zqwombat,0805,\nR8,1,zqwombat,0603,\n")
	assert.Equal(t, "linked", again.Lines[0].Verdict)
	require.NotNil(t, again.Lines[0].Taught)
	assert.True(t, again.Lines[0].Taught.Links)
	assert.NotEqual(t, "linked", again.Lines[1].Verdict, "it says something else")
	assert.NotEqual(t, "linked", next("Board C", "Another office", text).Lines[0].Verdict, "another origin was taught nothing")
	assert.NotEqual(t, "linked", next("Board D", "Harbour office", "Ref,Qty,Value,Package\nR1,1,zqwombat,0805\n").Lines[0].Verdict, "nor was another layout")

	all, err := h.BOMs.Readings(t.Context(), h.Me, wire.ReadingsAsked{})
	require.NoError(t, err)
	require.Len(t, all.Items, 1)
	r := all.Items[0]
	assert.Equal(t, []string{"R · zqwombat · 0805", p.Number, "Board A", "Harbour office", ""}, []string{r.Text, r.Part, r.BOM, r.Origin, r.Void})
	of, err := h.BOMs.Readings(t.Context(), h.Me, wire.ReadingsAsked{BOM: again.ID})
	require.NoError(t, err)
	assert.Len(t, of.Items, 1)
	of, err = h.BOMs.Readings(t.Context(), h.Me, wire.ReadingsAsked{BOM: "Board D"})
	require.NoError(t, err)
	assert.Empty(t, of.Items)

	_, err = h.BOMs.WithdrawReading(t.Context(), h.Me, wire.WithdrawReading{ID: "nonsense.x"})
	housetest.Fails(t, err, "no-reading")
	all, err = h.BOMs.WithdrawReading(t.Context(), h.Me, wire.WithdrawReading{ID: r.ID})
	require.NoError(t, err)
	assert.Empty(t, all.Items)
	again, err = h.BOMs.Get(t.Context(), h.Me, again.ID)
	require.NoError(t, err)
	assert.NotEqual(t, "linked", again.Lines[0].Verdict, "at once")
	_, err = h.BOMs.WithdrawReading(t.Context(), h.Me, wire.WithdrawReading{ID: r.ID})
	housetest.Fails(t, err, "no-reading")
}

// Two boards of one origin teach at the same time: neither loses what the other taught.
func TestTwoWhoTeachAtOnceLoseNothing(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	const boards = 6
	var all [boards]wire.BOM
	for i := range all {
		all[i] = h.Board(t, string(rune('A'+i)), "Ref,Qty,Value,Package\nR1,1,zqwombat"+string(rune('a'+i))+",0805\n")
	}
	var wg sync.WaitGroup
	var errs [boards]error
	for i := range all {
		wg.Go(func() {
			_, errs[i] = h.BOMs.Choose(t.Context(), h.Me, all[i].ID, all[i].Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID, Learn: "propose"}}})
		})
	}
	wg.Wait()
	for _, err := range errs {
		require.NoError(t, err)
	}
	got, err := h.BOMs.Readings(t.Context(), h.Me, wire.ReadingsAsked{})
	require.NoError(t, err)
	assert.Len(t, got.Items, boards)
}

// A line that stands for no record is a decision with a name and a reason, taught for the next files, and in the way of no revision.
func TestLinesAreMarkedAsNoPartsOfTheLibrary(t *testing.T) {
	h := housetest.Open(t)
	b := h.Board(t, "Board A", "Ref,Qty,Value,Note\n,1,label 20x10,\n,1,bare board,\nFID1,1,fiducial,\nFID2,1,fiducial,\n")
	_, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, None: true}, {Row: 3, None: true, Part: "x", Reason: "y"}, {Row: 99, None: true, Reason: "y"}}})
	assert.Len(t, housetest.Fails(t, err, "choices-wrong").Places, 3)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, None: true, Reason: "a label"}, {Row: 4, None: true, Reason: "on the copper", Alike: true, Learn: "link"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"no library part", "not in the library", "no library part", "no library part"}, fits(b))
	assert.Equal(t, map[string]int{"open": 1}, b.Hindered)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Withdraw: []int{2}, Choose: []wire.BOMChoice{{Row: 3, None: true, Reason: "the board itself"}}})
	require.NoError(t, err)
	assert.Equal(t, []string{"not in the library", "no library part", "no library part", "no library part"}, fits(b), "one without a designator is told from the other")
	next := h.Board(t, "Board B", "Ref,Qty,Value,Note\nFID9,1,fiducial,\nFID10,1,fiducial 2,\n")
	assert.Equal(t, []string{"no library part", "not in the library"}, fits(next))
	all, err := h.BOMs.Readings(t.Context(), h.Me, wire.ReadingsAsked{})
	require.NoError(t, err)
	require.Len(t, all.Items, 1)
	assert.True(t, all.Items[0].None)
	cost, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: next.ID}, 1, nil)
	require.NoError(t, err)
	assert.Equal(t, "it is no part of the library: a reading of such lines", cost.Unbought[0].Why)
}

// Who works on a board may teach what is proposed; that something is linked by itself is for those who keep the library's crosswalks.
func TestLinkingByItselfIsTaughtByLibrarians(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	iver, ulla := h.As("iver", "engineer"), h.As("ulla", "reader")
	b := h.Board(t, "Board A", "Ref,Qty,Value,Package\nR1,1,zqwombat,0805\n")
	choose := func(who deed.Call, learn string) error {
		now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		_, err = h.BOMs.Choose(t.Context(), who, b.ID, now.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.Number, Learn: learn}}})
		return err
	}
	housetest.Fails(t, choose(iver, "link"), "not-allowed")
	housetest.Fails(t, choose(ulla, ""), "not-allowed")
	require.NoError(t, choose(iver, "propose"))
	all, err := h.BOMs.Readings(t.Context(), ulla, wire.ReadingsAsked{})
	require.NoError(t, err)
	require.Len(t, all.Items, 1)
	assert.False(t, all.Items[0].Links)
	_, err = h.BOMs.WithdrawReading(t.Context(), ulla, wire.WithdrawReading{ID: all.Items[0].ID})
	housetest.Fails(t, err, "not-allowed")
	_, err = h.BOMs.Replace(t.Context(), ulla, wire.Replacement{Part: p.Number, With: p.Number})
	housetest.Fails(t, err, "not-allowed")
}
