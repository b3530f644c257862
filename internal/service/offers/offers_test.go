package offers_test

import (
	"database/sql"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/part"

	"jollydrawer/demo"
	"jollydrawer/internal/reach"
	"jollydrawer/internal/service/app"
	"jollydrawer/internal/service/housetest"
	"jollydrawer/internal/standin/market"
	"jollydrawer/internal/store"
	"jollydrawer/internal/testdb"
	"jollydrawer/internal/wire"
)

func TestMain(m *testing.M) { testdb.Main(m) }

// suppliers opens a house with the four simulated suppliers.
func suppliers(t *testing.T) (housetest.House, *market.Market) {
	t.Helper()
	m, err := market.Start(demo.Files, "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { _ = m.Close() })
	h := housetest.Open(t, reaching(m))
	for _, name := range []string{"northquay", "harbour-finch", "sandbar", "marsh-lane"} {
		connect(t, h, m, name)
		raw, err := demo.Files.ReadFile("crosswalks/" + name + "-answers.yaml")
		require.NoError(t, err)
		_, err = h.Cabinets.ApplyCrosswalk(t.Context(), h.Me, 0, string(raw))
		require.NoError(t, err)
	}
	raw, err := demo.Files.ReadFile("rates.yaml")
	require.NoError(t, err)
	_, err = h.Offers.ApplyRates(t.Context(), h.Me, 0, wire.RatesEdit{Text: string(raw)})
	require.NoError(t, err)
	return h, m
}

// reaching lets an instance ask the simulated suppliers.
func reaching(m *market.Market) func(*app.Options) {
	return func(o *app.Options) {
		o.Guard = reach.Guard{Inside: []string{m.Host()}}
		o.Secrets = func(name string) (string, bool) { s, ok := market.Secrets[name]; return s, ok }
	}
}

func connect(t *testing.T, h housetest.House, m *market.Market, name string) {
	t.Helper()
	raw, err := demo.Files.ReadFile("connections/" + name + ".yaml")
	require.NoError(t, err)
	text := strings.NewReplacer("http://suppliers.invalid", m.URL, "perSecond: 10,", "perSecond: 100,", "perSecond: 5,", "perSecond: 100,").Replace(string(raw)) // nobody waits here
	_, err = h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: text})
	require.NoError(t, err)
}

// ask asks until all have answered.
func ask(t *testing.T, h housetest.House, q wire.SupplierQuestion) wire.SupplierAnswers {
	t.Helper()
	for {
		a, err := h.Offers.Ask(t.Context(), h.Me, q)
		require.NoError(t, err)
		if a.Done {
			return a
		}
		q.Seen, q.Again = a.State, false
	}
}

// of finds a row by maker's number.
func of(t *testing.T, a wire.SupplierAnswers, mpn string) wire.OfferedRow {
	t.Helper()
	for _, r := range a.Rows {
		if r.MPN == mpn {
			return r
		}
	}
	require.Fail(t, "nobody answered with "+mpn)
	return wire.OfferedRow{}
}

func TestAllSuppliersAreAskedAtOnceAndReadAsTheLibraryIs(t *testing.T) {
	h, m := suppliers(t)
	a := ask(t, h, wire.SupplierQuestion{Text: "4k7 0805 1%", Pieces: 250})
	require.Len(t, a.Suppliers, 4)
	beyond := 0
	for _, s := range a.Suppliers {
		if s.Supplier == market.MarshLane {
			assert.Equal(t, []string{"no answer", "The price list of Marsh Lane Components was not fetched yet."}, []string{s.State, s.Says})
			continue
		}
		assert.Equal(t, "answered", s.State, s.Supplier)
		beyond += s.Products - s.Fit
	}
	assert.Positive(t, beyond, "what a supplier finds is not always what was asked for")
	assert.Equal(t, 2, a.Fit)
	for i, r := range a.Rows {
		fits := r.Values["resistance"] == "4.7 kΩ" && r.Values["case"] == "0805" && r.Values["tolerance"] == "±1 %"
		assert.Equal(t, fits, len(r.Fails) == 0, "%s: %v fails %v", r.MPN, r.Values, r.Fails)
		assert.Equal(t, i < a.Fit, len(r.Fails) == 0, "what fits stands first")
	}
	r := of(t, a, "GR08054K7F")
	assert.Equal(t, "Grebe Resistive", r.Manufacturer)
	suppliers := map[string]bool{}
	for i, o := range r.Offers {
		suppliers[o.Supplier] = true
		require.NotNil(t, o.Buy)
		if i > 0 {
			assert.LessOrEqual(t, cheaper(t, r.Offers[i-1]), cheaper(t, o), "the cheapest first, whatever its currency")
		}
		assert.Equal(t, o.Currency() == "GBP", o.Converted != nil, "what is converted names its rate: %s", o.Rate)
	}
	assert.Len(t, suppliers, 3, "one row for the same product of three suppliers")

	before := m.Asked(market.Northquay)
	again := ask(t, h, wire.SupplierQuestion{Text: " 4k7  0805 1% ", Pieces: 1})
	assert.Equal(t, before, m.Asked(market.Northquay), "an answer of the same hour serves")
	for _, s := range again.Suppliers {
		assert.True(t, s.Kept || s.State == "no answer", s.Supplier)
	}
	ask(t, h, wire.SupplierQuestion{Text: "4k7 0805 1%", Again: true})
	assert.Greater(t, m.Asked(market.Northquay), before)
}

// cheaper is what an offer costs in the house's currency.
func cheaper(t *testing.T, o wire.Offer) float64 {
	t.Helper()
	if o.Converted != nil {
		return o.Converted.Float()
	}
	return o.Buy.Total.Float()
}

// Those that have filters are asked by them, others by words that a product can say; what nobody can be asked for our own reader leaves out.
func TestSuppliersAreAskedByTheirFilters(t *testing.T) {
	h, m := suppliers(t)
	a := ask(t, h, wire.SupplierQuestion{Text: "capacitor voltage >= 50V X7R 0805 not 100V", Limit: 500})
	asked := m.Questions(market.Northquay)[0]
	for _, part := range []string{"Rated+voltage%3E%3D50", "Dielectric%3DX7R", "Case+%28inch%29%3D0805", "group=Capacitors%2C+ceramic"} {
		assert.Contains(t, asked, part)
	}
	assert.Contains(t, m.Questions(market.Sandbar)[0], "words=capacitor+X7R+0805", "no words say a comparison")
	assert.Greater(t, a.Fit, 10)
	for _, s := range a.Suppliers {
		if s.Supplier == market.Northquay {
			assert.Greater(t, s.Fit, 5)
			assert.Greater(t, s.Products, s.Fit, "100 V are not asked against")
		}
	}
	for _, r := range a.Rows[:a.Fit] {
		assert.Equal(t, []string{"X7R", "0805", "50 V"}, []string{r.Values["dielectric"], r.Values["case"], r.Values["voltage-rating"]}, r.MPN)
	}
	before := m.Asked(market.Northquay)
	h.Make(housetest.Rated("4k7", "X7R"))
	h.Level()
	ask(t, h, wire.SupplierQuestion{Text: "capacitor voltage >= 50V X7R 0805 not 100V", Limit: 500})
	assert.Equal(t, before, m.Asked(market.Northquay), "it is the same question whatever the library has meanwhile")
}

func TestTheHousesUsualLimitsAreSaidOfWhatFailsThem(t *testing.T) {
	h, _ := suppliers(t)
	a := ask(t, h, wire.SupplierQuestion{Text: "resistor 0805 1%", Stock: 60000, InProduction: true, Packing: "reel", Limit: 500})
	require.NotEmpty(t, a.Rows)
	for _, r := range a.Rows {
		reel := false
		for _, o := range r.Offers {
			reel = reel || strings.Contains(o.Packing, "reel")
		}
		said := strings.Join(r.Fails, "; ")
		assert.Equal(t, r.Stock < 60000, strings.Contains(said, "in stock (there are"), "%d: %s", r.Stock, said)
		assert.Equal(t, !reel, strings.Contains(said, "packing reel"), said)
		assert.Equal(t, r.Stands == "obsolete" || r.Stands == "not for new designs", strings.Contains(said, "in production ("), "%s: %s", r.Stands, said)
	}
}

// A supplier that is slow, down or odd holds up nobody, and says so.
func TestOneSupplierInTroubleHoldsUpNobody(t *testing.T) {
	h, m := suppliers(t)
	m.Happen(market.Sandbar, market.Faults{Slow: 2 * time.Second})
	m.Happen(market.Harbour, market.Faults{Garbled: 50})
	var states []wire.SupplierAnswers
	q := wire.SupplierQuestion{Text: "100n 0603 x7r"}
	for {
		a, err := h.Offers.Ask(t.Context(), h.Me, q)
		require.NoError(t, err)
		states = append(states, a)
		if a.Done {
			break
		}
		assert.Greater(t, a.State, q.Seen, "each call has something new")
		q.Seen = a.State
	}
	first := -1
	for i, a := range states {
		if len(a.Rows) > 0 && first < 0 {
			first = i
		}
	}
	require.GreaterOrEqual(t, first, 0)
	assert.False(t, states[first].Done, "rows came before the slowest had answered")
	for _, s := range states[first].Suppliers {
		if s.Supplier == market.Sandbar {
			assert.Equal(t, "waiting", s.State)
		}
	}
	for _, s := range states[len(states)-1].Suppliers {
		switch s.Supplier {
		case market.Harbour:
			assert.Equal(t, "no answer", s.State)
			assert.NotEmpty(t, s.Says)
		case market.Sandbar:
			assert.Equal(t, "answered", s.State)
		}
	}
	m.Happen(market.Harbour, market.Faults{})
	a := ask(t, h, wire.SupplierQuestion{Text: "100n 0603 x7r", Again: true})
	for _, s := range a.Suppliers {
		if s.Supplier == market.Harbour {
			assert.NotEqual(t, "waiting", s.State)
		}
	}
}

func TestAProductBecomesADraftWithWhereItsValuesCameFrom(t *testing.T) {
	h, _ := suppliers(t)
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	a := ask(t, h, q)
	r := of(t, a, "GR08054K7F")
	in := wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number}
	me := h.Me
	me.Deed = store.NewID()
	got, err := h.Offers.Take(t.Context(), me, in)
	require.NoError(t, err)
	now := got.Part.Newest()
	require.NotNil(t, now)
	assert.Equal(t, []string{"draft", "chip-resistors", "RES 4.7kΩ ±1% 125mW 0805"}, []string{got.Part.Status, now.Drawer, now.Description})
	require.Len(t, now.Sources, 1)
	assert.Len(t, now.Sources[0].Numbers, 4, "the numbers of all suppliers that have it, two packings of one")
	for _, v := range now.Values {
		if v.Key == "resistance" {
			require.NotNil(t, v.Origin)
			said := v.Origin.Rule
			assert.Contains(t, said, `"4k7 0805 1%" asked on 20`)
			_, hash, ok := strings.Cut(strings.TrimSuffix(said, ")"), "answer ")
			require.True(t, ok, said)
			kept, _, err := h.Files.Open(t.Context(), h.Me, hash)
			require.NoError(t, err, "the answer is kept by its hash")
			raw, err := io.ReadAll(kept)
			require.NoError(t, err)
			assert.Contains(t, string(raw), "GR08054K7F")
		}
	}
	assert.Contains(t, got.ByHand, "Sea rating", "what never comes from a supplier stands out")
	require.NotNil(t, got.Fetching)
	h.Wait(*got.Fetching)
	p, err := h.Parts.Get(t.Context(), h.Me, got.Part.Number)
	require.NoError(t, err)
	assert.Len(t, append(p.Newest().Datasheets, make([]part.File, len(p.Newest().Links))...), 1, "the datasheet is there, or its link")

	again, err := h.Offers.Take(t.Context(), me, in)
	require.NoError(t, err, "a lost answer is asked for again")
	assert.Equal(t, got.Part.Number, again.Part.Number)
	_, err = h.Offers.Take(t.Context(), h.Me, in)
	assert.ErrorContains(t, err, got.Part.Number+" has Grebe Resistive GR08054K7F as a source already")
	after := ask(t, h, q)
	assert.Equal(t, []string{got.Part.Number}, of(t, after, "GR08054K7F").Own)

	offers, err := h.Offers.OfPart(t.Context(), h.Me, got.Part.Number, 250)
	require.NoError(t, err)
	require.Len(t, offers.Sources, 1)
	assert.Len(t, offers.Sources[0].Offers, 4, "what was seen when it was taken is kept")
	require.NotNil(t, offers.Best)
	assert.Equal(t, market.Sandbar, offers.Best.Supplier)
	assert.Len(t, offers.History, 4)

	q2 := wire.SupplierQuestion{Text: "TW-0805-4K7-F"}
	tw := of(t, ask(t, h, q2), "TW-0805-4K7-F")
	second, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q2, Supplier: tw.Offers[0].Supplier, Number: tw.Offers[0].Number, Into: got.Part.Number})
	require.NoError(t, err)
	require.Len(t, second.Part.Newest().Sources, 2)
	assert.Equal(t, now.Values[0].Text, second.Part.Newest().Values[0].Text, "nothing is overwritten")
	assert.Empty(t, second.Differ)
}

// A supplier that says otherwise than the part is told, and the part stays.
func TestASourceThatSaysOtherwiseChangesNothing(t *testing.T) {
	h, _ := suppliers(t)
	p, err := h.Parts.Create(t.Context(), h.Me, wire.PartEdit{Drawer: "chip-resistors", Values: map[string]string{"resistance": "4.7 kΩ", "tolerance": "5 %", "case": "0805"}})
	require.NoError(t, err)
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	r := of(t, ask(t, h, q), "TW-0805-4K7-F")
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number, Into: p.Number})
	require.NoError(t, err)
	assert.Contains(t, strings.Join(got.Differ, "; "), "Tolerance: ±5 % here, ±1 % there")
	for _, v := range got.Part.Newest().Values {
		switch v.Key {
		case "tolerance":
			assert.Equal(t, "±5 %", v.Text)
		case "power":
			assert.Equal(t, "125 mW", v.Text, "what was missing is filled")
		}
	}
	assert.Equal(t, "±1 %", got.Part.Newest().Sources[0].Unlike["tolerance"])
	c := ask(t, h, wire.SupplierQuestion{Text: "100n 0603 x7r"}).Rows[0]
	require.Empty(t, c.Fails)
	_, err = h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: wire.SupplierQuestion{Text: "100n 0603 x7r"}, Supplier: c.Offers[0].Supplier, Number: c.Offers[0].Number, Into: p.Number})
	assert.ErrorContains(t, err, "is in the drawer chip-resistors, and")
	_, err = h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: "no-such-number"})
	assert.ErrorContains(t, err, "did not answer")
}

// A product that nothing sorts goes where somebody says, and what it says is read for that drawer.
func TestAProductThatNothingSortsGoesWhereSomebodySays(t *testing.T) {
	h := housetest.Open(t)
	_, err := h.Offers.Apply(t.Context(), h.Me, 0, wire.ConnectionEdit{Text: "format: jolly-connection/1\nsupplier: Sicherungshaus\ndecimalMark: comma\ncurrency: CHF\nread: {form: table, product: {manufacturer: Hersteller, mpn: Typ, kind: Warengruppe}, fields: {rest: true}, offers: {paths: {number: Artikelnr., stock: Bestand, minimum: Mindestmenge, multiple: VPE}}, breaks: {paths: {price: Preis, per: Preiseinheit}}}\n"})
	require.NoError(t, err)
	f, err := h.Files.Keep(t.Context(), h.Me, "preise.csv", strings.NewReader("Artikelnr.;Hersteller;Typ;Warengruppe;Hold current;Bestand;Mindestmenge;VPE;Preis;Preiseinheit\n100-001;Deichwerk AG;DW-1206-0A5;Etwas;0,5 A;2.500 Stück;10;10;12,50;100\n"))
	require.NoError(t, err)
	_, err = h.Offers.UploadList(t.Context(), h.Me, "Sicherungshaus", wire.PriceListUpload{Hash: f.Hash, Name: f.Name})
	require.NoError(t, err)
	q := wire.SupplierQuestion{Text: "DW-1206-0A5", Pieces: 25}
	r := of(t, ask(t, h, q), "DW-1206-0A5")
	assert.Equal(t, []any{"", "Etwas", int64(2500), int64(30), "3.75 CHF"}, []any{r.Drawer, r.Description, r.Stock, r.Offers[0].Buy.Pieces, r.Offers[0].Buy.Total.String()}, "by tens, at 12,50 a hundred")
	in := wire.SupplierTake{Question: q, Supplier: "Sicherungshaus", Number: "100-001"}
	_, err = h.Offers.Take(t.Context(), h.Me, in)
	assert.ErrorContains(t, err, "Nothing says into which drawer DW-1206-0A5 belongs")
	in.Drawer = "no-such"
	_, err = h.Offers.Take(t.Context(), h.Me, in)
	assert.ErrorContains(t, err, `There is no drawer "no-such" that holds parts`)
	in.Drawer = "resettable-fuses"
	got, err := h.Offers.Take(t.Context(), h.Me, in)
	require.NoError(t, err)
	assert.Equal(t, "500 mA", h.Value(got.Part.Number, "hold-current"))
}

// What was seen of an answer that broke off can be taken, also on another instance and while the supplier is still in trouble.
func TestWhatWasSeenOfAnAnswerInPartCanBeTaken(t *testing.T) {
	h, m := suppliers(t)
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	r := of(t, ask(t, h, q), "GR08054K7F")
	db, err := sql.Open("mysql", h.Owner)
	require.NoError(t, err)
	defer db.Close()
	_, err = db.Exec("UPDATE answers SET problem = 'The answer broke off in the middle.'")
	require.NoError(t, err)
	for _, s := range []string{market.Northquay, market.Harbour, market.Sandbar} {
		m.Happen(s, market.Faults{Fail: 99})
	}
	other := h.Beside(reaching(m))
	got, err := other.Offers.Take(t.Context(), other.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number})
	require.NoError(t, err)
	assert.Equal(t, "GR08054K7F", got.Part.Newest().Sources[0].MPN)
	again := ask(t, other, q)
	for _, s := range again.Suppliers {
		assert.Equal(t, "no answer", s.State, "whoever asks is told that nobody answers now: %s", s.Supplier)
	}
}

// What a supplier says only on a product's own page is asked for when it is taken, with where it came from; one that is in trouble then is done without.
func TestDetailsAreAskedForWhenAProductIsTaken(t *testing.T) {
	h, m := suppliers(t)
	q := wire.SupplierQuestion{Text: "4k7 0805 1%"}
	r := of(t, ask(t, h, q), "GR08054K7F")
	assert.Empty(t, r.Values["height"])
	number := ""
	for _, o := range r.Offers {
		if o.Supplier == market.Northquay {
			number = o.Number
		}
	}
	require.NotEmpty(t, number)
	got, err := h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: market.Northquay, Number: number})
	require.NoError(t, err)
	found := false
	for _, v := range got.Part.Newest().Values {
		if v.Key != "height" {
			continue
		}
		found = true
		assert.Equal(t, "0.5 mm", v.Text)
		require.NotNil(t, v.Origin)
		_, hash, ok := strings.Cut(strings.TrimSuffix(v.Origin.Rule, ")"), "answer ")
		require.True(t, ok, v.Origin.Rule)
		kept, _, err := h.Files.Open(t.Context(), h.Me, hash)
		require.NoError(t, err, "the answer that says it is kept")
		raw, err := io.ReadAll(kept)
		require.NoError(t, err)
		assert.Contains(t, string(raw), `"Height"`)
	}
	assert.True(t, found)

	q = wire.SupplierQuestion{Text: "10k 0805 1%"}
	r = of(t, ask(t, h, q), "TW-0805-10K-F")
	m.Happen(market.Northquay, market.Faults{Fail: 9})
	got, err = h.Offers.Take(t.Context(), h.Me, wire.SupplierTake{Question: q, Supplier: r.Offers[0].Supplier, Number: r.Offers[0].Number})
	require.NoError(t, err)
	assert.Equal(t, "10 kΩ", h.Value(got.Part.Number, "resistance"))
}
