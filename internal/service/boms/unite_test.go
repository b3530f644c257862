package boms_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// One function that is bought as several parts: the whole build is worked out anew with each of them, and what it saves is said only where the same pieces have a price.
func TestWhatOnePartForOneFunctionSaves(t *testing.T) {
	h := market(t)
	second, nobody := released(t, h, "4k7", "WP-1"), released(t, h, "4k7", "NP-1")
	shop(t, h, "Third Shop", "EUR", "T1,Tidewright,WP-1,active,5000,1,0.05\n")
	b := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-1\nR2,1,WP-1\nR3,1,TW-2\nR4,1,WP-1\n")
	reader := h.As("rita", deed.Reader)
	got, err := h.BOMs.Unite(t.Context(), reader, wire.BOMAt{BOM: b.ID}, 10)
	require.NoError(t, err)
	says := func(got wire.BOMFunctions) (out []string) {
		for _, f := range got.Items {
			for _, p := range f.Parts {
				out = append(out, fmt.Sprint(p.MPN, " ", p.Rows, " ", p.Sum, " ", p.Missing, " ", p.Saves, p.Why))
			}
		}
		return out
	}
	// 10 of TW-1 cost 6.40 DKK, 0.80 EUR; 20 of WP-1 cost 1.00; 10 of TW-2 cost 4.00. 30 of WP-1 are 1.50, 30 of TW-1 are 100 at 0.02.
	assert.Equal(t, []any{int64(10), "5.80 EUR", int64(0)}, []any{got.Boards, got.Sum.String(), got.Missing})
	assert.Equal(t, []string{"WP-1 [3 5] 5.50 EUR 0 0.30 EUR", "TW-1 [2] 6.00 EUR 0 -0.20 EUR"}, says(got))

	// Of what nobody sells more pieces would be without a price: no sum without them is a saving. Nor is one with pieces that have none now.
	b = h.Board(t, "Board B", "Ref,Qty,MPN\nR1,1,WP-1\nR2,1,NP-1\n")
	got, err = h.BOMs.Unite(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, 10)
	require.NoError(t, err)
	assert.Equal(t, int64(10), got.Missing)
	assert.Equal(t, []string{"WP-1 [2] 1.00 EUR 0 10 pieces have no price as it is", "NP-1 [3]  20 10 more pieces would have no price"}, says(got))
	assert.Equal(t, []string{second.Number, nobody.Number}, []string{got.Items[0].Parts[0].Number, got.Items[0].Parts[1].Number})

	released(t, h, "4k7", "NP-2")
	b = h.Board(t, "Board D", "Ref,Qty,MPN\nR1,1,NP-2\nR2,1,NP-1\nR3,1,TW-2\n")
	got, err = h.BOMs.Unite(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, 10)
	require.NoError(t, err)
	assert.Equal(t, []string{"NP-2 [2] 4.00 EUR 20 it has no price", "NP-1 [3] 4.00 EUR 20 it has no price"}, says(got), "what nobody sells saves nothing")

	none := h.Board(t, "Board C", "Ref,Qty,MPN\nR1,1,WP-1\nR2,1,TW-2\n")
	got, err = h.BOMs.Unite(t.Context(), h.Me, wire.BOMAt{BOM: none.ID}, 10)
	require.NoError(t, err)
	assert.Empty(t, got.Items)
	_, err = h.BOMs.Unite(t.Context(), h.Me, wire.BOMAt{BOM: none.ID}, -1)
	housetest.Fails(t, err, "boards-wrong")
}

// A build has a day: what is short says when more come, and whether that is too late.
func TestABuildHasADay(t *testing.T) {
	h := market(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Slow Shop\ncurrency: EUR\ndecimalMark: point\nread: {form: table, product: {manufacturer: Make, mpn: Type, state: State}, offers: {paths: {number: Code, stock: Left, lead: Lead}}, breaks: {paths: {from: From, price: Price}}}\n"})
	require.NoError(t, err)
	priced(t, h, "Slow Shop", "Code,Make,Type,State,Left,Lead,From,Price\nS3,Tidewright,TW-3,active,5,84 days,1,0.10\n")
	b := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-3\nR2,1,TW-1\n")
	say := func(due string) wire.BOM {
		t.Helper()
		now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		now, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, now.Version, wire.BOMBuild{Boards: 10, Due: &due})
		require.NoError(t, err)
		return now
	}
	assert.Nil(t, found(say("").Lines[0], "lead-late"))
	late := found(say("2027-01-15").Lines[0], "lead-late")
	require.NotNil(t, late)
	assert.Equal(t, "more of it come in 84 days, on 2027-02-21, and the build is on 2027-01-15", late.What)
	assert.Nil(t, found(say("2027-02-21").Lines[0], "lead-late"))
	now := say("2027-01-15")
	assert.Nil(t, found(now.Lines[1], "stock-short"))
	odd := "15.1.2027"
	_, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, now.Version, wire.BOMBuild{Boards: 10, Due: &odd})
	housetest.Fails(t, err, "day-wrong")
	now, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, now.Version, wire.BOMBuild{Boards: 20})
	require.NoError(t, err)
	assert.Equal(t, "2027-01-15", now.Due, "what is left out stays as it was")
}

// A record of which no source is made any more, as suppliers say, is a finding of its lines; one of which a source is, or nobody says so, is none.
func TestALineSaysThatNoSourceIsMadeStill(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", "Ref,Qty,MPN\nR1,1,TW-3\nR2,1,TW-1\n")
	unmade := func() (rows []int) {
		now, err := h.BOMs.Get(t.Context(), h.Me, b.ID)
		require.NoError(t, err)
		for _, l := range now.Lines {
			if f := found(l, "not-made"); f != nil {
				assert.Contains(t, f.What, l.Part.Number+" is in production still")
				rows = append(rows, l.Row)
			}
		}
		return rows
	}
	assert.Empty(t, unmade(), "nobody says anything of TW-3")
	shop(t, h, "Late Shop", "EUR", "L3,Tidewright,TW-3,obsolete,5,1,0.10\nL1,Tidewright,TW-1,obsolete,5,1,0.10\n")
	assert.Equal(t, []int{2}, unmade(), "others make TW-1 still")
}
