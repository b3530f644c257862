package offer

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/money"
)

func eur(s string) money.Amount { return money.Must(s, "EUR") }

func pieces(n int64) *int64 { return &n }

func TestHowManyATextSays(t *testing.T) {
	for _, c := range []struct {
		text    string
		mark    money.Mark
		n       int64
		atLeast bool
	}{
		{"", money.Unsaid, -1, false}, {"0", money.Unsaid, 0, false}, {"120", money.Unsaid, 120, false}, {"1 250", money.Unsaid, 1250, false}, {"2.500 Stück", money.Unsaid, 2500, false}, {"2,500 pcs", money.Unsaid, 2500, false},
		{"1'000", money.Unsaid, 1000, false}, {"1000+", money.Unsaid, 1000, true}, {"> 500", money.Unsaid, 500, true}, {"über 1.000", money.Comma, 1000, true}, {"Out of stock", money.Unsaid, 0, false}, {"ausverkauft", money.Unsaid, 0, false},
		{"12.0", money.Unsaid, 12, false}, {"12,00", money.Unsaid, 12, false}, {"1.000", money.Comma, 1000, false}, {"1,000", money.Point, 1000, false}, {"1.000", money.Point, 1, false}, {"1\u202f250 uds", money.Unsaid, 1250, false}, {"250個", money.Unsaid, 250, false}, {"1,234,567", money.Unsaid, 1234567, false},
	} {
		n, atLeast, err := Count(c.text, c.mark)
		require.NoError(t, err, c.text)
		assert.Equal(t, []any{c.n, c.atLeast}, []any{n, atLeast}, "%q %s", c.text, c.mark)
	}
	for _, text := range []string{"-5", "12.5", "1,5", "1e9", "five", "12 reels", "3 k", "1.2.3", "1 25", "12/100", "NaN", "0x10", "9999999999", "1,000.5", "12 weeks", "1.234,5", "call", "²", "12 %", "10-99"} {
		_, _, err := Count(text, money.Unsaid)
		assert.Error(t, err, text)
	}
	_, _, err := Count("1.500", money.Point)
	assert.ErrorContains(t, err, `"1.500" is no whole number`, "one and a half pieces")
}

func TestLeadTimes(t *testing.T) {
	for text, days := range map[string]int{"": -1, "12 weeks": 84, "12 W": 84, "3-5 Tage": 5, "2 – 3 Wochen": 21, "P12W": 84, "P30D": 30, "6 semanas": 42, "1 mese": 31, "8 週": 56, "5": 5} {
		got, err := lead(text, "days")
		require.NoError(t, err, text)
		assert.Equal(t, days, got, text)
	}
	for _, text := range []string{"soon", "KW 12", "12 KW", "2026-12-01", "-3 days", "12", "weeks", "1.5 weeks"} {
		_, err := lead(text, "")
		assert.Error(t, err, text)
	}
}

func TestWhatCannotBeReadIsSaidAndNothingWrongIsKept(t *testing.T) {
	h := Habits{Mark: money.Point, Currency: "EUR"}
	priced := func(breaks ...RawBreak) Offer { return Read(Raw{Number: "NQ-1", Breaks: breaks}, h) }
	for _, c := range []struct {
		name string
		o    Offer
		n    int // prices kept
		says string
	}{
		{"in order", priced(RawBreak{From: "1", Price: "0.10", Per: ""}, RawBreak{From: "100", Price: "0.08", Per: ""}), 2, ""},
		{"out of order", priced(RawBreak{From: "100", Price: "0.08", Per: ""}, RawBreak{From: "1", Price: "0.10", Per: ""}), 2, ""},
		{"the same twice", priced(RawBreak{From: "1", Price: "0.10", Per: ""}, RawBreak{From: "1", Price: "0.100", Per: ""}), 1, ""},
		{"as ranges", priced(RawBreak{From: "1-99", Price: "0.10", Per: ""}, RawBreak{From: "100 - 999", Price: "0.08", Per: ""}), 2, ""},
		{"two of one quantity", priced(RawBreak{From: "1", Price: "0.10", Per: ""}, RawBreak{From: "1", Price: "0.12", Per: ""}), 0, "It has two prices from 1 on, 0.10 EUR and 0.12 EUR; none was kept."},
		{"two currencies", priced(RawBreak{From: "1", Price: "0.10 EUR", Per: ""}, RawBreak{From: "100", Price: "0.08 EUR", Per: ""}), 2, ""},
		{"another currency", priced(RawBreak{From: "1", Price: "0.10 USD", Per: ""}, RawBreak{From: "100", Price: "0.08", Per: ""}), 0, `"0.10 USD" is no price: it names USD, and the price is said to be in EUR.`},
		{"zero", priced(RawBreak{From: "1", Price: "0", Per: ""}, RawBreak{From: "100", Price: "0.08", Per: ""}), 1, "The price from 1 on is zero, which is no price."},
		{"letters", priced(RawBreak{From: "1", Price: "ask us", Per: ""}, RawBreak{From: "100", Price: "0.08", Per: ""}), 0, "As one of its prices cannot be read, none was kept."},
		{"negative", priced(RawBreak{From: "1", Price: "-1", Per: ""}), 0, `"-1" is no price: it has a sign.`},
		{"1e999", priced(RawBreak{From: "1", Price: "1e999", Per: ""}), 0, `"1e999" is no price: something stands within the number.`},
		{"of a hundred", priced(RawBreak{From: "100", Price: "8.00", Per: "100"}), 1, ""},
		{"of none", priced(RawBreak{From: "100", Price: "8.00", Per: "0"}), 0, `The price 8.00 EUR is of "0" pieces, which is no number.`},
		{"dearer by the hundred", priced(RawBreak{From: "1", Price: "0.08", Per: ""}, RawBreak{From: "100", Price: "0.10", Per: ""}), 2, "One piece costs more from 100 on (0.10 EUR) than from 1 on (0.08 EUR)."},
		{"a quantity in words", priced(RawBreak{From: "a few", Price: "0.08", Per: ""}), 0, `The quantity of the price 0.08 EUR "a few" is no whole number.`},
		{"blank prices", priced(RawBreak{From: "1", Price: "", Per: ""}, RawBreak{From: "100", Price: "0.08", Per: ""}), 1, ""},
	} {
		assert.Len(t, c.o.Breaks, c.n, c.name)
		if c.says == "" {
			assert.Empty(t, c.o.Problems, c.name)
		} else {
			assert.Contains(t, c.o.Problems, c.says, c.name)
		}
	}
	o := Read(Raw{Number: " N\x00Q-1\t2 ", Stock: "plenty", Minimum: "10+", Multiple: "x", Lead: "soon", Until: "next year"}, h)
	assert.Equal(t, "N Q-1 2", o.Number)
	assert.Len(t, o.Problems, 5)
	assert.Nil(t, o.Stock)
	assert.Equal(t, []int64{0, 0}, []int64{o.Minimum, o.Multiple})
}

// drawn is any offer with prices.
func drawn(t *rapid.T) Offer {
	o := Offer{Minimum: rapid.Int64Range(0, 60).Draw(t, "minimum"), Multiple: rapid.Int64Range(0, 30).Draw(t, "multiple")}
	if rapid.Bool().Draw(t, "said") {
		o.Stock = pieces(rapid.Int64Range(0, 400).Draw(t, "stock"))
	}
	from := int64(1)
	for range rapid.IntRange(1, 4).Draw(t, "breaks") {
		per := rapid.SampledFrom([]int64{0, 1, 10, 100}).Draw(t, "per")
		o.Breaks = append(o.Breaks, Break{From: from, Price: eur(fmt.Sprintf("%d.%03d", rapid.IntRange(0, 3).Draw(t, "whole"), rapid.IntRange(1, 999).Draw(t, "part"))), Per: per})
		from += rapid.Int64Range(1, 120).Draw(t, "step")
	}
	return o
}

// The cheapest way is found among all quantities that may be bought, one by one.
func TestTheCheapestWayIsTheCheapestOfAll(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		o := drawn(t)
		n := rapid.Int64Range(1, 200).Draw(t, "n")
		got, ok := o.Buy(n)
		if !ok {
			t.Fatal("there is a price for one")
		}
		var best Purchase
		found := false
		for q := n; q <= 1000; q++ {
			if q < o.Minimum || q%max(o.Multiple, 1) != 0 {
				continue
			}
			at, _ := o.At(q)
			p := Purchase{Pieces: q, Over: q - n, At: at, Total: at.Price.Line(q, max(at.Per, 1)), Short: o.Stock != nil && *o.Stock < q}
			if !found || better(p, best) {
				best, found = p, true
			}
		}
		if !got.Total.Equal(best.Total) || got.Pieces != best.Pieces || got.Short != best.Short || got.Over != best.Over {
			t.Fatalf("%+v: %d pieces as %+v, the best is %+v", o, n, got, best)
		}
	})
}

func TestBuyingMoreMayCostLess(t *testing.T) {
	o := Offer{Breaks: []Break{{From: 1, Price: eur("0.10")}, {From: 100, Price: eur("0.05")}}}
	p, ok := o.Buy(60)
	require.True(t, ok)
	assert.Equal(t, []any{int64(100), int64(40), "5.00 EUR"}, []any{p.Pieces, p.Over, p.Total.String()})
	o.Stock = pieces(80)
	p, _ = o.Buy(60)
	assert.Equal(t, []any{int64(60), "6.00 EUR", false}, []any{p.Pieces, p.Total.String(), p.Short}, "a hundred are not there")
	_, ok = o.Buy(0)
	assert.False(t, ok)
	_, ok = Offer{}.Buy(1)
	assert.False(t, ok)
	_, ok = Offer{Breaks: []Break{{From: 10, Price: eur("0.10")}}}.Buy(1)
	assert.True(t, ok, "what is sold from ten on is bought as ten")
}

func TestWhatChangedAndWhatMatters(t *testing.T) {
	base := func() Offer {
		return Offer{Number: "NQ-1", Stock: pieces(5000), State: "active", Breaks: []Break{{From: 1, Price: eur("0.10")}}}
	}
	for _, c := range []struct {
		name    string
		change  func(o *Offer)
		want    []string
		matters bool
	}{
		{"nothing", func(o *Offer) {}, nil, false},
		{"over", func(o *Offer) { o.State = "obsolete" }, []string{`the supplier said "active" of the product and says "obsolete" now`}, true},
		{"the same in other words", func(o *Offer) { o.State = "in production" }, []string{`the supplier said "active" of the product and says "in production" now`}, false},
		{"words nobody knows", func(o *Offer) { o.State = "zebra" }, []string{`the supplier said "active" of the product and says "zebra" now`}, true},
		{"a little dearer", func(o *Offer) { o.Breaks[0].Price = eur("0.119") }, []string{"100 pieces cost 10.00 EUR and cost 11.90 EUR now"}, false},
		{"a fifth dearer", func(o *Offer) { o.Breaks[0].Price = eur("0.12") }, []string{"100 pieces cost 10.00 EUR and cost 12.00 EUR now"}, true},
		{"a fifth cheaper", func(o *Offer) { o.Breaks[0].Price = eur("0.08") }, []string{"100 pieces cost 10.00 EUR and cost 8.00 EUR now"}, true},
		{"in another currency", func(o *Offer) { o.Breaks[0].Price = money.Must("0.10", "GBP") }, []string{"100 pieces cost 10.00 EUR and cost 10.00 GBP now"}, true},
		{"without a price", func(o *Offer) { o.Breaks = nil }, []string{"100 pieces had a price of 10.00 EUR and have none now"}, true},
		{"fewer, and enough", func(o *Offer) { o.Stock = pieces(100) }, []string{"the stock was 5000 and is 100"}, false},
		{"too few", func(o *Offer) { o.Stock = pieces(99) }, []string{"the stock was 5000 and is 99, which is less than 100"}, true},
		{"stock not said", func(o *Offer) { o.Stock = nil }, []string{"the stock was 5000 and is not said"}, false},
		{"a lead time", func(o *Offer) { d := 84; o.LeadDays = &d }, []string{"the lead time was not said and is 84 days"}, false},
	} {
		after := base()
		c.change(&after)
		var says []string
		matters := false
		for _, x := range Changes(base(), after, Care{}) {
			says, matters = append(says, x.Says), matters || x.Matters
		}
		assert.Equal(t, c.want, says, c.name)
		assert.Equal(t, c.matters, matters, c.name)
	}
}

func FuzzRead(f *testing.F) {
	f.Add("1.250 Stück", "0,12 €", "100+", "3-5 Tage")
	f.Add("> 1000", "1e9", "-1", "P12W")
	f.Fuzz(func(t *testing.T, stock, price, from, lead string) {
		o := Read(Raw{Number: "X", Stock: stock, Lead: lead, Breaks: []RawBreak{{From: from, Price: price}, {From: "1000", Price: "0.01"}}}, Habits{Currency: "EUR"})
		if o.Stock != nil && *o.Stock > 0 && !strings.ContainsAny(stock, "123456789") {
			t.Fatalf("%q is a stock of %d", stock, *o.Stock)
		}
		last := int64(0)
		for _, b := range o.Breaks {
			if b.From <= last || b.Price.Sign() <= 0 {
				t.Fatalf("%+v", o.Breaks)
			}
			last = b.From
		}
		if p, ok := o.Buy(7); ok && (p.Pieces < 7 || p.Total.Sign() < 0) {
			t.Fatalf("%+v", p)
		}
	})
}

func TestPricesHoldUntilTheDayThatTheyName(t *testing.T) {
	o := Offer{Number: "1", Breaks: []Break{{From: 1, Price: money.Must("0.10", "EUR")}}}
	for _, c := range []struct {
		until, on string
		ended     bool
	}{{"", "2099-01-01", false}, {"2026-11-30", "2026-11-29", false}, {"2026-11-30", "2026-11-30", false}, {"2026-11-30", "2026-12-01", true}, {"2026-09-30", "2026-10-01", true}, {"2026-11-30", "2027-01-01", true}} {
		o.Until = c.until
		assert.Equal(t, c.ended, o.Ended(c.on), "%v", c)
		_, ok := o.On(c.on).Buy(10)
		assert.Equal(t, !c.ended, ok, "%v", c)
	}
	assert.Len(t, o.Breaks, 1, "the offer itself stays as it was said")
}

func TestDaysAsSuppliersWriteThem(t *testing.T) {
	for text, want := range map[string]string{
		"2026-12-31": "2026-12-31", "2026-12-31T00:00:00Z": "2026-12-31", "2026-12-31T23:30:00-05:00": "2026-12-31", "2026-12-31T23:59:59.999Z": "2026-12-31", "2026-12-31 10:00:00": "2026-12-31", "2026-12-31T10:00:00": "2026-12-31",
		"20261231": "2026-12-31", "31.12.2026": "2026-12-31", "1.2.2027": "2027-02-01", "01.02.2027": "2027-02-01", "31 Dec 2026": "2026-12-31", "31-Dec-2026": "2026-12-31", "Dec 31, 2026": "2026-12-31", "31 December 2026": "2026-12-31",
		"03/04/2026": "", "12/31/2026": "", "2026-13-01": "", "2026-02-30": "", "30.02.2027": "", "31.12.26": "", "2026": "", "soon": "", "1767139200": "", "2026-12-31 or so": "", "Q4 2026": "", "202612": "",
	} {
		o := Read(Raw{Number: "1", Until: text}, Habits{})
		assert.Equal(t, want, o.Until, text)
		assert.Equal(t, want == "", len(o.Problems) == 1, "%s: %v", text, o.Problems)
	}
}
