package offers

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"sync"
	"time"

	"jollydrawer/core/connection"
	"jollydrawer/core/lookup"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/internal/jobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/work"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

const (
	jobRefresh = "offers-refresh"
	// freshFor is how long what was asked serves another refresh; who asks for single parts is always answered anew.
	freshFor = 10 * time.Minute
	// mostRefreshed is how many sources one job asks for.
	mostRefreshed = 200_000
)

// wanted is a source that suppliers are asked for.
type wanted struct {
	Maker   string        `json:"m"`
	MPN     string        `json:"n"`
	Numbers []part.Number `json:"s,omitempty"` // the suppliers' own, which somebody keeps on the part
}

// numberOf is the number under which a supplier sells it; blank where nobody said.
func (w wanted) numberOf(supplier string) string {
	for _, n := range w.Numbers {
		if n.Supplier == supplier {
			return n.Number
		}
	}
	return ""
}

func (w wanted) key() string { return part.Source{Manufacturer: w.Maker, MPN: w.MPN}.Key() }

type refreshPayload struct {
	Sources []wanted
	Lists   bool
	Since   time.Time // what was asked later serves
}

// Refresh starts asking the suppliers for what they offer of parts: of some, of a drawer, of a BOM, or of all; those on boards first, then those that
// were asked for longest ago.
func (s *Offers) Refresh(ctx context.Context, c deed.Call, in wire.RefreshOffers) (wire.Job, error) {
	return s.work.Start(ctx, c, work.Asked{Op: deed.OpRefresh, Kind: jobRefresh, Prepare: func(now time.Time) (any, int64, error) {
		all, err := s.connections(ctx)
		if err != nil {
			return nil, 0, err
		}
		if len(all) == 0 {
			return nil, 0, deed.Fault(deed.Invalid, "no-connections", "There is no connection to a supplier yet.", "An administrator can make one: jolly connection apply FILE.")
		}
		p := refreshPayload{Lists: in.Lists, Since: now.Add(-freshFor)}
		if len(in.Parts) > 0 {
			p.Since = now
		}
		p.Sources, err = s.sources(ctx, in)
		if err != nil {
			return nil, 0, err
		}
		switch {
		case len(p.Sources) == 0:
			return nil, 0, deed.Fault(deed.Invalid, "no-sources", "None of the parts has a source.", "Add manufacturer part numbers to them.")
		case len(p.Sources) > mostRefreshed:
			return nil, 0, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("The parts have %d sources; at most %d are asked for at once.", len(p.Sources), mostRefreshed), "Name a drawer.")
		}
		return p, int64(len(p.Sources)), nil
	}})
}

// sources lists what is to be asked for, in its order.
func (s *Offers) sources(ctx context.Context, in wire.RefreshOffers) (out []wanted, err error) {
	seen := map[string]bool{}
	add := func(sources []part.Source) {
		for _, src := range sources {
			if w := (wanted{src.Manufacturer, src.MPN, src.Numbers}); src.MPN != "" && !seen[w.key()] {
				seen[w.key()] = true
				out = append(out, w)
			}
		}
	}
	if in.BOM != "" {
		needs, err := s.Needs(ctx, in.BOM, false)
		if err != nil {
			return nil, err
		}
		for id := range needs {
			if e, ok := s.index.ByID(id); ok && !e.Gone {
				add(e.Sources)
			}
		}
		return out, s.oldestFirst(ctx, out, nil)
	}
	if len(in.Parts) > 0 {
		for _, number := range in.Parts {
			_, content, err := s.parts.Newest(ctx, number)
			if err != nil {
				return nil, deed.Sentence(err, "part "+number)
			}
			add(content.Sources)
		}
		return out, nil
	}
	needs, err := s.Needs(ctx, "", false)
	if err != nil {
		return nil, err
	}
	used := map[string]int{} // source key → boards that its parts are on
	s.index.Each(in.Drawer, func(e *lookup.Entry) bool {
		if !e.Gone {
			add(e.Sources)
			for _, src := range e.Sources {
				used[src.Key()] = max(used[src.Key()], needs[e.ID].Boards)
			}
		}
		return len(out) <= mostRefreshed
	})
	return out, s.oldestFirst(ctx, out, used)
}

// oldestFirst puts sources of parts on boards first, then those that suppliers were asked for longest ago or never, then those on more boards.
func (s *Offers) oldestFirst(ctx context.Context, all []wanted, used map[string]int) error {
	keys := make([]store.Hash, len(all))
	for i, w := range all {
		keys[i] = store.SourceHash(w.key())
	}
	seen := map[store.Hash]time.Time{}
	connections, err := s.connections(ctx)
	if err != nil {
		return err
	}
	for _, one := range connections {
		at, err := s.Store.Read(ctx).AskedAt(one.head.ID, keys)
		if err != nil {
			return err
		}
		for k, t := range at {
			if old, ok := seen[k]; !ok || t.Before(old) {
				seen[k] = t
			}
		}
	}
	slices.SortStableFunc(all, func(a, b wanted) int {
		i, j := used[a.key()], used[b.key()]
		return cmp.Or(cmp.Compare(min(j, 1), min(i, 1)), seen[store.SourceHash(a.key())].Compare(seen[store.SourceHash(b.key())]), cmp.Compare(j, i), cmp.Compare(a.key(), b.key()))
	})
	return nil
}

// refreshing is one refresh under way.
type refreshing struct {
	*Offers
	job    store.Job
	p      refreshPayload
	mu     sync.Mutex // guards what follows
	out    wire.Refreshed
	done   map[string]int            // by supplier, sources that were seen to
	sheets map[string][]store.Offer  // link → an offer of each source whose datasheet it is
	care   map[store.Hash]offer.Care // by source, where a BOM takes of it
}

// cares says of which sources a build takes how many: so many should be in stock. Of the parts that a source is of, the one that is taken most of.
func (s *Offers) cares(ctx context.Context, sources []wanted) (map[store.Hash]offer.Care, error) {
	needs, err := s.Needs(ctx, "", true)
	if err != nil {
		return nil, err
	}
	among := map[string]bool{}
	for _, w := range sources {
		among[w.key()] = true
	}
	out := map[store.Hash]offer.Care{}
	for id, n := range needs {
		e, ok := s.index.ByID(id)
		if !ok || e.Gone {
			continue
		}
		for _, src := range e.Sources {
			if k := store.SourceHash(src.Key()); among[src.Key()] && n.Pieces > out[k].Pieces {
				out[k] = offer.Care{Pieces: n.Pieces, For: fmt.Sprintf(", for a build of %d %s", n.Build, n.BOM)}
			}
		}
	}
	return out, nil
}

// runRefresh asks each supplier for all sources, side by side, each within its own limits. What it was killed in the middle of is asked for again,
// and nothing else.
func (s *Offers) runRefresh(ctx context.Context, j store.Job, progress jobs.Progress) error {
	r := &refreshing{Offers: s, job: j, done: map[string]int{}, sheets: map[string][]store.Offer{}, out: wire.Refreshed{Answers: []wire.SupplierAnswer{}, Problems: []string{}}}
	if err := json.Unmarshal([]byte(j.Payload), &r.p); err != nil {
		return err
	}
	all, err := s.connections(ctx)
	if err != nil {
		return err
	}
	r.out.Sources = len(r.p.Sources)
	if r.care, err = s.cares(ctx, r.p.Sources); err != nil {
		return err
	}
	var wait sync.WaitGroup
	errs := make([]error, len(all))
	ended := make(chan struct{})
	for i, one := range all {
		wait.Go(func() {
			if kindOf(one.Document) == "asked" {
				errs[i] = r.ask(ctx, one)
			} else {
				errs[i] = r.list(ctx, one)
			}
		})
	}
	go func() {
		defer close(ended)
		wait.Wait()
	}()
	tick := time.NewTicker(500 * time.Millisecond)
	defer tick.Stop()
	for {
		select {
		case <-ended:
			if err := errors.Join(errs...); err != nil {
				return err
			}
			if err := r.compareSheets(ctx); err != nil {
				return err
			}
			// Counted where it is kept: a lot whose answer to COMMIT was lost is written once, and looked at twice.
			news, err := s.Store.Read(ctx).NewsSince(hashes(r.p.Sources), j.Created)
			if err != nil {
				return err
			}
			r.out.News = int(news)
			slices.SortFunc(r.out.Answers, func(a, b wire.SupplierAnswer) int { return cmp.Compare(a.Supplier, b.Supplier) })
			s.levelNow(ctx)
			if err := s.Tell(ctx, s.Now()); err != nil {
				return err
			}
			result, err := json.Marshal(r.out)
			if err != nil {
				return err
			}
			return s.Store.FinishJob(ctx, j, string(result))
		case <-tick.C:
			if err := progress(int64(r.least(len(all))), int64(len(r.p.Sources))); err != nil {
				<-ended // the context of those that ask is this job's, and has ended
				return err
			}
		}
	}
}

// least is how many sources every supplier has been asked for.
func (r *refreshing) least(suppliers int) int {
	r.mu.Lock()
	defer r.mu.Unlock()
	if len(r.done) < suppliers {
		return 0
	}
	least := len(r.p.Sources)
	for _, n := range r.done {
		least = min(least, n)
	}
	return least
}

func (r *refreshing) saw(supplier string, sources int) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.done[supplier] += sources
}

func (r *refreshing) answered(a wire.SupplierAnswer) {
	r.mu.Lock()
	defer r.mu.Unlock()
	r.out.Answers = append(r.out.Answers, a)
}

// ask asks one supplier for all sources, lot by lot. A supplier that is in trouble is left for this time; what was not asked stays the oldest.
func (r *refreshing) ask(ctx context.Context, one connected) error {
	state := wire.SupplierAnswer{Supplier: one.Supplier, State: "answered"}
	size := max(one.LotSize(connection.Lot), 1)
	defer func() { r.saw(one.Supplier, len(r.p.Sources)) }()
	for lot := range slices.Chunk(r.p.Sources, size) {
		mine, err := r.claim(ctx, one, lot)
		if err != nil {
			return err
		}
		if len(mine) > 0 {
			n, why, err := r.lot(ctx, one, mine)
			if e := r.Store.EndAsked(context.WithoutCancel(ctx), one.head.ID, r.job.ID, hashes(mine), err == nil && why == ""); err == nil {
				err = e
			}
			if err != nil {
				return err
			}
			if state.Products += n; why != "" {
				state.State, state.Says = "in part", why
				if state.Products == 0 {
					state.State = "no answer"
				}
				break
			}
		}
		r.saw(one.Supplier, len(lot))
	}
	r.answered(state)
	return nil
}

// claim are the sources of a lot that this job asks for.
func (r *refreshing) claim(ctx context.Context, one connected, lot []wanted) (mine []wanted, err error) {
	got, err := r.Store.ClaimAsked(ctx, one.head.ID, r.job.ID, hashes(lot), r.p.Since, store.Stamp(r.Now()))
	for _, w := range lot {
		if slices.Contains(got, store.SourceHash(w.key())) {
			mine = append(mine, w)
		}
	}
	return mine, err
}

func hashes(all []wanted) []store.Hash {
	out := make([]store.Hash, len(all))
	for i, w := range all {
		out[i] = store.SourceHash(w.key())
	}
	return out
}

// lot asks for some sources, and keeps what is offered of them. why is why there is no answer.
func (r *refreshing) lot(ctx context.Context, one connected, lot []wanted) (seen int, why string, err error) {
	var questions []connection.Question
	if one.LotSize(connection.Lot) > 0 {
		q := connection.Question{Kind: connection.Lot}
		for _, w := range lot {
			q.Numbers = append(q.Numbers, w.MPN)
		}
		questions = append(questions, q)
	} else {
		for _, w := range lot {
			q := connection.Question{Kind: connection.Number, Number: w.MPN, Maker: w.Maker}
			if _, ok := one.Ask[connection.Number]; !ok {
				q = connection.Question{Kind: connection.Words, Words: w.MPN}
				if number := w.numberOf(one.Supplier); number != "" {
					if _, ok := one.Ask[connection.Order]; ok {
						q = connection.Question{Kind: connection.Order, Number: number}
					}
				}
			}
			questions = append(questions, q)
		}
	}
	var products []connection.Product
	// Where all that there is was read, what is missing is gone. A question by words is no proof: a supplier's words may not have the number.
	whole := !slices.ContainsFunc(questions, func(q connection.Question) bool { return q.Kind == connection.Words })
	for _, q := range questions {
		n, total := 0, ""
		err := r.asker.Ask(ctx, one.Document, q, func(p supplier.Page) error {
			products = append(products, p.Products...)
			whole = whole && len(p.Problems) == 0
			n, total = n+len(p.Products), p.Total
			return nil
		})
		if all, bad := strconv.Atoi(total); bad == nil && n < all {
			whole = false
		}
		if ctx.Err() != nil {
			return 0, "", ctx.Err()
		}
		if why := r.spoken(one.Supplier, err); why != "" {
			return 0, why, nil
		}
	}
	products, why, err = r.priced(ctx, one, products, r.p.Since, true)
	if err != nil || why != "" {
		return 0, why, err
	}
	seen, err = r.keepSeen(ctx, one, lot, products, whole)
	return seen, "", err
}

// numbered is the source that has an offer's number as its own, where that is of the same part number; blank where there is none. A number that was given to
// another product, or was wrong, is said.
func (r *refreshing) numbered(supplier string, w wanted, p connection.Product, o offer.Offer) string {
	switch {
	case w.MPN == "":
		return ""
	case part.NormaliseMPN(p.MPN) != part.NormaliseMPN(w.MPN):
		r.problem(fmt.Sprintf("%s sells %s %s under %s, which a part has as its number of %s %s: it was not kept as an offer of that.", supplier, p.Manufacturer, p.MPN, o.Number, w.Maker, w.MPN))
		return ""
	}
	return w.key()
}

// keepSeen keeps what products offer of wanted sources. whole says that all there is of them is among the products: what was offered before and is
// not any more is gone.
func (r *refreshing) keepSeen(ctx context.Context, one connected, lot []wanted, products []connection.Product, whole bool) (int, error) {
	read, err := r.evaluate(ctx, one.Document, products)
	if err != nil {
		return 0, err
	}
	byKey, byNumber := map[string]wanted{}, map[string]wanted{}
	for _, w := range lot {
		byKey[w.key()] = w
		for _, n := range w.Numbers {
			if n.Supplier == one.Supplier {
				byNumber[n.Number] = w
			}
		}
	}
	keys, sold := make([]string, len(products)), map[string][]connection.Product{}
	for i, p := range products {
		if keys[i] = read.Source(i).Key(); byKey[keys[i]].MPN != "" {
			sold[keys[i]] = append(sold[keys[i]], p)
		}
	}
	fits := map[string]func(*connection.Product) bool{}
	for key, some := range sold {
		fits[key] = written(byKey[key].MPN, some)
	}
	now := r.Now()
	said := statements{}
	for i, p := range products {
		fit, known := fits[keys[i]]
		if known && !fit(&p) {
			continue
		}
		for _, o := range p.Offers {
			of := keys[i]
			if !known {
				of = r.numbered(one.Supplier, byNumber[o.Number], p, o)
			}
			if of == "" {
				continue
			}
			if other := said.add(one.head.ID, of, p, o); other != "" {
				r.problem(fmt.Sprintf("%s sells two products under %s: %s and %s. It was kept as an offer of neither.", one.Supplier, o.Number, other, p.MPN))
			}
		}
	}
	keep, err := said.stored(now)
	if err != nil {
		return 0, err
	}
	for i, o := range keep {
		r.sheet(said[o.ID].product, keep[i:i+1])
	}
	seen := len(keep)
	if whole {
		before, err := r.Store.Read(ctx).OffersOf(hashes(lot))
		if err != nil {
			return 0, err
		}
		for _, o := range before {
			if o.Connection == one.head.ID && said[o.ID] == nil {
				o.Gone, o.Seen = true, store.Stamp(now)
				keep = append(keep, o)
			}
		}
	}
	err = r.Offers.keep(ctx, keep, r.care)
	r.mu.Lock()
	defer r.mu.Unlock()
	r.out.Offers += seen
	return seen, err
}
