package fitting

import (
	"context"
	"encoding/json"
	"strings"

	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// TakeMergingBack makes a model that was merged away one of its own again. Parts that took the survivor with that merging, and still hold
// it, get the model back as a new draft; those that hold another one by now are named and left.
func (s *Fitting) TakeMergingBack(ctx context.Context, c deed.Call, in wire.TakeMergingBack) (wire.Mended, error) {
	var gone, keep store.Head
	var users []movePart
	var link part.Model
	var cab int
	prepare := func() (err error) {
		r := s.Store.Read(ctx)
		if gone, err = s.mergedAway(r, in.Model); err != nil {
			return err
		}
		id, _, err := r.Successor(gone.ID)
		if err != nil {
			return deed.Sentence(err, "model")
		}
		if keep, err = r.Head(store.KindModel, id); err != nil {
			return err
		}
		if users, err = s.movedWith(r, gone); err != nil {
			return err
		}
		if link, err = s.models.LinkTo(r, gone); err != nil {
			return err
		}
		_, ch, err := s.cabinets.InForce(ctx)
		cab = ch.Revision
		return err
	}
	return deed.DoAfter(ctx, s.Desk, c, deed.OpModelRelease, "model", in, prepare, func(t *store.Tx) (wire.Mended, error) {
		out := wire.Mended{Models: []string{models.NameOf(gone)}, Parts: []string{}, Left: []string{}}
		h, err := t.HeadAt(store.KindModel, gone.ID, gone.Version)
		if err != nil {
			return out, err
		}
		k, err := t.Head(store.KindModel, keep.ID)
		if err != nil {
			return out, err
		}
		for _, u := range users {
			done, err := s.parts.Alter(t, u.id, 0, cab, "model replaced", map[string]any{"from": models.NameOf(k), "to": models.NameOf(h), "why": in.Why}, func(p *part.Content) bool {
				return relink(p, k.ID.String(), link, true)
			})
			if err != nil {
				return out, err
			}
			if done {
				out.Parts = append(out.Parts, u.number)
			} else {
				out.Left = append(out.Left, u.number+": it holds another model by now")
			}
		}
		h.Standing = ""
		if err := t.SetSuccessor(h.ID, store.ID{}, ""); err != nil {
			return out, err
		}
		if err := t.Update(&h, "merging taken back", map[string]any{"from": models.NameOf(k), "why": in.Why}); err != nil {
			return out, err
		}
		return out, t.Update(&k, "gave back", map[string]any{"model": models.NameOf(h), "parts": len(out.Parts), "why": in.Why})
	})
}

// mergedAway finds a model that was merged away, by its ID or as "kind: name", and not the one that it leads to.
func (s *Fitting) mergedAway(r store.Reader, key string) (h store.Head, err error) {
	if h, err = r.Called(store.KindModel, key); err != nil {
		return h, deed.Sentence(err, "model")
	}
	if h.Standing != store.Merged {
		return h, deed.Fault(deed.Invalid, "not-merged", models.NameOf(h)+" is not merged into another model.", "")
	}
	return h, nil
}

// movedWith lists the parts that took the survivor in the deed that merged a model away.
func (s *Fitting) movedWith(r store.Reader, gone store.Head) (out []movePart, err error) {
	trail, err := r.Trail(gone.ID, 0, 100)
	if err != nil {
		return nil, err
	}
	for _, e := range trail {
		if e.Action != "merged" {
			continue
		}
		all, err := r.EntriesBy(e.Deed, 2*mostParts)
		if err != nil {
			return nil, err
		}
		for _, x := range all {
			var detail struct{ From string }
			if x.Kind != store.KindPart || x.Action != "model replaced" || json.Unmarshal([]byte(x.Detail), &detail) != nil || !strings.EqualFold(detail.From, models.NameOf(gone)) {
				continue
			}
			out = append(out, movePart{id: x.Head, number: x.Number})
		}
		return out, nil // the last one counts
	}
	return nil, nil
}
