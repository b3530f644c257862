package boms_test

import (
	"bytes"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/core/money"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// takes says that a line of a board is another one.
func takes(t *testing.T, h housetest.House, b wire.BOM, row int, other string) wire.BOM {
	t.Helper()
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: row, Board: other}}})
	require.NoError(t, err)
	return b
}

func frozen(t *testing.T, h housetest.House, b wire.BOM) wire.BOM {
	t.Helper()
	b, err := h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "for the build"})
	require.NoError(t, err)
	return b
}

// what is what a line is, with its designators and pieces.
func what(lines []bom.Pinned) (out []string) {
	for _, l := range lines {
		is := "open"
		switch {
		case l.Board != nil:
			is = l.Board.String()
		case l.Part != nil:
			is = fmt.Sprintf("%s@%d", l.Part.MPN, l.Part.Revision)
		}
		out = append(out, fmt.Sprint(l.Designators, " ", l.Quantity, " ", is))
	}
	return out
}

func TestABoardOfBoardsTakesWhatTheyAreMadeOf(t *testing.T) {
	h := market(t) // 4k7 TW-1, 10k TW-2, 33k TW-3
	head := h.Board(t, "Head", "Ref,Qty,Value,MPN\n\"R1,R2\",2,4k7,TW-1\nR3,1,10k,TW-2\n")
	mast := h.Board(t, "Mast", "Ref,Qty,Value,MPN,Description\n\"A1,A2\",2,,,radar head\nR9,1,33k,TW-3,\n")
	station := h.Board(t, "Station", "Ref,Qty,Value,MPN,Description\nM1,1,,,mast\n,3,,,spare head\nR1,1,4k7,TW-1,\n")

	mast = takes(t, h, mast, 2, "head")
	line := mast.Lines[0]
	assert.Equal(t, []any{"another BOM", "Head", 0, 1}, []any{line.Verdict, line.Board.Name, line.Board.Revision, mast.Hindered["board-open"]})
	_, err := h.BOMs.Freeze(t.Context(), h.Me, mast.ID, mast.Version, wire.FreezeBOM{Note: "x"})
	assert.ErrorContains(t, err, "another BOM of which no revision can be taken: 1", "what was never frozen is nothing that a promise could rest on")
	c, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: "mast"}, 1, nil)
	require.NoError(t, err)
	assert.Len(t, c.Unbought, 2, "it is no part of the sum, and said: the head, and 33k, which nobody sells")

	frozen(t, h, head)
	mast, err = h.BOMs.Get(t.Context(), h.Me, "mast")
	require.NoError(t, err)
	assert.Equal(t, []any{1, "1", 2, 0}, []any{mast.Lines[0].Board.Revision, mast.Lines[0].Board.Label, mast.Lines[0].Board.Lines, mast.Hindered["board-open"]})
	mast = frozen(t, h, mast)
	station = takes(t, h, station, 2, mast.ID)
	station = takes(t, h, station, 3, "HEAD")
	frozen(t, h, station)
	f, err := h.BOMs.Revision(t.Context(), h.Me, "station", 1)
	require.NoError(t, err)
	assert.Equal(t, []string{
		"[M1] 1 Mast revision 1", "[M1/A1 M1/A2] 2 Head revision 1", "[M1/A1/R1 M1/A1/R2 M1/A2/R1 M1/A2/R2] 4 TW-1@1", "[M1/A1/R3 M1/A2/R3] 2 TW-2@1", "[M1/R9] 1 TW-3@1",
		"[] 3 Head revision 1", "[Head/R1 Head/R2] 6 TW-1@1", "[Head/R3] 3 TW-2@1", "[R1] 1 TW-1@1",
	}, what(f.Lines))
	c, err = h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: "station", Revision: 1}, 10, nil)
	require.NoError(t, err)
	takenOf := map[string]int64{}
	for _, b := range c.Bought {
		takenOf[b.Number] += b.Takes
	}
	for _, u := range c.Unbought {
		takenOf[u.Number] += u.Takes
	}
	assert.Equal(t, []int64{110, 50, 10}, []int64{takenOf[f.Lines[2].Part.Number], takenOf[f.Lines[3].Part.Number], takenOf[f.Lines[4].Part.Number]}, "ten stations, on paper")
	assert.NotEqual(t, money.Amount{}, c.Sum)

	for _, form := range []string{"lines", "written"} {
		var sheet bytes.Buffer
		require.NoError(t, h.BOMs.Sheet(t.Context(), h.Me, wire.BOMSheet{BOM: "station", Form: form, Format: "csv"}, &sheet))
		assert.Contains(t, sheet.String(), "Mast,1", form)
	}

	needs, err := h.BOMs.Needs(t.Context(), "station", false)
	require.NoError(t, err)
	require.Len(t, needs, 3, "parts, and no boards: suppliers are asked for them")
	assert.Equal(t, []int64{11, 5, 1}, []int64{needs[f.Lines[2].Part.ID].Pieces, needs[f.Lines[3].Part.ID].Pieces, needs[f.Lines[4].Part.ID].Pieces})

	w, err := h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Part: f.Lines[3].Part.Number})
	require.NoError(t, err)
	places := map[string]string{}
	for _, on := range w.Items[0].Boards {
		places[fmt.Sprintf("%s %d", on.Name, on.Revision)] = fmt.Sprint(on.Designators, on.Pieces)
	}
	assert.Equal(t, map[string]string{"Head 0": "[R3] 1", "Head 1": "[R3] 1", "Mast 0": "[A1/R3 A2/R3] 2", "Mast 1": "[A1/R3 A2/R3] 2", "Station 0": "[Head/R3 M1/A1/R3 M1/A2/R3] 5", "Station 1": "[Head/R3 M1/A1/R3 M1/A2/R3] 5"}, places)
	assert.Equal(t, []any{0, []string{"Head revision 1"}}, []any{len(w.Items[0].Boards[4].Rows), w.Items[0].Boards[4].By}, "the station takes it by way of others alone")

	// a part is replaced where it stands: never in the line that is another board
	r, err := h.BOMs.Replace(t.Context(), h.Me, wire.Replacement{Part: f.Lines[3].Part.Number, With: f.Lines[2].Part.Number})
	require.NoError(t, err)
	require.Len(t, r.Boards, 1)
	assert.Equal(t, []any{"Head", []string{"R3"}}, []any{r.Boards[0].Name, r.Boards[0].Designators})
	_, err = h.BOMs.Replace(t.Context(), h.Me, wire.Replacement{Part: f.Lines[3].Part.Number, With: f.Lines[2].Part.Number, BOMs: []string{"Station"}})
	assert.ErrorContains(t, err, "Station takes "+f.Lines[3].Part.Number+" only by way of Head revision 1")
	r, err = h.BOMs.Replace(t.Context(), h.Me, wire.Replacement{Part: f.Lines[2].Part.Number, With: f.Lines[3].Part.Number, BOMs: []string{"Station"}})
	require.NoError(t, err)
	assert.Equal(t, []any{[]int{4}, []string{"R1"}}, []any{r.Boards[0].Rows, r.Boards[0].Designators}, "its own line alone")
	u, err := h.BOMs.Unite(t.Context(), h.Me, wire.BOMAt{BOM: "station"}, 10)
	require.NoError(t, err)
	assert.Empty(t, u.Items)

	w, err = h.BOMs.WhereUsed(t.Context(), h.Me, wire.UsedAsked{Board: "head"})
	require.NoError(t, err)
	assert.Equal(t, []any{2, "Head", 4}, []any{w.Boards, w.Items[0].Part.Number, len(w.Items[0].Boards)}, "the mast and the station, each now and frozen")

	// a board goes on, and those that take it hold on to what they were frozen with
	head, err = h.BOMs.Get(t.Context(), h.Me, "head")
	require.NoError(t, err)
	frozen(t, h, next(t, h, head, "Ref,Qty,Value,MPN\n\"R1,R2\",2,10k,TW-2\nR3,1,10k,TW-2\n"))
	station, err = h.BOMs.Get(t.Context(), h.Me, "station")
	require.NoError(t, err)
	assert.Equal(t, 1, station.Lines[1].Board.Revision)
	assert.Contains(t, found(station.Lines[1], "behind").What, "holds on to revision 1 of Head, and revision 2 is in use")
	f, err = h.BOMs.Revision(t.Context(), h.Me, "station", 1)
	require.NoError(t, err)
	require.Len(t, f.Behind, 1, "the mast is as it was, and its head is the mast's own matter")
	assert.Equal(t, []any{"Head", 2, []string{"revision 2 is frozen"}}, []any{f.Behind[0].Number, f.Behind[0].Revision, f.Behind[0].Says})
	station, err = h.BOMs.MoveOn(t.Context(), h.Me, station.ID, station.Version, wire.MoveOnParts{Parts: []string{"Head"}})
	require.NoError(t, err)
	assert.Equal(t, 2, station.Lines[1].Board.Revision)
	cmp, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: "station", Revision: 1}, wire.BOMAt{BOM: "station"})
	require.NoError(t, err)
	says := map[string][]string{}
	for _, x := range cmp.Changes {
		says[fmt.Sprint(x.Designators)] = x.What
	}
	assert.Equal(t, map[string][]string{"[]": {"revision"}, "[Head/R1 Head/R2]": {"part"}}, says)
	_, err = h.BOMs.MoveOn(t.Context(), h.Me, station.ID, station.Version, wire.MoveOnParts{Parts: []string{"Head"}})
	housetest.Fails(t, err, "not-behind")

	// what it is taken back to is what the file says
	station, err = h.BOMs.Choose(t.Context(), h.Me, station.ID, station.Version, wire.BOMChoices{Withdraw: []int{2}})
	require.NoError(t, err)
	assert.Equal(t, []any{"not in the library", (*wire.BoardTaken)(nil)}, []any{station.Lines[0].Verdict, station.Lines[0].Board})
	verified, err := h.Audit.Verify(t.Context(), h.Me)
	require.NoError(t, err)
	assert.Empty(t, verified.Different, "everything that is kept beside the documents agrees with them")
}

// What suppliers have is laid beside all that a build takes of a record: by lines of the board itself and by way of the boards that it takes.
func TestWhatABuildLacksIsOfBoardsOfBoardsToo(t *testing.T) {
	h := market(t)
	head := h.Board(t, "Head", "Ref,Qty,Value,MPN\n\"R1,R2\",2,4k7,TW-1\nR3,1,33k,TW-3\n")
	own := h.Board(t, "Own", "Ref,Qty,Value,MPN,Description\nR1,1,4k7,TW-1,\nA1,1,,,radar head\n")
	stock := func(b wire.BOM, boards int) (said []string) {
		t.Helper()
		b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: boards})
		require.NoError(t, err)
		for _, l := range b.Lines {
			for _, f := range l.Findings {
				if f.Cause == "stock-short" {
					assert.Equal(t, l.Row, f.Row)
					said = append(said, fmt.Sprint(l.Row, " ", f.What))
				}
			}
		}
		return said
	}
	had, _, known := h.Index.InStock(head.Lines[0].Part.ID)
	require.True(t, known)
	boards := int(had) / 2 // enough for the line alone, and not for the board with its head
	require.Empty(t, stock(own, boards))
	frozen(t, h, head)
	own, err := h.BOMs.Get(t.Context(), h.Me, "own")
	require.NoError(t, err)
	answer, err := h.BOMs.ChooseSome(t.Context(), h.Me, own.ID, own.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, Board: "Head"}}})
	require.NoError(t, err)
	require.True(t, answer.Partial)
	require.Len(t, answer.Lines, 2, "the line that has the same record is told as well")
	own, err = h.BOMs.Get(t.Context(), h.Me, "own")
	require.NoError(t, err)
	assert.Equal(t, own, laidOver(own, answer))
	short := fmt.Sprintf("suppliers have %d of it, and a build of %d boards takes %d", had, boards, 3*boards)
	number := head.Lines[0].Part.Number
	assert.Equal(t, []string{"2 " + short, "3 of what Head is made of: " + number + " (" + short + ")"}, stock(own, boards))
	own, err = h.BOMs.Get(t.Context(), h.Me, "own")
	require.NoError(t, err)
	answer, err = h.BOMs.ChooseSome(t.Context(), h.Me, own.ID, own.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, None: true, Reason: "not this time"}}})
	require.NoError(t, err)
	assert.Len(t, answer.Lines, 2, "and when it takes it no more")
	own, err = h.BOMs.Get(t.Context(), h.Me, "own")
	require.NoError(t, err)
	assert.Equal(t, own, laidOver(own, answer))
	assert.Empty(t, stock(own, boards))
}

func TestABoardIsNeverMadeOfItself(t *testing.T) {
	h := market(t)
	text := "Ref,Qty,Value,MPN,Description\nA1,1,,,sub\nA2,1,,,sub\nR1,1,4k7,TW-1,\n"
	a, b, c := h.Board(t, "A", text), h.Board(t, "B", text), h.Board(t, "C", text)
	refused := func(of wire.BOM, other string) {
		t.Helper()
		_, err := h.BOMs.Choose(t.Context(), h.Me, of.ID, of.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Board: other}}})
		housetest.Fails(t, err, "bom-circle")
	}
	refused(a, "a")
	a = takes(t, h, a, 2, "B")
	b = takes(t, h, b, 2, "C")
	refused(c, "A")
	refused(c, "B")
	refused(c, c.ID)
	refused(b, "A")
	a = takes(t, h, a, 3, "C") // twice is no circle
	assert.Equal(t, 2, a.Counts["another BOM"])

	// two people at once, on two boards that take each other: both drafts stand, and neither is frozen with itself in it
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Withdraw: []int{2}})
	require.NoError(t, err)
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, None: true, Reason: "none"}, {Row: 3, None: true, Reason: "none"}}})
	require.NoError(t, err)
	c, err = h.BOMs.Choose(t.Context(), h.Me, c.ID, c.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, None: true, Reason: "none"}, {Row: 3, None: true, Reason: "none"}}})
	require.NoError(t, err)
	frozen(t, h, c)
	b = frozen(t, h, b)
	frozen(t, h, a) // of B and C
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Withdraw: []int{2}})
	require.NoError(t, err)
	a, err = h.BOMs.Get(t.Context(), h.Me, "a")
	require.NoError(t, err)
	_, err = h.BOMs.Choose(t.Context(), h.Me, a.ID, a.Version, wire.BOMChoices{Withdraw: []int{2}}) // its revision still takes B
	require.NoError(t, err)
	b = takes(t, h, b, 2, "A")
	assert.Contains(t, found(b.Lines[0], "board-open").What, "A takes B: it would be made of itself")
	_, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "x"})
	housetest.Fails(t, err, "not-to-freeze")
	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "x", Anyway: "tried"})
	require.NoError(t, err)
	f, err := h.BOMs.Revision(t.Context(), h.Me, "b", b.Revision)
	require.NoError(t, err)
	assert.Nil(t, f.Lines[0].Board, "without a pin, as a line that nothing answers")
	assert.False(t, f.Lines[0].Assembly)
}

func TestWhatALineThatIsAnotherBoardIsRefused(t *testing.T) {
	h := market(t)
	head := h.Board(t, "Head", "Ref,Value,MPN,Fitted in East,Fitted in West\nR1,4k7,TW-1,yes,yes\nR2,10k,TW-2,yes,no\n")
	b := h.Board(t, "Mast", "Ref,Qty,Value,MPN,Description,Level\nA1,1,,,head,1\nA2,0.5 m,,,head,1\nA3,1,,,box,1\nR1,1,4k7,TW-1,,2\n")
	for _, c := range []struct {
		in   wire.BOMChoice
		says string
	}{
		{wire.BOMChoice{Row: 2, Board: "nothing of the kind"}, "not-found"},
		{wire.BOMChoice{Row: 99, Board: "Head"}, "choices-wrong"},
		{wire.BOMChoice{Row: 2, Board: "Head", Part: "R-1"}, "choices-wrong"},
		{wire.BOMChoice{Row: 2, Board: "Head", None: true, Reason: "x"}, "choices-wrong"},
		{wire.BOMChoice{Row: 2, Board: "Head", Learn: "propose"}, "choices-wrong"},
		{wire.BOMChoice{Row: 4, Board: "Head"}, "choices-wrong"},
	} {
		_, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{c.in}})
		housetest.Fails(t, err, c.says)
	}
	frozen(t, h, head)
	b = takes(t, h, b, 2, "Head")
	assert.Contains(t, found(b.Lines[0], "board-open").What, "several variants (East, West): say which is taken")
	b, err := h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Board: "Head", Variant: "north"}}})
	require.NoError(t, err)
	assert.Contains(t, found(b.Lines[0], "board-open").What, "no variant north")
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Board: "Head", Variant: "west"}, {Row: 3, Board: "Head", Variant: "East"}}})
	require.NoError(t, err)
	assert.Equal(t, "West", b.Lines[0].Board.Variant)
	assert.Contains(t, found(b.Lines[1], "board-open").What, "0.5 m is not counted in boards")
	b, err = h.BOMs.Choose(t.Context(), h.Me, b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 3, None: true, Reason: "cable"}}})
	require.NoError(t, err)
	frozen(t, h, b)
	f, err := h.BOMs.Revision(t.Context(), h.Me, "mast", 1)
	require.NoError(t, err)
	var fitted []bom.Pinned
	for _, l := range f.Lines {
		if !l.NotFitted && l.Of != "" {
			fitted = append(fitted, l)
		}
	}
	assert.Equal(t, []string{"[A1/R1] 1 TW-1@1"}, what(fitted), "of the variant that is taken")
	_, err = h.BOMs.Choose(t.Context(), h.As("rita", deed.Reader), b.ID, b.Version, wire.BOMChoices{Choose: []wire.BOMChoice{{Row: 2, Board: "Head"}}})
	housetest.Fails(t, err, "not-allowed")
}
