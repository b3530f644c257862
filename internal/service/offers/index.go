package offers

import (
	"context"
	"maps"
	"slices"
	"time"

	"jollydrawer/core/lookup"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/internal/store"
)

const (
	indexEvery = time.Second
	// lateBy is how late an offer may be written after the time that it says: the clocks of instances differ, and a transaction takes a while.
	lateBy = 30 * time.Second
	// atOnce is how many sources are brought into the index at once.
	atOnce = 500
)

// indexed is what of the offers the lookup index knows. Only Level uses it.
type indexed struct {
	mark string                   // of rates and day
	from time.Time                // up to here all is known
	seen map[store.Hash]time.Time // offers that were looked at since, and what they said
}

// Run keeps the lookup index level with the offers that are kept, and asks by night, until ctx ends.
func (s *Offers) Run(ctx context.Context) {
	t := time.NewTicker(indexEvery)
	defer t.Stop()
	var looked time.Time
	for {
		s.levelNow(ctx)
		if s.Now().Sub(looked) > time.Minute {
			looked = s.Now()
			if err := s.Tell(ctx, s.Now().Add(-straggling)); err != nil && ctx.Err() == nil {
				s.Log.Warn("nobody is told of what suppliers say otherwise", "error", err)
			}
			if _, err := s.Night(ctx, s.night); err != nil && ctx.Err() == nil {
				s.Log.Warn("the refresh of the night was not started", "error", err)
			}
		}
		select {
		case <-ctx.Done():
			return
		case <-t.C:
		}
	}
}

// levelNow brings what was kept just now into the index of this instance; what fails comes with the next time.
func (s *Offers) levelNow(ctx context.Context) {
	if err := s.Level(ctx); err != nil && ctx.Err() == nil {
		s.Log.Warn("the offers in the lookup index are not up to date", "error", err)
	}
}

// Level brings the lookup index up to the offers that are kept. All are read again where the rates, or the day by which they hold, are others.
func (s *Offers) Level(ctx context.Context) error {
	s.leveling.Lock()
	defer s.leveling.Unlock()
	h, rates, err := s.ratesAt(ctx)
	if err != nil {
		return err
	}
	b := bringing{Offers: s, rates: rates, on: s.today(), house: rates.House}
	if b.names, err = s.names(ctx); err != nil {
		return err
	}
	mark := h.Released.String() + "/" + b.on
	now := s.Now()
	if s.indexed.mark != mark {
		if err := b.all(ctx); err != nil {
			return err
		}
		s.indexed = indexed{mark: mark, from: now.Add(-lateBy), seen: map[store.Hash]time.Time{}}
		s.house = b.house
		return nil
	}
	b.house = s.house
	changed, err := s.Store.Read(ctx).OffersSince(s.indexed.from)
	if err != nil {
		return err
	}
	keys := map[store.Hash]bool{}
	seen := map[store.Hash]time.Time{}
	for _, o := range changed {
		if seen[o.ID] = o.Since; !s.indexed.seen[o.ID].Equal(o.Since) {
			keys[o.K] = true
		}
	}
	for some := range slices.Chunk(slices.Collect(maps.Keys(keys)), atOnce) {
		of, err := s.Store.Read(ctx).OffersOf(some)
		if err != nil {
			return err
		}
		b.bring(of)
	}
	s.indexed.from, s.indexed.seen = now.Add(-lateBy), seen
	return nil
}

// bringing is one time that offers are brought into the index.
type bringing struct {
	*Offers
	rates money.Rates
	on    string
	house string // currency; where the rates name none, that of most of the first offers
	names map[store.ID]string
}

// all brings all offers, a page of sources at a time.
func (b *bringing) all(ctx context.Context) error {
	var after store.Hash
	for {
		page, err := b.Store.Read(ctx).OffersAfter(after, atOnce)
		if err != nil || len(page) == 0 {
			return err
		}
		after = page[len(page)-1].K
		if b.house == "" {
			b.house = usual(page)
		}
		b.bring(page)
	}
}

// usual is the currency of most offers.
func usual(page []store.Offer) (code string) {
	counts := map[string]int{}
	for _, o := range page {
		if is, err := decoded(o); err == nil && is.Currency() != "" {
			counts[is.Currency()]++
		}
	}
	for _, c := range slices.Sorted(maps.Keys(counts)) {
		if counts[c] > counts[code] {
			code = c
		}
	}
	return code
}

// bring brings offers of sources; all of each source are among them.
func (b *bringing) bring(page []store.Offer) {
	by := map[string]*lookup.Supply{}
	for _, o := range page {
		is, err := decoded(o)
		if err != nil { // of another version of the program
			continue
		}
		key, ok := b.sourceOf(o, is)
		if !ok {
			continue
		}
		if by[key] == nil {
			by[key] = &lookup.Supply{Key: key}
		}
		if !o.Gone {
			by[key].Offers = append(by[key].Offers, lookup.Offered{Supplier: b.names[o.Connection], Brief: is.On(b.on).Brief(b.convert)})
		}
	}
	out := make([]lookup.Supply, 0, len(by))
	for _, k := range slices.Sorted(maps.Keys(by)) {
		out = append(out, *by[k])
	}
	b.index.Supply(b.house, out)
}

func (b *bringing) convert(a money.Amount) (money.Amount, bool) {
	out, _, ok := b.rates.Convert(a, b.house, b.on)
	return out, ok
}

// sourceOf is the key of the source that an offer is of: the one that it names, or where it was joined by the supplier's number, the one that has it.
func (b *bringing) sourceOf(o store.Offer, is offer.Offer) (string, bool) {
	key := part.Source{Manufacturer: is.Manufacturer, MPN: is.MPN}.Key()
	if store.SourceHash(key) == o.K {
		return key, true
	}
	for _, e := range b.index.BySupplierNumber(o.Number) {
		for _, src := range e.Sources {
			if store.SourceHash(src.Key()) == o.K {
				return src.Key(), true
			}
		}
	}
	return "", false
}
