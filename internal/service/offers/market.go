package offers

import (
	"context"

	"jollydrawer/core/buying"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

// Market is what is offered of some sources, with what prices are compared by.
type Market struct {
	By    map[string][]buying.Offered // by part.Source.Key
	Rates money.Rates
	Day   string // such as 2026-11-29
}

// Market returns what suppliers offer of sources, as it was seen last.
func (s *Offers) Market(ctx context.Context, sources []part.Source) (Market, error) {
	out := Market{By: map[string][]buying.Offered{}, Day: s.today()}
	var err error
	if out.Rates, err = s.rates(ctx); err != nil {
		return out, err
	}
	names, err := s.names(ctx)
	if err != nil {
		return out, err
	}
	of := map[store.Hash]part.Source{}
	var keys []store.Hash
	for _, src := range sources {
		k := store.SourceHash(src.Key())
		if _, twice := of[k]; !twice {
			of[k] = src
			keys = append(keys, k)
		}
	}
	all, err := s.Store.Read(ctx).OffersOf(keys)
	if err != nil {
		return out, err
	}
	for _, o := range all {
		is, err := decoded(o)
		if err != nil { // of another version of the program: it is there, and says no price that can be read
			is = offer.Offer{Number: o.Number, Packing: o.Packing}
		}
		src := of[o.K]
		out.By[src.Key()] = append(out.By[src.Key()], buying.Offered{Offer: is, Supplier: names[o.Connection], Maker: src.Manufacturer, MPN: src.MPN, Gone: o.Gone})
	}
	return out, nil
}
