package offer

import (
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/money"
)

// row reads one row of a list: what a supplier says of a number, as texts.
func row(stock, least, from, price, state string) Offer {
	return Read(Raw{Number: "7", Stock: stock, Minimum: least, State: state, Breaks: []RawBreak{{From: from, Price: price}}}, Habits{Mark: money.Point, Currency: "EUR"})
}

func TestTwoStatementsAboutOneNumber(t *testing.T) {
	for _, c := range []struct {
		claim  string
		a, b   Offer
		stock  string
		prices []string
		least  int64
		state  string
		says   []string
	}{
		{"a row for each quantity", row("500", "1", "1", "0.10", "active"), row("500", "1", "100", "0.08", "active"), "500", []string{"1: 0.10 EUR", "100: 0.08 EUR"}, 1, "active", nil},
		{"in any order", row("500", "100", "100", "0.08", ""), row("500", "1", "1", "0.10", ""), "500", []string{"1: 0.10 EUR", "100: 0.08 EUR"}, 1, "", nil},
		{"the same twice", row("500", "1", "1", "0.10", ""), row("500", "1", "1", "0.10", ""), "500", []string{"1: 0.10 EUR"}, 1, "", nil},
		{"two prices for one quantity", row("500", "1", "1", "0.10", ""), row("500", "1", "1", "0.12", ""), "500", nil, 1, "", []string{"It has two prices from 1 on, 0.10 EUR and 0.12 EUR; none was kept."}},
		{"two stocks", row("500", "1", "1", "0.10", ""), row("70", "1", "1", "0.10", ""), "", []string{"1: 0.10 EUR"}, 1, "", []string{"It says both 500 and 70 in stock; neither was kept."}},
		{"a stock that only one says", row("", "1", "1", "0.10", ""), row("70", "", "1", "0.10", ""), "70", []string{"1: 0.10 EUR"}, 1, "", nil},
		{"more than a stock", row("70", "1", "1", "0.10", ""), row("70+", "1", "1", "0.10", ""), "", []string{"1: 0.10 EUR"}, 1, "", []string{"It says both 70 and 70 or more in stock; neither was kept."}},
		{"a price that cannot be read", row("5", "1", "1", "0.10", ""), row("5", "1", "100", "ask us", ""), "5", nil, 1, "", []string{`"ask us" is no price: it has no digit.`, "As one of its prices cannot be read, none was kept."}},
		{"a price after two that contradict each other", Join(row("5", "1", "1", "0.10", ""), row("5", "1", "1", "0.12", "")), row("5", "1", "100", "0.08", ""), "5", nil, 1, "", []string{"It has two prices from 1 on, 0.10 EUR and 0.12 EUR; none was kept.", "As one of its prices cannot be read, none was kept."}},
		{"two currencies", row("5", "1", "1", "0.10 EUR", ""), Read(Raw{Number: "7", Breaks: []RawBreak{{From: "100", Price: "0.09"}}}, Habits{Mark: money.Point, Currency: "USD"}), "5", nil, 1, "", []string{"Its prices are in two currencies, EUR and USD; none was kept."}},
		{"the worse of two states", row("5", "1", "1", "0.10", "active"), row("5", "1", "1", "0.10", "last time buy"), "5", []string{"1: 0.10 EUR"}, 1, "last time buy", nil},
	} {
		got := Join(c.a, c.b)
		var prices []string
		for _, b := range got.Breaks {
			prices = append(prices, StockText(&b.From, false)+": "+b.Price.String())
		}
		assert.Equal(t, c.stock, StockText(got.Stock, got.AtLeast), c.claim)
		assert.Equal(t, c.prices, prices, c.claim)
		assert.Equal(t, c.least, got.Minimum, c.claim)
		assert.Equal(t, c.state, got.State, c.claim)
		assert.ElementsMatch(t, c.says, got.Problems, c.claim)
	}
}

// However a list spreads the prices of a number over rows, they are all there: as one row with all of them has.
func TestPricesOverSeveralRowsAreThoseOfOne(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		h := Habits{Mark: money.Point, Currency: "EUR"}
		prices := rapid.SliceOfNDistinct(rapid.IntRange(1, 10_000), 1, 8, rapid.ID).Draw(t, "quantities")
		var all []RawBreak
		for _, from := range prices {
			n := int64(from)
			all = append(all, RawBreak{From: StockText(&n, false), Price: rapid.SampledFrom([]string{"0.10", "0.09", "1.25", "12"}).Draw(t, "price"), Per: rapid.SampledFrom([]string{"", "1", "100"}).Draw(t, "per")})
		}
		whole := Read(Raw{Number: "7", Stock: "12", Breaks: all}, h)
		var rows []Offer
		for left := slices.Clone(all); len(left) > 0; {
			k := rapid.IntRange(1, len(left)).Draw(t, "in a row")
			rows, left = append(rows, Read(Raw{Number: "7", Stock: "12", Breaks: left[:k]}, h)), left[k:]
		}
		rows = append(rows, Read(Raw{Number: "8", Stock: "3"}, h), rows[rapid.IntRange(0, len(rows)-1).Draw(t, "again")])
		got := JoinAll(rows)
		require.Len(t, got, 2)
		require.Equal(t, whole.Breaks, got[0].Breaks)
		require.Equal(t, whole.Stock, got[0].Stock)
	})
}
