package offer

import (
	"math"

	"github.com/shopspring/decimal"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
)

// Brief is what an index keeps of an offer: whole numbers only, prices in millionths of one currency for a thousand pieces. It orders and filters; what
// is shown is worked out from the offer itself.
type Brief struct {
	Stock    int64 // -1: not said
	AtLeast  bool
	Minimum  int64
	Multiple int64
	LeadDays int32 // -1: not said
	Stands   lifecycle.Standing
	Breaks   []BriefBreak
}

// BriefBreak is the price of a thousand pieces from a quantity on, in millionths.
type BriefBreak struct{ From, Thousand int64 }

// Millionths is an amount as an index keeps it; ok is false where it is too large.
func Millionths(a money.Amount, pieces, of int64) (n int64, ok bool) {
	d, err := decimal.NewFromString(a.Number())
	if err != nil || of <= 0 {
		return 0, false
	}
	d = d.Mul(decimal.NewFromInt(pieces)).Mul(decimal.NewFromInt(1_000_000)).DivRound(decimal.NewFromInt(of), 0)
	if d.Abs().Cmp(decimal.NewFromInt(math.MaxInt64/2)) > 0 {
		return 0, false
	}
	return d.IntPart(), true
}

// Brief returns o for an index. convert turns an amount into the index's currency; an offer for whose currency it has no rate is without prices.
func (o Offer) Brief(convert func(money.Amount) (money.Amount, bool)) Brief {
	b := Brief{Stock: -1, AtLeast: o.AtLeast, Minimum: o.Minimum, Multiple: o.Multiple, LeadDays: -1}
	if o.Stock != nil {
		b.Stock = *o.Stock
	}
	if o.LeadDays != nil {
		b.LeadDays = int32(min(*o.LeadDays, math.MaxInt32))
	}
	b.Stands, _ = lifecycle.Stated(o.State)
	for _, at := range o.Breaks {
		price, ok := convert(at.Price)
		if !ok {
			b.Breaks = nil
			return b
		}
		thousand, ok := Millionths(price, 1000, at.per())
		if !ok {
			b.Breaks = nil
			return b
		}
		b.Breaks = append(b.Breaks, BriefBreak{at.From, thousand})
	}
	return b
}

// Total is what at least n pieces cost at best, in millionths: as Offer.Buy says it, before the sum is rounded. ok is false where there is no price.
func (b Brief) Total(n int64) (total int64, short, ok bool) {
	if n <= 0 || n > most || len(b.Breaks) == 0 {
		return 0, false, false
	}
	multiple := max(b.Multiple, 1)
	for i := -1; i < len(b.Breaks); i++ {
		q := max(n, b.Minimum)
		if i >= 0 {
			if b.Breaks[i].From <= q {
				continue
			}
			q = b.Breaks[i].From
		}
		q = (q + multiple - 1) / multiple * multiple
		if q > most {
			continue
		}
		at := -1
		for k := range b.Breaks {
			if b.Breaks[k].From <= q {
				at = k
			}
		}
		if at < 0 {
			continue
		}
		costs, fits := times(b.Breaks[at].Thousand, q)
		if !fits {
			continue
		}
		lacks := b.Stock >= 0 && b.Stock < q && !b.AtLeast
		if !ok || lacks != short && short || lacks == short && costs < total {
			total, short, ok = costs, lacks, true
		}
	}
	return total, short, ok
}

// times is the price of q pieces; ok is false where it is too large.
func times(thousand, q int64) (int64, bool) {
	if q > 0 && thousand > (math.MaxInt64-500)/q {
		return 0, false
	}
	return (thousand*q + 500) / 1000, true
}
