package cabinets

import (
	"context"
	"fmt"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/crosswalk"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// AllCrosswalks loads the crosswalks of all suppliers, newest first; more than mostCrosswalks nobody has.
func (s *Cabinets) AllCrosswalks(ctx context.Context) (out []crosswalk.Crosswalk, err error) {
	const mostCrosswalks = 1000
	hs, _, err := s.Store.Read(ctx).Heads(store.KindCrosswalk, 0, mostCrosswalks)
	if err != nil {
		return nil, err
	}
	ids := make([]store.ID, 0, len(hs))
	for _, h := range hs {
		ids = append(ids, h.Released)
	}
	contents, err := s.Store.Read(ctx).Contents(ids)
	if err != nil {
		return nil, err
	}
	for _, h := range hs {
		c, ok := contents[h.Released]
		if !ok {
			continue
		}
		cw, err := crosswalk.FromJSON(c.Bytes)
		if err != nil {
			return nil, fmt.Errorf("the crosswalk of %s: %w", h.Number, err)
		}
		out = append(out, cw)
	}
	return out, nil
}

// CrosswalkOf returns a supplier's crosswalk; ErrNotFound where there is none.
func (s *Cabinets) CrosswalkOf(ctx context.Context, supplier string) (crosswalk.Crosswalk, store.Head, error) {
	h, err := s.Store.Read(ctx).HeadByNumber(store.KindCrosswalk, supplier)
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
	return wire.Crosswalk{ID: h.ID.String(), Supplier: h.Number, Revision: h.Revision, Version: h.Version, Updated: h.Updated, Text: string(text)}, err
}

// Crosswalk returns a supplier's crosswalk.
func (s *Cabinets) Crosswalk(ctx context.Context, c deed.Call, supplier string) (wire.Crosswalk, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Crosswalk{}, err
	}
	cw, h, err := s.CrosswalkOf(ctx, supplier)
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
	for _, h := range hs {
		out.Items = append(out.Items, wire.Crosswalk{ID: h.ID.String(), Supplier: h.Number, Revision: h.Revision, Version: h.Version, Updated: h.Updated})
	}
	return out, err
}

// ApplyCrosswalk makes a document the crosswalk of the supplier it names.
func (s *Cabinets) ApplyCrosswalk(ctx context.Context, c deed.Call, version int, text string) (wire.Crosswalk, error) {
	if err := deed.Allow(c, deed.OpCrosswalk); err != nil {
		return wire.Crosswalk{}, err
	}
	cw, err := crosswalk.Parse([]byte(text))
	if err == nil {
		var cab *cabinet.Cabinet
		if cab, _, err = s.InForce(ctx); err != nil {
			return wire.Crosswalk{}, err
		}
		err = cw.CheckAgainst(cab)
	}
	if err != nil {
		return wire.Crosswalk{}, deed.Fault(deed.Invalid, "crosswalk-wrong", "The crosswalk was not applied: "+err.Error()+".", "")
	}
	raw, hash, err := document.Canonical(cw)
	if err != nil {
		return wire.Crosswalk{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpCrosswalk, "crosswalk", []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		return deed.Apply(t, store.KindCrosswalk, cw.Supplier, crosswalk.Format, version, raw, store.Hash(hash))
	})
	if err != nil {
		return wire.Crosswalk{}, err
	}
	return s.Crosswalk(ctx, c, cw.Supplier)
}
