package answers

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/connection"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
)

// Row is one product, with the offers of all suppliers that have it.
type Row struct {
	Key          string              `json:"key"`
	Manufacturer string              `json:"manufacturer"`
	MPN          string              `json:"mpn"`
	Drawer       string              `json:"drawer"`
	Label        string              `json:"label"`
	Because      string              `json:"because,omitempty" doc:"Why it is in the drawer"`
	Description  string              `json:"description"`
	Values       map[string]string   `json:"values"`
	Unread       map[string]string   `json:"unread,omitempty" doc:"Parameter → text that could not be read"`
	Fails        []string            `json:"fails" doc:"Facts that do not hold; blank where it fits"`
	Own          []string            `json:"own" doc:"Numbers of parts that have it as a source"`
	Stands       string              `json:"stands,omitempty" doc:"active, not for new designs or obsolete, as the suppliers say; blank where they say nothing that is understood"`
	States       []string            `json:"states" doc:"In the suppliers' words"`
	Series       string              `json:"series,omitempty"`
	Datasheet    string              `json:"datasheet,omitempty"`
	Models       []connection.Linked `json:"models"`
	Differ       []string            `json:"differ" doc:"Where suppliers disagree"`
	Stock        int64               `json:"stock" doc:"Of all suppliers together"`
	Offers       []Offer             `json:"offers" doc:"The cheapest first"`
}

// Offer is what one supplier offers of a product.
type Offer struct {
	Supplier string `json:"supplier"`
	offer.Offer
	Seen      time.Time       `json:"seen"`
	Since     *time.Time      `json:"since,omitempty" doc:"Since when it is so"`
	Gone      bool            `json:"gone,omitempty" doc:"The supplier does not know it any more"`
	Buy       *offer.Purchase `json:"buy,omitempty" doc:"The cheapest way to buy the pieces that were asked for"`
	Each      string          `json:"each,omitempty" doc:"Price of one piece that way"`
	Converted *money.Amount   `json:"converted,omitempty" doc:"The sum in the house's currency"`
	Rate      string          `json:"rate,omitempty" doc:"The rate that it was converted by"`
	Ended     bool            `json:"ended,omitempty" doc:"Its prices do not hold any more: see until"`
}

// Price works out the cheapest way to buy pieces of an offer on a day, and the sum in the house's currency by the rates of that day.
func (o *Offer) Price(pieces int64, rates money.Rates, on string) {
	if o.Ended = o.Offer.Ended(on); o.Ended {
		return
	}
	p, ok := o.Offer.Buy(pieces)
	if !ok {
		return
	}
	o.Buy, o.Each = &p, p.At.Each().String()
	if rates.House == "" || p.Total.Code() == rates.House {
		return
	}
	if sum, by, ok := rates.Convert(p.Total, rates.House, on); ok {
		sum = sum.Line(1, 1)
		o.Converted, o.Rate = &sum, by.String()
	}
}

// Cheaper orders offers: what can be bought before what cannot, what is there before what is not, then by the sum. Sums of two currencies without a
// rate have no order.
func Cheaper(a, b Offer) int {
	switch {
	case a.Buy == nil || b.Buy == nil:
		return cmp.Compare(boolean(a.Buy == nil), boolean(b.Buy == nil))
	case a.Buy.Short != b.Buy.Short:
		return cmp.Compare(boolean(a.Buy.Short), boolean(b.Buy.Short))
	}
	x, y := a.Buy.Total, b.Buy.Total
	if a.Converted != nil {
		x = *a.Converted
	}
	if b.Converted != nil {
		y = *b.Converted
	}
	if c, err := x.Compare(y); err == nil {
		return c
	}
	return 0
}

// Product is one product of all suppliers that have it.
type Product struct {
	Row
	From   string // supplier whose reading of it is shown
	Parsed map[string]cabinet.Value
	Source part.Source
	total  *money.Amount // what the pieces cost at best, in the house's currency where there is a rate
}

// Answer is what one supplier answered.
type Answer struct {
	Supplier string
	Reading  *Reading
	Seen     time.Time
}

// severity orders how products stand, the worst last.
func severity(stands string) int { return lifecycle.Standing(stands).Severity() }

// Merged is what all suppliers answered, product by product.
type Merged struct {
	Rows  []*Product
	Facts []lookup.Fact
	index *lookup.Index // of nothing but these products; nil where there are none
}

// Merge puts the products of all answers together by maker and part number, says where suppliers disagree, and which facts of the question do not
// hold: by the rules of the library, over an index of nothing but these products. own gives the part that has a source.
func Merge(answers []Answer, text string, own func(key string) (number string, ok bool)) Merged {
	var rows []*Product
	by := map[string]*Product{}
	var cab *cabinet.Cabinet
	for _, a := range answers {
		cab = a.Reading.Cabinet
		for i := range a.Reading.Products {
			one := a.Reading.Product(i, a.Supplier, a.Seen)
			if m, ok := by[one.Key]; ok {
				m.join(one, cab)
				continue
			}
			by[one.Key] = one
			rows = append(rows, one)
		}
	}
	if cab == nil {
		return Merged{}
	}
	x := lookup.New()
	x.SetCabinet(cab)
	entries := make([]*lookup.Entry, 0, len(rows))
	for _, m := range rows {
		e := lookup.NewEntry(part.Content{Drawer: m.Drawer, Description: m.Description, Values: m.Parsed, Sources: []part.Source{m.Source}})
		e.ID, e.Number, e.Status, e.Standing, e.Version = m.Key, m.Key, lifecycle.Released, lifecycle.Active, 1
		if m.Series != "" {
			e.Series = []string{m.Series}
		}
		entries = append(entries, e)
		if number, ok := own(m.Key); ok {
			m.Own = append(m.Own, number)
		}
	}
	x.Put(entries...)
	facts, failing := x.Failing(text)
	for _, m := range rows {
		for _, k := range failing[m.Key] {
			m.Fails = append(m.Fails, facts[k].As)
		}
	}
	return Merged{rows, facts, x}
}

// Product is one product of an answer, ready to be put together with others.
func (r *Reading) Product(i int, supplier string, seen time.Time) *Product {
	k, p := &r.Result.Candidates[i], &r.Products[i]
	src := r.Source(i)
	m := &Product{From: supplier, Parsed: map[string]cabinet.Value{}, Source: src,
		Row: Row{Key: src.Key(), Manufacturer: src.Manufacturer, MPN: src.MPN, Drawer: k.Drawer, Because: k.Because, Values: map[string]string{}, Fails: []string{}, Own: []string{}, States: []string{}, Series: p.Series, Datasheet: p.Datasheet,
			Models: append([]connection.Linked{}, p.Models...), Differ: []string{}, Offers: []Offer{}, Description: cmp.Or(p.Description, p.Kind)}}
	if t, ok := r.Cabinet.Template(k.Drawer); ok {
		m.Label = t.Label
		r.Result.EachValue(i, func(key string, v cabinet.Value, o origin.Origin, problem *cabinet.Problem) {
			if problem != nil {
				if m.Unread == nil {
					m.Unread = map[string]string{}
				}
				m.Unread[key] = o.Written
				return
			}
			if !v.IsBlank() {
				slot, _ := t.Slot(key)
				m.Parsed[key], m.Values[key] = v, slot.Shown(v)
			}
		})
		if d := t.Describe(m.Parsed); d != "" {
			m.Description = d
		}
	}
	if p.State != "" {
		m.States = append(m.States, p.State)
		if stands, ok := lifecycle.Stated(p.State); ok {
			m.Stands = string(stands)
		}
	}
	for _, o := range p.Offers {
		m.Offers = append(m.Offers, Offer{Supplier: supplier, Offer: o, Seen: seen})
	}
	return m
}

// join adds what another supplier says of the same product. Values that the first left open are filled; where the two disagree both are said.
func (m *Product) join(o *Product, cab *cabinet.Cabinet) {
	if m.Drawer == "" && o.Drawer != "" { // the first said too little to tell what it is
		*m, *o = *o, *m
	}
	if m.From == o.From && !strings.EqualFold(m.MPN, o.MPN) { // the same but for marks: it may have two products
		m.Differ = append(m.Differ, fmt.Sprintf("%s has both %s and %s: they may be two products", m.From, m.MPN, o.MPN))
	}
	for _, x := range o.Offers {
		// what one supplier says twice of one number is one offer
		if i := slices.IndexFunc(m.Offers, func(y Offer) bool { return y.Supplier == x.Supplier && y.Number == x.Number && y.Packing == x.Packing }); i >= 0 {
			m.Offers[i].Offer = offer.Join(m.Offers[i].Offer, x.Offer)
		} else {
			m.Offers = append(m.Offers, x)
		}
	}
	for _, n := range o.Source.Numbers {
		if !slices.Contains(m.Source.Numbers, n) {
			m.Source.Numbers = append(m.Source.Numbers, n)
		}
	}
	for _, said := range o.States {
		if !slices.Contains(m.States, said) {
			m.States = append(m.States, said)
		}
	}
	if severity(o.Stands) > severity(m.Stands) {
		m.Stands = o.Stands
	}
	m.Datasheet, m.Series = cmp.Or(m.Datasheet, o.Datasheet), cmp.Or(m.Series, o.Series)
	for _, l := range o.Models {
		if !slices.Contains(m.Models, l) {
			m.Models = append(m.Models, l)
		}
	}
	if o.Drawer == "" {
		return
	}
	if m.Drawer != o.Drawer {
		m.Differ = append(m.Differ, fmt.Sprintf("%s sorts it under %s, %s under %s", m.From, m.Label, o.From, o.Label))
		return
	}
	t, ok := cab.Template(m.Drawer)
	if !ok {
		return
	}
	for _, slot := range t.Slots {
		have, there := m.Parsed[slot.Key]
		said, also := o.Parsed[slot.Key]
		switch {
		case !also:
		case !there:
			m.Parsed[slot.Key], m.Values[slot.Key] = said, o.Values[slot.Key]
		case have.Meant() == said.Meant():
		case m.From == o.From:
			m.Differ = append(m.Differ, fmt.Sprintf("%s: %s says both %s and %s", slot.Label, m.From, m.Values[slot.Key], o.Values[slot.Key]))
		default:
			m.Differ = append(m.Differ, fmt.Sprintf("%s: %s says %s, %s says %s", slot.Label, m.From, m.Values[slot.Key], o.From, o.Values[slot.Key]))
		}
	}
}

// Mixed says which supplier has two part numbers of the row that are the same but for marks: what stands in it may be of two products.
func (m *Product) Mixed() (supplier, one, other string) {
	first := map[string]string{}
	for _, o := range m.Offers {
		was, ok := first[o.Supplier]
		if o.MPN == "" {
			continue
		}
		if ok && !strings.EqualFold(was, o.MPN) {
			return o.Supplier, was, o.MPN
		}
		first[o.Supplier] = o.MPN
	}
	return "", "", ""
}

// Limits are a house's usual limits beside the facts.
type Limits struct {
	Stock        int64  // at least so many, all suppliers together
	InProduction bool   // nobody says that it is ending
	Packing      string // a word of the packing
}

// fail says which of the limits do not hold.
func (m *Product) fail(l Limits) {
	if l.Stock > 0 && m.Stock < l.Stock {
		m.Fails = append(m.Fails, fmt.Sprintf("%d in stock (there are %d)", l.Stock, m.Stock))
	}
	if l.InProduction && severity(m.Stands) > 1 {
		m.Fails = append(m.Fails, fmt.Sprintf("in production (%s)", strings.Join(m.States, ", ")))
	}
	if w := strings.ToLower(strings.TrimSpace(l.Packing)); w != "" && !slices.ContainsFunc(m.Offers, func(o Offer) bool { return strings.Contains(strings.ToLower(o.Packing), w) }) {
		m.Fails = append(m.Fails, "packing "+l.Packing)
	}
}

// Order prices the products for a number of pieces and by the rates of a day, says which limits do not hold, and puts them in order: what fits, what
// the library has, what nobody says is ending, what is in stock, what costs less.
func Order(rows []*Product, pieces int64, l Limits, rates money.Rates, on string) {
	for _, m := range rows {
		for i := range m.Offers {
			m.Offers[i].Price(pieces, rates, on)
		}
		m.Stock = stockOf(m.Offers)
		slices.SortStableFunc(m.Offers, Cheaper)
		if best := m.Offers[0]; best.Buy != nil {
			m.total = best.Converted
			if m.total == nil && (rates.House == "" || best.Buy.Total.Code() == rates.House) {
				m.total = &best.Buy.Total
			}
		}
		m.fail(l)
	}
	slices.SortStableFunc(rows, func(a, b *Product) int {
		return cmp.Or(cmp.Compare(len(a.Fails), len(b.Fails)), cmp.Compare(boolean(len(a.Own) == 0), boolean(len(b.Own) == 0)), cmp.Compare(severity(a.Stands), severity(b.Stands)),
			cmp.Compare(boolean(a.Stock < pieces), boolean(b.Stock < pieces)), costs(a, b), cmp.Compare(a.Manufacturer, b.Manufacturer), cmp.Compare(a.MPN, b.MPN))
	})
}

func costs(a, b *Product) int {
	if a.total == nil || b.total == nil {
		return cmp.Compare(boolean(a.total == nil), boolean(b.total == nil))
	}
	c, _ := a.total.Compare(*b.total)
	return c
}

// stockOf is how many all suppliers have together. What one supplier has in several packings may be the same pieces, and counts once: the most of them.
func stockOf(offers []Offer) (all int64) {
	most := map[string]int64{}
	for _, o := range offers {
		if o.Stock != nil {
			most[o.Supplier] = max(most[o.Supplier], *o.Stock)
		}
	}
	for _, n := range most {
		all += n
	}
	return all
}

func boolean(b bool) int {
	if b {
		return 1
	}
	return 0
}
