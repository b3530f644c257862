// Package buying works out what a build has to buy and where: how many pieces of each part with those to spare, the offer that is the best for them, what is
// left over, what has no price and why, and what it all comes to. Reading offers is package offer's; which lines a build has is package bom's.
package buying

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/money"
	"jollydrawer/core/offer"
)

// mostPieces is the largest number of pieces of a part that anybody buys.
const mostPieces = 1_000_000_000

// MostBoards is the most boards that one build can have.
const MostBoards = 1_000_000

// Rules are how a house buys.
type Rules struct {
	FirstOnly bool     `json:"firstOnly,omitempty" doc:"Only the first source of a part is bought, and no alternate"`
	Prefer    []string `json:"prefer,omitempty" maxItems:"50" doc:"Suppliers that are taken where one of them has enough in stock, whatever others ask"`
	Exclude   []string `json:"exclude,omitempty" maxItems:"50" doc:"Suppliers that nothing is bought from"`
	Few       bool     `json:"few,omitempty" doc:"Rather from few suppliers than for the lowest sum"`
	Spares    []Spare  `json:"spares,omitempty" maxItems:"200" doc:"What is bought beyond what the boards take, by drawer"`
}

// Spare is what is bought beyond what the boards take: the larger of a share of it and a number of pieces.
type Spare struct {
	Drawer  string `json:"drawer,omitempty" maxLength:"60" doc:"For parts in it and in drawers inside it; blank: in any. The nearest counts"`
	Percent int    `json:"percent,omitempty" minimum:"0" maximum:"1000"`
	Pieces  int64  `json:"pieces,omitempty" minimum:"0" maximum:"1000000"`
}

// Wanted is one part that the boards take, with what is offered of its sources.
type Wanted struct {
	Part        string // its identifier
	Number      string
	Description string
	Drawers     []string // its own and those that it lies inside, the nearest first
	Kind        string   // what parts of its drawer are called
	Designators []string
	Each        int64    // pieces of one board
	Sources     []string // all of them, in words
	Maker, MPN  string   // of the first source
	Offers      []Offered
}

// Offered is an offer of one source of a part.
type Offered struct {
	offer.Offer
	Supplier  string
	Maker     string // of the source
	MPN       string
	Alternate bool // it is not of the first source
	Gone      bool // the supplier does not know it any more
}

// Bought is what is bought of one part.
type Bought struct {
	Part         string        `json:"part"`
	Number       string        `json:"number"`
	Description  string        `json:"description"`
	Drawer       string        `json:"drawer"`
	Kind         string        `json:"kind" doc:"What parts of its drawer are called"`
	Designators  []string      `json:"designators"`
	Takes        int64         `json:"takes" doc:"Pieces that the boards take"`
	Spare        int64         `json:"spare" doc:"Pieces wanted beyond them"`
	Supplier     string        `json:"supplier"`
	SupplierNo   string        `json:"supplierNumber"`
	Packing      string        `json:"packing,omitempty"`
	Manufacturer string        `json:"manufacturer"`
	MPN          string        `json:"mpn"`
	Alternate    bool          `json:"alternate,omitempty" doc:"It is not the part's first source"`
	Alternates   []string      `json:"alternates,omitempty" doc:"The part's other sources"`
	Pieces       int64         `json:"pieces" doc:"That are paid, by minimum, multiple and breaks"`
	Over         int64         `json:"over" doc:"Pieces left over beyond the spare ones"`
	Each         string        `json:"each" doc:"The price of one piece"`
	Total        money.Amount  `json:"total" doc:"Rounded once, half to even"`
	Converted    *money.Amount `json:"converted,omitempty" doc:"In the house's currency, where it is another and a rate is known"`
	Rate         string        `json:"rate,omitempty" doc:"The rate that it was converted by, with its day"`
	Stock        *int64        `json:"stock,omitempty" doc:"What the supplier has; nothing where it does not say"`
	AtLeast      bool          `json:"atLeast,omitempty"`
	Short        bool          `json:"short,omitempty" doc:"The supplier has less than is bought"`
	LeadDays     *int          `json:"leadDays,omitempty" doc:"Until more come, as the supplier says"`

	at offer.Break // that is paid
}

// sum is what a purchase comes to in the house's currency.
func (b *Bought) sum() (money.Amount, bool) {
	if b.Converted != nil {
		return *b.Converted, true
	}
	return b.Total, b.Rate == ""
}

// Unbought is a part that cannot be bought by what is known, and why.
type Unbought struct {
	Part        string   `json:"part"`
	Number      string   `json:"number"`
	Description string   `json:"description"`
	Designators []string `json:"designators"`
	Takes       int64    `json:"takes"`
	Why         string   `json:"why"`

	Manufacturer string   `json:"manufacturer,omitempty" doc:"Of the first source, or as the file has it"`
	MPN          string   `json:"mpn,omitempty"`
	Alternates   []string `json:"alternates,omitempty" doc:"The other sources"`
}

// Share is what the parts of one drawer come to.
type Share struct {
	Drawer string       `json:"drawer"`
	Kind   string       `json:"kind" doc:"What parts of it are called"`
	Parts  int          `json:"parts"`
	Sum    money.Amount `json:"sum"`
}

// Costing is what a build comes to.
type Costing struct {
	Boards    int64          `json:"boards"`
	Currency  string         `json:"currency" doc:"Of the sums; blank where the house names none and offers are in several"`
	Day       string         `json:"day" doc:"On which prices and rates hold"`
	Bought    []Bought       `json:"bought" doc:"The dearest first"`
	Unbought  []Unbought     `json:"unbought"`
	Sum       money.Amount   `json:"sum" doc:"Of the rounded lines; what has no price or no rate is not in it"`
	Board     money.Amount   `json:"board" doc:"The sum by the number of boards, rounded"`
	Sums      []money.Amount `json:"sums" doc:"As it is paid, by currency"`
	NoRate    int            `json:"noRate" doc:"Purchases that are not in the sum, as no rate is known for their currency"`
	Suppliers []string       `json:"suppliers"`
	Exact     bool           `json:"exact" doc:"Where few suppliers are wanted: no fewer would do, and no others as few cost less; false: there are too many to try them all"`
	Short     int            `json:"short" doc:"Purchases of which the supplier has less"`
	LeadDays  *int           `json:"leadDays,omitempty" doc:"Of what is short, until the last comes; nothing where that is not said of each, or nothing is short"`
	Shares    []Share        `json:"shares" doc:"By drawer, the dearest first"`
}

// Terms are what a costing rests on beside the offers.
type Terms struct {
	Rules Rules
	Rates money.Rates
	Day   string // such as 2026-11-29
}

// Plan works out what so many boards come to.
func Plan(all []Wanted, boards int64, t Terms) Costing {
	out := Costing{Boards: boards, Currency: t.Rates.House, Day: t.Day, Bought: []Bought{}, Unbought: []Unbought{}, Sums: []money.Amount{}, Suppliers: []string{}, Shares: []Share{}, Exact: true}
	ways := make([][]*Bought, len(all))
	for i := range all {
		w := &all[i]
		found, why := w.ways(boards, t)
		if len(found) == 0 {
			out.Unbought = append(out.Unbought, Unbought{Part: w.Part, Number: w.Number, Description: w.Description, Designators: w.Designators, Takes: w.Each * boards, Why: why, Manufacturer: w.Maker, MPN: w.MPN, Alternates: w.others(w.Maker + " " + w.MPN)})
			continue
		}
		ways[i] = found
	}
	if t.Rules.Few {
		ways, out.Exact = fewest(ways)
	}
	for i, found := range ways {
		if len(found) == 0 {
			continue
		}
		b := *found[0]
		b.Each = b.at.Each().String()
		b.Alternates = all[i].others(b.Manufacturer + " " + b.MPN)
		out.Bought = append(out.Bought, b)
	}
	out.add(t)
	return out
}

// others are the sources beside one, in words.
func (w *Wanted) others(one string) (out []string) {
	for _, s := range w.Sources {
		if s != one {
			out = append(out, s)
		}
	}
	return out
}

// add sums up what is bought.
func (c *Costing) add(t Terms) {
	if c.Currency == "" && len(c.Bought) > 0 { // of one currency, where the house names none
		c.Currency = c.Bought[0].Total.Code()
		if slices.ContainsFunc(c.Bought, func(b Bought) bool { return b.Total.Code() != c.Currency }) {
			c.Currency = ""
		}
	}
	slices.SortStableFunc(c.Bought, func(a, b Bought) int {
		x, inA := a.sum()
		y, inB := b.sum()
		if inA != inB {
			return cmp.Compare(yes(inB), yes(inA))
		}
		n, _ := y.Compare(x)
		return cmp.Or(n, cmp.Compare(a.Number, b.Number))
	})
	paid, shares := map[string]money.Amount{}, map[string]*Share{}
	lead, known := 0, true
	for i := range c.Bought {
		b := &c.Bought[i]
		paid[b.Total.Code()], _ = paid[b.Total.Code()].Add(b.Total)
		if !slices.Contains(c.Suppliers, b.Supplier) {
			c.Suppliers = append(c.Suppliers, b.Supplier)
		}
		if b.Short {
			c.Short++
			known = known && b.LeadDays != nil
			if b.LeadDays != nil {
				lead = max(lead, *b.LeadDays)
			}
		}
		sum, in := b.sum()
		if !in || sum.Code() != c.Currency {
			c.NoRate++
			continue
		}
		c.Sum, _ = c.Sum.Add(sum)
		s := shares[b.Drawer]
		if s == nil {
			s = &Share{Drawer: b.Drawer, Kind: b.Kind}
			shares[b.Drawer] = s
		}
		s.Parts++
		s.Sum, _ = s.Sum.Add(sum)
	}
	if c.Short > 0 && known {
		c.LeadDays = &lead
	}
	for _, s := range shares {
		c.Shares = append(c.Shares, *s)
	}
	slices.SortFunc(c.Shares, func(a, b Share) int {
		n, _ := b.Sum.Compare(a.Sum)
		return cmp.Or(n, cmp.Compare(a.Drawer, b.Drawer))
	})
	for _, a := range paid {
		c.Sums = append(c.Sums, a)
	}
	slices.SortFunc(c.Sums, func(a, b money.Amount) int { return cmp.Compare(a.Code(), b.Code()) })
	slices.Sort(c.Suppliers)
	if !c.Sum.None() && c.Boards > 0 {
		c.Board = c.Sum.Line(1, c.Boards)
	}
}

func yes(b bool) int {
	if b {
		return 1
	}
	return 0
}

// spare is how many pieces of a part are bought beyond what the boards take.
func (w *Wanted) spare(takes int64, rules []Spare) int64 {
	for _, drawer := range append(slices.Clone(w.Drawers), "") {
		for _, s := range rules {
			if s.Drawer == drawer {
				return max((takes*int64(s.Percent)+99)/100, s.Pieces)
			}
		}
	}
	return 0
}

// ways are the purchases that would do, one a supplier, the best first; or why there is none.
func (w *Wanted) ways(boards int64, t Terms) (out []*Bought, why string) {
	takes := w.Each * boards
	switch {
	case takes <= 0:
		return nil, "it is not counted in pieces"
	case takes > mostPieces:
		return nil, fmt.Sprintf("a build takes %d, which nobody buys at once", takes)
	}
	spare := w.spare(takes, t.Rules.Spares)
	reasons := map[string]bool{}
	because := func(why string) { reasons[why] = true }
	for i := range w.Offers {
		o := &w.Offers[i]
		switch {
		case o.Gone:
			because(o.Supplier + " does not have it any more")
			continue
		case named(t.Rules.Exclude, o.Supplier):
			because("nothing is bought from " + o.Supplier)
			continue
		case t.Rules.FirstOnly && o.Alternate:
			because("only an alternate is offered")
			continue
		case o.Ended(t.Day):
			because("the prices of " + o.Supplier + " ended on " + o.Until)
			continue
		}
		p, ok := o.Buy(takes + spare)
		if !ok {
			because(fmt.Sprintf("%s says no price for %d", o.Supplier, takes+spare))
			continue
		}
		b := &Bought{Kind: w.Kind, Part: w.Part, Number: w.Number, Description: w.Description, Designators: w.Designators, Takes: takes, Spare: spare, Supplier: o.Supplier, SupplierNo: o.Number, Packing: o.Packing, Manufacturer: o.Maker, MPN: o.MPN, Alternate: o.Alternate,
			Pieces: p.Pieces, Over: p.Over, at: p.At, Total: p.Total, Stock: o.Stock, AtLeast: o.AtLeast, Short: p.Short, LeadDays: o.LeadDays}
		if len(w.Drawers) > 0 {
			b.Drawer = w.Drawers[0]
		}
		b.convert(t)
		switch k := slices.IndexFunc(out, func(was *Bought) bool { return was.Supplier == b.Supplier }); {
		case k < 0:
			out = append(out, b)
		case before(b, out[k]):
			out[k] = b
		}
	}
	if len(out) == 0 {
		return nil, whyNot(reasons)
	}
	if preferred := slices.DeleteFunc(slices.Clone(out), func(b *Bought) bool { return b.Short || !named(t.Rules.Prefer, b.Supplier) }); len(preferred) > 0 {
		out = preferred
	}
	slices.SortFunc(out, func(a, b *Bought) int {
		switch {
		case before(a, b):
			return -1
		case before(b, a):
			return 1
		}
		return cmp.Compare(a.Supplier, b.Supplier)
	})
	return out, ""
}

// convert says what a purchase comes to in the house's currency; one without a rate names that.
func (b *Bought) convert(t Terms) {
	if t.Rates.House == "" || b.Total.Code() == t.Rates.House {
		return
	}
	sum, by, ok := t.Rates.Convert(b.Total, t.Rates.House, t.Day)
	if !ok {
		b.Rate = "none is known for " + b.Total.Code()
		return
	}
	sum = sum.Line(1, 1)
	b.Converted, b.Rate = &sum, by.String()
}

// before says whether a is the better purchase of one part: what is there goes before what is not, what can be summed up before what cannot; then the lower sum,
// then what comes sooner, then the part's first source, then fewer pieces.
func before(a, b *Bought) bool {
	x, inA := a.sum()
	y, inB := b.sum()
	n := 0
	if inA == inB && x.Code() == y.Code() {
		n, _ = x.Compare(y)
	}
	return cmp.Or(cmp.Compare(yes(a.Short), yes(b.Short)), cmp.Compare(yes(inB), yes(inA)), n, cmp.Compare(days(a), days(b)), cmp.Compare(yes(a.Alternate), yes(b.Alternate)), cmp.Compare(a.Pieces, b.Pieces), cmp.Compare(a.SupplierNo+"\x00"+a.Packing, b.SupplierNo+"\x00"+b.Packing)) < 0
}

// days is when a purchase comes that is not there; what nobody says comes last.
func days(b *Bought) int {
	switch {
	case !b.Short:
		return 0
	case b.LeadDays == nil:
		return 1 << 30
	}
	return *b.LeadDays
}

// named says whether a list names a supplier, whatever its capitals.
func named(list []string, supplier string) bool {
	return slices.ContainsFunc(list, func(s string) bool { return strings.EqualFold(strings.TrimSpace(s), supplier) })
}

// whyNot puts reasons into words.
func whyNot(reasons map[string]bool) string {
	if len(reasons) == 0 {
		return "no offer is known"
	}
	var all []string
	for r := range reasons {
		all = append(all, r)
	}
	slices.Sort(all)
	if len(all) > 3 {
		all = append(all[:3], fmt.Sprintf("and %d more reasons", len(all)-3))
	}
	return strings.Join(all, "; ")
}
