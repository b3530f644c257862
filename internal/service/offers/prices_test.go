package offers_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/wire"
)

// apartPrices is a supplier whose catalogue says no prices: they are asked for by its numbers, in another form.
type apartPrices struct {
	mu     sync.Mutex
	found  int      // questions to the catalogue
	priced []string // and for prices, by their numbers
	broken bool
	stock  int
}

func (p *apartPrices) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	p.mu.Lock()
	defer p.mu.Unlock()
	if r.URL.Path == "/find" {
		p.found++
		var all []string
		for _, ohms := range []string{"4.7", "10", "22"} {
			all = append(all, fmt.Sprintf(`{"no":"L%s","by":"Tidewright","type":"TW-0805-%sK-F","group":"Resistors, chip","facts":[{"n":"Resistance","v":"%s kΩ"},{"n":"Case","v":"0805"},{"n":"Tolerance","v":"±1 %%"}]}`, ohms, ohms, ohms))
		}
		fmt.Fprintf(w, `{"all":[%s]}`, strings.Join(all, ","))
		return
	}
	numbers := r.URL.Query().Get("of")
	p.priced = append(p.priced, numbers)
	if p.broken {
		w.WriteHeader(http.StatusBadRequest)
		return
	}
	var out []string
	for _, n := range strings.Split(numbers, "+") {
		if n == "L22" { // it has no price of that
			continue
		}
		for _, packing := range []string{"reel", "cut tape"} {
			out = append(out, fmt.Sprintf(`<p no=%q in=%q there="%d"><at n="1">0,05</at><at n="1000">0,012</at></p>`, n, packing, p.stock))
		}
	}
	fmt.Fprintf(w, `<?xml version="1.0"?><prices>%s</prices>`, strings.Join(out, ""))
}

func (p *apartPrices) asked() (found int, priced []string) {
	p.mu.Lock()
	defer p.mu.Unlock()
	return p.found, append([]string{}, p.priced...)
}

func (p *apartPrices) become(f func()) {
	p.mu.Lock()
	defer p.mu.Unlock()
	f()
}

func openApart(t *testing.T, prices string) (housetest.House, *apartPrices, func(*app.Options)) {
	t.Helper()
	p := &apartPrices{stock: 5000}
	srv := httptest.NewServer(p)
	t.Cleanup(srv.Close)
	inside := func(o *app.Options) { o.Guard = reach.Guard{Inside: []string{"127.0.0.1:*"}} }
	h := housetest.Open(t, inside)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: `
format: jolly-connection/1
supplier: Low Water
address: ` + srv.URL + `
decimalMark: comma
currency: EUR
limits: { perSecond: 100 }
ask:
  words: { path: /find, query: { q: "{words}" } }
  numbers: { path: /find, query: { q: "{numbers}" } }
  prices: ` + prices + `
read:
  form: json
  products: $.all[*]
  product: { manufacturer: $.by, mpn: $.type, kind: $.group }
  fields: { each: "$.facts[*]", name: $.n, text: $.v }
  offers: { paths: { number: $.no } }
`})
	require.NoError(t, err)
	return h, p, inside
}

const (
	ownReading = `read: { form: xml, products: /prices/p, product: {}, offers: { paths: { number: "@no", packing: "@in", stock: "@there" } }, breaks: { each: at, paths: { from: "@n", price: . } } }`
	inLots     = `{ path: /prices, query: { of: "{numbers}" }, join: "+", ` + ownReading + ` }`
	oneByOne   = `{ path: /prices, query: { of: "{number}" }, ` + ownReading + ` }`
)

// What a catalogue does not say is asked for by number, in the form that the supplier has for it, and kept with the answer.
func TestStockAndPricesThatAreAQuestionOfTheirOwn(t *testing.T) {
	h, p, inside := openApart(t, inLots)
	q := wire.SupplierQuestion{Text: "resistor 0805", Pieces: 1000}
	a := ask(t, h, q)
	require.Len(t, a.Rows, 3)
	row := of(t, a, "TW-0805-4.7K-F")
	require.Len(t, row.Offers, 2, "both packings")
	assert.Equal(t, []any{int64(5000), "reel", "12.00 EUR"}, []any{*row.Offers[0].Stock, row.Offers[0].Packing, row.Offers[0].Buy.Total.String()})
	bare := of(t, a, "TW-0805-22K-F")
	require.Len(t, bare.Offers, 1)
	assert.Nil(t, bare.Offers[0].Stock)
	found, priced := p.asked()
	assert.Equal(t, []any{1, []string{"L4.7+L10+L22"}}, []any{found, priced}, "all of a page at once")

	other := h.Beside(inside)
	kept := of(t, ask(t, other, q), "TW-0805-4.7K-F")
	assert.Equal(t, "12.00 EUR", kept.Offers[0].Buy.Total.String())
	found, priced = p.asked()
	assert.Equal(t, []int{1, 1}, []int{found, len(priced)}, "what was kept serves")

	got, err := other.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: "Low Water", Number: "L10", Drawer: "chip-resistors"})
	require.NoError(t, err)
	o, err := h.Offers.OfPart(t.Context(), h.Me, got.Part.Number, 1000)
	require.NoError(t, err)
	require.Len(t, o.Sources[0].Offers, 2)
	assert.Equal(t, "12.00 EUR", o.Best.Buy.Total.String())

	p.become(func() { p.stock = 7 })
	later := time.Now().Add(2 * time.Hour)
	h.Now = func() time.Time { return later }
	refresh(t, h, wire.RefreshOffers{Parts: []string{got.Part.Number}})
	o, err = h.Offers.OfPart(t.Context(), h.Me, got.Part.Number, 1000)
	require.NoError(t, err)
	assert.EqualValues(t, 7, *o.Sources[0].Offers[0].Stock)
	assert.Len(t, o.News, 2, "less than a hundred, of either packing: %v", o.News)
}

// A supplier whose prices cannot be asked for has its products all the same, says so, and what was known of them stays.
func TestPricesThatDoNotCome(t *testing.T) {
	h, p, _ := openApart(t, inLots)
	q := wire.SupplierQuestion{Text: "resistor 0805", Pieces: 1000}
	ask(t, h, q)
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: "Low Water", Number: "L10", Drawer: "chip-resistors"})
	require.NoError(t, err)
	p.become(func() { p.broken = true })
	later := time.Now().Add(2 * time.Hour)
	h.Now = func() time.Time { return later }
	a := ask(t, h, q)
	require.Len(t, a.Rows, 3)
	assert.Equal(t, []any{"answered", []string{"Its stock and prices are not all known: Low Water refused the question (400)."}}, []any{a.Suppliers[0].State, a.Suppliers[0].Problems})
	r := refresh(t, h, wire.RefreshOffers{Parts: []string{got.Part.Number}})
	assert.Equal(t, "Low Water refused the question (400).", r.Answers[0].Says)
	o, err := h.Offers.OfPart(t.Context(), h.Me, got.Part.Number, 1000)
	require.NoError(t, err)
	assert.Empty(t, o.News, "that nobody could be asked is no price that is gone")
	assert.Equal(t, "12.00 EUR", o.Best.Buy.Total.String())
}

// A trial asks for prices too, and says which of their paths led to something.
func TestATrialTriesThePrices(t *testing.T) {
	h, p, _ := openApart(t, inLots)
	c, err := h.Offers.Connection(t.Context(), h.Me, "Low Water")
	require.NoError(t, err)
	tried, err := h.Offers.Try(t.Context(), h.Me, wire.ConnectionTrial{Text: regexp.MustCompile(`(?m)^( *)packing: '@in'$`).ReplaceAllString(c.Text, "${0}\n${1}lead: '@soon'"), Words: "resistor"})
	require.NoError(t, err)
	places := map[string]int{}
	for _, x := range tried.Places {
		places[x.Place] = x.Found
	}
	assert.Equal(t, 4, places["prices: offers.stock"], "two of the three numbers, in two packings")
	assert.Equal(t, 8, places["prices: breaks.price"])
	assert.Contains(t, places, "prices: offers.lead")
	assert.Zero(t, places["prices: offers.lead"], "a path that leads to nothing")
	assert.EqualValues(t, 5000, *tried.Sample[0].Offers[0].Stock)
	p.become(func() { p.broken = true })
	tried, err = h.Offers.Try(t.Context(), h.Me, wire.ConnectionTrial{Text: c.Text, Words: "resistor"})
	require.NoError(t, err)
	assert.Equal(t, []any{3, "Low Water refused the question (400)."}, []any{tried.Products, tried.Problem})
}

// Prices that can be asked for one number at a time only are asked for what is taken and refreshed, not for every row of an answer.
func TestPricesOfOneNumberAtATime(t *testing.T) {
	h, p, _ := openApart(t, oneByOne)
	q := wire.SupplierQuestion{Text: "resistor 0805", Pieces: 1000}
	row := of(t, ask(t, h, q), "TW-0805-10K-F")
	assert.Nil(t, row.Offers[0].Buy)
	_, priced := p.asked()
	assert.Empty(t, priced)
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: "Low Water", Number: "L10", Drawer: "chip-resistors"})
	require.NoError(t, err)
	_, priced = p.asked()
	assert.Equal(t, []string{"L10"}, priced)
	o, err := h.Offers.OfPart(t.Context(), h.Me, got.Part.Number, 1000)
	require.NoError(t, err)
	assert.Equal(t, "12.00 EUR", o.Best.Buy.Total.String())
}
