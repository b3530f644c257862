package connection

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/money"
	"jollydrawer/core/offer"
)

func TestDetailsAddWhatAListLeftOut(t *testing.T) {
	p := Product{MPN: "TW-1", Kind: "Resistors", Fields: []Field{{"Resistance", "4.7 kΩ"}}}
	was := p.Fields
	assert.True(t, p.Complete(Product{MPN: "TW-1", Kind: "Others", Datasheet: "https://a.example/tw.pdf", Fields: []Field{{"resistance", "5 kΩ"}, {"Height", "0.5 mm"}}, Models: []Linked{{Address: "https://a.example/tw.zip"}}}))
	assert.Equal(t, Product{MPN: "TW-1", Kind: "Resistors", Datasheet: "https://a.example/tw.pdf", Fields: []Field{{"Resistance", "4.7 kΩ"}, {"Height", "0.5 mm"}}, Models: []Linked{{Address: "https://a.example/tw.zip"}}}, p)
	assert.Equal(t, []Field{{"Resistance", "4.7 kΩ"}}, was, "the answer stays as it came")
	assert.False(t, p.Complete(Product{Kind: "Others", Fields: []Field{{"HEIGHT", "1 mm"}}}), "what it says stays")
	assert.False(t, p.Complete(Product{}))
}

func TestPricesCompleteWhatSaysNone(t *testing.T) {
	stock := func(n int64) *int64 { return &n }
	at := func(price string) []offer.Break { return []offer.Break{{From: 1, Price: money.Must(price, "EUR")}} }
	for _, c := range []struct {
		claim       string
		have, found []offer.Offer
		want        []offer.Offer
		added       bool
	}{
		{"stock and price of its number", []offer.Offer{{Number: "1", State: "ok"}}, []offer.Offer{{Number: "1", Stock: stock(5), Breaks: at("0.10"), Minimum: 10, State: "ends"}}, []offer.Offer{{Number: "1", State: "ok", Stock: stock(5), Breaks: at("0.10"), Minimum: 10}}, true},
		{"another number says nothing of it", []offer.Offer{{Number: "1"}}, []offer.Offer{{Number: "2", Stock: stock(5)}}, []offer.Offer{{Number: "1"}}, false},
		{"what it says stays", []offer.Offer{{Number: "1", Stock: stock(3)}}, []offer.Offer{{Number: "1", Stock: stock(5), Breaks: at("0.10")}}, []offer.Offer{{Number: "1", Stock: stock(3)}}, false},
		{"several packings that it does not name", []offer.Offer{{Number: "1"}}, []offer.Offer{{Number: "1", Packing: "reel", Stock: stock(5)}, {Number: "1", Packing: "tape", Stock: stock(2)}}, []offer.Offer{{Number: "1", Packing: "reel", Stock: stock(5)}, {Number: "1", Packing: "tape", Stock: stock(2)}}, true},
		{"its own packing only", []offer.Offer{{Number: "1", Packing: "tape"}}, []offer.Offer{{Number: "1", Packing: "reel", Stock: stock(5)}, {Number: "1", Packing: "tape", Stock: stock(2)}}, []offer.Offer{{Number: "1", Packing: "tape", Stock: stock(2)}}, true},
		{"a price that could not be read is said", []offer.Offer{{Number: "1"}}, []offer.Offer{{Number: "1", Problems: []string{"No."}}}, []offer.Offer{{Number: "1", Problems: []string{"No."}}}, true},
		{"nothing was found", []offer.Offer{{Number: "1"}}, nil, []offer.Offer{{Number: "1"}}, false},
	} {
		p := Product{Offers: c.have}
		assert.Equal(t, c.added, p.Price(c.found), c.claim)
		assert.Equal(t, c.want, p.Offers, c.claim)
	}
	some := []Product{{Offers: []offer.Offer{{Number: "1"}, {Number: "2", Stock: stock(0)}, {Number: "1", Packing: "tape"}}}, {Offers: []offer.Offer{{Number: "3", Breaks: at("1")}, {Number: "4"}}}}
	assert.Equal(t, []string{"1", "4"}, Unpriced(some), "each number once; none in stock is an answer")
}

func TestAQuestionSaysHowManyNumbersAndPagesItTakes(t *testing.T) {
	d, err := Parse([]byte(plain))
	require.NoError(t, err)
	d.Ask[Lot] = Request{Path: "/lot/{numbers}"}
	d.Ask[Prices] = Request{Path: "/p", Body: map[string]any{"of": []any{"{numbers}"}}, Lot: 7}
	d.Ask[Details] = Request{Path: "/d", Query: map[string]string{"n": "{number}"}}
	for kind, want := range map[string]int{Lot: 25, Prices: 7, Details: 1, Number: 0} {
		assert.Equal(t, want, d.LotSize(kind), kind)
	}
	assert.True(t, d.Paged(Words))
	assert.False(t, d.Paged(Lot), "what does not ask for a page has one")
}
