// Package offer knows what suppliers offer: how many there are, at which price from which quantity, in which packing, how soon. It reads an offer
// from a supplier's texts, works out the cheapest way to buy a number of pieces, and says what changed between two looks. Who is asked, and
// what for, is left to others.
package offer

import (
	"cmp"
	"fmt"
	"slices"

	"jollydrawer/core/money"
)

// Offer is what one supplier offers under one of its numbers, in one packing. Quantities are in pieces.
type Offer struct {
	Number       string   `json:"number"`            // the supplier's
	Packing      string   `json:"packing,omitempty"` // in the supplier's words
	Manufacturer string   `json:"manufacturer,omitempty"`
	MPN          string   `json:"mpn,omitempty"`
	Stock        *int64   `json:"stock,omitempty"`   // nil: not said
	AtLeast      bool     `json:"atLeast,omitempty"` // the stock is this or more
	Minimum      int64    `json:"minimum,omitempty"` // the least that is sold; 0: not said
	Multiple     int64    `json:"multiple,omitempty"`
	LeadDays     *int     `json:"leadDays,omitempty"` // until more come; nil: not said
	Breaks       []Break  `json:"breaks,omitempty"`   // by quantity
	State        string   `json:"state,omitempty"`    // how the product stands, in the supplier's words
	Until        string   `json:"until,omitempty"`    // the day the prices end, such as 2026-12-31
	Problems     []string `json:"problems,omitempty"` // what was said and could not be read, in sentences
	hurt         bool     // one of its prices cannot be read, so that it has none
}

// Break is a price that holds from a quantity on.
type Break struct {
	From  int64        `json:"from"`
	Price money.Amount `json:"price"`
	Per   int64        `json:"per,omitempty"` // pieces that the price is of; 0: one
}

// per is how many pieces the price is of.
func (b Break) per() int64 { return max(b.Per, 1) }

// Each is the price of one piece.
func (b Break) Each() money.Amount { return b.Price.Each(b.per()) }

// Currency is the currency of the offer's prices; blank where it has none.
func (o Offer) Currency() string {
	if len(o.Breaks) == 0 {
		return ""
	}
	return o.Breaks[0].Price.Code()
}

// With is o with what f says beside: of what both say, o's stays. Prices that f could not read are said.
func (o Offer) With(f Offer) Offer {
	for to, from := range map[*string]string{&o.Packing: f.Packing, &o.Manufacturer: f.Manufacturer, &o.MPN: f.MPN, &o.State: f.State, &o.Until: f.Until} {
		if *to == "" {
			*to = from
		}
	}
	if o.Stock == nil {
		o.Stock, o.AtLeast = f.Stock, f.AtLeast
	}
	if o.LeadDays == nil {
		o.LeadDays = f.LeadDays
	}
	if len(o.Breaks) == 0 {
		o.Breaks = f.Breaks
	}
	o.Minimum, o.Multiple = cmp.Or(o.Minimum, f.Minimum), cmp.Or(o.Multiple, f.Multiple)
	o.Problems = slices.Concat(o.Problems, f.Problems)
	return o
}

// StockText writes how many there are; blank where nobody says.
func StockText(stock *int64, atLeast bool) string {
	switch {
	case stock == nil:
		return ""
	case atLeast:
		return fmt.Sprintf("%d or more", *stock)
	}
	return fmt.Sprint(*stock)
}

// Ended says whether the offer's prices do not hold any more on a day such as 2026-12-31: on the day that they hold until they do.
func (o Offer) Ended(on string) bool { return o.Until != "" && on > o.Until }

// On is the offer as it is on a day: without its prices where they have ended.
func (o Offer) On(day string) Offer {
	if o.Ended(day) {
		o.Breaks = nil
	}
	return o
}

// Purchase is one way to buy pieces of an offer.
type Purchase struct {
	Pieces int64        `json:"pieces"` // that are paid: the wanted ones and those over
	Over   int64        `json:"over,omitempty"`
	At     Break        `json:"at"`
	Total  money.Amount `json:"total"`           // rounded once
	Short  bool         `json:"short,omitempty"` // more than there are in stock
}

// most is the largest quantity that anybody buys; beyond it a number is a slip.
const most = 1_000_000_000

// Buy returns the cheapest way to buy at least n pieces of o: as many as the minimum, the multiple and the breaks ask for. Buying more than n may
// cost less, where a break begins a little above. What is in stock goes before what is not, whatever it costs; of two ways that cost the same
// the one with fewer pieces. ok is false where the offer has no price for it.
func (o Offer) Buy(n int64) (best Purchase, ok bool) {
	if n <= 0 || n > most || len(o.Breaks) == 0 {
		return best, false
	}
	multiple := max(o.Multiple, 1)
	up := func(q int64) int64 { return (max(q, n, o.Minimum) + multiple - 1) / multiple * multiple }
	quantities := []int64{up(n)}
	for _, b := range o.Breaks {
		if q := up(b.From); q > quantities[0] {
			quantities = append(quantities, q)
		}
	}
	for _, q := range quantities {
		at, priced := o.At(q)
		if !priced || q > most {
			continue
		}
		p := Purchase{Pieces: q, Over: q - n, At: at, Total: at.Price.Line(q, at.per()), Short: o.Stock != nil && *o.Stock < q && !o.AtLeast}
		if !ok || better(p, best) {
			best, ok = p, true
		}
	}
	return best, ok
}

// better says whether a goes before b, both of one offer and so of one currency.
func better(a, b Purchase) bool {
	if a.Short != b.Short {
		return b.Short
	}
	c, _ := a.Total.Compare(b.Total)
	return cmp.Or(c, cmp.Compare(a.Pieces, b.Pieces)) < 0
}

// At returns the break that holds for a quantity.
func (o Offer) At(q int64) (at Break, ok bool) {
	for _, b := range o.Breaks {
		if b.From <= q {
			at, ok = b, true
		}
	}
	return at, ok
}

// tidy puts the breaks in order and leaves out those that are none, with a sentence each.
func (o *Offer) tidy() {
	slices.SortStableFunc(o.Breaks, func(a, b Break) int { return cmp.Compare(a.From, b.From) })
	var kept []Break
	code := o.Currency()
	for _, b := range o.Breaks {
		switch {
		case b.Price.Code() != code:
			o.Breaks, o.hurt = nil, true
			o.say("Its prices are in two currencies, %s and %s; none was kept.", code, b.Price.Code())
			return
		case b.Price.Sign() <= 0:
			o.say("The price from %d on is zero, which is no price.", b.From)
		case len(kept) > 0 && kept[len(kept)-1].From == b.From && kept[len(kept)-1].Each().Equal(b.Each()):
		case len(kept) > 0 && kept[len(kept)-1].From == b.From:
			o.Breaks, o.hurt = nil, true
			o.say("It has two prices from %d on, %s and %s; none was kept.", b.From, kept[len(kept)-1].Each(), b.Each())
			return
		default:
			kept = append(kept, b)
		}
	}
	for i := 1; i < len(kept); i++ {
		if c, _ := kept[i].Each().Compare(kept[i-1].Each()); c > 0 {
			o.say("One piece costs more from %d on (%s) than from %d on (%s).", kept[i].From, kept[i].Each(), kept[i-1].From, kept[i-1].Each())
		}
	}
	o.Breaks = kept
}

func (o *Offer) say(format string, args ...any) {
	o.Problems = append(o.Problems, fmt.Sprintf(format, args...))
}
