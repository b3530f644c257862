package offers

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/wire"
)

// merged is one product of all suppliers that have it.
type merged struct {
	wire.OfferedRow
	from   string // supplier whose reading of it is shown
	values map[string]cabinet.Value
	source part.Source
	total  *money.Amount // what the pieces cost at best, in the house's currency where there is a rate
}

// severity orders how a product stands, the worst last.
var severity = []string{"", string(lifecycle.Active), string(lifecycle.NotForNew), string(lifecycle.Obsolete)}

// together lays the answers of all suppliers beside each other and beside the library: one row a product, what fits first.
func (s *Offers) together(ctx context.Context, c deed.Call, in wire.SupplierQuestion, each []answered, state int, done bool) (wire.SupplierAnswers, error) {
	out := wire.SupplierAnswers{State: state, Done: done, Facts: []lookup.Fact{}, Suppliers: []wire.SupplierAnswer{}, Rows: []wire.OfferedRow{}}
	out.Own, out.OwnTotal = s.own(in.Text)
	rates, err := s.rates(ctx)
	if err != nil {
		return out, err
	}
	pieces := max(in.Pieces, 1)
	rows, facts := s.merge(each, in.Text)
	out.Facts = append(out.Facts, facts...)
	fit := map[string]map[string]bool{} // supplier → keys that fit
	for _, m := range rows {
		for i := range m.Offers {
			s.price(&m.Offers[i], pieces, rates)
		}
		m.Stock = stockOf(m.Offers)
		m.order(rates)
		m.limits(in)
		for _, p := range m.Offers {
			if len(m.Fails) == 0 {
				if fit[p.Supplier] == nil {
					fit[p.Supplier] = map[string]bool{}
				}
				fit[p.Supplier][m.Key] = true
			}
		}
		if len(m.Fails) == 0 {
			out.Fit++
		}
	}
	slices.SortStableFunc(rows, func(a, b *merged) int { return before(a, b, pieces) })
	for _, a := range each {
		if a.reading != nil {
			a.Products = len(a.reading.products)
		}
		a.Fit = len(fit[a.SupplierAnswer.Supplier])
		out.Suppliers = append(out.Suppliers, a.SupplierAnswer)
	}
	out.Total = len(rows)
	limit := in.Limit
	if limit == 0 {
		limit = 100
	}
	for _, m := range rows[:min(limit, len(rows))] {
		out.Rows = append(out.Rows, m.OfferedRow)
	}
	return out, nil
}

// merge puts the products of all answers together by maker and part number, says where suppliers disagree, and which facts of the question do not
// hold: by the rules of the library, over an index of nothing but these products.
func (s *Offers) merge(each []answered, text string) (rows []*merged, facts []lookup.Fact) {
	by := map[string]*merged{}
	var cab *cabinet.Cabinet
	for _, a := range each {
		if a.reading == nil {
			continue
		}
		cab = a.reading.cab
		for i := range a.reading.products {
			one := a.reading.product(i, a.SupplierAnswer.Supplier, *a.At)
			if m, ok := by[one.Key]; ok {
				m.join(one, a.reading.cab)
				continue
			}
			by[one.Key] = one
			rows = append(rows, one)
		}
	}
	if cab == nil {
		return nil, nil
	}
	x := lookup.New()
	x.SetCabinet(cab)
	entries := make([]*lookup.Entry, 0, len(rows))
	for _, m := range rows {
		e := lookup.NewEntry(part.Content{Drawer: m.Drawer, Description: m.Description, Values: m.values, Sources: []part.Source{m.source}})
		e.ID, e.Number, e.Status, e.Standing, e.Version = m.Key, m.Key, lifecycle.Released, lifecycle.Active, 1
		if m.Series != "" {
			e.Series = []string{m.Series}
		}
		entries = append(entries, e)
		if own, ok := s.index.BySource(m.Key); ok && !own.Gone {
			m.Own = append(m.Own, own.Number)
		}
	}
	x.Put(entries...)
	facts, failing := x.Failing(text)
	for _, m := range rows {
		for _, k := range failing[m.Key] {
			m.Fails = append(m.Fails, facts[k].As)
		}
	}
	return rows, facts
}

// product is one product of an answer, ready to be put together with others.
func (r *reading) product(i int, supplier string, seen time.Time) *merged {
	m := &merged{OfferedRow: r.row(i, supplier, seen), from: supplier, values: map[string]cabinet.Value{}, source: r.source(i)}
	r.result.EachValue(i, func(key string, v cabinet.Value, _ origin.Origin, problem *cabinet.Problem) {
		if problem == nil && !v.IsBlank() {
			m.values[key] = v
		}
	})
	return m
}

// join adds what another supplier says of the same product. Values that the first left open are filled; where the two disagree both are said.
func (m *merged) join(o *merged, cab *cabinet.Cabinet) {
	if m.Drawer == "" && o.Drawer != "" { // the first said too little to tell what it is
		*m, *o = *o, *m
	}
	m.Offers = append(m.Offers, o.Offers...)
	for _, n := range o.source.Numbers {
		if !slices.Contains(m.source.Numbers, n) {
			m.source.Numbers = append(m.source.Numbers, n)
		}
	}
	for _, said := range o.States {
		if !slices.Contains(m.States, said) {
			m.States = append(m.States, said)
		}
	}
	if slices.Index(severity, o.Stands) > slices.Index(severity, m.Stands) {
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
		m.Differ = append(m.Differ, fmt.Sprintf("%s sorts it under %s, %s under %s", m.from, m.Label, o.from, o.Label))
		return
	}
	t, ok := cab.Template(m.Drawer)
	if !ok {
		return
	}
	for _, slot := range t.Slots {
		have, there := m.values[slot.Key]
		said, also := o.values[slot.Key]
		switch {
		case !also:
		case !there:
			m.values[slot.Key], m.Values[slot.Key] = said, o.Values[slot.Key]
		case have.Meant() == said.Meant():
		case m.from == o.from:
			m.Differ = append(m.Differ, fmt.Sprintf("%s: %s says both %s and %s", slot.Label, m.from, m.Values[slot.Key], o.Values[slot.Key]))
		default:
			m.Differ = append(m.Differ, fmt.Sprintf("%s: %s says %s, %s says %s", slot.Label, m.from, m.Values[slot.Key], o.from, o.Values[slot.Key]))
		}
	}
}

// limits says which of the house's usual limits do not hold.
func (m *merged) limits(in wire.SupplierQuestion) {
	if in.Stock > 0 && m.Stock < in.Stock {
		m.Fails = append(m.Fails, fmt.Sprintf("%d in stock (there are %d)", in.Stock, m.Stock))
	}
	if in.InProduction && slices.Index(severity, m.Stands) > 1 {
		m.Fails = append(m.Fails, fmt.Sprintf("in production (%s)", strings.Join(m.States, ", ")))
	}
	if w := strings.ToLower(strings.TrimSpace(in.Packing)); w != "" && !slices.ContainsFunc(m.Offers, func(o wire.Offer) bool { return strings.Contains(strings.ToLower(o.Packing), w) }) {
		m.Fails = append(m.Fails, "packing "+in.Packing)
	}
}

// order puts the offers of a product in order, the cheapest for the pieces first, and notes what it costs.
func (m *merged) order(rates money.Rates) {
	slices.SortStableFunc(m.Offers, func(a, b wire.Offer) int { return cheaper(a, b) })
	if best := m.Offers[0]; best.Buy != nil {
		m.total = best.Converted
		if m.total == nil && best.Buy.Total.Code() == rates.House {
			m.total = &best.Buy.Total
		}
	}
}

// cheaper orders offers: what can be bought before what cannot, what is there before what is not, then by the sum. Sums of two currencies without a
// rate have no order.
func cheaper(a, b wire.Offer) int {
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

func boolean(b bool) int {
	if b {
		return 1
	}
	return 0
}

// before orders products: what fits, what the library has, what is in stock, what costs less.
func before(a, b *merged, pieces int64) int {
	return cmp.Or(cmp.Compare(len(a.Fails), len(b.Fails)), cmp.Compare(boolean(len(a.Own) == 0), boolean(len(b.Own) == 0)), cmp.Compare(slices.Index(severity, a.Stands), slices.Index(severity, b.Stands)), cmp.Compare(boolean(a.Stock < pieces), boolean(b.Stock < pieces)), costs(a, b),
		cmp.Compare(a.Manufacturer, b.Manufacturer), cmp.Compare(a.MPN, b.MPN))
}

func costs(a, b *merged) int {
	if a.total == nil || b.total == nil {
		return cmp.Compare(boolean(a.total == nil), boolean(b.total == nil))
	}
	c, _ := a.total.Compare(*b.total)
	return c
}

// stockOf is how many all suppliers have together. What one supplier has in several packings may be the same pieces, and counts once: the most of them.
func stockOf(offers []wire.Offer) (all int64) {
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

// price works out the cheapest way to buy pieces of an offer, and converts the sum.
func (s *Offers) price(o *wire.Offer, pieces int64, rates money.Rates) {
	p, ok := o.Offer.Buy(pieces)
	if !ok {
		return
	}
	o.Buy, o.Each = &p, p.At.Each().String()
	if rates.House == "" || p.Total.Code() == rates.House {
		return
	}
	if sum, by, ok := rates.Convert(p.Total, rates.House, s.Now().UTC().Format(time.DateOnly)); ok {
		sum = sum.Line(1, 1)
		o.Converted, o.Rate = &sum, by.String()
	}
}
