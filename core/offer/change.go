package offer

import (
	"fmt"

	"jollydrawer/core/lifecycle"
)

// Change is one thing that became otherwise between two looks at an offer, in words.
type Change struct {
	What   string `json:"what"` // state, price, stock, lead, gone or back
	Before string `json:"before,omitempty"`
	After  string `json:"after,omitempty"`
	Says   string `json:"says"`
	// Matters says whether somebody wants to hear of it; what does not is only history.
	Matters bool `json:"matters,omitempty"`
}

// Care is what a house wants to hear of.
type Care struct {
	PriceShare int64  // a price that moved by at least so many hundredths; 0: 20
	Pieces     int64  // of which the price is looked at, and of which there should be as many in stock; 0: 100
	For        string // what so many are for, behind the number in a sentence; blank: nothing in particular
}

func (c Care) pieces() int64 {
	if c.Pieces <= 0 {
		return 100
	}
	return c.Pieces
}

// Changes says what became otherwise from before to after, both of one supplier number.
func Changes(before, after Offer, care Care) (out []Change) {
	n := care.pieces()
	if before.State != after.State {
		c := Change{What: "state", Before: before.State, After: after.State, Says: fmt.Sprintf("the supplier said %q of the product and says %q now", before.State, after.State)}
		was, _ := lifecycle.Stated(before.State)
		now, known := lifecycle.Stated(after.State)
		c.Matters = !known && after.State != "" || was != now
		out = append(out, c)
	}
	if p, q := priceOf(before, n), priceOf(after, n); p != q {
		c := Change{What: "price", Before: p, After: q, Matters: jumped(before, after, n, care)}
		switch {
		case p == "":
			c.Says = fmt.Sprintf("%d pieces have a price now: %s", n, q)
		case q == "":
			c.Says, c.Matters = fmt.Sprintf("%d pieces had a price of %s and have none now", n, p), true
		default:
			c.Says = fmt.Sprintf("%d pieces cost %s and cost %s now", n, p, q)
		}
		out = append(out, c)
	}
	if p, q := StockText(before.Stock, before.AtLeast), StockText(after.Stock, after.AtLeast); p != q {
		c := Change{What: "stock", Before: p, After: q, Says: fmt.Sprintf("the stock was %s and is %s", said(p), said(q))}
		c.Matters = enough(before, n) && !enough(after, n)
		if c.Matters {
			c.Says += fmt.Sprintf(", which is less than %d%s", n, care.For)
		}
		out = append(out, c)
	}
	if p, q := leadOf(before), leadOf(after); p != q {
		out = append(out, Change{What: "lead", Before: p, After: q, Says: fmt.Sprintf("the lead time was %s and is %s", said(p), said(q))})
	}
	return out
}

func said(s string) string {
	if s == "" {
		return "not said"
	}
	return s
}

func priceOf(o Offer, n int64) string {
	if p, ok := o.Buy(n); ok {
		return p.Total.String()
	}
	return ""
}

// jumped says whether n pieces became dearer or cheaper by as much as the house cares for.
func jumped(before, after Offer, n int64, care Care) bool {
	was, ok := before.Buy(n)
	now, also := after.Buy(n)
	if !ok || !also {
		return false
	}
	if was.Total.Code() != now.Total.Code() {
		return true
	}
	share := care.PriceShare
	if share <= 0 {
		share = 20
	}
	// now ≥ was × (100 + share) ÷ 100, or now ≤ was × (100 - share) ÷ 100, without a division
	high, _ := now.Total.Scaled(100).Compare(was.Total.Scaled(100 + share))
	low, _ := now.Total.Scaled(100).Compare(was.Total.Scaled(100 - share))
	return high >= 0 || low <= 0
}

// enough says whether there are n pieces, as far as the supplier says.
func enough(o Offer, n int64) bool { return o.Stock == nil || *o.Stock >= n }

func leadOf(o Offer) string {
	if o.LeadDays == nil {
		return ""
	}
	return fmt.Sprintf("%d days", *o.LeadDays)
}
