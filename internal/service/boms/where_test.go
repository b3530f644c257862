package boms_test

import (
	"context"
	"fmt"
	"jollydrawer/core/part"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// on writes where a part is, in short: board, revision, designators.
func on(u wire.UsedPart) (out []string) {
	for _, b := range u.Boards {
		out = append(out, fmt.Sprint(b.Name, " ", b.Revision, " ", b.Designators))
	}
	return out
}

func whereUsed(t *testing.T, h housetest.House, in wire.UsedAsked) wire.WhereUsed {
	t.Helper()
	got, err := h.BOMs.WhereUsed(t.Context(), h.Me, in)
	require.NoError(t, err)
	return got
}

// A part is found on every board that takes it now, however its line came to it, and in the revisions that are pinned to it.
func TestWhereAPartIsUsed(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	q := h.Make(housetest.Resistor("10k", "TW-10K-A"))
	a := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-4K7-A\nR2,1,TW-10K-A\n\"R7, R3\",2,TW-4K7-A\n")
	_ = h.Board(t, "Board B", "Ref,Qty,MPN,DNP\nR1,1,TW-4K7-A,x\n")
	c := h.Board(t, "Board C", "Ref,Qty,Note\nR1,1,as agreed\n")
	_, err := h.BOMs.Choose(t.Context(), h.Me, c.ID, c.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Part: p.ID}}})
	require.NoError(t, err)
	a, err = h.BOMs.SetBuild(t.Context(), h.Me, a.ID, a.Version, wire.BOMBuild{Boards: 40, Yearly: new(100)})
	require.NoError(t, err)
	_, err = h.BOMs.Freeze(t.Context(), h.Me, a.ID, a.Version, wire.FreezeBOM{Note: "first", Anyway: "not released yet"})
	require.NoError(t, err)

	got := whereUsed(t, h, wire.UsedAsked{Part: p.Number})
	require.Len(t, got.Items, 1)
	assert.Equal(t, []string{"Board A 0 [R1 R3 R7]", "Board C 0 [R1]", "Board A 1 [R1 R3 R7]"}, on(got.Items[0]))
	first := got.Items[0].Boards[0]
	assert.Equal(t, []int64{3, 40, 300}, []int64{first.Pieces, first.Build, first.Yearly})
	assert.Equal(t, 2, got.Boards)

	for name, in := range map[string]wire.UsedAsked{"its maker": {Maker: "TIDEWRIGHT"}, "its source": {Maker: "Tidewright", MPN: "tw 4k7 a"}, "its MPN": {MPN: "TW-4K7-A"}} {
		got := whereUsed(t, h, in)
		want := 1
		if name == "its maker" {
			want = 2
		}
		require.Len(t, got.Items, want, name)
		assert.Equal(t, p.Number, got.Items[0].Part.Number, name)
	}
	assert.Empty(t, whereUsed(t, h, wire.UsedAsked{Maker: "Nobody"}).Items)
	for _, in := range []wire.UsedAsked{{}, {Part: p.Number, Maker: "Tidewright"}, {Part: p.Number, MPN: "x"}} {
		_, err := h.BOMs.WhereUsed(t.Context(), h.Me, in)
		housetest.Fails(t, err, "question-wrong")
	}
	_, err = h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: "nothing"})
	housetest.Fails(t, err, "part-unknown")

	// what becomes otherwise in the library is seen at once, and the revision stays
	_, err = h.Parts.Merge(t.Context(), h.Me, p.ID, p.Version, wire.Merge{Into: q.Number})
	require.NoError(t, err)
	got = whereUsed(t, h, wire.UsedAsked{Part: q.Number})
	assert.Equal(t, "Board A 0 [R1 R2 R3 R7]", on(got.Items[0])[0])
}

// What could stand in for a part is what equals it; it is put in its place on several boards in one deed, as it was looked at, and only so.
func TestAPartIsReplacedOnSeveralBoards(t *testing.T) {
	h := housetest.Open(t)
	p := h.Make(housetest.Resistor("4k7", "TW-4K7-A"))
	other := housetest.Resistor("4k7", "KL-4K7")
	other.Sources[0].Manufacturer = "Kelpline"
	q := h.Make(other)
	loose := housetest.Resistor("4k7", "TW-4K7-J")
	loose.Values["tolerance"] = "5%"
	j := h.Make(loose)
	far := h.Make(housetest.Resistor("10k", "TW-10K-A"))
	a := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-4K7-A\nR2,1,TW-10K-A\n")
	h.Board(t, "Board B", "Ref,Qty,Value,MPN\n\"R1, R2\",2,4k7,TW-4K7-A\n")
	h.Board(t, "Board C", "Ref,Qty,MPN\nR1,1,TW-10K-A\n")

	got := whereUsed(t, h, wire.UsedAsked{Part: p.Number, Instead: true})
	require.Len(t, got.Items[0].Instead, 2)
	in, near := got.Items[0].Instead[0], got.Items[0].Instead[1]
	assert.Equal(t, j.Number, near.Part.Number, "what differs comes after what equals it")
	require.Len(t, near.Differs, 1)
	assert.Contains(t, near.Differs[0], "±5 %, and was ±1 %")
	assert.Equal(t, q.Number, in.Part.Number)
	assert.Empty(t, in.Against)
	assert.Empty(t, in.Differs)
	assert.Equal(t, int64(3), got.Items[0].Needs)
	gone := whereUsed(t, h, wire.UsedAsked{Maker: "Tidewright", Instead: true})
	require.Len(t, gone.Items, 2)
	assert.Empty(t, gone.Items[0].Left, "no source is left of a record that had one")
	assert.Equal(t, q.Number, gone.Items[0].Instead[0].Part.Number)
	assert.Empty(t, gone.Items[1].Instead, "nothing equals the other")

	ask := wire.Replacement{Part: p.Number, With: q.Number, Reason: "its maker stops"}
	seen, err := h.BOMs.Replace(t.Context(), h.Me, ask)
	require.NoError(t, err)
	assert.False(t, seen.Done)
	require.Len(t, seen.Boards, 2)
	assert.Equal(t, []string{"Board A", "Board B"}, []string{seen.Boards[0].Name, seen.Boards[1].Name})
	assert.Equal(t, []string{"R1", "R2"}, seen.Boards[1].Designators)
	b, err := h.BOMs.Get(t.Context(), h.Me, "Board A")
	require.NoError(t, err)
	assert.Equal(t, a.Version, b.Version, "a preview writes nothing")

	bad := ask
	bad.Digest, bad.Reason = seen.Digest, " "
	_, err = h.BOMs.Replace(t.Context(), h.Me, bad)
	housetest.Fails(t, err, "reason-missing")
	for typ, in := range map[string]wire.Replacement{"part-unknown": {Part: p.Number, With: "nothing"}, "replacement-wrong": {Part: p.Number, With: p.Number}, "not-on-board": {Part: p.Number, With: q.Number, BOMs: []string{"Board C"}}, "not-found": {Part: p.Number, With: q.Number, BOMs: []string{"Board Z"}}} {
		_, err = h.BOMs.Replace(t.Context(), h.Me, in)
		housetest.Fails(t, err, typ)
	}

	// somebody changes a board meanwhile
	_, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 3})
	require.NoError(t, err)
	do := ask
	do.Digest = seen.Digest
	_, err = h.BOMs.Replace(t.Context(), h.Me, do)
	housetest.Fails(t, err, "preview-behind")

	// two who do the same at once: it is done once, and the other one is told
	seen, err = h.BOMs.Replace(t.Context(), h.Me, ask)
	require.NoError(t, err)
	do.Digest = seen.Digest
	var wg sync.WaitGroup
	errs := make([]error, 4)
	for i := range errs {
		wg.Go(func() { _, errs[i] = h.BOMs.Replace(t.Context(), deed.Call{Actor: h.Me.Actor}, do) })
	}
	wg.Wait()
	done := 0
	for _, err := range errs {
		if err == nil {
			done++
		} else {
			var e *deed.Error
			require.ErrorAs(t, err, &e)
			assert.Contains(t, []string{"preview-behind", "changed-meanwhile"}, e.Type)
		}
	}
	assert.Equal(t, 1, done)
	for name, row := range map[string]int{"Board A": 0, "Board B": 0} {
		b, err := h.BOMs.Get(t.Context(), h.Me, name)
		require.NoError(t, err)
		assert.Equal(t, q.Number, b.Lines[row].Part.Number, name)
		assert.Equal(t, "linked", b.Lines[row].Verdict)
		assert.Equal(t, "its maker stops", b.Lines[row].Reason)
	}
	assert.Equal(t, far.Number, func() string { b, _ := h.BOMs.Get(t.Context(), h.Me, "Board C"); return b.Lines[0].Part.Number }())
	assert.Empty(t, whereUsed(t, h, wire.UsedAsked{Part: p.Number}).Items[0].Boards)
}

// A datasheet is found on the boards of the parts that have it, as their own or by their series.
func TestWhereADatasheetIsUsed(t *testing.T) {
	h := housetest.Open(t)
	sheet, err := h.Files.Keep(t.Context(), h.Me, "TW thick film.pdf", strings.NewReader("%PDF-1.4 thick film"))
	require.NoError(t, err)
	other, err := h.Files.Keep(t.Context(), h.Me, "whinchat.pdf", strings.NewReader("%PDF-1.4 whinchat"))
	require.NoError(t, err)
	with := func(ohms, mpn string, f ...part.File) wire.Part {
		e := housetest.Resistor(ohms, mpn)
		e.Datasheets = f
		return h.Make(e)
	}
	own := with("4k7", "TW-1", part.File{Hash: sheet.Hash, Name: sheet.Name})
	ofSeries := with("10k", "TW-2")
	with("22k", "TW-3", part.File{Hash: other.Hash, Name: other.Name})
	with("33k", "TW-4", part.File{Hash: sheet.Hash, Name: sheet.Name}) // on no board
	_, err = h.Series.Make(t.Context(), h.Me, wire.SeriesEdit{Manufacturer: "Tidewright", Name: "TW thick film", Members: []string{"TW-2"}, Datasheets: []part.File{{Hash: sheet.Hash, Name: sheet.Name}}})
	require.NoError(t, err)
	h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-1\nR2,1,TW-2\nR3,1,TW-3\n")
	for _, question := range []string{"thick film", sheet.Hash, strings.ToUpper(sheet.Hash), sheet.Hash[:12], "TW THICK"} {
		var numbers []string
		for _, x := range whereUsed(t, h, wire.UsedAsked{Datasheet: question}).Items {
			numbers = append(numbers, x.Part.Number)
		}
		assert.Equal(t, []string{own.Number, ofSeries.Number}, numbers, question)
	}
	_, err = h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Datasheet: "nothing"})
	housetest.Fails(t, err, "datasheet-unknown")
	_, err = h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Datasheet: "thick", Maker: "Tidewright"})
	housetest.Fails(t, err, "question-wrong")
}

// What boards take is at hand before anybody asks, is looked for once however many ask at once, and is what it is by then.
func TestWhatBoardsTakeIsKeptAtHand(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Gauge", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-1\n")
	part := b.Lines[0].Part.Number
	ctx, stop := context.WithCancel(t.Context())
	done := make(chan bool)
	go func() { h.BOMs.Run(ctx); close(done) }()
	var asking sync.WaitGroup
	for i := range 8 {
		asking.Go(func() {
			for range 20 {
				w, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: part})
				if assert.NoError(t, err, i) {
					assert.GreaterOrEqual(t, w.Boards, 1)
				}
			}
		})
	}
	for i := range 5 {
		h.Board(t, fmt.Sprintf("Gauge %d", i), "Ref,Qty,Value,MPN\nR1,1,4k7,TW-1\n")
	}
	asking.Wait()
	w, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: part})
	require.NoError(t, err)
	assert.Equal(t, 6, w.Boards)
	stop()
	<-done
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	h.Board(t, "Gauge 9", "Ref,Qty,Value,MPN\nR1,1,4k7,TW-1\n")
	_, err = h.BOMs.WhereUsed(gone, h.Me, wire.UsedAsked{Part: part})
	require.Error(t, err, "who has gone is not waited for")
	w, err = h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: part})
	require.NoError(t, err)
	assert.Equal(t, 7, w.Boards, "and takes nothing from others")
}
