package answers

import (
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/intake"
	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
)

// empty is a library with nothing in it.
type empty struct{}

func (empty) Source(string) (intake.Existing, bool)   { return intake.Existing{}, false }
func (empty) Numbered(string) (intake.Existing, bool) { return intake.Existing{}, false }
func (empty) Makers() []string                        { return nil }
func (empty) Like(string, []string) func(func(string) cabinet.Value) []string {
	return func(func(string) cabinet.Value) []string { return nil }
}

func starter(t *testing.T) *cabinet.Cabinet {
	t.Helper()
	cab, err := cabinet.New(cabinet.Starter())
	require.NoError(t, err)
	return cab
}

var resistors = crosswalk.Crosswalk{Format: crosswalk.Format, Layout: "answers", Kinds: map[string]string{"Resistors": "chip-resistors"},
	Fields: []crosswalk.Rule{{From: "R", To: "resistance"}, {From: "Tol", To: "tolerance"}, {From: "Size", To: "case", System: "inch"}}}

// said is a product in a supplier's words.
func said(mpn, r, tol, size string, offers ...offer.Offer) connection.Product {
	p := connection.Product{Manufacturer: "Tidewright", MPN: mpn, Kind: "Resistors", State: "active", Offers: offers}
	for name, text := range map[string]string{"R": r, "Tol": tol, "Size": size} {
		if text != "" {
			p.Fields = append(p.Fields, connection.Field{Name: name, Text: text})
		}
	}
	slices.SortFunc(p.Fields, func(a, b connection.Field) int { return strings.Compare(a.Name, b.Name) })
	return p
}

func sold(number string, stock int64, price, code string) offer.Offer {
	o := offer.Offer{Number: number, Stock: &stock}
	if price != "" {
		o.Breaks = []offer.Break{{From: 1, Price: money.Must(price, code)}}
	}
	return o
}

func answer(t *testing.T, supplier string, products ...connection.Product) Answer {
	t.Helper()
	cw := resistors
	cw.Supplier = supplier
	return Answer{supplier, Read(&connection.Document{Supplier: supplier}, products, []crosswalk.Crosswalk{cw}, starter(t), empty{}), time.Now()}
}

// merged is Merge in two.
func merged(m Merged) ([]*Product, []lookup.Fact) { return m.Rows, m.Facts }

func nobody(string) (string, bool) { return "", false }

func TestOneRowAProductWhoeverSellsIt(t *testing.T) {
	rows, facts := merged(Merge([]Answer{
		answer(t, "A", said("TW-1", "4.7 kΩ", "", "0805", sold("a1", 10, "0.10", "EUR")), said("TW-2", "47k", "1 %", "0603", sold("a2", 5, "0.01", "EUR"))),
		answer(t, "B", said("TW1", "4k7", "±1%", "0805", sold("b1", 900, "0.07", "GBP"), sold("b1-R", 800, "", ""))),
		answer(t, "C", said("TW-1", "4.7k", "5 %", "0805", sold("c1", 1, "0.30", "EUR"))),
	}, "4k7 0805 1%", func(key string) (string, bool) { return "EW-R-1", strings.HasSuffix(key, "TW2") }))
	require.Len(t, facts, 3)
	rates := money.Rates{House: "EUR", Rates: []money.Rate{{One: "GBP", Is: "1.25", Of: "EUR", On: "2026-11-01"}}}
	Order(rows, 10, Limits{}, rates, "2026-11-27")
	require.Len(t, rows, 2)
	m := rows[0]
	assert.Empty(t, m.Fails)
	assert.Equal(t, map[string]string{"resistance": "4.7 kΩ", "case": "0805", "case-metric": "2012", "tolerance": "±1 %"}, m.Values, "what the first left open the second fills")
	assert.Equal(t, []string{"Tolerance: A says ±1 %, C says ±5 %"}, m.Differ)
	assert.Equal(t, int64(911), m.Stock, "several packings of one supplier count once")
	var order []string
	for _, o := range m.Offers {
		order = append(order, o.Number)
	}
	assert.Equal(t, []string{"b1", "a1", "c1", "b1-R"}, order, "the cheapest first: what cannot all be had, and what has no price, last")
	assert.Equal(t, "0.88 EUR", m.Offers[0].Converted.String())
	assert.Equal(t, "1 GBP = 1.25 EUR on 2026-11-01", m.Offers[0].Rate)
	assert.Equal(t, []string{"EW-R-1"}, rows[1].Own)
	assert.Equal(t, []string{"4.7 kΩ", "“0805”"}, rows[1].Fails)
}

func TestWhatSaysTooLittleIsToldByTheNext(t *testing.T) {
	blank := said("TW-1", "4k7", "1%", "0805", sold("a1", 10, "0.10", "EUR"))
	blank.Kind = "something"
	rows, _ := merged(Merge([]Answer{answer(t, "A", blank), answer(t, "B", said("TW-1", "4k7", "1%", "0805", sold("b1", 1, "0.20", "EUR")))}, "4k7", nobody))
	require.Len(t, rows, 1)
	assert.Equal(t, []any{"chip-resistors", "B", 2}, []any{rows[0].Drawer, rows[0].From, len(rows[0].Offers)})
	assert.Empty(t, rows[0].Fails)
	odd := said("TW-9", "4k7 or so", "1%", "0805", sold("a9", 1, "0.1", "EUR"))
	rows, _ = merged(Merge([]Answer{answer(t, "A", odd)}, "4k7", nobody))
	assert.Equal(t, []string{"4.7 kΩ"}, rows[0].Fails, "what cannot be read does not hold")
	assert.Equal(t, map[string]string{"resistance": "4k7 or so"}, rows[0].Unread)
	rows, facts := merged(Merge(nil, "4k7", nobody))
	assert.Empty(t, rows)
	assert.Empty(t, facts)
}

func TestWithoutACrosswalkOnlyWhatIsCertainIsRead(t *testing.T) {
	p := connection.Product{Manufacturer: "Tidewright", MPN: "TW-1", Kind: "Chip resistor", Offers: []offer.Offer{{Number: "x"}}, Fields: []connection.Field{{Name: "Resistance", Text: "4.7 kΩ"}, {Name: "Tolerance", Text: "±1 %"}, {Name: "Foo", Text: "4k7"}}}
	r := Read(&connection.Document{Supplier: "New"}, []connection.Product{p}, nil, starter(t), empty{})
	to := map[string]string{}
	for _, f := range r.Fields() {
		to[f.Name] = f.To
		if f.Name == "Resistance" {
			assert.NotEmpty(t, f.Why)
		}
	}
	assert.Equal(t, []string{"resistance", "tolerance", "", "mpn"}, []string{to["Resistance"], to["Tolerance"], to["Foo"], to["MPN"]})
	stale := crosswalk.Crosswalk{Supplier: "New", Layout: "answers", Drawer: "no-such-drawer", Fields: []crosswalk.Rule{{From: "Foo", To: "no-such-parameter"}}}
	r = Read(&connection.Document{Supplier: "New"}, []connection.Product{p}, []crosswalk.Crosswalk{stale}, starter(t), empty{})
	assert.Equal(t, "TW-1", r.Source(0).MPN, "a crosswalk of an older cabinet stops nothing")
}

// Whoever answers first, the same products come together, with the same offers and the same facts that do not hold.
func TestTheOrderOfAnswersTellsNothing(t *testing.T) {
	cab := starter(t)
	rapid.Check(t, func(rt *rapid.T) {
		var all []Answer
		for s := range 3 {
			var products []connection.Product
			for n := range rapid.IntRange(0, 6).Draw(rt, "products") {
				i := rapid.IntRange(0, 5).Draw(rt, "which") // a product says the same, whoever sells it
				products = append(products, said(fmt.Sprintf("TW-%d", i), []string{"4k7", "47k", "470R", "4k7", "1M", "4R7"}[i], []string{"1%", "1%", "5%", "5%", "1%", "1%"}[i], []string{"0805", "0603"}[i%2],
					sold(fmt.Sprintf("s%d-%d", s, n), int64(rapid.IntRange(0, 500).Draw(rt, "stock")), fmt.Sprintf("0.%02d", rapid.IntRange(1, 99).Draw(rt, "price")), "EUR")))
			}
			cw := resistors
			cw.Supplier = fmt.Sprint("S", s)
			all = append(all, Answer{cw.Supplier, Read(&connection.Document{Supplier: cw.Supplier}, products, []crosswalk.Crosswalk{cw}, cab, empty{}), time.Unix(0, 0)})
		}
		look := func(as []Answer) map[string]string {
			rows, _ := merged(Merge(as, "4k7 1%", nobody))
			Order(rows, 20, Limits{Stock: 100}, money.Rates{}, "2026-11-27")
			out := map[string]string{}
			last := 0
			for _, m := range rows {
				if len(m.Fails) < last {
					rt.Fatal("what fits less stands before what fits more")
				}
				last = len(m.Fails)
				var offers []string
				for _, o := range m.Offers {
					offers = append(offers, o.Number)
				}
				slices.Sort(offers)
				if len(m.Differ) > 0 {
					rt.Fatalf("nobody disagrees: %v", m.Differ)
				}
				out[m.Key] = fmt.Sprint(m.Fails, m.Values, m.Stock, offers)
			}
			return out
		}
		one := look(all)
		slices.Reverse(all)
		if other := look(all); fmt.Sprint(one) != fmt.Sprint(other) {
			rt.Fatalf("%v\n%v", one, other)
		}
	})
}

func TestTheHousesLimits(t *testing.T) {
	tape := sold("a1", 10, "0.10", "EUR")
	tape.Packing = "Cut Tape"
	over := said("TW-2", "4k7", "1%", "0805", sold("a2", 900, "0.10", "EUR"))
	over.State = "Last time buy"
	rows, _ := merged(Merge([]Answer{answer(t, "A", said("TW-1", "4k7", "1%", "0805", tape), over)}, "4k7", nobody))
	Order(rows, 1, Limits{Stock: 100, InProduction: true, Packing: "tape"}, money.Rates{}, "2026-11-27")
	fails := map[string][]string{}
	for _, m := range rows {
		fails[m.MPN] = m.Fails
	}
	assert.Equal(t, map[string][]string{"TW-1": {"100 in stock (there are 10)"}, "TW-2": {"in production (Last time buy)", "packing tape"}}, fails)
}
