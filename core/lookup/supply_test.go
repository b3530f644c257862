package lookup

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
)

func brief(stock int64, lead int32, stands lifecycle.Standing, prices ...int64) offer.Brief {
	b := offer.Brief{Stock: stock, LeadDays: lead, Stands: stands}
	from := int64(1)
	for _, p := range prices {
		b.Breaks = append(b.Breaks, offer.BriefBreak{From: from, Thousand: p})
		from *= 10
	}
	return b
}

// market is four parts, one of two sources, and what suppliers offer of them.
func market() *Index {
	x := New()
	two := entry("R-2", "4.7 kΩ", "0603", "B")
	two.Sources = append(two.Sources, part.Source{Manufacturer: "Kelpline", MPN: "B2"})
	x.Put(entry("R-1", "1 kΩ", "0805", "A"), two, entry("R-3", "47 kΩ", "0805", "C"), entry("R-4", "100 Ω", "0402", "D"))
	x.Supply("EUR", []Supply{
		{Key: "tidewright|A", Offers: []Offered{{"Quay", brief(500, 14, lifecycle.Active, 30_000_000, 20_000_000, 10_000_000)}, {"Finch", brief(0, 3, lifecycle.NotForNew, 9_000_000)}}},
		{Key: "tidewright|B", Offers: []Offered{{"Quay", brief(50, -1, lifecycle.Obsolete, 5_000_000)}}},
		{Key: "kelpline|B2", Offers: []Offered{{"Quay", brief(70, -1, lifecycle.Active, 40_000_000)}, {"Quay", brief(60, -1, lifecycle.Active, 50_000_000)}}},
		{Key: "tidewright|C", Offers: []Offered{{"Sandbar", brief(-1, -1, "")}}},
	})
	return x
}

func TestPartsAreFilteredAndSortedByWhatIsOffered(t *testing.T) {
	x := market()
	for _, c := range []struct {
		filters map[string][]string
		pieces  int64
		want    []string
	}{
		{map[string][]string{colStock: {"100.."}}, 0, []string{"R-1", "R-2"}},
		{map[string][]string{colStock: {"121.."}}, 0, []string{"R-1"}},
		{map[string][]string{colStock: {"..120"}}, 0, []string{"R-2"}},
		{map[string][]string{colStock: {"-"}}, 0, []string{"R-3", "R-4"}},
		{map[string][]string{colStock: {"500", "120"}}, 0, []string{"R-1", "R-2"}},
		{map[string][]string{colPrice: {"..1.00"}}, 100, []string{"R-1", "R-2"}},
		{map[string][]string{colPrice: {"0.5..5"}}, 100, []string{"R-1", "R-2"}},
		{map[string][]string{colPrice: {"..0.5"}}, 100, []string{"R-2"}},
		{map[string][]string{colPrice: {"..0.49"}}, 100, nil},
		{map[string][]string{colPrice: {"..0.26"}}, 50, []string{"R-2"}},
		{map[string][]string{colPrice: {"-"}}, 50, []string{"R-3", "R-4"}},
		{map[string][]string{colLead: {"..10"}}, 0, []string{"R-1"}},
		{map[string][]string{colLead: {"4.."}}, 0, nil},
		{map[string][]string{colBuyable: {"1"}}, 0, []string{"R-1", "R-2", "R-3"}},
		{map[string][]string{colBuyable: {"2.."}}, 0, nil},
		{map[string][]string{colState: {"Active"}}, 0, []string{"R-2"}},
		{map[string][]string{colState: {"not for new designs", "-"}}, 0, []string{"R-1", "R-3", "R-4"}},
		{map[string][]string{colStock: {"100.."}, colState: {"active"}}, 0, []string{"R-2"}},
		{map[string][]string{colStock: {"many"}}, 0, nil},
		{map[string][]string{colStock: {""}}, 0, nil},
		{map[string][]string{colPrice: {"..a"}}, 0, nil},
		{map[string][]string{colNamed: {"1"}}, 0, []string{"R-1", "R-3", "R-4"}},
		{map[string][]string{colNamed: {"2.."}}, 0, []string{"R-2"}},
		{map[string][]string{"offer.nothing": {"1.."}}, 0, nil},
	} {
		assert.Equal(t, c.want, numbers(x.Search(Query{Filters: c.filters, Pieces: c.pieces})), fmt.Sprint(c.filters, c.pieces))
	}
	assert.Equal(t, []string{"R-2", "R-1", "R-3", "R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: colStock}}})), "what nobody says comes last")
	assert.Equal(t, []string{"R-1", "R-2", "R-3", "R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: colStock, Down: true}}})))
	assert.Equal(t, []string{"R-2", "R-1", "R-3", "R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: colPrice}}, Pieces: 100})))
	assert.Equal(t, []string{"R-1", "R-2", "R-3", "R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: colPrice, Down: true}}, Pieces: 100})))
	assert.Equal(t, []string{"R-2", "R-1", "R-3", "R-4"}, numbers(x.Search(Query{Sort: []Order{{Key: colPrice}}, Pieces: 50})))

	a := x.Search(Query{Text: "R-1", Pieces: 200, Facets: true})
	require.NotNil(t, a.Rows[0].Supply)
	days := 3
	stock := int64(500)
	assert.Equal(t, RowSupply{Stock: &stock, Price: "2.00 EUR", LeadDays: &days, Sources: 1, State: "not for new designs"}, *a.Rows[0].Supply)
	for key, want := range map[string]string{colStock: "500", colPrice: "2.00 EUR", colLead: "3", colBuyable: "1", colNamed: "1", colState: "not for new designs", "case": ""} {
		assert.Equal(t, want, a.Rows[0].SupplyText(key), key)
		_, column := SupplyColumn(key)
		assert.Equal(t, key != "case", column, key)
	}
	nobody := x.Search(Query{Text: "R-3"}).Rows[0]
	for _, key := range []string{colStock, colPrice, colLead, colState} {
		assert.Empty(t, nobody.SupplyText(key), key)
	}
	assert.Nil(t, x.Search(Query{Text: "R-4"}).Rows[0].Supply)
	a = x.Search(Query{Facets: true, Filters: map[string][]string{colState: {"active"}}})
	for _, f := range a.Facets {
		if f.Key == colState {
			assert.Equal(t, []FacetValue{{"active", 1}, {"not for new designs", 1}}, f.Values, "counted without its own filter")
			assert.Equal(t, 2, f.Blank)
		}
	}
}

func TestAFilterOfOffersThatCannotBeReadSaysWhy(t *testing.T) {
	for _, good := range [][2]string{{colStock, "5"}, {colStock, " 5 .. 10 "}, {colPrice, "..0.05"}, {colState, "Obsolete"}, {colLead, "-"}, {"case", "many"}} {
		assert.NoError(t, CheckSupplyFilter(good[0], good[1]), good)
	}
	for _, bad := range [][2]string{{colStock, "many"}, {colStock, ".."}, {colStock, ""}, {colStock, "1.5.."}, {colPrice, "cheap"}, {colPrice, "..-1"}, {colPrice, "1e9"}, {colState, "gone"}, {colLead, "2 weeks"}, {"offer.weight", "1"}} {
		assert.Error(t, CheckSupplyFilter(bad[0], bad[1]), bad)
	}
}

// What is offered stays with its sources, whatever becomes of the parts that have them, and of the index.
func TestOffersStayWithTheirSources(t *testing.T) {
	x := market()
	in := func() []string { return numbers(x.Search(Query{Filters: map[string][]string{colStock: {"1.."}}})) }
	moved := entry("R-1", "1 kΩ", "0805", "D") // the part has another source now
	moved.Version = 2
	x.Put(moved)
	assert.Equal(t, []string{"R-2"}, in())
	has := entry("R-4", "100 Ω", "0402", "A")
	has.Version = 2
	x.Put(has)
	assert.Equal(t, []string{"R-2", "R-4"}, in(), "a part that comes later with the source has its offers")
	require.NoError(t, x.Renew(nil, nil))
	assert.Equal(t, []string{"R-2", "R-4"}, in(), "built anew")
	x.Supply("EUR", []Supply{{Key: "tidewright|A"}})
	assert.Equal(t, []string{"R-2"}, in(), "offered by nobody any more")
	x.Remove("R-2")
	assert.Empty(t, in())
	assert.Equal(t, 3, x.Supplied())
}

// Whatever is offered, the index says what going through all parts one by one would.
func TestLookingThroughOffersIsGoingThroughAllParts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := New()
		type row struct {
			number       string
			stock, price int64
		}
		n := rapid.IntRange(1, 30).Draw(t, "parts")
		pieces := rapid.SampledFrom([]int64{1, 7, 100, 250}).Draw(t, "pieces")
		var all []row
		for i := range n {
			number, mpn := fmt.Sprintf("R-%d", i+1), fmt.Sprintf("M%d", i)
			x.Put(entry(number, "1 kΩ", "0805", mpn))
			r := row{number, -1, -1}
			if rapid.Bool().Draw(t, "offered") {
				b := brief(rapid.Int64Range(-1, 500).Draw(t, "stock"), -1, "", rapid.Int64Range(1, 1000).Draw(t, "price")*1_000_000)
				x.Supply("EUR", []Supply{{Key: "tidewright|" + mpn, Offers: []Offered{{"Quay", b}}}})
				r.stock = b.Stock
				r.price, _, _ = b.Total(pieces)
			}
			all = append(all, r)
		}
		least := rapid.Int64Range(0, 400).Draw(t, "least")
		var want []string
		sorted := slices.Clone(all)
		slices.SortStableFunc(sorted, func(a, b row) int {
			return cmp.Or(cmp.Compare(uint64(a.price), uint64(b.price))) // -1, nobody says, comes last
		})
		for _, r := range sorted {
			if r.stock >= least {
				want = append(want, r.number)
			}
		}
		got := x.Search(Query{Filters: map[string][]string{colStock: {strconv.FormatInt(least, 10) + ".."}}, Sort: []Order{{Key: colPrice}}, Pieces: pieces, Limit: 100})
		assert.Equal(t, want, numbers(got))
		for _, r := range got.Rows {
			i := slices.IndexFunc(all, func(a row) bool { return a.number == r.Number })
			if all[i].price >= 0 {
				exact, err := money.New(strconv.FormatInt(all[i].price, 10), "EUR")
				require.NoError(t, err)
				assert.Equal(t, exact.Line(1, 1_000_000).String(), r.Supply.Price)
			}
		}
	})
}

// Offers that come while the index is asked, changed and built anew are all there in the end.
func TestOffersThatComeMeanwhileAreThere(t *testing.T) {
	x := New()
	const parts = 300
	var all sync.WaitGroup
	all.Go(func() {
		for i := range parts {
			x.Put(entry(fmt.Sprintf("R-%d", i), "1 kΩ", "0805", fmt.Sprintf("M%d", i)))
		}
	})
	all.Go(func() {
		for i := range parts {
			x.Supply("EUR", []Supply{{Key: fmt.Sprintf("tidewright|M%d", i), Offers: []Offered{{"Quay", brief(int64(i), -1, "", 1_000_000)}}}})
		}
	})
	all.Go(func() {
		for range 20 {
			assert.NoError(t, x.Renew(nil, nil))
		}
	})
	all.Go(func() {
		for range 100 {
			x.Search(Query{Filters: map[string][]string{colStock: {"1.."}}, Sort: []Order{{Key: colPrice}}, Facets: true})
		}
	})
	all.Wait()
	a := x.Search(Query{Filters: map[string][]string{colStock: {"0.."}}, Sort: []Order{{Key: colStock, Down: true}}, Limit: parts})
	require.Equal(t, parts, a.Total)
	for i, r := range a.Rows {
		assert.Equal(t, int64(parts-1-i), *r.Supply.Stock)
	}
}
