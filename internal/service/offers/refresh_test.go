package offers_test

import (
	"fmt"
	"io"
	"net/http"
	"net/http/httptest"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// stocked makes n parts whose sources are resistors of the market, and says their numbers by part number of the maker.
func stocked(t *testing.T, h housetest.House, n int) map[string]string {
	t.Helper()
	out := map[string]string{}
	for i := 0; len(out) < n; i++ {
		exp, digits := i/24, []string{"1K", "1K1", "1K2", "1K3", "1K5", "1K6", "1K8", "2K", "2K2", "2K4", "2K7", "3K", "3K3", "3K6", "3K9", "4K3", "4K7", "5K1", "5K6", "6K2", "6K8", "7K5", "8K2", "9K1"}[i%24]
		mpn := fmt.Sprintf("TW-%s-%s-F", []string{"0402", "0603", "0805", "1206"}[exp], digits)
		p, err := h.Parts.Create(t.Context(), h.Me, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": strings.ReplaceAll(digits, "K", "k"), "tolerance": "1 %", "case": []string{"0402", "0603", "0805", "1206"}[exp]}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn}}})
		require.NoError(t, err)
		out[mpn] = p.Number
	}
	return out
}

func refresh(t *testing.T, h housetest.House, in wire.RefreshOffers) wire.Refreshed {
	t.Helper()
	j, err := h.Offers.Refresh(t.Context(), h.Me, in)
	require.NoError(t, err)
	done := h.Wait(j)
	require.Equal(t, "done", done.State, done.Error)
	require.NotNil(t, done.Refreshed)
	return *done.Refreshed
}

func TestARefreshKeepsWhatEachSupplierOffers(t *testing.T) {
	h, m := suppliers(t)
	parts := stocked(t, h, 60)
	got := refresh(t, h, wire.RefreshOffers{Lists: true})
	assert.Equal(t, 60, got.Sources)
	for _, a := range got.Answers {
		assert.Equal(t, "answered", a.State, "%s: %s", a.Supplier, a.Says)
		assert.Greater(t, a.Products, 20, a.Supplier)
	}
	assert.LessOrEqual(t, m.Asked(market.Northquay), 3, "by lots")
	several := 0
	for mpn, number := range parts {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 100)
		require.NoError(t, err)
		names := map[string]bool{}
		for _, one := range o.Sources[0].Offers {
			assert.Equal(t, mpn, one.MPN, "an offer is of the source that it names")
			assert.Equal(t, "tidewright", strings.ToLower(one.Manufacturer))
			names[one.Supplier] = true
		}
		if len(names) > 2 {
			several++
		}
	}
	assert.Greater(t, several, 20)

	// What became otherwise is news, once; what did not is none.
	before := m.Asked(market.Sandbar)
	got = refresh(t, h, wire.RefreshOffers{})
	assert.Equal(t, []int{0, before}, []int{got.News, m.Asked(market.Sandbar)}, "what was asked ten minutes ago is not asked again")
	var mpn, dear string
	for _, p := range []string{"TW-0402-1K-F", "TW-0402-1K2-F", "TW-0402-1K5-F", "TW-0402-1K8-F", "TW-0402-2K-F", "TW-0402-2K2-F", "TW-0402-2K7-F", "TW-0402-3K3-F"} {
		o, err := h.Offers.OfPart(t.Context(), h.Me, parts[p], 100)
		require.NoError(t, err)
		if len(o.Sources[0].Offers) > 1 && o.Sources[0].Offers[0].State != "" && len(o.News) == 0 {
			if mpn == "" {
				mpn = p
			} else {
				dear = p
			}
		}
	}
	require.NotEmpty(t, dear)
	m.End(mpn)
	m.Reprice(dear, 150)
	refresh(t, h, wire.RefreshOffers{Parts: []string{parts[mpn], parts[dear]}, Lists: true})
	o, err := h.Offers.OfPart(t.Context(), h.Me, parts[mpn], 100)
	require.NoError(t, err)
	require.NotEmpty(t, o.News)
	for _, n := range o.News {
		assert.Equal(t, []string{"state", "obsolete", "Tidewright " + mpn}, []string{n.What, n.Propose, n.Source})
	}
	o, err = h.Offers.OfPart(t.Context(), h.Me, parts[dear], 100)
	require.NoError(t, err)
	require.NotEmpty(t, o.News)
	for _, n := range o.News {
		assert.Equal(t, "price", n.What, n.Says)
	}
	points := 0
	for _, p := range o.History {
		if p.Total != nil {
			points++
		}
	}
	assert.Greater(t, points, len(o.Sources[0].Offers), "how it was is kept")
	all, err := h.Offers.News(t.Context(), h.Me, 0, 100)
	require.NoError(t, err)
	n, err := h.Offers.Settle(t.Context(), h.Me, wire.SettleNews{IDs: []string{o.News[0].ID}})
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	after, err := h.Offers.News(t.Context(), h.Me, 0, 100)
	require.NoError(t, err)
	assert.Equal(t, all.Total-1, after.Total)
}

// Two instances that refresh side by side ask each source once.
func TestTwoInstancesAskEachSourceOnce(t *testing.T) {
	h, m := suppliers(t)
	stocked(t, h, 48)
	other := h.Beside(reaching(m))
	var wg sync.WaitGroup
	jobs := make([]wire.Job, 2)
	for i, house := range []housetest.House{h, other} {
		wg.Go(func() {
			j, err := house.Offers.Refresh(t.Context(), house.Me, wire.RefreshOffers{})
			assert.NoError(t, err)
			jobs[i] = j
		})
	}
	wg.Wait()
	for _, j := range jobs {
		assert.Equal(t, "done", h.Wait(j).State)
	}
	assert.Equal(t, 48, m.Asked(market.Sandbar), "one question a source: Sandbar has no lots")
	assert.LessOrEqual(t, m.Asked(market.Northquay), 2)
}

// What a supplier could not answer is asked for again by the next refresh, and nothing else.
func TestTroubleInTheMiddleOfARefreshLosesNothing(t *testing.T) {
	h, m := suppliers(t)
	parts := stocked(t, h, 24)
	refresh(t, h, wire.RefreshOffers{Parts: []string{parts["TW-0402-1K-F"]}}) // the token is there
	for _, f := range []market.Faults{{Fail: 1, Cut: 1}, {Busy: 1}} {
		m.Happen(market.Sandbar, f)
	}
	m.Happen(market.Harbour, market.Faults{Cut: 99})
	got := refresh(t, h, wire.RefreshOffers{})
	states := map[string]string{}
	for _, a := range got.Answers {
		states[a.Supplier] = a.State
	}
	assert.Equal(t, map[string]string{market.Sandbar: "answered", market.Northquay: "answered", market.Harbour: "no answer", market.MarshLane: "answered"}, states)
	m.Happen(market.Harbour, market.Faults{})
	sandbar := m.Asked(market.Sandbar)
	got = refresh(t, h, wire.RefreshOffers{})
	assert.Equal(t, sandbar, m.Asked(market.Sandbar))
	for _, a := range got.Answers {
		if a.Supplier == market.Harbour {
			assert.Equal(t, "answered", a.State)
			assert.Greater(t, a.Products, 5)
		}
	}
	news, err := h.Offers.News(t.Context(), h.Me, 0, 100)
	require.NoError(t, err)
	for _, n := range news.Items {
		assert.Equal(t, "state", n.What, "what could not be asked for is not gone")
	}
}

// The limits of a connection hold for all instances together.
func TestLimitsHoldForAllInstancesTogether(t *testing.T) {
	h, m := suppliers(t)
	other := h.Beside(reaching(m))
	var mu sync.Mutex
	var waits []time.Duration
	over := 0
	var wg sync.WaitGroup
	for i := range 40 {
		wg.Go(func() {
			s := []*store.Store{h.Store, other.Store}[i%2]
			b, err := s.TakeBudget(t.Context(), "a supplier", 10, 30, 1)
			assert.NoError(t, err)
			mu.Lock()
			defer mu.Unlock()
			if b.Over {
				over++
			} else {
				waits = append(waits, b.Wait)
			}
		})
	}
	wg.Wait()
	assert.Equal(t, 10, over, "thirty a day")
	longest := time.Duration(0)
	for _, w := range waits {
		longest = max(longest, w)
	}
	assert.Greater(t, longest, 1500*time.Millisecond, "ten a second: the last waits for its turn")
	used, err := h.Store.Read(t.Context()).UsedToday()
	require.NoError(t, err)
	assert.Equal(t, 30, used["a supplier"])
}

func TestAPriceListIsFetchedUploadedAndAsked(t *testing.T) {
	h, m := suppliers(t)
	stocked(t, h, 24)
	refresh(t, h, wire.RefreshOffers{Lists: true})
	a := ask(t, h, wire.SupplierQuestion{Text: "4k7 0805 1%"})
	for _, s := range a.Suppliers {
		if s.Supplier == market.MarshLane {
			assert.Equal(t, []any{"answered", true}, []any{s.State, s.Fit > 0}, s.Says)
			assert.Equal(t, s.Fit, s.Products, "our own reader asks the list: what it finds fits")
		}
	}
	asked := m.Asked(market.MarshLane)
	refresh(t, h, wire.RefreshOffers{Lists: true})
	assert.Equal(t, asked+1, m.Asked(market.MarshLane))
	c, err := h.Offers.Connection(t.Context(), h.Me, market.MarshLane)
	require.NoError(t, err)
	require.NotNil(t, c.List)
	assert.True(t, c.List.Checked.After(c.List.At), "it was the same list")

	text := "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Our code, stock: Left}}, breaks: {at: {\"1\": Each}}, fields: {rest: true}}\n"
	_, err = h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: text})
	require.NoError(t, err)
	upload := func(name, body string) error {
		f, err := h.Files.Keep(t.Context(), h.Me, name, strings.NewReader(body))
		require.NoError(t, err)
		_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
		return err
	}
	require.NoError(t, upload("corner.csv", "Our code,Make,Type,Left,Each,Resistance,Case\nC1,Tidewright,TW-0402-1K-F,700,0.021,1k,0402\nC2,Tidewright,TW-0402-2K-F,x,0.021,2k,0402\n"))
	got := refresh(t, h, wire.RefreshOffers{})
	for _, s := range got.Answers {
		if s.Supplier == "Corner Shop" {
			assert.Equal(t, []any{"answered", 2}, []any{s.State, s.Products}, s.Says)
		}
	}
	assert.ErrorContains(t, upload("other.csv", "Code,Make,Type\nC1,A,B\n"), `has no column "Each", "Left", "Our code"`)
	assert.ErrorContains(t, upload("empty.csv", "Our code,Make,Type,Left,Each\nC1,Tidewright,,700,0.021\n"), "no product of the file can be read")
	c, err = h.Offers.Connection(t.Context(), h.Me, "Corner Shop")
	require.NoError(t, err)
	assert.Equal(t, []string{"uploaded", "corner.csv"}, []string{c.Kind, c.List.Name}, "what is wrong changes nothing")
}

// No secret is in any row of the database, and none in what is said.
func TestNoSecretIsKeptOrSaid(t *testing.T) {
	h, m := suppliers(t)
	m.Happen(market.Northquay, market.Faults{Fail: 3})
	ask(t, h, wire.SupplierQuestion{Text: "4k7 0805"})
	stocked(t, h, 3)
	refresh(t, h, wire.RefreshOffers{Lists: true})
	for _, c := range []string{market.Northquay, market.Harbour, market.Sandbar} {
		shown, err := h.Offers.Connection(t.Context(), h.Me, c)
		require.NoError(t, err)
		for name, secret := range market.Secrets {
			assert.NotContains(t, fmt.Sprintf("%+v", shown), secret, name)
		}
	}
	for name, secret := range market.Secrets {
		assert.Empty(t, h.Holding(secret), "the secret %s is in the database", name)
	}
}

// A supplier's number that a part has joins an offer whose maker is written otherwise; where the supplier sells something else under it, that is said.
func TestASuppliersNumberJoinsOnlyTheSameProduct(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Corner Shop\ncurrency: EUR\nread: {form: table, product: {manufacturer: Make, mpn: Type}, offers: {paths: {number: Code, stock: Left}}, breaks: {at: {\"1\": Each}}}\n"})
	require.NoError(t, err)
	made := func(mpn, number string) string {
		p, err := h.Parts.Create(t.Context(), h.Me, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "1k"}, Sources: []part.Source{{Manufacturer: "Tidewright", MPN: mpn, Numbers: []part.Number{{Supplier: "Corner Shop", Number: number}}}}})
		require.NoError(t, err)
		return p.Number
	}
	same, other, none := made("TW-1", "C1"), made("TW-2", "C2"), made("TW-3", "C9")
	f, err := h.Files.Keep(t.Context(), h.Me, "corner.csv", strings.NewReader("Code,Make,Type,Left,Each\nC1,Tidewright Resistor Works,TW 1,700,0.02\nC2,Kelpline,KL-7,5,0.50\nC3,Someone,TW-3,5,0.50\n"))
	require.NoError(t, err)
	_, err = h.Offers.UploadList(t.Context(), h.Me, "Corner Shop", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(t, err)
	h.Level()
	got := refresh(t, h, wire.RefreshOffers{})
	assert.Equal(t, []string{"Corner Shop sells Kelpline KL-7 under C2, which a part has as its number of Tidewright TW-2: it was not kept as an offer of that."}, got.Problems)
	for number, offers := range map[string]int{same: 1, other: 0, none: 0} {
		o, err := h.Offers.OfPart(t.Context(), h.Me, number, 1)
		require.NoError(t, err)
		assert.Len(t, o.Sources[0].Offers, offers, number)
	}
}

// A supplier that is asked by words only and finds nothing says nothing of a product; one that is asked by its number, and does not know it, does.
func TestOnlyAQuestionByNumberSaysThatAProductIsGone(t *testing.T) {
	known := true
	srv := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		if known {
			_, _ = io.WriteString(w, `{"hits":[{"no":"W1","maker":"Tidewright","type":"TW-1","left":"5","price":"0.10"}]}`)
			return
		}
		_, _ = io.WriteString(w, `{"hits":[]}`)
	}))
	defer srv.Close()
	for kind, gone := range map[string]bool{`words: { path: /, query: { q: "{words}" } }`: false, `words: { path: /, query: { q: "{words}" } }, number: { path: /, query: { n: "{number}" } }`: true} {
		known = true
		h := housetest.Open(t, func(o *app.Options) { o.Guard = reach.Guard{Inside: []string{"127.0.0.1:*"}} })
		_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Words\naddress: " + srv.URL + "\ncurrency: EUR\nask: { " + kind + " }\nread: { form: json, products: \"$.hits[*]\", product: { manufacturer: $.maker, mpn: $.type }, offers: { paths: { number: $.no, stock: $.left } }, breaks: { paths: { price: $.price } } }\n"})
		require.NoError(t, err)
		p := h.Make(housetest.Rated("4k7", "TW-1"))
		h.Level()
		refresh(t, h, wire.RefreshOffers{Parts: []string{p.Number}})
		known = false
		refresh(t, h, wire.RefreshOffers{Parts: []string{p.Number}})
		o, err := h.Offers.OfPart(t.Context(), h.Me, p.Number, 1)
		require.NoError(t, err)
		require.Len(t, o.Sources[0].Offers, 1)
		assert.Equal(t, gone, o.Sources[0].Offers[0].Gone, kind)
	}
}
