package offers

import (
	"context"
	"slices"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/core/offer"
	"jollydrawer/internal/supplier"
)

// priced completes products whose offers say neither a stock nor a price by what the supplier says of their numbers when it is asked for those, where it
// has such a question. What it said since a time serves; ask says that it may be asked for the rest now. why is why it did not say all of it.
func (s *Offers) priced(ctx context.Context, one connected, products []connection.Product, since time.Time, ask bool) (out []connection.Product, why string, err error) {
	size := one.LotSize(connection.Prices)
	if size == 0 {
		return products, "", nil
	}
	var found []offer.Offer
	for lot := range slices.Chunk(connection.Unpriced(products), size) {
		q := connection.Question{Kind: connection.Prices, Number: lot[0], Numbers: lot}
		some, says, err := s.pricesOf(ctx, one, q, since, ask && why == "")
		if err != nil {
			return nil, "", err
		}
		if found = append(found, some...); says != "" {
			why = says
		}
	}
	if len(found) == 0 {
		return products, why, nil
	}
	out = slices.Clone(products)
	for i := range out {
		out[i].Price(found)
	}
	return out, why, nil
}

// pricesOf are the offers of some of a supplier's numbers, as it said since a time, or says now.
func (s *Offers) pricesOf(ctx context.Context, one connected, q connection.Question, since time.Time, ask bool) (found []offer.Offer, why string, err error) {
	kept, ok, err := s.Store.Read(ctx).AnswerTo(one.head.ID, hashOf(q))
	if err != nil {
		return nil, "", err
	}
	if ok && kept.Version == one.head.Version && kept.Problem == "" && kept.At.After(since) {
		raw, err := s.Store.Read(ctx).AnswerPages(kept.ID)
		if err != nil {
			return nil, "", err
		}
		r, err := supplier.NewReader(one.Document, q.Kind)
		if err != nil {
			return nil, "", err
		}
		for _, body := range raw {
			a, err := r.Read(body)
			if err != nil { // it was read when it was kept
				return nil, "", err
			}
			found = append(found, offersOf(a.Products)...)
		}
		return found, "", nil
	}
	if !ask {
		return nil, "", nil
	}
	pages, why, err := s.askOnce(ctx, one, q)
	for _, p := range pages {
		found = append(found, offersOf(p.Products)...)
	}
	return found, why, err
}

func offersOf(products []connection.Product) (out []offer.Offer) {
	for _, p := range products {
		out = append(out, p.Offers...)
	}
	return out
}
