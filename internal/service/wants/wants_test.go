package wants_test

import (
	"errors"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/service/wants"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

func TestAWantFromAskingToAnswering(t *testing.T) {
	h := housetest.Open(t)
	ines, tomas := h.As("ines", deed.Engineer), h.As("tomas", deed.Engineer)
	part := h.Make(housetest.Rated("4k7", "TW-4K7"))
	h.Level()

	// What would do is shown before anything is kept.
	look, err := h.Wants.Look(t.Context(), ines, wire.WantEdit{Facts: "4.7k 0805"})
	require.NoError(t, err)
	require.Len(t, look.Parts, 1)
	assert.Equal(t, part.Number, look.Parts[0].Number)
	look, err = h.Wants.Look(t.Context(), ines, wire.WantEdit{MPN: "tw 4k7"})
	require.NoError(t, err)
	assert.Equal(t, 1, look.Total, "by its number, however it is written")

	made, err := h.Wants.Make(t.Context(), ines, []wire.WantEdit{{Facts: "22k 0402 0.1%", Board: "Tide gauge D", By: "2031-04-30", Quantity: 200}, {MPN: "KL-7", Manufacturer: "Kelpline"}})
	require.NoError(t, err)
	assert.Equal(t, wire.WantsMade{Wants: 2, Numbers: []string{"W-00001", "W-00002"}}, made)
	look, err = h.Wants.Look(t.Context(), tomas, wire.WantEdit{Facts: "0.1 % 0402 22 kΩ"})
	require.NoError(t, err)
	require.Len(t, look.Doubles, 1, "the same in other words")
	assert.Equal(t, []string{"W-00001", "the same facts", "Ines"}, []string{look.Doubles[0].Number, look.Doubles[0].Why, look.Doubles[0].By})

	settle := func(c deed.Call, key, state, part, why string) error {
		w, err := h.Wants.Get(t.Context(), c, key)
		require.NoError(t, err)
		_, err = h.Wants.Settle(t.Context(), c, key, w.Version, wire.SettleWant{State: state, Part: part, Why: why})
		return err
	}
	housetest.Fails(t, settle(tomas, "w-00001", "taken on", "", ""), "not-allowed")
	require.NoError(t, settle(h.Me, "w-00001", "taken on", "", ""))
	housetest.Fails(t, settle(h.Me, "W-00001", "taken on", "", ""), "want-state")
	housetest.Fails(t, settle(h.Me, "W-00001", "declined", "", "  "), "no-why")
	housetest.Fails(t, settle(h.Me, "W-00001", "answered", "EW-NOBODY", ""), "not-found")
	require.NoError(t, settle(h.Me, "W-00001", "answered", part.Number, "close enough"))
	w, err := h.Wants.Get(t.Context(), ines, "W-00001")
	require.NoError(t, err)
	assert.Equal(t, []string{"answered", part.Number, "close enough"}, []string{w.State, w.Part, w.Why})
	assert.Empty(t, w.Look.Doubles)
	housetest.Fails(t, settle(tomas, "W-00001", "open", "", "mine"), "not-yours")
	housetest.Fails(t, settle(ines, "W-00001", "open", "", ""), "no-why")
	require.NoError(t, settle(ines, "W-00001", "open", "", "it must be 0402"), "whoever asked says that it is not what was meant")
	w, err = h.Wants.Get(t.Context(), ines, "W-00001")
	require.NoError(t, err)
	assert.Equal(t, []string{"open", "", "it must be 0402"}, []string{w.State, w.Part, w.Why})
	_, err = h.Wants.Settle(t.Context(), h.Me, "W-00001", 1, wire.SettleWant{State: "declined", Why: "x"})
	housetest.Fails(t, err, "changed-meanwhile")
	require.NoError(t, settle(h.Me, "W-00002", "declined", "", "no such part"))

	list := func(q wants.Query) (out []string) {
		l, err := h.Wants.List(t.Context(), ines, q)
		require.NoError(t, err)
		for _, w := range l.Items {
			out = append(out, w.Number)
		}
		assert.Equal(t, map[string]int{"open": 1, "declined": 1}, l.Counts)
		return out
	}
	assert.Equal(t, []string{"W-00001"}, list(wants.Query{State: "waiting"}))
	assert.Equal(t, []string{"W-00001", "W-00002"}, list(wants.Query{Mine: true}))
	assert.Equal(t, []string{"W-00002"}, list(wants.Query{State: "declined"}))
	assert.Empty(t, list(wants.Query{State: "answered"}))
}

func TestWhatIsNoWantIsNotKept(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Wants.Make(t.Context(), h.Me, []wire.WantEdit{{Facts: "4k7"}, {Board: "only a board"}, {Facts: "x", By: "soon"}})
	bad := housetest.Fails(t, err, "want-wrong")
	assert.Len(t, bad.Places, 2)
	assert.Contains(t, bad.Error(), "want 2: it says nothing of what is wanted")
	_, err = h.Wants.Make(t.Context(), h.Me, nil)
	housetest.Fails(t, err, "wants-many")
	_, err = h.Wants.Make(t.Context(), h.As("rita", deed.Reader), []wire.WantEdit{{Facts: "4k7"}})
	housetest.Fails(t, err, "not-allowed")
	l, err := h.Wants.List(t.Context(), h.Me, wants.Query{})
	require.NoError(t, err)
	assert.Zero(t, l.Page.Total, "all or nothing")
	_, err = h.Wants.Get(t.Context(), h.Me, "W-99999")
	housetest.Fails(t, err, "not-found")
}

func TestTheMissingLinesOfABoardAreWantedOnce(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Rated("4k7", "TW-4K7"))
	h.Level()
	h.Board(t, "Pier light", "Ref,Qty,MPN,Value,Package\nR1,1,TW-4K7,4k7,0805\n\"C1,C2\",2,NOBODY-9,100n,0603\nX1,1,,,\nU1,1,NOBODY-10,,SO8\n")
	made, err := h.Wants.FromBOM(t.Context(), h.Me, "Pier light", 0)
	require.NoError(t, err)
	assert.Equal(t, 2, made.Wants)
	w, err := h.Wants.Get(t.Context(), h.Me, made.Numbers[0])
	require.NoError(t, err)
	assert.Equal(t, wire.WantEdit{Facts: "100n 0603", MPN: "NOBODY-9", Board: "Pier light", Quantity: 2, Note: "for C1, C2"}, w.Said)
	_, err = h.Wants.FromBOM(t.Context(), h.Me, "Pier light", 0)
	housetest.Fails(t, err, "nothing-missing")
}

// However many people want what a board lacks at once, each line is wanted once.
func TestTheSameLinesAreWantedOnceByManyAtOnce(t *testing.T) {
	h := housetest.Open(t)
	h.Board(t, "Pier light", "Ref,Qty,MPN,Value\nC1,2,NOBODY-9,100n\nC2,1,NOBODY-10,1u\n")
	const people = 8
	rows := []int{2, 2, 3, 0}
	made := make(chan int, people)
	var all sync.WaitGroup
	for k := range people {
		all.Go(func() {
			m, err := h.Wants.FromBOM(t.Context(), h.Me, "Pier light", rows[k%len(rows)])
			var e *deed.Error
			if err != nil && !errors.As(err, &e) {
				t.Error(err)
			}
			made <- m.Wants
		})
	}
	all.Wait()
	close(made)
	sum := 0
	for n := range made {
		sum += n
	}
	assert.Equal(t, 2, sum)
	l, err := h.Wants.List(t.Context(), h.Me, wants.Query{})
	require.NoError(t, err)
	assert.Len(t, l.Items, 2)
}

func TestOneLineIsWantedBesideWhatIsProposedForIt(t *testing.T) {
	h := housetest.Open(t)
	h.Make(housetest.Rated("4k7", "TW-4K7"))
	h.Level()
	h.Board(t, "Pier light", "Ref,Qty,MPN,Value,Package\nR1,1,TW-4K7,4k7,0805\nR2,3,,4k7,\nC1,2,NOBODY-9,100n,0603\nX1,1,,,\n")
	b, err := h.BOMs.Get(t.Context(), h.Me, "Pier light")
	require.NoError(t, err)
	require.Equal(t, []string{"linked", "proposed", "not in the library", "not in the library"}, []string{b.Lines[0].Verdict, b.Lines[1].Verdict, b.Lines[2].Verdict, b.Lines[3].Verdict})
	made, err := h.Wants.FromBOM(t.Context(), h.Me, "Pier light", 3)
	require.NoError(t, err)
	require.Equal(t, 1, made.Wants, "not what another line lacks")
	w, err := h.Wants.Get(t.Context(), h.Me, made.Numbers[0])
	require.NoError(t, err)
	assert.Equal(t, wire.WantEdit{Facts: "4k7", Board: "Pier light", Quantity: 3, Note: "for R2"}, w.Said)
	for row, why := range map[int]string{2: "is answered", 3: "wanted already: " + made.Numbers[0], 5: "says nothing that could be wanted", 99: "is no line of it"} {
		_, err = h.Wants.FromBOM(t.Context(), h.Me, "Pier light", row)
		assert.Contains(t, housetest.Fails(t, err, "not-wanted").Error(), why, "row %d", row)
	}
}

func TestWhatASubAssemblyLacksIsWantedAsOftenAsTheBoardTakesIt(t *testing.T) {
	h := housetest.Open(t)
	h.Board(t, "Pier light", "Level,Ref,Qty,MPN,Value\n1,A1-A3,3,,\n2,\"C1,C2\",2,NOBODY-9,100n\n")
	made, err := h.Wants.FromBOM(t.Context(), h.Me, "Pier light", 0)
	require.NoError(t, err)
	require.Equal(t, 1, made.Wants, "the sub-assembly itself is none")
	w, err := h.Wants.Get(t.Context(), h.Me, made.Numbers[0])
	require.NoError(t, err)
	assert.Equal(t, 6, w.Said.Quantity)
}
