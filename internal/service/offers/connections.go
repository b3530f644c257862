package offers

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

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

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }

func plural(n int, what string) string {
	if n == 1 {
		return "1 " + what
	}
	return fmt.Sprintf("%d %ss", n, what)
}
