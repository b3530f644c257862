package boms_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/bom"
	"jollydrawer/core/buying"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// shop is a supplier whose price list somebody uploads; the offers of the library's sources are looked up in it.
func shop(t *testing.T, h housetest.House, name, currency, list string) {
	t.Helper()
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: " + name + "\ncurrency: " + currency + "\ndecimalMark: point\nread: {form: table, product: {manufacturer: Make, mpn: Type, state: State}, offers: {paths: {number: Code, stock: Left}}, breaks: {paths: {from: From, price: Price}}}\n"})
	require.NoError(t, err)
	priced(t, h, name, "Code,Make,Type,State,Left,From,Price\n"+list)
}

// priced uploads the list of a shop, and looks its offers up.
func priced(t *testing.T, h housetest.House, shop, list string) {
	t.Helper()
	f, err := h.Files.Keep(t.Context(), h.Me, shop+".csv", strings.NewReader(list))
	require.NoError(t, err)
	_, err = h.Offers.UploadList(t.Context(), h.Me, shop, wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(t, err)
	j, err := h.Offers.Refresh(t.Context(), h.Me, wire.RefreshOffers{})
	require.NoError(t, err)
	require.Equal(t, "done", h.Wait(j).State)
	require.NoError(t, h.Offers.Level(t.Context()))
}

// market is a house with three released resistors and two shops that sell two of them.
func market(t *testing.T) housetest.House {
	h := housetest.Open(t)
	for i, ohms := range []string{"4k7", "10k", "33k"} {
		released(t, h, ohms, fmt.Sprintf("TW-%d", i+1))
	}
	h.Level()
	now := time.Date(2026, 11, 29, 12, 0, 0, 0, time.UTC)
	h.Now = func() time.Time { return now }
	_, err := h.Offers.ApplyRates(t.Context(), h.Me, 0, wire.RatesEdit{Text: "format: jolly-rates/1\nhouse: EUR\nrates:\n  - { one: EUR, is: \"8\", of: DKK, on: 2026-11-01 }\n"})
	require.NoError(t, err)
	shop(t, h, "Corner Shop", "EUR", "C1,Tidewright,TW-1,active,5000,1,0.10\nC1,Tidewright,TW-1,active,5000,100,0.02\nC2,Tidewright,TW-2,active,30,1,0.40\n")
	shop(t, h, "Isle Shop", "DKK", "I1,Tidewright,TW-1,active,9000,1,0.64\nI2,Tidewright,TW-2,active,9000,1,4.00\n")
	return h
}

const costly = "Ref,Qty,Value,MPN,Fit\n\"R1,R2\",2,4k7,TW-1,\nR3,1,10k,TW-2,\nR4,1,4k7,TW-1,\nR5,1,33k,TW-3,\nR6,1,68k,,\nR7,1,10k,TW-2,no\n"

func TestWhatAFrozenBuildWouldComeToNow(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", "Ref,Qty,Value,MPN\n\"R1,R2,R5,R6\",4,4k7,TW-1\nR3,1,10k,TW-2\nR4,1,33k,TW-3\n")
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10})
	require.NoError(t, err)
	frozen(t, h, b)
	now := func() (says map[string]string, sum string) {
		f, err := h.BOMs.Revision(t.Context(), h.Me, "board a", 1)
		require.NoError(t, err)
		says = map[string]string{}
		for _, c := range f.Now.Changes {
			says[strings.Join(c.Designators, " ")] = strings.Join(c.Says, "; ")
		}
		return says, f.Now.Sum.String()
	}
	says, sum := now()
	assert.Equal(t, []any{map[string]string{}, "6.00 EUR"}, []any{says, sum}, "100 of TW-1 at 0.02, 10 of TW-2 at 0.40; nobody has TW-3")
	// one shop's list has less of one part, and another one
	priced(t, h, "Corner Shop", "Code,Make,Type,State,Left,From,Price\nC1,Tidewright,TW-1,active,5000,1,0.30\nC2,Tidewright,TW-2,active,4,1,0.40\nC3,Tidewright,TW-3,active,90,1,1.00\n")
	says, sum = now()
	assert.Equal(t, map[string]string{
		"R1 R2 R5 R6": "it would be bought from Isle Shop at 0.64 DKK, and was from Corner Shop at 0.02 EUR; 40 are paid, and 100 were",
		"R3":          "it would be bought from Isle Shop at 4.00 DKK, and was from Corner Shop at 0.40 EUR",
		"R4":          "Corner Shop has it now, at 1.00 EUR; it could not be bought then",
	}, says)
	assert.Equal(t, "18.20 EUR", sum, "3.20 and 5.00 of Isle Shop, 10.00 of Corner Shop")
	b, err = h.BOMs.SetBuying(t.Context(), h.Me, b.ID, b.Version+1, wire.BuyingRules{Exclude: []string{"Isle Shop"}})
	require.NoError(t, err)
	_, sum = now()
	assert.Equal(t, "18.20 EUR", sum, "it is bought by the rules that it was costed with")
}

func TestWhatABuildComesTo(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", costly+",2 m,,TW-3,\n")
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 10})
	require.NoError(t, err)
	reader := h.As("rita", deed.Reader)
	c, err := h.BOMs.Cost(t.Context(), reader, wire.BOMAt{BOM: "board a"}, 0, []int64{1, 100})
	require.NoError(t, err)
	says := map[string]string{}
	for _, x := range c.Bought {
		says[strings.Join(x.Designators, ",")] = fmt.Sprint(x.Supplier, " ", x.Pieces, " ", x.Total, " ", x.Short)
	}
	// 30 of TW-1 cost 3.00 at 0.10; 100 of it cost 2.00 at 0.02; 30 of Isle Shop are 19.20 DKK, 2.40 EUR. 10 of TW-2 cost 4.00 EUR, or 40.00 DKK, which are 5.00.
	assert.Equal(t, map[string]string{"R1,R2,R4": "Corner Shop 100 2.00 EUR false", "R3": "Corner Shop 10 4.00 EUR false"}, says)
	assert.Equal(t, []any{int64(10), "6.00 EUR", "0.60 EUR", "2026-11-29"}, []any{c.Boards, c.Sum.String(), c.Board.String(), c.Day})
	var why []string
	for _, u := range c.Unbought {
		why = append(why, strings.Join(u.Designators, ",")+": "+u.Why)
	}
	assert.Equal(t, []string{"R5: no offer is known", "R6: no record is linked", ": 2 m is not counted in pieces"}, why, "what has no price is said, line by line")
	var points []string
	for _, p := range c.Points {
		points = append(points, fmt.Sprint(p.Boards, ": ", p.Board, ", short ", p.Short))
	}
	// One board: 3 of Isle Shop at 0.64 DKK, 0.24 EUR, and 1 at 0.40. A hundred: 300 at 0.02 and, as Corner Shop has 30 of TW-2, 400 DKK.
	assert.Equal(t, []string{"1: 0.64 EUR, short 0", "10: 0.60 EUR, short 0", "100: 0.56 EUR, short 0"}, points)
	assert.Equal(t, bom.Readiness{Lines: 6, Linked: 5, Released: 5, Production: 3, InStock: 3}, c.Ready)

	b, err = h.BOMs.SetBuying(t.Context(), h.Me, b.ID, b.Version, wire.BuyingRules{Exclude: []string{"corner shop"}, Spares: []buying.Spare{{Drawer: "passives", Percent: 10}}})
	require.NoError(t, err)
	c, err = h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, 0, nil)
	require.NoError(t, err)
	assert.Equal(t, []string{"Isle Shop"}, c.Suppliers)
	assert.Equal(t, []int64{33, 11}, []int64{c.Bought[1].Pieces, c.Bought[0].Pieces}, "with a tenth to spare")
	assert.Equal(t, "21.12 DKK", c.Bought[1].Total.String())

	b, err = h.BOMs.Freeze(t.Context(), h.Me, b.ID, b.Version, wire.FreezeBOM{Note: "offer", Anyway: "R5 and R6 are settled on the bench"})
	require.NoError(t, err)
	shop(t, h, "Isle Two", "EUR", "T1,Tidewright,TW-1,active,9000,1,0.001\n")
	f, err := h.BOMs.Revision(t.Context(), h.Me, b.ID, 1)
	require.NoError(t, err)
	assert.Equal(t, []any{c.Sum.String(), []string{"corner shop"}}, []any{f.Cost.Sum.String(), f.Rules.Exclude}, "it is pinned with the prices of its day")
	now, err := h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 1}, 10, nil)
	require.NoError(t, err)
	n, err := now.Sum.Compare(c.Sum)
	require.NoError(t, err)
	assert.Negative(t, n, "and costs less today")
	b = next(t, h, b, strings.Replace(costly, "R4,1,4k7,TW-1,\n", "", 1))
	d, err := h.BOMs.Compare(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 1}, wire.BOMAt{BOM: b.ID})
	require.NoError(t, err)
	// Without Corner Shop: 33 at 0.001 are 0.03 EUR, and 11 at 4.00 DKK 5.50 EUR; then 22 are 0.02 EUR.
	assert.Equal(t, []any{int64(10), "0.55 EUR", 3, "0.55 EUR", 2}, []any{d.Boards, d.Before.Board.String(), d.Before.Missing, d.After.Board.String(), d.After.Missing}, "5.53 and 5.52 EUR for ten boards")
}

func TestWrongWaysToBuyAreRefused(t *testing.T) {
	h := market(t)
	b := h.Board(t, "Board A", costly)
	_, err := h.BOMs.SetBuying(t.Context(), h.Me, b.ID, b.Version, wire.BuyingRules{Prefer: []string{"Isle Shop"}, Exclude: []string{"ISLE SHOP"}, Spares: []buying.Spare{{Drawer: "nowhere"}, {Drawer: "resistors"}, {Drawer: "resistors"}}})
	assert.Len(t, housetest.Fails(t, err, "buying-wrong").Places, 3)
	for _, boards := range []int64{-1, buying.MostBoards + 1} {
		_, err = h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID}, boards, nil)
		housetest.Fails(t, err, "boards-wrong")
	}
	_, err = h.BOMs.Cost(t.Context(), h.Me, wire.BOMAt{BOM: b.ID, Revision: 7}, 10, nil)
	housetest.Fails(t, err, "no-revision")
}
