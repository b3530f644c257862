package offers

import (
	"bytes"
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"
	"sync"
	"time"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/lookup"
	"jollydrawer/core/offer"
	"jollydrawer/core/part"
	"jollydrawer/formats/rows"
	"jollydrawer/internal/blobs"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/files"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

// listed is a price list in memory: its products, and an index over them that is asked as the library is.
type listed struct {
	key string // which file, read by which connection, laid beside which templates

	once     sync.Once
	products []connection.Product
	index    *lookup.Index
	says     string // how many of its rows could not be read
	problem  string // why it cannot be read at all
	err      error
}

const (
	// mostListed is how many rows of a price list are asked; more than that is said.
	mostListed = 200_000
	// mostFound is how many products of a price list one question brings.
	mostFound = 120
)

// listed is how a supplier whose price list is at hand stands to a question.
func (s *Offers) listed(ctx context.Context, one connected, text string) (answered, error) {
	out := answered{connected: one, SupplierAnswer: wire.SupplierAnswer{Supplier: one.Supplier, State: "answered"}, steps: 1}
	l, ok, err := s.Store.Read(ctx).PriceListOf(one.head.ID)
	if err != nil {
		return out, err
	}
	if !ok {
		out.State, out.Says = "no answer", fmt.Sprintf("The price list of %s was not fetched yet.", one.Supplier)
		if one.Address == "" {
			out.Says = fmt.Sprintf("Nobody has uploaded a price list of %s yet.", one.Supplier)
		}
		return out, nil
	}
	list, err := s.listOf(ctx, one, l)
	if err != nil {
		return out, err
	}
	if list.problem != "" {
		out.State, out.Says = "no answer", list.problem
		return out, nil
	}
	out.At, out.Kept, out.list = &l.At, true, l.File
	if list.says != "" {
		out.Problems = append(out.Problems, list.says)
	}
	var some []connection.Product
	ids := list.index.IDs(lookup.Query{Text: text}, mostFound)
	for _, id := range ids {
		var i int
		if _, err := fmt.Sscanf(id, "%d", &i); err != nil {
			return out, err
		}
		some = append(some, list.products[i])
	}
	out.reading, err = s.held(ctx, one.Document, some, fmt.Sprintf("list/%s/%s/%s", one.head.Released, l.File, strings.Join(ids, ",")))
	return out, err
}

// listOf reads a price list, or returns it as it was read.
func (s *Offers) listOf(ctx context.Context, one connected, l store.PriceList) (*listed, error) {
	_, cabinet, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	mark, err := s.cabinets.CrosswalksMark(ctx)
	if err != nil {
		return nil, err
	}
	key := fmt.Sprintf("%s/%s/%d/%s", one.head.Released, l.File, cabinet.Revision, mark)
	s.mu.Lock()
	list := s.lists[one.head.ID]
	if list == nil || list.key != key {
		list = &listed{key: key}
		s.lists[one.head.ID] = list
	}
	s.mu.Unlock()
	list.once.Do(func() { list.err = s.readList(context.WithoutCancel(ctx), one, l, list) })
	if list.err != nil {
		s.mu.Lock()
		if s.lists[one.head.ID] == list { // what failed for the moment is tried again
			delete(s.lists, one.head.ID)
		}
		s.mu.Unlock()
	}
	return list, list.err
}

var errEnough = errors.New("enough rows")

func (s *Offers) readList(ctx context.Context, one connected, l store.PriceList, list *listed) error {
	err := s.eachOfList(ctx, one.Document, l.File.String(), func(_ int, p connection.Product) error {
		if len(list.products) == mostListed {
			return errEnough
		}
		list.products = append(list.products, p)
		return nil
	}, &list.says)
	var why *rows.Error
	switch {
	case errors.Is(err, errEnough):
		list.says = fmt.Sprintf("The list has more than %d rows; those after it are not asked.", mostListed)
	case errors.As(err, &why):
		list.problem = why.Sentence
		return nil
	case err != nil:
		return err
	}
	r, err := s.evaluate(ctx, one.Document, list.products)
	if err != nil {
		return err
	}
	list.index = lookup.New()
	list.index.SetCabinet(r.Cabinet)
	entries := make([]*lookup.Entry, 0, len(list.products))
	for i := range list.products {
		content := r.Result.Content(i)
		content.Sources = []part.Source{r.Source(i)}
		e := lookup.NewEntry(content)
		e.ID, e.Number, e.Status, e.Standing, e.Version = fmt.Sprint(i), list.products[i].Offers[0].Number, lifecycle.Released, lifecycle.Active, 1
		if list.products[i].Series != "" {
			e.Series = []string{list.products[i].Series}
		}
		entries = append(entries, e)
	}
	list.index.Put(entries...)
	return nil
}

// eachOfList reads the products of a kept price list; what stands in it at several places comes last, as one. says is how many rows were left out.
func (s *Offers) eachOfList(ctx context.Context, d *connection.Document, file string, f func(row int, p connection.Product) error, says *string) error {
	twice, err := s.twiceIn(ctx, d, file)
	if err != nil {
		return err
	}
	table, err := s.files.Table(ctx, file, rows.Layout{})
	if err != nil {
		return err
	}
	defer table.Close()
	type place struct {
		row     int
		product connection.Product
		two     bool // different products have the number
	}
	again := map[supplier.Number]*place{}
	_, left, problems, err := supplier.ReadTable(d, table, func(row int, p connection.Product) error {
		o := p.Offers[0]
		n := supplier.Number{Number: o.Number, Packing: o.Packing}
		if !twice[n] {
			return f(row, p)
		}
		if was := again[n]; was == nil {
			again[n] = &place{row: row, product: p}
		} else {
			was.two = was.two || part.NormaliseMPN(was.product.MPN) != part.NormaliseMPN(p.MPN)
			was.product.Offers[0] = offer.Join(was.product.Offers[0], o)
		}
		return nil
	})
	if err != nil {
		return err
	}
	for _, n := range slices.SortedFunc(maps.Keys(again), func(a, b supplier.Number) int { return cmp.Compare(again[a].row, again[b].row) }) {
		at := again[n]
		if at.two {
			left++
			problems = append(problems, fmt.Sprintf("The number %s of row %d stands for several products; none of them was kept.", n.Number, at.row))
			continue
		}
		if err := f(at.row, at.product); err != nil {
			return err
		}
	}
	if left > 0 && says != nil {
		*says = fmt.Sprintf("%s of the price list could not be read. %s", plural(left, "row"), problems[0])
	}
	return nil
}

func (s *Offers) twiceIn(ctx context.Context, d *connection.Document, file string) (map[supplier.Number]bool, error) {
	table, err := s.files.Table(ctx, file, rows.Layout{})
	if err != nil {
		return nil, err
	}
	defer table.Close()
	return supplier.Twice(d, table)
}

// list brings the price list of a supplier up to date, and keeps what it offers of the wanted sources.
func (r *refreshing) list(ctx context.Context, one connected) error {
	state := wire.SupplierAnswer{Supplier: one.Supplier, State: "answered"}
	defer func() { r.saw(one.Supplier, len(r.p.Sources)) }()
	l, ok, err := r.Store.Read(ctx).PriceListOf(one.head.ID)
	if err != nil {
		return err
	}
	if _, fetched := one.Ask[connection.List]; fetched && (r.p.Lists || !ok) {
		l, state.Says, err = r.fetchList(ctx, one, l)
		if err != nil {
			return err
		}
		ok = !l.File.IsZero()
	}
	if !ok {
		if state.State = "no answer"; state.Says == "" {
			state.Says = fmt.Sprintf("There is no price list of %s yet.", one.Supplier)
		}
		r.answered(state)
		return nil
	}
	state.At = &l.At
	var lot []connection.Product
	left := ""
	flush := func() error {
		n, err := r.keepSeen(ctx, one, r.p.Sources, lot, false)
		state.Products += n
		lot = lot[:0]
		return err
	}
	begun := r.Now()
	mine, err := r.among(ctx, one)
	if err != nil {
		return err
	}
	err = r.eachOfList(ctx, one.Document, l.File.String(), func(_ int, p connection.Product) error {
		if !mine(&p) {
			return ctx.Err()
		}
		if lot = append(lot, p); len(lot) == listLot {
			return flush()
		}
		return ctx.Err()
	}, &left)
	var why *rows.Error
	if errors.As(err, &why) {
		state.State, state.Says = "no answer", why.Sentence
		r.answered(state)
		return nil
	}
	if err == nil {
		err = flush()
	}
	if err == nil {
		err = r.unlisted(ctx, one, begun)
	}
	if left != "" {
		state.State, state.Says = "in part", left
	}
	r.answered(state)
	return err
}

// listLot is how many products of a list are read at a time: as many rows are held as a file's are.
const listLot = 500

// among says which products may be of a wanted source: by their part number or the supplier's number, which is quick. Who makes them is read later.
func (r *refreshing) among(ctx context.Context, one connected) (func(*connection.Product) bool, error) {
	all, err := r.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return nil, err
	}
	cw, _ := answers.Mapping(one.Document, all)
	if cw.Take.MPN != connection.MPNField { // the part number is another field
		return func(*connection.Product) bool { return true }, nil
	}
	mpns, numbers := map[string]bool{}, map[string]bool{}
	for _, w := range r.p.Sources {
		mpns[part.NormaliseMPN(w.MPN)] = true
		for _, n := range w.Numbers {
			numbers[n.Number] = numbers[n.Number] || n.Supplier == one.Supplier
		}
	}
	return func(p *connection.Product) bool {
		return mpns[part.NormaliseMPN(p.MPN)] || slices.ContainsFunc(p.Offers, func(o offer.Offer) bool { return numbers[o.Number] })
	}, nil
}

// unlisted says of what a price list does not hold any more that it is gone.
func (r *refreshing) unlisted(ctx context.Context, one connected, begun time.Time) error {
	for some := range slices.Chunk(r.p.Sources, 2000) {
		before, err := r.Store.Read(ctx).OffersOf(hashes(some))
		if err != nil {
			return err
		}
		var gone []store.Offer
		for _, o := range before {
			if o.Connection == one.head.ID && !o.Gone && o.Seen.Before(store.Stamp(begun)) {
				o.Gone, o.Seen = true, store.Stamp(r.Now())
				gone = append(gone, o)
			}
		}
		if err := r.keep(ctx, gone, r.care); err != nil {
			return err
		}
	}
	return nil
}

// fetchList fetches a price list where there is a newer one. why is why it could not be fetched; what is at hand serves then.
func (s *Offers) fetchList(ctx context.Context, one connected, have store.PriceList) (l store.PriceList, why string, err error) {
	if l, ok, err := s.changedList(ctx, one, have); ok || err != nil {
		return l, "", err
	}
	got, err := s.asker.List(ctx, one.Document, have.Tag)
	if ctx.Err() != nil {
		return have, "", ctx.Err()
	}
	if why := s.spoken(one.Supplier, err); why != "" {
		return have, why, nil
	}
	now := store.Stamp(s.Now())
	if got.Same {
		have.Checked, have.Whole = now, &now
		return have, "", s.Store.KeepPriceList(ctx, have)
	}
	h, _, err := blobs.Put(ctx, s.Store, bytes.NewReader(got.Raw), s.files.Limits.Bytes)
	if errors.Is(err, blobs.ErrTooLarge) {
		return have, fmt.Sprintf("The price list of %s has more than %d MB; it was not kept.", one.Supplier, s.files.Limits.Bytes>>20), nil
	}
	if err != nil {
		return have, "", err
	}
	l = store.PriceList{Connection: one.head.ID, File: h, Name: fmt.Sprintf("%s %s", one.Supplier, now.Format(time.DateOnly)), Tag: got.Tag, At: now, Checked: now, Whole: &now}
	if h == have.File { // the same in other words of the supplier's machine
		l.At = have.At
	}
	return l, "", s.Store.KeepPriceList(ctx, l)
}

// UploadList makes an uploaded file the price list of a connection. It is read first: a file that is none, or looks otherwise than the connection
// says, changes nothing.
func (s *Offers) UploadList(ctx context.Context, c deed.Call, name string, in wire.PriceListUpload) (wire.Connection, error) {
	if err := deed.Allow(c, deed.OpRates); err != nil {
		return wire.Connection{}, err
	}
	one, err := s.connectionTo(ctx, name)
	if err != nil {
		return wire.Connection{}, err
	}
	if one.Read.Form != "table" {
		return wire.Connection{}, deed.Fault(deed.Invalid, "no-list", fmt.Sprintf("%s is asked live; it has no price list.", one.Supplier), "")
	}
	n, says := 0, ""
	err = s.eachOfList(ctx, one.Document, in.Hash, func(int, connection.Product) error { n++; return ctx.Err() }, &says)
	var why *rows.Error
	switch {
	case errors.As(err, &why):
		return wire.Connection{}, deed.Fault(deed.Invalid, "list-wrong", "Nothing was changed: "+why.Sentence, "Check that it is the price list, or change the connection.")
	case err != nil:
		return wire.Connection{}, err
	case n == 0:
		return wire.Connection{}, deed.Fault(deed.Invalid, "list-wrong", strings.TrimSpace("Nothing was changed: no product of the file can be read. "+says), "Check that it is the price list, or change the connection.")
	}
	h, err := store.ParseHash(in.Hash)
	if err != nil {
		return wire.Connection{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpRates, "price list", []any{one.head.ID, in}, func(t *store.Tx) (int, error) {
		head, err := t.Head(store.KindConnection, one.head.ID)
		if err != nil {
			return 0, err
		}
		now := t.Deed.At
		if err := t.SetPriceList(store.PriceList{Connection: head.ID, File: h, Name: files.CleanName(in.Name), At: now, Checked: now}); err != nil {
			return 0, err
		}
		return n, t.Note(&head, "price list uploaded", map[string]any{"file": in.Hash, "name": in.Name, "products": n})
	})
	if err != nil {
		return wire.Connection{}, err
	}
	return s.Connection(ctx, c, one.Supplier)
}
