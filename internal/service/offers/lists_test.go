package offers_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync/atomic"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/finder"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/wire"
)

// cornerShop is a house with a price list that somebody uploads, with a row for each quantity, and a function that uploads one.
func cornerShop(t *testing.T) (housetest.House, func(list string)) {
	t.Helper()
	h := housetest.Open(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\ndecimalMark: point\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Code, stock: Left}}, breaks: {paths: {from: From, price: Price}}}\n"})
	require.NoError(t, err)
	return h, func(list string) {
		t.Helper()
		f, err := h.Files.Keep(t.Context(), h.Me, "corner.csv", strings.NewReader("Code,Make,Type,Left,From,Price\n"+list))
		require.NoError(t, err)
		_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
		require.NoError(t, err)
	}
}

// The rows of a number are one offer, wherever they stand in a list; what they contradict each other in is said and not kept, and no row's order decides.
func TestTheRowsOfANumberAreOneOffer(t *testing.T) {
	h, upload := cornerShop(t)
	var parts []string
	for _, mpn := range []string{"TW-1", "TW-2", "TW-3", "TW-4", "TW-5"} {
		parts = append(parts, h.Make(housetest.Rated("4k7", mpn)).Number)
	}
	h.Level()
	upload("C1,Tidewright,TW-1,700,1,0.10\nC1,Tidewright,TW-1,700,100,0.08\nC1,Tidewright,TW-1,700,1000,0.05\n" + // a row for each quantity
		"C2,Tidewright,TW-2,70,1,0.20\nC3,Tidewright,TW-3,5,1,0.30\nC2,Tidewright,TW-2,70,100,0.15\n" + // with another between
		"C3,Tidewright,TW-3,5,1,0.35\n" + // another price
		"C4,Tidewright,TW-4,5,1,0.30\nC4,Tidewright,TW-5,5,1,0.30\n") // two products
	says := refresh(t, h, wire.RefreshOffers{})
	assert.Equal(t, "1 row of the price list could not be read. The number C4 of row 9 stands for several products; none of them was kept.", says.Answers[0].Says)
	costs := func(number string, pieces int64) string {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, pieces)
		require.NoError(t, err)
		if o.Best == nil {
			return ""
		}
		return o.Best.Buy.Total.String()
	}
	for _, c := range []struct {
		part   int
		pieces int64
		want   string
	}{{0, 10, "1.00 EUR"}, {0, 100, "8.00 EUR"}, {0, 1000, "50.00 EUR"}, {1, 10, "2.00 EUR"}, {1, 100, "15.00 EUR"}, {2, 1, ""}, {3, 1, ""}, {4, 1, ""}} {
		assert.Equal(t, c.want, costs(parts[c.part], c.pieces), "%s for %d", parts[c.part], c.pieces)
	}
	o, err := h.Offers.OfPart(t.Context(), h.Me, parts[2], 1)
	require.NoError(t, err)
	assert.Equal(t, []string{"It has two prices from 1 on, 0.30 EUR and 0.35 EUR; none was kept."}, o.Sources[0].Offers[0].Problems)
	refresh(t, h, wire.RefreshOffers{})
	for _, number := range parts[:3] {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 1)
		require.NoError(t, err)
		assert.Len(t, o.History, 1, "the same list again is no change")
		assert.Empty(t, o.News)
	}
	a := ask(t, h, wire.SupplierQuestion{Text: "TW-1", Pieces: 100})
	require.Len(t, of(t, a, "TW-1").Offers, 1)
	assert.Equal(t, "8.00 EUR", of(t, a, "TW-1").Offers[0].Buy.Total.String())
}

// Of a price list only what became otherwise is fetched, and laid over the one at hand; once a week it is fetched whole.
func TestAPriceListIsBroughtUpToDateByItsChanges(t *testing.T) {
	h, m := suppliers(t)
	var parts, numbers []string
	for _, r := range ask(t, h, wire.SupplierQuestion{Text: "4k7 0805"}).Rows[:4] {
		p := housetest.Rated("4k7", r.MPN)
		p.Sources = []part.Source{{Manufacturer: r.Manufacturer, MPN: r.MPN}}
		parts, numbers = append(parts, h.Make(p).Number), append(numbers, r.MPN)
	}
	h.Level()
	now := time.Now()
	h.Now = func() time.Time { return now }
	paths := func() (out []string) {
		for _, line := range m.Questions(market.MarshLane) {
			path, _, _ := strings.Cut(line, "?")
			out = append(out, strings.TrimPrefix(path, "/marsh-lane/"))
		}
		return out
	}
	news := func(number string) (what []string) {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 100)
		require.NoError(t, err)
		for _, n := range o.News {
			if n.Supplier == market.MarshLane {
				what = append(what, n.What)
			}
		}
		return what
	}
	list := func() wire.PriceList {
		c, err := h.Offers.Connection(t.Context(), h.Me, market.MarshLane)
		require.NoError(t, err)
		return *c.List
	}
	refresh(t, h, wire.RefreshOffers{Lists: true})
	first := list()
	refresh(t, h, wire.RefreshOffers{Lists: true})
	assert.Equal(t, []string{"pricelist.csv", "changes.csv"}, paths())
	assert.Equal(t, first.File, list().File, "nothing is otherwise")
	m.End(numbers[0])
	m.Reprice(numbers[1], 200)
	m.Drop(numbers[2])
	now = now.Add(30 * time.Minute)
	refresh(t, h, wire.RefreshOffers{Lists: true})
	assert.Equal(t, []string{"pricelist.csv", "changes.csv", "changes.csv"}, paths())
	assert.NotEqual(t, first.File, list().File)
	for i, want := range []string{"state", "price", "gone", ""} {
		assert.Equal(t, want, strings.Join(news(parts[i]), " "), numbers[i])
	}
	byChanges := list().File
	now = now.Add(7 * 24 * time.Hour)
	refresh(t, h, wire.RefreshOffers{Lists: true})
	assert.Equal(t, "pricelist.csv", paths()[3], "once a week all of it")
	for i, want := range []string{"state", "price", "gone", ""} {
		assert.Equal(t, want, strings.Join(news(parts[i]), " "), "%s: the whole list says what the changes said", numbers[i])
	}
	assert.NotEqual(t, byChanges, list().File)
}

// What comes as changes and is none, or is of another list, changes nothing: the list is fetched whole.
func TestChangesThatAreNone(t *testing.T) {
	const whole = "Code;Make;Type;Left;Price\nC1;Tidewright;TW-1;700;0,10\nC2;Tidewright;TW-2;7;1,5\n"
	for name, c := range map[string]struct {
		changes string
		status  int
		whole   bool // it is fetched
		left    string
	}{
		"nothing at all":         {"", 200, true, "700 7"},
		"a header only":          {"Code;Make;Type;Left;Price;Out\n", 200, false, "700 7"},
		"one row":                {"Out;Code;Make;Type;Left;Price\n;C2;Tidewright;TW-2;70;1,5\n", 200, false, "700 70"},
		"a row that is out":      {"Out;Code;Make;Type;Left;Price\nx;C1;Tidewright;TW-1;;\n;C3;Tidewright;TW-3;5;1,5\n", 200, false, "gone 7"},
		"not out after all":      {"Out;Code;Make;Type;Left;Price\nno;C1;Tidewright;TW-1;9;0,10\n", 200, false, "9 7"},
		"a column less":          {"Out;Code;Make;Type;Left\n;C2;Tidewright;TW-2;70\n", 200, true, "700 7"},
		"no word of what is out": {"Code;Make;Type;Left;Price\nC2;Tidewright;TW-2;70;1,5\n", 200, true, "700 7"},
		"a row without number":   {"Out;Code;Make;Type;Left;Price\n;;Tidewright;TW-2;70;1,5\n", 200, true, "700 7"},
		"a page":                 {"<!doctype html><title>Sign in</title>", 200, true, "700 7"},
		"trouble":                {"", 400, true, "700 7"},
	} {
		fetched := atomic.Int32{}
		srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if r.URL.Path == "/list" {
				fetched.Add(1)
				_, _ = w.Write([]byte(whole))
				return
			}
			assert.Regexp(t, `^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\dZ \d{4}-\d\d-\d\d$`, r.URL.Query().Get("since"), name)
			w.WriteHeader(c.status)
			_, _ = w.Write([]byte(c.changes))
		}))
		h := housetest.Open(t, func(o *app.Options) { o.Guard = reach.Guard{Inside: []string{"127.0.0.1:*"}} })
		_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Night\naddress: " + srv.URL + "\ncurrency: EUR\ndecimalMark: comma\nlimits: {perSecond: 100}\n" +
			"ask: {list: {path: /list}, changes: {path: /changes, query: {since: \"{since} {day}\"}, gone: Out}}\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Code, stock: Left}}, breaks: {at: {\"1\": Price}}}\n"})
		require.NoError(t, err)
		one, two := h.Make(housetest.Rated("4k7", "TW-1")).Number, h.Make(housetest.Rated("10k", "TW-2")).Number
		h.Level()
		refresh(t, h, wire.RefreshOffers{Lists: true})
		refresh(t, h, wire.RefreshOffers{Lists: true})
		var left []string
		for _, number := range []string{one, two} {
			o, err := h.Offers.OfPart(t.Context(), h.Me, number, 1)
			require.NoError(t, err)
			if is := o.Sources[0].Offers[0]; is.Gone {
				left = append(left, "gone")
			} else {
				left = append(left, fmt.Sprint(*is.Stock))
			}
		}
		assert.Equal(t, c.left, strings.Join(left, " "), name)
		assert.Equal(t, map[bool]int32{true: 2, false: 1}[c.whole], fetched.Load(), name)
		srv.Close()
	}
}

// What a build of a BOM takes is what should be in stock: its lines say where suppliers have less, and news tell when it becomes less.
func TestStockForLessThanABuild(t *testing.T) {
	h, upload := cornerShop(t)
	one, two := h.Make(housetest.Rated("4k7", "TW-1")).Number, h.Make(housetest.Rated("10k", "TW-2")).Number
	h.Level()
	list := func(left1, left2 string) {
		upload("C1,Tidewright,TW-1," + left1 + ",1,0.10\nC2,Tidewright,TW-2," + left2 + ",1,0.20\n")
		refresh(t, h, wire.RefreshOffers{})
	}
	list("700", "90")
	b := h.Board(t, "Gauge", "Designator,Qty,Part number\nR1 R2,2,"+one+"\nR3,1,"+one+"\nR4,1,"+two+"\n")
	short := func() (says []string) {
		b, err := h.BOMs.Get(t.Context(), h.Me, "Gauge")
		require.NoError(t, err)
		for _, l := range b.Lines {
			for _, f := range l.Findings {
				if f.Cause == "stock-short" {
					says = append(says, l.Written+": "+f.What)
				}
			}
		}
		return says
	}
	assert.Empty(t, short(), "nobody said how many are built")
	b, err := h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version, wire.BOMBuild{Boards: 200})
	require.NoError(t, err)
	assert.Equal(t, 200, b.Build)
	assert.Equal(t, []string{"R4: suppliers have 90 of it, and a build of 200 boards takes 200"}, short(), "three of the other: 600 of 700")
	_, err = h.BOMs.SetBuild(t.Context(), h.Me, b.ID, b.Version-1, wire.BOMBuild{Boards: 1})
	housetest.Fails(t, err, "changed-meanwhile")

	news := func(number string) (says []string) {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 100)
		require.NoError(t, err)
		for _, n := range o.News {
			says = append(says, n.Says)
		}
		return says
	}
	list("590", "90")
	assert.Equal(t, []string{"the stock was 700 and is 590, which is less than 600, for a build of 200 Gauge"}, news(one))
	assert.Empty(t, news(two), "it was less before")
	assert.Equal(t, []string{"R1 R2: suppliers have 590 of it, and a build of 200 boards takes 600", "R3: suppliers have 590 of it, and a build of 200 boards takes 600", "R4: suppliers have 90 of it, and a build of 200 boards takes 200"}, short())
	list("600+", "200")
	assert.Empty(t, short())
}

// A price whose time is over is shown as such: it is not the cheapest, is not found by what it cost, and its stock still counts.
func TestPricesThatHaveEndedAreNotUsed(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Code, stock: Left, until: Until}}, breaks: {at: {\"1\": Each}}}\n"})
	require.NoError(t, err)
	now := time.Date(2026, 11, 30, 12, 0, 0, 0, time.UTC)
	h.Now = func() time.Time { return now }
	number := h.Make(housetest.Rated("4k7", "TW-1")).Number
	h.Level()
	f, err := h.Files.Keep(t.Context(), h.Me, "corner.csv", strings.NewReader("Code,Make,Type,Left,Until,Each\nC1,Tidewright,TW-1,700,2026-11-30,0.05\nC2,Tidewright,TW-1,700,2026-12-31,0.09\n"))
	require.NoError(t, err)
	_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(t, err)
	refresh(t, h, wire.RefreshOffers{})
	look := func() (best string, ended []bool, found int, asked string) {
		require.NoError(t, h.Offers.Level(t.Context()))
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 100)
		require.NoError(t, err)
		if o.Best != nil {
			best = o.Best.Buy.Total.String()
		}
		for _, x := range o.Sources[0].Offers {
			ended = append(ended, x.Ended)
		}
		l, err := h.Finder.Search(t.Context(), h.Me, finder.Query{Filters: map[string][]string{"offer.price": {"..6"}}})
		require.NoError(t, err)
		row := of(t, ask(t, h, wire.SupplierQuestion{Text: "TW-1", Pieces: 100}), "TW-1")
		if buy := row.Offers[0].Buy; buy != nil {
			asked = buy.Total.String()
		}
		return best, ended, l.Page.Total, asked
	}
	for _, day := range []struct {
		on, best string
		ended    []bool
		found    int
	}{{"2026-11-30", "5.00 EUR", []bool{false, false}, 1}, {"2026-12-01", "9.00 EUR", []bool{false, true}, 0}, {"2027-01-01", "", []bool{true, true}, 0}} {
		now, err = time.Parse("2006-01-02", day.on)
		require.NoError(t, err)
		best, ended, found, asked := look()
		assert.Equal(t, day.best, best, day.on)
		assert.Equal(t, day.ended, ended, day.on)
		assert.Equal(t, day.found, found, day.on)
		assert.Equal(t, day.best, asked, "%s: as the suppliers are asked", day.on)
	}
}

// Two part numbers that are the same but for their marks are two products where a supplier has both, and one where it writes the only one otherwise.
func TestPartNumbersThatDifferByTheirMarks(t *testing.T) {
	h, upload := cornerShop(t)
	one, other := h.Make(housetest.Rated("4k7", "A1-12")).Number, h.Make(housetest.Rated("10k", "B-77")).Number
	h.Level()
	upload("C1,Tidewright,A11-2,700,1,0.01\nC2,Tidewright,a1-12,5,1,0.50\nC3,Tidewright,B77,70,1,0.20\n")
	refresh(t, h, wire.RefreshOffers{})
	for number, want := range map[string]string{one: "C2", other: "C3"} {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 1)
		require.NoError(t, err)
		require.Len(t, o.Sources[0].Offers, 1, number)
		assert.Equal(t, want, o.Sources[0].Offers[0].Number, number)
	}
	row := of(t, ask(t, h, wire.SupplierQuestion{Text: "A1-12"}), "A11-2")
	assert.Contains(t, row.Differ, "Corner Shop has both A11-2 and a1-12: they may be two products")
	_, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: wire.SupplierQuestion{Text: "A1-12"}, Supplier: "Corner Shop", Number: "C1", Drawer: "chip-resistors"})
	assert.Contains(t, housetest.Fails(t, err, "two-products").What, "Corner Shop has both A11-2 and a1-12")
}
