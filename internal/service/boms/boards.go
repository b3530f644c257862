package boms

import (
	"context"

	"jollydrawer/core/bom"
	"jollydrawer/internal/store"
)

// headsAtOnce is how many BOMs are listed at a time.
const headsAtOnce = 200

// Needs says what BOMs take of parts, by their ID: one BOM, by its ID or name, or for a blank key all. It is what a build takes where built says so, and then
// only of those of which somebody said how many are built; else what one board takes. A BOM that cannot be read is left to its own page.
func (s *BOMs) Needs(ctx context.Context, key string, built bool) (map[string]bom.Need, error) {
	out := map[string]bom.Need{}
	_, cab, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	add := func(h store.Head) error {
		build := 0
		doc, err := s.bomDoc(ctx, h)
		if err != nil || built && doc.Build == 0 {
			return err
		}
		if built {
			build = doc.Build
		}
		vs, f, err := s.verdictsOf(ctx, h, cab)
		if err != nil {
			return err
		}
		lines, err := s.takenPins(ctx, h, doc, vs)
		for id, u := range bom.Uses(lines, doc.counted(f.variants)...) {
			if _, part := s.index.ByID(id); part { // and no other board
				out[id] = out[id].With(h.Number, u.Pieces, build)
			}
		}
		return err
	}
	if key != "" {
		h, _, err := s.findBOM(ctx, key)
		if err != nil {
			return nil, err
		}
		return out, add(h)
	}
	for from := 0; ; from += headsAtOnce {
		heads, _, err := s.Store.Read(ctx).Heads(store.KindBOM, from, headsAtOnce)
		if err != nil {
			return nil, err
		}
		for _, h := range heads {
			if err := add(h); err != nil {
				return nil, err
			}
		}
		if len(heads) < headsAtOnce {
			return out, nil
		}
	}
}
