package offers

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/answers"
	"jollydrawer/core/connection"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/supplier"
	"jollydrawer/internal/wire"
)

// connected is a connection with its head.
type connected struct {
	*connection.Document
	head store.Head
}

// mostConnections is more than anybody has.
const mostConnections = 200

// connections loads all connections, by supplier.
func (s *Offers) connections(ctx context.Context) ([]connected, error) {
	heads, _, err := s.Store.Read(ctx).HeadsByNumbers(store.KindConnection, 0, mostConnections)
	if err != nil {
		return nil, err
	}
	out := make([]connected, 0, len(heads))
	for _, h := range heads {
		d, err := s.document(ctx, h)
		if err != nil {
			return nil, err
		}
		out = append(out, connected{d, h})
	}
	return out, nil
}

// document is what a connection says. Content never changes and is decoded once.
func (s *Offers) document(ctx context.Context, h store.Head) (*connection.Document, error) {
	s.mu.Lock()
	d := s.docs[h.Released]
	s.mu.Unlock()
	if d != nil {
		return d, nil
	}
	c, err := s.Store.Read(ctx).Content(h.Released)
	if err != nil {
		return nil, err
	}
	d = &connection.Document{}
	if err := json.Unmarshal(c.Bytes, d); err != nil {
		return nil, fmt.Errorf("the connection to %s: %w", h.Number, err)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if len(s.docs) > 4*mostConnections {
		clear(s.docs)
	}
	s.docs[h.Released] = d
	return d, nil
}

// connectionTo finds the connection to a supplier.
func (s *Offers) connectionTo(ctx context.Context, name string) (connected, error) {
	r := s.Store.Read(ctx)
	h, err := r.HeadByNumber(store.KindConnection, strings.TrimSpace(name))
	if id, e := store.ParseID(name); e == nil && errors.Is(err, store.ErrNotFound) {
		h, err = r.Head(store.KindConnection, id)
	}
	if err != nil {
		return connected{}, deed.Sentence(err, "connection")
	}
	d, err := s.document(ctx, h)
	return connected{d, h}, err
}

// checked reads a document and says what is wrong with it, paths and the guard for outgoing requests included.
func (s *Offers) checked(ctx context.Context, text string) (connection.Document, error) {
	d, err := connection.Parse([]byte(text))
	if err == nil {
		err = supplier.CheckPaths(&d)
	}
	if err == nil && d.Address != "" {
		err = s.guard.May(ctx, d.Address)
	}
	if err != nil {
		return d, deed.Fault(deed.Invalid, "connection-wrong", "The connection was not kept: "+err.Error()+".", "")
	}
	return d, nil
}

// Apply makes a document the connection to its supplier. version is the one that was looked at; 0 for a new one.
func (s *Offers) Apply(ctx context.Context, c deed.Call, version int, in wire.ConnectionEdit) (wire.Connection, error) {
	if err := deed.Allow(c, deed.OpConnection); err != nil {
		return wire.Connection{}, err
	}
	d, err := s.checked(ctx, in.Text)
	if err != nil {
		return wire.Connection{}, err
	}
	raw, hash, err := document.Canonical(d)
	if err != nil {
		return wire.Connection{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpConnection, "connection", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		return deed.Apply(t, store.KindConnection, d.Number(), connection.Format, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Connection{}, err
	}
	return s.Connection(ctx, c, d.Number())
}

// Connection returns a connection with its document.
func (s *Offers) Connection(ctx context.Context, c deed.Call, name string) (wire.Connection, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Connection{}, err
	}
	one, err := s.connectionTo(ctx, name)
	if err != nil {
		return wire.Connection{}, err
	}
	out, err := s.shown(ctx, one, nil)
	if err != nil {
		return out, err
	}
	text, err := yaml.Marshal(one.Document)
	out.Text = string(text)
	return out, err
}

// Connections lists the connections, without their documents.
func (s *Offers) Connections(ctx context.Context, c deed.Call, offset, limit int) (wire.ConnectionList, error) {
	offset, limit = deed.Page(offset, limit)
	out := wire.ConnectionList{Page: wire.Page{Offset: offset, Limit: limit}, Items: []wire.Connection{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	all, err := s.connections(ctx)
	if err != nil {
		return out, err
	}
	used, err := s.Store.Read(ctx).UsedToday()
	if err != nil {
		return out, err
	}
	out.Page.Total = len(all)
	for _, one := range all[min(offset, len(all)):min(offset+limit, len(all))] {
		w, err := s.shown(ctx, one, used)
		if err != nil {
			return out, err
		}
		out.Items = append(out.Items, w)
	}
	return out, nil
}

// kindOf says how a connection is used.
func kindOf(d *connection.Document) string {
	_, list := d.Ask[connection.List]
	switch {
	case d.Address == "":
		return "uploaded"
	case list:
		return "list"
	}
	return "asked"
}

// shown is a connection as people see it. used is nil where nobody looked it up yet.
func (s *Offers) shown(ctx context.Context, one connected, used map[string]int) (w wire.Connection, err error) {
	r := s.Store.Read(ctx)
	if used == nil {
		if used, err = r.UsedToday(); err != nil {
			return w, err
		}
	}
	limits := one.Limits.With()
	w = wire.Connection{ID: one.head.ID.String(), Supplier: one.Supplier, Kind: kindOf(one.Document), Version: one.head.Version, Revision: one.head.Revision, Updated: one.head.Updated, Address: one.Address,
		Used: used[one.Supplier], PerDay: one.Limits.PerDay, Says: &limits}
	if one.SignIn != nil {
		w.Secret = one.SignIn.Secret
		secret, there := s.secrets(one.SignIn.Secret)
		w.Absent = !there || secret == ""
	}
	all, err := s.cabinets.AllCrosswalks(ctx)
	if err != nil {
		return w, err
	}
	_, w.Mapped = answers.Mapping(one.Document, all)
	l, ok, err := r.PriceListOf(one.head.ID)
	if err != nil {
		return w, err
	}
	if ok {
		w.List = &wire.PriceList{File: l.File.String(), Name: l.Name, At: l.At, Checked: l.Checked}
	}
	missed, err := s.missed(ctx)
	if err != nil {
		return w, err
	}
	w.Missed = missed[one.head.ID]
	a, ok, err := r.LastAnswer(one.head.ID)
	if ok {
		w.Last = &wire.ConnectionAnswer{At: a.At, Problem: a.Problem}
	}
	return w, err
}

// Try asks a question of a document that may not be kept yet, or reads an answer that was recorded, and says what was asked, what came, what was
// read and what was not. It keeps nothing.
func (s *Offers) Try(ctx context.Context, c deed.Call, in wire.ConnectionTrial) (wire.ConnectionTried, error) {
	out := wire.ConnectionTried{Places: []wire.ConnectionPlace{}, Problems: []string{}, Fields: []answers.Field{}, Sample: []wire.OfferedRow{}}
	if err := deed.Allow(c, deed.OpConnection); err != nil {
		return out, err
	}
	d, err := s.checked(ctx, in.Text)
	if err != nil {
		return out, err
	}
	if d.Read.Form == "table" {
		return out, deed.Fault(deed.Invalid, "no-trial", "A price list is tried by fetching it, or by uploading it: it has no questions.", "")
	}
	r, err := supplier.NewReader(&d, connection.Words)
	if err != nil {
		return out, err
	}
	var pages []supplier.Answer
	if in.Recorded != "" {
		a, err := r.Read([]byte(in.Recorded))
		if err != nil {
			out.Problem = upper(err.Error()) + "."
		}
		out.Bytes, pages = len(in.Recorded), append(pages, a)
	} else {
		q, err := s.question(ctx, &d, cmp.Or(strings.TrimSpace(in.Words), "10k"))
		if err != nil {
			return out, err
		}
		filled, err := d.Fill(q, d.FirstPage())
		if err != nil {
			return out, deed.Fault(deed.Invalid, "no-words", upper(err.Error())+".", "Add the question words to its document.")
		}
		out.Asked = filled.Method + " " + filled.Address
		d.Limits.Pages = 1
		ctx, stop := context.WithTimeout(ctx, time.Minute)
		defer stop()
		err = s.asker.Ask(ctx, &d, q, func(p supplier.Page) error {
			out.Bytes += len(p.Raw)
			pages = append(pages, p.Answer)
			return nil
		})
		if why := (*supplier.Trouble)(nil); errors.As(err, &why) {
			out.Problem = why.What
		} else if err != nil {
			return out, err
		}
	}
	products := placesFound(&out, &d, "", connection.Words, pages)
	if in.Recorded == "" && out.Problem == "" {
		if err := s.tryPrices(ctx, &d, products, &out); err != nil {
			return out, err
		}
	}
	out.Products = len(products)
	read, err := s.evaluate(ctx, &d, products)
	if err != nil {
		return out, err
	}
	out.Fields = append(out.Fields, read.Fields()...)
	for i := range read.Products {
		if len(out.Sample) < 10 {
			out.Sample = append(out.Sample, read.Product(i, d.Supplier, s.Now()).Row)
		}
	}
	return out, nil
}

// placesFound says which paths of the answers to a kind of question led to something, and returns what they told.
func placesFound(out *wire.ConnectionTried, d *connection.Document, prefix, kind string, pages []supplier.Answer) (products []connection.Product) {
	found := map[string]int{}
	for _, p := range pages {
		products = append(products, p.Products...)
		out.Problems = append(out.Problems, p.Problems...)
		for place, n := range p.Found {
			found[place] += n
		}
	}
	for _, p := range supplier.Paths(d, kind) {
		if n, counted := found[p.Place]; counted || p.OfProduct {
			out.Places = append(out.Places, wire.ConnectionPlace{Place: prefix + p.Place, Path: p.Path, Found: n})
		}
	}
	return products
}

// tryPrices asks for the stock and prices of the first products that say none, where that is a question of its own, and completes them.
func (s *Offers) tryPrices(ctx context.Context, d *connection.Document, products []connection.Product, out *wire.ConnectionTried) error {
	size, numbers := d.LotSize(connection.Prices), connection.Unpriced(products)
	if size == 0 || len(numbers) == 0 {
		return nil
	}
	lot := numbers[:min(size, len(numbers))]
	var pages []supplier.Answer
	err := s.asker.Ask(ctx, d, connection.Question{Kind: connection.Prices, Number: lot[0], Numbers: lot}, func(p supplier.Page) error {
		out.Bytes += len(p.Raw)
		pages = append(pages, p.Answer)
		return nil
	})
	if why := (*supplier.Trouble)(nil); errors.As(err, &why) {
		out.Problem = why.What
	} else if err != nil {
		return err
	}
	found := offersOf(placesFound(out, d, "prices: ", connection.Prices, pages))
	for i := range products {
		products[i].Price(found)
	}
	return nil
}

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
