package answers

import (
	"slices"

	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
)

// supply says what is offered of the products, for a number of pieces in the currency of a house, so that they can be filtered and sorted by it.
func (m *Merged) supply(rates money.Rates, on string) {
	all := make([]lookup.Supply, 0, len(m.Rows))
	code := rates.House
	for _, p := range m.Rows {
		s := lookup.Supply{Key: p.Source.Key()}
		for _, o := range p.Offers {
			if code == "" { // a house without rates compares what is of the first currency
				code = o.Currency()
			}
			s.Offers = append(s.Offers, lookup.Offered{Supplier: o.Supplier, Brief: o.On(on).Brief(func(a money.Amount) (money.Amount, bool) {
				c, _, ok := rates.Convert(a, code, on)
				return c, ok
			})})
		}
		all = append(all, s)
	}
	m.index.Supply(code, all)
}

// ofParts are columns that say something of a part of the library, which a product is not yet.
var ofParts = []string{"status", "standing", "missing", "offer.sources", "offer.named"}

// Narrowed is what else there is to say of answers that were narrowed.
type Narrowed struct {
	Facets  []lookup.Facet
	Drawers map[string]int // counts under all filters but their own
	Hidden  int            // products that were left out
}

// Narrow counts the values of all products that were answered with, leaves out those that filters do not let through, and sorts the others where an
// order is asked for, all as in the library; without one they stay in theirs.
func (m *Merged) Narrow(q lookup.Query, rates money.Rates, on string) Narrowed {
	out := Narrowed{Facets: []lookup.Facet{}, Drawers: map[string]int{}}
	if m.index == nil {
		return out
	}
	m.supply(rates, on)
	q.Text, q.Facets, q.Offset, q.Limit, q.Group = "", true, 0, 1, ""
	a := m.index.Search(q)
	out.Drawers = a.Drawers
	for _, f := range a.Facets {
		if !slices.Contains(ofParts, f.Key) {
			out.Facets = append(out.Facets, f)
		}
	}
	if len(q.Sort) == 0 && a.Total == len(m.Rows) {
		return out
	}
	by := make(map[string]*Product, len(m.Rows))
	for _, p := range m.Rows {
		by[p.Key] = p
	}
	kept := make(map[string]bool, a.Total)
	sorted := make([]*Product, 0, a.Total)
	for _, key := range m.index.IDs(q, len(m.Rows)) {
		kept[key] = true
		sorted = append(sorted, by[key])
	}
	out.Hidden = len(m.Rows) - len(sorted)
	if len(q.Sort) == 0 {
		rest := m.Rows[:0:0]
		for _, p := range m.Rows {
			if kept[p.Key] {
				rest = append(rest, p)
			}
		}
		sorted = rest
	}
	m.Rows = sorted
	return out
}
