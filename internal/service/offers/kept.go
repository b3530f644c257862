package offers

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/money"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// statement is what a supplier says of one of its numbers in one packing, and of which source it is.
type statement struct {
	connection store.ID
	of         string // key of the source
	product    connection.Product
	offer      offer.Offer
	two        bool // it is said of several products: nobody can tell of which it is
}

// statements are what suppliers say, each of its numbers once, by the key of its offer.
type statements map[store.Hash]*statement

// add adds what a supplier says of a source. Where it said it of another source before, other is the part number of that one, once.
func (s statements) add(by store.ID, of string, p connection.Product, o offer.Offer) (other string) {
	id := store.OfferID(by, o.Number, o.Packing)
	switch was := s[id]; {
	case was == nil:
		s[id] = &statement{connection: by, of: of, product: p, offer: o}
	case was.of == of:
		was.offer = offer.Join(was.offer, o)
	case !was.two:
		was.two = true
		return was.product.MPN
	}
	return ""
}

// stored are the statements as they are kept; those of several products are not.
func (s statements) stored(seen time.Time) (out []store.Offer, err error) {
	for id, x := range s {
		if x.two {
			continue
		}
		body, err := json.Marshal(x.offer)
		if err != nil {
			return nil, err
		}
		out = append(out, store.Offer{ID: id, Connection: x.connection, Number: x.offer.Number, Packing: x.offer.Packing, K: store.SourceHash(x.of), Body: string(body), Seen: store.Stamp(seen)})
	}
	return out, nil
}

// written says which products of one supplier are of a part number: where it has that as it is written, only those. A1-12 and A11-2 are the same but for
// marks, and a supplier that has both has two products.
func written(mpn string, products []connection.Product) func(*connection.Product) bool {
	exact := func(p *connection.Product) bool {
		return strings.EqualFold(strings.Join(strings.Fields(p.MPN), " "), strings.Join(strings.Fields(mpn), " "))
	}
	for i := range products {
		if exact(&products[i]) {
			return exact
		}
	}
	return func(*connection.Product) bool { return true }
}

// keep keeps offers, and what became otherwise since they were seen before. care says what the house wants to hear of some sources.
func (s *Offers) keep(ctx context.Context, all []store.Offer, care map[store.Hash]offer.Care) error {
	if len(all) == 0 {
		return nil
	}
	return s.Store.KeepOffers(ctx, all, func(before *store.Offer, now store.Offer) (news []store.OfferNews) {
		if before == nil {
			is, err := decoded(now)
			if stands, ok := lifecycle.Stated(is.State); err == nil && ok && stands != lifecycle.Active {
				return []store.OfferNews{{What: "state", Says: fmt.Sprintf("the supplier says %q of the product", is.State)}}
			}
			return nil
		}
		switch {
		case now.Gone && !before.Gone:
			return []store.OfferNews{{What: "gone", Says: "the supplier does not know " + now.Number + " any more"}}
		case now.Gone:
			return nil
		case before.Gone:
			news = append(news, store.OfferNews{What: "back", Says: "the supplier knows " + now.Number + " again"})
		}
		was, err := decoded(*before)
		is, err2 := decoded(now)
		if err != nil || err2 != nil { // of another version of the program: what it was cannot be compared
			return news
		}
		for _, c := range offer.Changes(was, is, care[now.K]) {
			if c.Matters {
				news = append(news, store.OfferNews{What: c.What, Says: c.Says})
			}
		}
		return news
	})
}

func decoded(o store.Offer) (out offer.Offer, err error) {
	err = json.Unmarshal([]byte(o.Body), &out)
	return out, err
}

// historyFor is how far back the history of an offer is shown.
const historyFor = 2 * 365 * 24 * time.Hour

// OfPart returns the offers of all sources of a part, with what a number of pieces costs, what became otherwise, and how it was.
func (s *Offers) OfPart(ctx context.Context, c deed.Call, key string, pieces int64) (wire.PartOffers, error) {
	pieces = max(pieces, 1)
	out := wire.PartOffers{Pieces: pieces, Sources: []wire.SourceOffers{}, News: []wire.OfferNews{}, History: []wire.OfferPoint{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, content, err := s.parts.Newest(ctx, key)
	if err != nil {
		return out, deed.Sentence(err, "part")
	}
	out.Number = h.Number
	rates, err := s.rates(ctx)
	if err != nil {
		return out, err
	}
	names, err := s.names(ctx)
	if err != nil {
		return out, err
	}
	var keys []store.Hash
	for _, src := range content.Sources {
		keys = append(keys, store.SourceHash(src.Key()))
	}
	r := s.Store.Read(ctx)
	all, err := r.OffersOf(keys)
	if err != nil {
		return out, err
	}
	var ids []store.Hash
	of := map[store.Hash]store.Offer{}
	for i, src := range content.Sources {
		one := wire.SourceOffers{Manufacturer: src.Manufacturer, MPN: src.MPN, Offers: []wire.Offer{}}
		for _, o := range all {
			if o.K != keys[i] {
				continue
			}
			w, err := s.shownOffer(o, names, pieces, rates)
			if err != nil {
				return out, err
			}
			one.Offers = append(one.Offers, w)
			ids = append(ids, o.ID)
			of[o.ID] = o
			if !w.Gone && w.Buy != nil && (out.Best == nil || answers.Cheaper(w, *out.Best) < 0) {
				out.Best = &w
			}
		}
		slices.SortStableFunc(one.Offers, answers.Cheaper)
		out.Sources = append(out.Sources, one)
	}
	then, err := r.OfferHistory(ids, s.Now().Add(-historyFor))
	if err != nil {
		return out, err
	}
	for _, t := range then {
		o := of[t.Offer]
		was, err := decoded(store.Offer{Body: t.Body})
		if err != nil {
			continue
		}
		p := wire.OfferPoint{At: t.At, Supplier: names[o.Connection], Number: o.Number, Packing: o.Packing, Stock: was.Stock}
		if buy, ok := was.Buy(pieces); ok {
			p.Total = &buy.Total
		}
		out.History = append(out.History, p)
	}
	news, err := r.News(keys)
	if err != nil {
		return out, err
	}
	for _, n := range news {
		out.News = append(out.News, s.shownNews(n, of[n.Offer], names, content.Sources, []string{h.Number}))
	}
	switch j, err := r.LastJobOf(h.ID, jobModels); {
	case err == nil:
		w := s.work.Seen(ctx, j)
		out.Models = &w
	case !errors.Is(err, store.ErrNotFound):
		return out, err
	}
	return out, nil
}

// shownOffer is a kept offer as people see it.
func (s *Offers) shownOffer(o store.Offer, names map[store.ID]string, pieces int64, rates money.Rates) (wire.Offer, error) {
	is, err := decoded(o)
	if err != nil {
		return wire.Offer{}, fmt.Errorf("an offer of %s: %w", names[o.Connection], err)
	}
	w := answers.Offer{Supplier: names[o.Connection], Offer: is, Seen: o.Seen, Since: &o.Since, Gone: o.Gone}
	w.Price(pieces, rates, s.today())
	return w, nil
}

// names are the suppliers of connections.
func (s *Offers) names(ctx context.Context) (map[store.ID]string, error) {
	all, err := s.connections(ctx)
	out := map[store.ID]string{}
	for _, one := range all {
		out[one.head.ID] = one.Supplier
	}
	return out, err
}

func (s *Offers) shownNews(n store.OfferNews, o store.Offer, names map[store.ID]string, sources []part.Source, numbers []string) wire.OfferNews {
	w := wire.OfferNews{ID: n.ID.String(), Supplier: names[o.Connection], Number: o.Number, What: n.What, Says: n.Says, At: n.At, Parts: numbers}
	for _, src := range sources {
		if store.SourceHash(src.Key()) == n.K {
			w.Source = src.Manufacturer + " " + src.MPN
		}
	}
	if is, err := decoded(o); err == nil && n.What == "state" {
		if stands, ok := lifecycle.Stated(is.State); ok && stands != lifecycle.Active {
			w.Propose = string(stands)
		}
	}
	return w
}

// News lists what became otherwise of offers and that nobody has seen to.
func (s *Offers) News(ctx context.Context, c deed.Call, offset, limit int) (wire.OfferNewsList, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.OfferNewsList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.OfferNews{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	r := s.Store.Read(ctx)
	news, total, err := r.AllNews(offset, limit)
	if err != nil {
		return out, err
	}
	out.Page.Total = int(total)
	names, err := s.names(ctx)
	if err != nil {
		return out, err
	}
	var ids []store.Hash
	for _, n := range news {
		ids = append(ids, n.Offer)
	}
	of, err := r.OffersByID(ids)
	if err != nil {
		return out, err
	}
	for _, n := range news {
		var numbers []string
		var sources []part.Source
		o := of[n.Offer]
		if is, err := decoded(o); err == nil {
			src := part.Source{Manufacturer: is.Manufacturer, MPN: is.MPN}
			if e, ok := s.index.BySource(src.Key()); ok {
				numbers, sources = []string{e.Number}, e.Sources
			}
		}
		out.Items = append(out.Items, s.shownNews(n, o, names, sources, append([]string{}, numbers...)))
	}
	return out, nil
}

// Settle says that news were seen to.
func (s *Offers) Settle(ctx context.Context, c deed.Call, in wire.SettleNews) (int, error) {
	ids := make([]store.ID, 0, len(in.IDs))
	for _, text := range in.IDs {
		id, err := store.ParseID(text)
		if err != nil {
			return 0, deed.Fault(deed.Invalid, "no-news", fmt.Sprintf("%q is no identifier of news.", text), "")
		}
		ids = append(ids, id)
	}
	n, err := deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "news", in, func(t *store.Tx) (int64, error) { return t.SettleNews(ids, c.Actor.ID) })
	return int(n), err
}
