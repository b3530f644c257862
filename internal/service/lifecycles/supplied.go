package lifecycles

import (
	"encoding/json"

	"jollydrawer/core/lifecycle"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

// supplied says of parts how each of their sources stands, by the offers that are kept: the worst that a supplier says counts, who does not know it any more
// says nothing.
func (g *gathering) supplied(read map[store.ID]part.Content, out map[store.ID]*known) error {
	if !g.supply {
		return nil
	}
	var keys []store.Hash
	for _, p := range read {
		for _, s := range p.Sources {
			keys = append(keys, store.SourceHash(s.Key()))
		}
	}
	offers, err := g.r.OffersOf(keys)
	if err != nil {
		return err
	}
	stands := map[store.Hash]lifecycle.Standing{}
	for _, o := range offers {
		var is offer.Offer
		if o.Gone || json.Unmarshal([]byte(o.Body), &is) != nil { // of another version of the program: it says nothing that is understood
			continue
		}
		if s, ok := lifecycle.Stated(is.State); ok && s.Severity() > stands[o.K].Severity() {
			stands[o.K] = s
		}
	}
	for id, p := range read {
		for _, s := range p.Sources {
			f := lifecycle.SuppliedFact{Source: s.Manufacturer + " " + s.MPN, Stands: stands[store.SourceHash(s.Key())]}
			out[id].facts.Supplied = append(out[id].facts.Supplied, f)
		}
	}
	return nil
}
