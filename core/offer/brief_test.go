package offer

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
)

func same(a money.Amount) (money.Amount, bool) { return a, true }

// What an index keeps of an offer costs what the offer costs, and is short where it is.
func TestABriefCostsWhatItsOfferCosts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		o := drawn(t)
		n := rapid.Int64Range(1, 5000).Draw(t, "n")
		want, ok := o.Buy(n)
		got, short, also := o.Brief(same).Total(n)
		require.Equal(t, ok, also)
		if !ok {
			return
		}
		exact, fits := Millionths(want.At.Price, want.Pieces, max(want.At.Per, 1))
		require.True(t, fits)
		assert.Equal(t, want.Short, short)
		// A price of so many is kept to a millionth of the thousand: off by less than one for each thousand pieces, and where two ways cost the same to
		// the cent the cheaper before rounding is taken.
		assert.LessOrEqual(t, got, exact+want.Pieces/1000+1)
		cents, fits := Millionths(want.Total, 1, 1)
		require.True(t, fits)
		assert.InDelta(t, cents, got, 5000+float64(want.Pieces)/1000+1, "the sum is rounded to the cent")
	})
}

func TestABriefOfWhatIsNotSaid(t *testing.T) {
	b := Offer{Number: "1"}.Brief(same)
	assert.Equal(t, []any{int64(-1), int32(-1), lifecycle.Standing("")}, []any{b.Stock, b.LeadDays, b.Stands})
	_, _, ok := b.Total(1)
	assert.False(t, ok, "no price")
	o := Offer{State: "NRND", Breaks: []Break{{From: 1, Price: money.Must("0.10", "EUR")}}}
	b = o.Brief(func(money.Amount) (money.Amount, bool) { return money.Amount{}, false })
	assert.Equal(t, lifecycle.NotForNew, b.Stands)
	_, _, ok = b.Total(1)
	assert.False(t, ok, "a currency without a rate has no place in the order")
	b = Offer{Breaks: []Break{{From: 1, Price: money.Must("9000000000", "EUR")}}}.Brief(same)
	_, _, ok = b.Total(1_000_000)
	assert.False(t, ok, "beyond what can be kept")
	_, _, ok = o.Brief(same).Total(0)
	assert.False(t, ok)
}
