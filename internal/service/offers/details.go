package offers

import (
	"context"
	"slices"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/intakes"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

// detail is what a supplier said of one product when it was asked for all that it says.
type detail struct {
	product int
	raw     []byte
	fields  []string // that only it names
}

// detailed asks the suppliers of a product for all that they say of it, and for its stock and prices, where they have such questions, and reads it anew:
// what the list left out is added, and what it said stays. A supplier that is in trouble then has said what it said before.
func (s *Offers) detailed(ctx context.Context, each []answered, m *answers.Product, in wire.SupplierTake) ([]answered, *answers.Product, error) {
	more := false
	out := slices.Clone(each)
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, nil, err
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return nil, nil, err
	}
	for n, a := range out {
		if a.reading == nil {
			continue
		}
		i := a.productOf(m.Key)
		if i < 0 {
			continue
		}
		products := slices.Clone(a.reading.Products)
		d, changed, err := s.complete(ctx, a.connected, &products[i])
		if err != nil {
			return nil, nil, err
		}
		if d != nil {
			d.product = i
			a.detail = d
		}
		if changed {
			a.reading = answers.ReadIn(a.Document, products, all, cab, intakes.Library(s.index), in.Drawer)
			out[n], more = a, true
		}
	}
	if !more {
		return each, m, nil
	}
	for _, row := range s.merge(out, in.Question.Text).Rows {
		if row.Key == m.Key {
			return out, row, nil
		}
	}
	return each, m, nil // what was said in detail is of another product
}

// productOf is where the product of a source stands among those of an answer; -1 where nothing of it is sold.
func (a *answered) productOf(key string) int {
	for i := range a.reading.Products {
		if a.reading.Source(i).Key() == key && len(a.reading.Products[i].Offers) > 0 {
			return i
		}
	}
	return -1
}

// complete adds to a product what its supplier says when it is asked for it alone. d is what came of all that it says, nil where that added nothing.
func (s *Offers) complete(ctx context.Context, one connected, p *connection.Product) (d *detail, changed bool, err error) {
	if _, ok := one.Ask[connection.Details]; ok {
		found, raw, err := s.details(ctx, one, *p)
		if err != nil {
			return nil, false, err
		}
		had := len(p.Fields)
		if changed = p.Complete(found); changed {
			d = &detail{raw: raw}
			for _, f := range p.Fields[had:] {
				d.fields = append(d.fields, f.Name)
			}
		}
	}
	with, _, err := s.priced(ctx, one, []connection.Product{*p}, s.Now().Add(-keptFor), true)
	if err != nil {
		return nil, false, err
	}
	changed = changed || len(connection.Unpriced(with)) < len(connection.Unpriced([]connection.Product{*p}))
	*p = with[0]
	return d, changed, nil
}

// details is all that a supplier says of a product, and what it came with.
func (s *Offers) details(ctx context.Context, one connected, p connection.Product) (found connection.Product, raw []byte, err error) {
	pages, _, err := s.askOnce(ctx, one, connection.Question{Kind: connection.Details, Number: p.Offers[0].Number})
	for _, page := range pages {
		for _, x := range page.Products {
			if part.NormaliseMPN(x.MPN) == part.NormaliseMPN(p.MPN) {
				return x, page.Raw, err
			}
		}
	}
	return found, nil, err
}

// askOnce asks a supplier while somebody waits, and keeps the answer as that to any question. A supplier in trouble has none: why says so.
func (s *Offers) askOnce(ctx context.Context, one connected, q connection.Question) (pages []supplier.Page, why string, err error) {
	kept := store.KeptAnswer{Connection: one.head.ID, Question: hashOf(q), ID: store.NewID(), Version: one.head.Version, At: store.Stamp(s.Now())}
	var raw [][]byte
	err = s.asker.Ask(ctx, one.Document, q, func(p supplier.Page) error {
		pages, raw = append(pages, p), append(raw, p.Raw)
		return nil
	})
	if ctx.Err() != nil {
		return nil, "", ctx.Err()
	}
	if why = s.spoken(one.Supplier, err); why != "" {
		return nil, why, nil // half of an answer would be some prices of a number and not others
	}
	return pages, "", s.Store.KeepAnswer(ctx, kept, raw)
}
