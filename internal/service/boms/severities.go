package boms

import (
	"context"
	"encoding/json"
	"errors"

	"go.yaml.in/yaml/v3"

	"jollydrawer/core/bom"
	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// severitiesNumber is what the one document of severities is found by.
const severitiesNumber = "findings of BOMs"

// house is how bad the house takes the findings of its BOMs; as they are where nobody said so.
func (s *BOMs) house(ctx context.Context) (store.Head, bom.Severities, error) {
	taken := bom.Severities{Format: bom.SeveritiesFormat}
	h, err := ofHouse(s.Store.Read(ctx), store.KindSeverities, severitiesNumber, &taken)
	return h, taken, err
}

// ofHouse reads a document that a house has one of; nothing is read where nobody put one in force.
func ofHouse(r store.Reader, kind, number string, into any) (store.Head, error) {
	h, err := r.HeadByNumber(kind, number)
	if errors.Is(err, store.ErrNotFound) {
		return h, nil
	}
	if err != nil {
		return h, err
	}
	c, err := r.Content(h.Released)
	if err != nil {
		return h, err
	}
	return h, json.Unmarshal(c.Bytes, into)
}

// applyOfHouse puts such a document in force, at the version that was seen.
// stands looks, inside the write, whether what it was checked against still holds.
func (s *BOMs) applyOfHouse(ctx context.Context, c deed.Call, op deed.Op, kind, number, format string, version int, doc any, stands func(*store.Tx) error) error {
	raw, hash, err := document.Canonical(doc)
	if err != nil {
		return err
	}
	_, err = deed.Do(ctx, s.Desk, c, op, "document of "+kind, []any{version, hash.String()}, func(t *store.Tx) (int, error) {
		if err := stands(t); err != nil {
			return 0, err
		}
		return deed.Apply(t, kind, number, format, version, raw, store.Hash(hash))
	})
	return err
}

// Severities returns how bad the house takes the findings of its BOMs.
func (s *BOMs) Severities(ctx context.Context, c deed.Call) (wire.Severities, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return wire.Severities{}, err
	}
	h, taken, err := s.house(ctx)
	if err != nil {
		return wire.Severities{}, err
	}
	text, err := yaml.Marshal(taken)
	return wire.Severities{Version: h.Version, Text: string(text), Usual: bom.Causes}, err
}

// ApplySeverities makes a document the one that says how bad findings of BOMs are, in every BOM and for every check.
func (s *BOMs) ApplySeverities(ctx context.Context, c deed.Call, version int, in wire.SeveritiesEdit) (wire.Severities, error) {
	if err := deed.Allow(c, deed.OpSeverities); err != nil {
		return wire.Severities{}, err
	}
	if _, err := cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (bom.Severities, error) {
		taken, err := severities(in.Text, cab)
		if err == nil {
			err = s.applyOfHouse(ctx, c, deed.OpSeverities, store.KindSeverities, severitiesNumber, bom.SeveritiesFormat, version, taken, func(t *store.Tx) error { return t.UnderCabinet(revision) })
		}
		return taken, err
	}); err != nil {
		return wire.Severities{}, err
	}
	return s.Severities(ctx, c)
}

// FollowSteps finds what the house says of its BOMs by names of parameters that a change of templates renames: what columns mean,
// and the document of severities.
func (s *BOMs) FollowSteps(r store.Reader, steps []cabinet.Step) ([]cabinets.Following, error) {
	out, err := followLayouts(r, steps)
	if err != nil {
		return nil, err
	}
	var taken bom.Severities
	h, err := ofHouse(r, store.KindSeverities, severitiesNumber, &taken)
	if err != nil {
		return nil, err
	}
	now, changed := taken.Follow(steps)
	if !changed {
		return out, nil
	}
	raw, hash, err := document.Canonical(now)
	return append(out, cabinets.Following{ID: h.ID, What: cabinets.Kind{One: "the severities of BOMs"}, Write: func(t *store.Tx) error {
		_, err := deed.Apply(t, store.KindSeverities, severitiesNumber, bom.SeveritiesFormat, h.Version, raw, store.Hash(hash))
		return err
	}}), err
}

// severities reads a document of severities by the parameters that the house has.
func severities(text string, cab *cabinet.Cabinet) (bom.Severities, error) {
	taken, err := bom.ParseSeverities([]byte(text), func(key string) bool { _, ok := cab.Parameter(key); return ok })
	if err != nil {
		return taken, deed.Fault(deed.Invalid, "severities-wrong", "The severities cannot be taken: "+err.Error()+".", "")
	}
	return taken, nil
}
