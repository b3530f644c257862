package offers

import (
	"context"
	"strings"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/lookup"
	"jollydrawer/internal/wire"
)

// today is the day by which rates are looked up.
func (s *Offers) today() string { return s.Now().UTC().Format(time.DateOnly) }

// merge lays the answers of all suppliers beside each other and beside the library.
func (s *Offers) merge(each []answered, text string) answers.Merged {
	var all []answers.Answer
	for _, a := range each {
		if a.reading != nil {
			all = append(all, answers.Answer{Supplier: a.SupplierAnswer.Supplier, Reading: a.reading, Seen: *a.At})
		}
	}
	return answers.Merge(all, text, func(key string) (string, bool) {
		e, ok := s.index.BySource(key)
		if !ok || e.Gone {
			return "", false
		}
		return e.Number, true
	})
}

// limitsOf are the limits beside the facts of a question.
func limitsOf(q wire.SupplierQuestion) answers.Limits {
	return answers.Limits{Stock: q.Stock, InProduction: q.InProduction, Packing: q.Packing}
}

// together is what all suppliers answered until now: one row a product, what fits first.
func (s *Offers) together(ctx context.Context, in wire.SupplierQuestion, each []answered, state int, done bool) (wire.SupplierAnswers, error) {
	out := wire.SupplierAnswers{State: state, Done: done, Facts: []lookup.Fact{}, Suppliers: []wire.SupplierAnswer{}, Rows: []wire.OfferedRow{}, Facets: []lookup.Facet{}, Drawers: map[string]int{}}
	out.Own, out.OwnTotal = s.own(in.Text)
	rates, err := s.rates(ctx)
	if err != nil {
		return out, err
	}
	m := s.merge(each, in.Text)
	rows := m.Rows
	out.Facts = append(out.Facts, m.Facts...)
	answers.Order(rows, max(in.Pieces, 1), limitsOf(in), rates, s.today())
	fit := map[string]map[string]bool{} // supplier → keys that fit
	for _, m := range rows {
		if len(m.Fails) > 0 {
			continue
		}
		out.Fit++
		for _, o := range m.Offers {
			if fit[o.Supplier] == nil {
				fit[o.Supplier] = map[string]bool{}
			}
			fit[o.Supplier][m.Key] = true
		}
	}
	for _, a := range each {
		if a.reading != nil {
			a.Products = len(a.reading.Products)
		}
		a.Fit = len(fit[a.SupplierAnswer.Supplier])
		out.Suppliers = append(out.Suppliers, a.SupplierAnswer)
	}
	out.Total = len(rows)
	q := lookup.Query{Filters: in.Filters, Pieces: max(in.Pieces, 1)}
	for _, key := range in.Sort {
		name, down := strings.CutPrefix(key, "-")
		q.Sort = append(q.Sort, lookup.Order{Key: name, Down: down})
	}
	n := m.Narrow(q, rates, s.today())
	out.Facets, out.Hidden, out.Drawers = n.Facets, n.Hidden, n.Drawers
	rows = m.Rows
	limit := in.Limit
	if limit == 0 {
		limit = 100
	}
	for _, m := range rows[:min(limit, len(rows))] {
		out.Rows = append(out.Rows, m.Row)
	}
	return out, nil
}
