package buying

import (
	"fmt"
	"math/bits"
	"strings"
	"testing"

	"github.com/shopspring/decimal"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"jollydrawer/core/measure/measuretest"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
)

var terms = Terms{Rates: money.Rates{Format: money.RatesFormat, House: "EUR", Rates: []money.Rate{{One: "EUR", Is: "8", Of: "DKK", On: "2026-01-01"}}}, Day: "2026-11-29"}

func stock(n int64) *int64 { return &n }

// of is an offer: "Marsh Lane 100 in stock, minimum 1, multiple 1: 1 at 0.50, 100 at 0.40".
func of(supplier string, in *int64, minimum, multiple int64, currency string, breaks ...string) Offered {
	o := Offered{Supplier: supplier, Maker: "Tidewright", MPN: "TW-1", Offer: offer.Offer{Number: supplier + "-1", Stock: in, Minimum: minimum, Multiple: multiple}}
	for i := 0; i < len(breaks); i += 2 {
		var from int64
		fmt.Sscan(breaks[i], &from)
		o.Breaks = append(o.Breaks, offer.Break{From: from, Price: money.Must(breaks[i+1], currency)})
	}
	return o
}

func want(number string, each int64, offers ...Offered) Wanted {
	return Wanted{Part: number, Number: number, Drawers: []string{"resistors", "passives"}, Each: each, Offers: offers}
}

func TestABuildComesToWhatItsPurchasesComeTo(t *testing.T) {
	c := Plan([]Wanted{
		want("R-1", 4, of("Marsh Lane", stock(5000), 1, 1, "EUR", "1", "0.10", "100", "0.02"), of("Creek", stock(9000), 1, 100, "DKK", "1", "0.12")),
		want("U-1", 1, of("Marsh Lane", stock(3), 1, 1, "EUR", "1", "7.50")),
		want("J-1", 1),
	}, 10, terms)
	require.Len(t, c.Bought, 2)
	u, r := c.Bought[0], c.Bought[1]
	assert.Equal(t, []any{"U-1", int64(10), int64(10), true, "75.00 EUR"}, []any{u.Number, u.Takes, u.Pieces, u.Short, u.Total.String()})
	// 40 at 0.10 are 4.00; 100 at 0.02 are 2.00 and leave 60; 100 of Creek at 0.12 DKK are 12.00 DKK, 1.50 EUR.
	assert.Equal(t, []any{"Creek", int64(100), int64(60), "12.00 DKK", "1.50 EUR"}, []any{r.Supplier, r.Pieces, r.Over, r.Total.String(), r.Converted.String()})
	assert.Contains(t, r.Rate, "2026-01-01", "the rate is named with its day")
	assert.Equal(t, []any{"76.50 EUR", "7.65 EUR", 1, []string{"Creek", "Marsh Lane"}}, []any{c.Sum.String(), c.Board.String(), c.Short, c.Suppliers})
	assert.Equal(t, []Unbought{{Part: "J-1", Number: "J-1", Takes: 10, Why: "no offer is known"}}, c.Unbought)
	assert.Nil(t, c.LeadDays, "nobody says when the rest comes")
	assert.Equal(t, []string{"12.00 DKK", "75.00 EUR"}, []string{c.Sums[0].String(), c.Sums[1].String()})
}

func TestRulesOfBuying(t *testing.T) {
	cheap, dear := of("Creek", stock(10_000), 1, 1, "EUR", "1", "0.10"), of("Marsh Lane", stock(10_000), 1, 1, "EUR", "1", "0.20")
	alternate := of("Creek", stock(10_000), 1, 1, "EUR", "1", "0.05")
	alternate.Alternate, alternate.MPN = true, "KL-1"
	few := dear
	few.Stock = stock(5)
	gone, ended := cheap, cheap
	gone.Gone, ended.Until = true, "2026-11-28"
	kroner := of("Isle", stock(9), 1, 1, "SEK", "1", "0.01")
	for name, c := range map[string]struct {
		offers []Offered
		rules  Rules
		want   string
	}{
		"the lower sum":                          {[]Offered{dear, cheap}, Rules{}, "Creek 1.00 EUR"},
		"an alternate where it costs less":       {[]Offered{cheap, alternate}, Rules{}, "Creek 0.50 EUR"},
		"no alternate where none is wanted":      {[]Offered{cheap, alternate}, Rules{FirstOnly: true}, "Creek 1.00 EUR"},
		"only an alternate, and none is wanted":  {[]Offered{alternate}, Rules{FirstOnly: true}, "only an alternate is offered"},
		"a preferred one, though it costs more":  {[]Offered{cheap, dear}, Rules{Prefer: []string{"marsh lane"}}, "Marsh Lane 2.00 EUR"},
		"not a preferred one that has too few":   {[]Offered{cheap, few}, Rules{Prefer: []string{"Marsh Lane"}}, "Creek 1.00 EUR"},
		"not from one that is excluded":          {[]Offered{cheap, dear}, Rules{Exclude: []string{"CREEK "}}, "Marsh Lane 2.00 EUR"},
		"nothing where all are excluded":         {[]Offered{cheap}, Rules{Exclude: []string{"Creek"}}, "nothing is bought from Creek"},
		"what is there before what is not":       {[]Offered{few, of("Creek", stock(0), 1, 1, "EUR", "1", "0.01"), dear}, Rules{}, "Marsh Lane 2.00 EUR"},
		"what is gone is not bought":             {[]Offered{gone, dear}, Rules{}, "Marsh Lane 2.00 EUR"},
		"all is gone":                            {[]Offered{gone}, Rules{}, "Creek does not have it any more"},
		"prices that ended":                      {[]Offered{ended}, Rules{}, "the prices of Creek ended on 2026-11-28"},
		"without a rate only where nothing else": {[]Offered{kroner, dear}, Rules{}, "Marsh Lane 2.00 EUR"},
		"no price for so few":                    {[]Offered{of("Creek", nil, 1, 1, "EUR")}, Rules{}, "Creek says no price for 10"},
		"spare pieces of the drawer":             {[]Offered{cheap}, Rules{Spares: []Spare{{Drawer: "resistors", Percent: 15}, {Percent: 100}}}, "Creek 1.20 EUR"},
		"spare pieces of a drawer around it":     {[]Offered{cheap}, Rules{Spares: []Spare{{Drawer: "passives", Pieces: 5, Percent: 10}, {Percent: 100}}}, "Creek 1.50 EUR"},
		"spare pieces of any":                    {[]Offered{cheap}, Rules{Spares: []Spare{{Drawer: "connectors", Pieces: 5}, {Percent: 100}}}, "Creek 2.00 EUR"},
	} {
		got := Plan([]Wanted{want("R-1", 1, c.offers...)}, 10, Terms{Rules: c.rules, Rates: terms.Rates, Day: terms.Day})
		is := ""
		if len(got.Bought) > 0 {
			is = got.Bought[0].Supplier + " " + got.Bought[0].Total.String()
		} else {
			is = got.Unbought[0].Why
		}
		assert.Equal(t, c.want, is, name)
	}
	none := Plan([]Wanted{want("R-1", 1, kroner)}, 10, terms)
	assert.Equal(t, []any{1, true}, []any{none.NoRate, none.Sum.None()}, "what has no rate is not summed up, and that is said")
	assert.Contains(t, none.Bought[0].Rate, "SEK")
	huge := Plan([]Wanted{want("R-1", 1_000_000_000, cheap)}, MostBoards, terms)
	assert.Contains(t, huge.Unbought[0].Why, "nobody buys at once")
	assert.Equal(t, "it is not counted in pieces", Plan([]Wanted{want("W-1", 0, cheap)}, 10, terms).Unbought[0].Why)
}

func TestWhatIsShortSaysWhenItComes(t *testing.T) {
	a, b := of("Creek", stock(1), 1, 1, "EUR", "1", "0.10"), of("Marsh Lane", stock(0), 1, 1, "EUR", "1", "0.10")
	days := func(n int) *int { return &n }
	a.LeadDays, b.LeadDays = days(30), days(12)
	c := Plan([]Wanted{want("R-1", 1, a, b), want("R-2", 1, a)}, 10, terms)
	assert.Equal(t, 30, *c.LeadDays, "until the last comes")
	assert.Equal(t, 30, *Plan([]Wanted{want("R-1", 1, a), want("R-2", 1, b)}, 10, terms).LeadDays, "whichever stands first")
	for _, x := range c.Bought {
		if x.Number == "R-1" {
			assert.Equal(t, "Marsh Lane", x.Supplier, "of two that are short the sooner")
		}
	}
	a.LeadDays = nil
	assert.Nil(t, Plan([]Wanted{want("R-1", 1, b), want("R-2", 1, a)}, 10, terms).LeadDays, "what nobody says is not left out")
	assert.Nil(t, Plan([]Wanted{want("R-1", 1, of("Creek", nil, 1, 1, "EUR", "1", "0.10"))}, 10, terms).LeadDays)
}

// made draws parts that suppliers offer, without two that come to the same.
func made(d *measuretest.Draws, parts, suppliers int) (out []Wanted) {
	for p := range parts {
		w := want(fmt.Sprintf("P-%d", p), int64(1+d.IntN(9)))
		for s := range suppliers {
			if d.IntN(3) == 0 {
				continue
			}
			var in *int64
			if d.IntN(4) > 0 {
				in = stock(int64(d.IntN(200)))
			}
			o := of(fmt.Sprintf("S%d", s), in, int64(d.IntN(20)), int64(1+d.IntN(10)), []string{"EUR", "DKK"}[d.IntN(2)], "1", fmt.Sprintf("0.%02d%02d", 10+d.IntN(80), d.IntN(100)), "50", fmt.Sprintf("0.0%02d%d", 10+d.IntN(80), d.IntN(9)))
			w.Offers = append(w.Offers, o)
		}
		out = append(out, w)
	}
	return out
}

// TestFewSuppliersAreAsFewAsCanBe tries every set of suppliers by itself, as a plan that excludes all others.
func TestFewSuppliersAreAsFewAsCanBe(t *testing.T) {
	d := &measuretest.Draws{State: 18}
	for range 120 {
		suppliers := 2 + d.IntN(4)
		all := made(d, 1+d.IntN(6), suppliers)
		whole := Plan(all, 10, terms)
		got := Plan(all, 10, Terms{Rules: Rules{Few: true}, Rates: terms.Rates, Day: terms.Day})
		require.True(t, got.Exact)
		require.Equal(t, []int{len(whole.Bought), whole.Short}, []int{len(got.Bought), got.Short}, "nothing is given up for it")
		least, lowest := 99, decimal.Zero
		for some := range 1 << suppliers {
			var exclude []string
			for s := range suppliers {
				if some&(1<<s) == 0 {
					exclude = append(exclude, fmt.Sprintf("S%d", s))
				}
			}
			c := Plan(all, 10, Terms{Rules: Rules{Exclude: exclude}, Rates: terms.Rates, Day: terms.Day})
			if len(c.Bought) != len(whole.Bought) || c.Short != whole.Short {
				continue
			}
			n := bits.OnesCount(uint(some))
			sum, _ := decimal.NewFromString(c.Sum.Number())
			if n < least || n == least && sum.LessThan(lowest) {
				least, lowest = n, sum
			}
		}
		is, _ := decimal.NewFromString(got.Sum.Number())
		require.LessOrEqual(t, len(got.Suppliers), least)
		require.True(t, is.Equal(lowest) || len(whole.Bought) == 0, "%s against %s", is, lowest)
	}
}

func TestTooManySuppliersToTryAreSaid(t *testing.T) {
	d := &measuretest.Draws{State: 4}
	all := made(d, 12, 11)
	whole := Plan(all, 10, terms)
	got := Plan(all, 10, Terms{Rules: Rules{Few: true}, Rates: terms.Rates, Day: terms.Day})
	assert.False(t, got.Exact)
	assert.Equal(t, []int{len(whole.Bought), whole.Short}, []int{len(got.Bought), got.Short})
	assert.Less(t, len(got.Suppliers), len(whole.Suppliers))
}

// TestSumsAreThoseOfTheirLines holds of any plan: what is bought is enough, the sum is that of the rounded lines, and every part is somewhere.
func TestSumsAreThoseOfTheirLines(t *testing.T) {
	d := &measuretest.Draws{State: 7}
	for range 300 {
		all := made(d, d.IntN(12), 1+d.IntN(5))
		boards := int64(1 + d.IntN(500))
		c := Plan(all, boards, Terms{Rules: Rules{Spares: []Spare{{Percent: d.IntN(9), Pieces: int64(d.IntN(4))}}, Few: d.IntN(2) == 0}, Rates: terms.Rates, Day: terms.Day})
		require.Equal(t, len(all), len(c.Bought)+len(c.Unbought))
		sum, shares := decimal.Zero, decimal.Zero
		for i, b := range c.Bought {
			require.Equal(t, b.Takes+b.Spare+b.Over, b.Pieces)
			require.GreaterOrEqual(t, b.Over, int64(0))
			at := b.Total
			if b.Converted != nil {
				at = *b.Converted
			}
			require.Equal(t, "EUR", at.Code())
			one, _ := decimal.NewFromString(at.Number())
			require.True(t, one.Equal(one.Round(2)), "each line is rounded")
			sum = sum.Add(one)
			if i > 0 {
				before, _ := c.Bought[i-1].sum()
				n, _ := before.Compare(at)
				require.GreaterOrEqual(t, n, 0, "the dearest first")
			}
		}
		for _, s := range c.Shares {
			one, _ := decimal.NewFromString(s.Sum.Number())
			shares = shares.Add(one)
		}
		is := decimal.Zero
		if !c.Sum.None() {
			is, _ = decimal.NewFromString(c.Sum.Number())
		}
		require.True(t, is.Equal(sum) && shares.Equal(sum), "%s, %s, %s", is, sum, shares)
	}
}

func TestOfTwoThatCostTheSameTheFirstSourceIsBought(t *testing.T) {
	first, alternate := of("Marsh Lane", stock(100), 1, 1, "EUR", "1", "0.10"), of("Creek", stock(100), 1, 1, "EUR", "1", "0.10")
	alternate.Alternate = true
	for _, offers := range [][]Offered{{first, alternate}, {alternate, first}} {
		assert.Equal(t, "Marsh Lane", Plan([]Wanted{want("R-1", 1, offers...)}, 10, terms).Bought[0].Supplier)
	}
}

func TestAHouseWithoutACurrencyAddsUpOnlyWhatIsOfOne(t *testing.T) {
	euro, krona := of("Creek", nil, 1, 1, "EUR", "1", "0.10"), of("Isle", nil, 1, 1, "SEK", "1", "2")
	nobody := Terms{Day: terms.Day}
	one := Plan([]Wanted{want("R-1", 1, euro), want("R-2", 2, euro)}, 10, nobody)
	assert.Equal(t, []any{"EUR", "3.00 EUR", 0}, []any{one.Currency, one.Sum.String(), one.NoRate})
	two := Plan([]Wanted{want("R-1", 1, euro), want("R-2", 1, krona)}, 10, nobody)
	assert.Equal(t, []any{"", true, 2, 2}, []any{two.Currency, two.Sum.None(), two.NoRate, len(two.Sums)}, "amounts of two currencies have no sum")
}

func TestFewSuppliersDoNotCostWhatCanBeSummedUp(t *testing.T) {
	all := []Wanted{want("R-1", 1, of("Creek", nil, 1, 1, "EUR", "1", "0.10"), of("Isle", nil, 1, 1, "SEK", "1", "2")), want("R-2", 1, of("Isle", nil, 1, 1, "SEK", "1", "2"))}
	c := Plan(all, 10, Terms{Rules: Rules{Few: true}, Rates: terms.Rates, Day: terms.Day})
	assert.Equal(t, []any{[]string{"Creek", "Isle"}, 1, "1.00 EUR"}, []any{c.Suppliers, c.NoRate, c.Sum.String()})
}

func TestManyReasonsAreCounted(t *testing.T) {
	var offers []Offered
	for i := range 6 {
		offers = append(offers, of(fmt.Sprintf("S%d", i), nil, 1, 1, "EUR"))
	}
	why := Plan([]Wanted{want("R-1", 1, offers...)}, 10, terms).Unbought[0].Why
	assert.True(t, strings.HasSuffix(why, "and 3 more reasons"), why)
}

func TestTheListForPurchasingAddsUpToItsSum(t *testing.T) {
	w := want("R-1", 4, of("Creek", stock(9000), 1, 100, "DKK", "1", "0.12"))
	w.Sources = []string{"Tidewright TW-1", "Kelpline KL-1"}
	j := want("J-1", 1)
	j.Maker, j.MPN, j.Sources = "Tidewright", "TW-J", []string{"Tidewright TW-J", "Kelpline KL-J"}
	c := Plan([]Wanted{w, j, want("S-1", 1, of("Isle", stock(1), 1, 1, "SEK", "1", "2"))}, 10, terms)
	table, numbers := c.Sheet()
	at := func(row int, heading string) string {
		for i, h := range table[0] {
			if h == heading {
				return table[row][i]
			}
		}
		t.Fatalf("no %s in %v", heading, table[0])
		return ""
	}
	assert.Len(t, table, 5)
	assert.Equal(t, []string{"R-1", "100", "60", "0.12", "12.00", "DKK", "1.50", "Kelpline KL-1", "9000"}, []string{at(1, "Part number"), at(1, "Buy"), at(1, "Left over"), at(1, "Price each"), at(1, "Extended price"), at(1, "Currency"), at(1, "Extended price (EUR)"), at(1, "Alternates"), at(1, "In stock")})
	assert.Equal(t, []string{"S-1", "", "the supplier has less than is bought; no rate is known for SEK"}, []string{at(2, "Part number"), at(2, "Extended price (EUR)"), at(2, "Note")})
	assert.Equal(t, []string{"J-1", "10", "not in the sum: no offer is known", "Tidewright", "TW-J", "Kelpline KL-J"}, []string{at(3, "Part number"), at(3, "For the boards"), at(3, "Note"), at(3, "Manufacturer"), at(3, "MPN"), at(3, "Alternates")}, "what nobody offers is named so that purchasing can ask for it")
	assert.Equal(t, []string{"Sum for 10 boards", "1.50"}, []string{at(4, "Part number"), at(4, "Extended price (EUR)")})
	for i, h := range table[0] {
		if numbers[i] {
			assert.NotContains(t, []string{"Part number", "MPN", "Supplier number", "Description", "Note"}, h, "numbers of parts stay texts")
		}
	}
}

// unlimited is what a plan costs where everybody has enough of everything.
func unlimited(all []Wanted) []Wanted {
	out := make([]Wanted, len(all))
	for i, w := range all {
		w.Offers = append([]Offered{}, w.Offers...)
		for k := range w.Offers {
			w.Offers[k].Stock = nil
		}
		out[i] = w
	}
	return out
}

func sumOf(t *testing.T, c Costing) decimal.Decimal {
	t.Helper()
	if c.Sum.None() {
		return decimal.Zero
	}
	d, err := decimal.NewFromString(c.Sum.Number())
	require.NoError(t, err)
	return d
}

// Where there is enough of everything, more boards never come to less, another offer never makes a build dearer, and a rule never makes it cheaper.
func TestPlansMoveTheWayTheyMust(t *testing.T) {
	d := &measuretest.Draws{State: 99}
	for range 150 {
		all := unlimited(made(d, 1+d.IntN(8), 2+d.IntN(3)))
		boards := int64(1 + d.IntN(300))
		plan := func(all []Wanted, boards int64, r Rules) Costing {
			return Plan(all, boards, Terms{Rules: r, Rates: terms.Rates, Day: terms.Day})
		}
		base := plan(all, boards, Rules{})
		require.True(t, sumOf(t, plan(all, boards+int64(d.IntN(50)), Rules{})).GreaterThanOrEqual(sumOf(t, base)), "more boards")
		more := unlimited(all)
		for i := range more {
			if len(more[i].Offers) > 0 { // who was not sold before would be new in the sum
				more[i].Offers = append(more[i].Offers, of("Newcomer", nil, int64(d.IntN(50)), 1, "EUR", "1", fmt.Sprintf("0.%04d", 1+d.IntN(9000))))
			}
		}
		require.True(t, sumOf(t, plan(more, boards, Rules{})).LessThanOrEqual(sumOf(t, base)), "another offer")
		for _, r := range []Rules{{Few: true}, {Spares: []Spare{{Percent: d.IntN(30), Pieces: int64(d.IntN(20))}}}, {Prefer: []string{"S0"}}} {
			got := plan(all, boards, r)
			require.True(t, sumOf(t, got).GreaterThanOrEqual(sumOf(t, base)), "%+v", r)
			require.Len(t, got.Bought, len(base.Bought), "%+v", r)
		}
		without := plan(all, boards, Rules{Exclude: []string{"S0"}})
		require.NotContains(t, without.Suppliers, "S0")
		if len(without.Bought) == len(base.Bought) {
			require.True(t, sumOf(t, without).GreaterThanOrEqual(sumOf(t, base)), "an excluded supplier")
		}
	}
}

// What a plan picks of each part is the best that any of its offers would do, one by one.
func TestNoOtherOfferWouldDoBetter(t *testing.T) {
	d := &measuretest.Draws{State: 5}
	for range 200 {
		all := made(d, 4, 5)
		c := Plan(all, 20, terms)
		for _, b := range c.Bought {
			for _, w := range all {
				if w.Number != b.Number {
					continue
				}
				for _, o := range w.Offers {
					p, ok := o.Buy(w.Each * 20)
					if !ok {
						continue
					}
					require.False(t, b.Short && !p.Short, "%s has enough of %s, and %s was taken, which has not", o.Supplier, b.Number, b.Supplier)
					one := Bought{Total: p.Total}
					one.convert(terms)
					x, inOne := one.sum()
					y, _ := b.sum()
					if n, err := x.Compare(y); err == nil && inOne && p.Short == b.Short {
						require.GreaterOrEqual(t, n, 0, "%s would sell %s for %s, and %s asks %s", o.Supplier, b.Number, x, b.Supplier, y)
					}
				}
			}
		}
	}
}
