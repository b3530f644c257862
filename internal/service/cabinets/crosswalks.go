package cabinets

import (
	"context"
	"fmt"
	"maps"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Mapped is a crosswalk with its head.
type Mapped struct {
	crosswalk.Crosswalk
	Head store.Head
}

// mostCrosswalks is more than anybody has.
const mostCrosswalks = 1000

// MappedCrosswalks loads the crosswalks of all suppliers and layouts with their heads, newest first.
func (s *Cabinets) MappedCrosswalks(ctx context.Context) ([]Mapped, error) {
	hs, _, err := s.Store.Read(ctx).Heads(store.KindCrosswalk, 0, mostCrosswalks)
	if err != nil {
		return nil, err
	}
	return s.decoded(ctx, hs)
}

// CrosswalksMark changes whenever a crosswalk does.
func (s *Cabinets) CrosswalksMark(ctx context.Context) (string, error) {
	hs, n, err := s.Store.Read(ctx).Heads(store.KindCrosswalk, 0, 1)
	if err != nil || len(hs) == 0 {
		return "none", err
	}
	return fmt.Sprintf("%d/%s/%d", n, hs[0].ID, hs[0].Version), nil
}

// AllCrosswalks loads the crosswalks of all suppliers and layouts, newest first.
func (s *Cabinets) AllCrosswalks(ctx context.Context) ([]crosswalk.Crosswalk, error) {
	all, err := s.MappedCrosswalks(ctx)
	out := make([]crosswalk.Crosswalk, 0, len(all))
	for _, m := range all {
		out = append(out, m.Crosswalk)
	}
	return out, err
}

// decoded are the crosswalks of heads. Content never changes, and is decoded once; what is held is never changed, because others read it.
func (s *Cabinets) decoded(ctx context.Context, hs []store.Head) (out []Mapped, err error) {
	s.mu.Lock()
	held := s.mapped
	s.mu.Unlock()
	var ids []store.ID
	for _, h := range hs {
		if _, ok := held[h.Released]; !ok {
			ids = append(ids, h.Released)
		}
	}
	if len(ids) > 0 {
		contents, err := s.Store.Read(ctx).Contents(ids)
		if err != nil {
			return nil, err
		}
		now := map[store.ID]crosswalk.Crosswalk{}
		if len(held) <= mostCrosswalks {
			maps.Copy(now, held)
		}
		for _, h := range hs {
			cw, ok := held[h.Released]
			if c, fresh := contents[h.Released]; fresh {
				if cw, err = crosswalk.FromJSON(c.Bytes); err != nil {
					return nil, fmt.Errorf("the crosswalk of %s: %w", h.Number, err)
				}
				ok = true
			}
			if ok {
				now[h.Released] = cw
			}
		}
		held = now
		s.mu.Lock()
		s.mapped = held
		s.mu.Unlock()
	}
	for _, h := range hs {
		if cw, ok := held[h.Released]; ok {
			out = append(out, Mapped{cw, h})
		}
	}
	return out, nil
}

// CrosswalkOf returns a crosswalk by its number: its supplier, and its layout where that is not the first; ErrNotFound where there is none.
func (s *Cabinets) CrosswalkOf(ctx context.Context, number string) (crosswalk.Crosswalk, store.Head, error) {
	h, err := s.Store.Read(ctx).HeadByNumber(store.KindCrosswalk, number)
	if err != nil {
		return crosswalk.Crosswalk{}, h, err
	}
	c, err := s.Store.Read(ctx).Content(h.Released)
	if err != nil {
		return crosswalk.Crosswalk{}, h, err
	}
	cw, err := crosswalk.FromJSON(c.Bytes)
	return cw, h, err
}

func crosswalkView(h store.Head, cw crosswalk.Crosswalk) (wire.Crosswalk, error) {
	text, err := yaml.Marshal(cw)
	return wire.Crosswalk{ID: h.ID.String(), Number: h.Number, Supplier: cw.Supplier, Layout: cw.Layout, Revision: h.Revision, Version: h.Version, Updated: h.Updated, Text: string(text)}, err
}

// Crosswalk returns a crosswalk by its number.
func (s *Cabinets) Crosswalk(ctx context.Context, c deed.Call, number string) (wire.Crosswalk, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Crosswalk{}, err
	}
	cw, h, err := s.CrosswalkOf(ctx, number)
	if err != nil {
		return wire.Crosswalk{}, deed.Sentence(err, "crosswalk")
	}
	return crosswalkView(h, cw)
}

// Crosswalks lists the crosswalks, without their texts.
func (s *Cabinets) Crosswalks(ctx context.Context, c deed.Call, offset, limit int) (wire.CrosswalkList, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.CrosswalkList{}, err
	}
	offset, limit = deed.Page(offset, limit)
	hs, total, err := s.Store.Read(ctx).Heads(store.KindCrosswalk, offset, limit)
	out := wire.CrosswalkList{Page: wire.Page{Offset: offset, Limit: limit, Total: int(total)}, Items: []wire.Crosswalk{}}
	if err != nil {
		return out, err
	}
	all, err := s.decoded(ctx, hs)
	for _, m := range all {
		out.Items = append(out.Items, wire.Crosswalk{ID: m.Head.ID.String(), Number: m.Head.Number, Supplier: m.Supplier, Layout: m.Layout, Revision: m.Head.Revision, Version: m.Head.Version, Updated: m.Head.Updated})
	}
	return out, err
}

// ApplyCrosswalk makes a document the crosswalk of the supplier and the layout that it names.
func (s *Cabinets) ApplyCrosswalk(ctx context.Context, c deed.Call, version int, text string) (wire.Crosswalk, error) {
	if err := deed.Allow(c, deed.OpCrosswalk); err != nil {
		return wire.Crosswalk{}, err
	}
	wrong := func(err error) error {
		return deed.Fault(deed.Invalid, "crosswalk-wrong", "The crosswalk was not applied: "+err.Error()+".", "")
	}
	cw, err := crosswalk.Parse([]byte(text))
	if err != nil {
		return wire.Crosswalk{}, wrong(err)
	}
	raw, hash, err := document.Canonical(cw)
	if err != nil {
		return wire.Crosswalk{}, err
	}
	_, err = Under(ctx, s, func(cab *cabinet.Cabinet, revision int) (int, error) { // a parameter that it names is not renamed meanwhile
		if err := cw.CheckAgainst(cab); err != nil {
			return 0, wrong(err)
		}
		return deed.Do(ctx, s.Desk, c, deed.OpCrosswalk, "crosswalk", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
			if err := t.UnderCabinet(revision); err != nil {
				return 0, err
			}
			return deed.Apply(t, store.KindCrosswalk, cw.Number(), crosswalk.Format, version, raw, store.Hash(hash))
		})
	})
	if err != nil {
		return wire.Crosswalk{}, err
	}
	return s.Crosswalk(ctx, c, cw.Number())
}
