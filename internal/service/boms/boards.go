package boms

import (
	"context"

	"jollydrawer/core/bom"
	"jollydrawer/internal/store"
)

// headsAtOnce is how many BOMs are listed at a time.
const headsAtOnce = 200

// OnBoards says on how many BOMs parts are linked, by their ID: on one BOM, by its ID or name, or for a blank key on all. A BOM that cannot be read is
// left to its own page.
func (s *BOMs) OnBoards(ctx context.Context, key string) (map[string]int, error) {
	out := map[string]int{}
	_, cab, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	add := func(h store.Head) error {
		vs, err := s.verdictsOf(ctx, h, cab)
		seen := map[string]bool{}
		for _, v := range vs {
			if v.Kind == bom.Linked && v.Part != nil && !seen[v.Part.ID] {
				seen[v.Part.ID] = true
				out[v.Part.ID]++
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
