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

// detailed asks the suppliers of a product for all that they say of it, where they have such a question, and reads it anew: fields, models and a
// datasheet that the list left out are added, and what it said stays. A supplier that is in trouble then has said what it said before.
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
		if _, ok := a.Ask[connection.Details]; !ok || a.reading == nil {
			continue
		}
		products := slices.Clone(a.reading.Products)
		changed := false
		for i := range products {
			if a.reading.Source(i).Key() != m.Key || len(products[i].Offers) == 0 || changed {
				continue
			}
			found, raw, err := s.details(ctx, a.connected, products[i])
			if err != nil {
				return nil, nil, err
			}
			had := len(products[i].Fields)
			if changed = products[i].Complete(found); !changed {
				continue
			}
			d := &detail{product: i, raw: raw}
			for _, f := range products[i].Fields[had:] {
				d.fields = append(d.fields, f.Name)
			}
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

// details is all that a supplier says of a product; what came with it is kept by its hash, as the answer to a question is.
func (s *Offers) details(ctx context.Context, one connected, p connection.Product) (found connection.Product, raw []byte, err error) {
	q := connection.Question{Kind: connection.Details, Number: p.Offers[0].Number}
	kept := store.KeptAnswer{Connection: one.head.ID, Question: hashOf(q), ID: store.NewID(), Version: one.head.Version, At: store.Stamp(s.Now())}
	var pages [][]byte
	err = s.asker.Ask(ctx, one.Document, q, func(page supplier.Page) error {
		pages = append(pages, page.Raw)
		for _, x := range page.Products {
			if part.NormaliseMPN(x.MPN) == part.NormaliseMPN(p.MPN) && found.MPN == "" {
				found, raw = x, page.Raw
			}
		}
		return nil
	})
	if ctx.Err() != nil {
		return found, nil, ctx.Err()
	}
	if kept.Problem = s.spoken(one.Supplier, err); kept.Problem != "" {
		return connection.Product{}, nil, nil
	}
	return found, raw, s.Store.KeepAnswer(ctx, kept, pages)
}
