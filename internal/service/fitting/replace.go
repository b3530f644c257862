package fitting

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/model"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/models"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// mostParts is how many parts one deed moves to another model.
const mostParts = 1000

// movePart is a part that is to take another model in the places of a given one.
type movePart struct {
	id      store.ID
	number  string
	version int
}

// usersOf lists the parts that use a model with a revision other than the newest; named narrows to numbers.
func (s *Fitting) usersOf(ctx context.Context, h store.Head, named []string, all bool) (out []movePart, err error) {
	uses, err := s.Store.Read(ctx).UsedBy(h.ID, 0, 20_000)
	seen := map[store.ID]bool{}
	for _, u := range uses {
		e, ok := s.index.ByID(u.Parent.String())
		if !ok || seen[u.Parent] || !all && u.ChildRevision >= h.Revision && u.ChildRevision > 0 {
			continue
		}
		if len(named) > 0 && !slices.Contains(named, e.Number) {
			continue
		}
		seen[u.Parent] = true
		out = append(out, movePart{u.Parent, e.Number, e.Version})
	}
	if len(out) > mostParts {
		return nil, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%d parts would be changed; at most %d are in one deed.", len(out), mostParts), "Name some of them.")
	}
	return out, err
}

// relink puts a model in all places of a part that hold another one. Where the two are the same, a pin map lies on the one as on the other.
func relink(p *part.Content, from string, to part.Model, same bool) bool {
	changed := false
	swap := func(m *part.Model) *part.Model {
		if m == nil || m.ID != from || *m == to {
			return m
		}
		changed = true
		next := to
		return &next
	}
	if same && p.MapLand == from && p.LandPattern != nil && p.LandPattern.ID == from { // the survivor is what it was laid on
		p.MapLand = to.ID
	}
	p.Symbol, p.LandPattern, p.Body, p.PinMap = swap(p.Symbol), swap(p.LandPattern), swap(p.Body), swap(p.PinMap)
	for i := range p.OtherLands {
		p.OtherLands[i].Model = *swap(&p.OtherLands[i].Model)
	}
	return changed
}

// Merge makes models lead to one that draws the same. Parts that are named take the survivor as a new draft; the
// others keep the revision they have and are shown as behind.
func (s *Fitting) Merge(ctx context.Context, c deed.Call, in wire.MergeModels) (wire.Mended, error) {
	var m merger
	prepare := func() (err error) {
		m, err = s.mergerOf(ctx, in)
		return err
	}
	return deed.DoAfter(ctx, s.Desk, c, deed.OpModelRelease, "model", in, prepare, func(t *store.Tx) (wire.Mended, error) {
		return s.merge(t, m, in.Why)
	})
}

// merger is a merging of models that was looked up.
type merger struct {
	keep  store.Head
	gone  []store.Head
	moves map[store.ID][]movePart // by the model that goes
	to    part.Model              // the survivor, as parts name it
	cab   int                     // revision of the cabinet
	// different are the identifiers of those that are merged although a board made with them is another.
	different []string
}

func (s *Fitting) mergerOf(ctx context.Context, in wire.MergeModels) (out merger, err error) {
	_, ch, err := s.cabinets.InForce(ctx)
	if err != nil {
		return out, err
	}
	out.different = in.Different
	out.cab, out.moves = ch.Revision, map[store.ID][]movePart{}
	keep, err := s.models.Head(ctx, in.Keep)
	if err != nil {
		return out, err
	}
	if err := deed.Seen(in.Seen, in.Keep, keep.Version, "model"); err != nil {
		return out, err
	}
	out.keep = keep
	total := 0
	for _, id := range in.Gone {
		h, err := s.models.Head(ctx, id)
		if err != nil {
			return out, err
		}
		if err := deed.Seen(in.Seen, id, h.Version, "model"); err != nil {
			return out, err
		}
		if h.ID == keep.ID {
			return out, deed.Fault(deed.Invalid, "merge-self", "A model cannot be merged into itself.", "Leave the survivor out of those that go.")
		}
		if policy.KindOf(h) != policy.KindOf(keep) {
			return out, deed.Fault(deed.Invalid, "kind-other", fmt.Sprintf("%s and %s are of two kinds.", models.NameOf(h), models.NameOf(keep)), "Merge models of one kind.")
		}
		if err := s.mergeable(ctx, keep, h, in.Different); err != nil {
			return out, err
		}
		if in.All || len(in.Move) > 0 {
			if out.moves[h.ID], err = s.usersOf(ctx, h, in.Move, true); err != nil {
				return out, err
			}
			total += len(out.moves[h.ID])
		}
		out.gone = append(out.gone, h)
	}
	if total > mostParts {
		return out, deed.Fault(deed.TooLarge, "too-many", fmt.Sprintf("%d parts would be changed; at most %d are in one deed.", total, mostParts), "Merge fewer models at once.")
	}
	if total > 0 && keep.Revision == 0 {
		return out, deed.Fault(deed.Invalid, "not-released", models.NameOf(keep)+" is not released: parts cannot be moved to it.", "Release it first.")
	}
	out.to, err = s.models.LinkTo(s.Store.Read(ctx), keep)
	return out, err
}

// mergeable refuses to merge a model that is not the same as the survivor, unless somebody said so of it.
func (s *Fitting) mergeable(ctx context.Context, keep, gone store.Head, different []string) error {
	if slices.Contains(different, gone.ID.String()) {
		return nil
	}
	k, err := s.models.Drawn(ctx, keep)
	if err != nil {
		return err
	}
	g, err := s.models.Drawn(ctx, gone)
	if err != nil || model.Same(k, g) {
		return err
	}
	how := "it is another one"
	if d := model.Compare(k, g, models.NearEnough); d.Near {
		how = strings.Join(d.What, "; ")
	}
	uses, err := s.Store.Read(ctx).UsedBy(gone.ID, 0, 8)
	if err != nil {
		return err
	}
	var users []string
	for _, u := range uses {
		if e, ok := s.index.ByID(u.Parent.String()); ok && !slices.Contains(users, e.Number) {
			users = append(users, e.Number)
		}
	}
	whom := "no part uses it"
	if len(users) > 0 {
		whom = "it is used by " + strings.Join(users, ", ")
	}
	return deed.Fault(deed.Invalid, "models-differ", fmt.Sprintf("%s is not the same as %s: %s. A board made with one is not a board made with the other; %s.", models.NameOf(gone), models.NameOf(keep), how, whom),
		"Leave it out, or name it as one that is merged although it differs.")
}

func (s *Fitting) merge(t *store.Tx, m merger, why string) (wire.Mended, error) {
	out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
	keep, err := t.HeadAt(store.KindModel, m.keep.ID, m.keep.Version)
	if err == nil {
		err = policy.Stands(keep)
	}
	if err != nil {
		return out, err
	}
	for _, g := range m.gone {
		h, err := t.HeadAt(store.KindModel, g.ID, g.Version)
		if err == nil {
			err = policy.Stands(h)
		}
		if err != nil {
			return out, err
		}
		for _, p := range m.moves[g.ID] {
			done, err := s.parts.Alter(t, p.id, 0, m.cab, "model replaced", map[string]any{"from": models.NameOf(h), "to": models.NameOf(keep), "why": why}, func(p *part.Content) bool {
				return relink(p, h.ID.String(), m.to, !slices.Contains(m.different, h.ID.String()))
			})
			if err != nil {
				return out, err
			}
			if done {
				out.Parts = append(out.Parts, p.number)
			}
		}
		h.Standing = store.Merged
		if err := t.SetSuccessor(h.ID, keep.ID, why); err != nil {
			return out, err
		}
		if err := t.Update(&h, "merged", map[string]any{"into": models.NameOf(keep), "why": why}); err != nil {
			return out, err
		}
		out.Models = append(out.Models, models.NameOf(h))
	}
	some := func(all []string) []string { return all[:min(len(all), 100)] } // a trail entry holds 64 kB; the models' own entries name the rest
	return out, t.Update(&keep, "took over", map[string]any{"merged": some(out.Models), "models": len(out.Models), "parts": some(out.Parts), "moved": len(out.Parts), "why": why})
}

// TakeNewer moves parts to the newest revision of a model, as new drafts.
func (s *Fitting) TakeNewer(ctx context.Context, c deed.Call, id store.ID, in wire.TakeNewer) (wire.Mended, error) {
	var cab int
	var h, to store.Head
	var users []movePart
	var link part.Model
	prepare := func() error {
		_, ch, err := s.cabinets.InForce(ctx)
		if err != nil {
			return err
		}
		cab = ch.Revision
		r := s.Store.Read(ctx)
		if h, err = r.Head(store.KindModel, id); err != nil {
			return err
		}
		if to, err = s.models.Survivor(r, h); err != nil {
			return err
		}
		if to.Revision == 0 {
			return deed.Fault(deed.Invalid, "not-released", models.NameOf(to)+" has no released revision.", "Release it first.")
		}
		if in.Revision > 0 && in.Revision != to.Revision {
			return deed.Sentence(store.ErrConflict, "model")
		}
		if users, err = s.usersOf(ctx, h, in.Parts, to.ID != h.ID); err != nil {
			return err
		}
		link, err = s.models.LinkTo(r, to)
		return err
	}
	return deed.DoAfter(ctx, s.Desk, c, deed.OpPartEdit, "model", []any{id, in}, prepare, func(t *store.Tx) (wire.Mended, error) {
		out := wire.Mended{Models: []string{}, Parts: []string{}, Left: []string{}}
		for _, m := range users {
			done, err := s.parts.Alter(t, m.id, in.Seen[m.number], cab, "newer model taken", map[string]any{"model": models.NameOf(to), "revision": to.Revision}, func(p *part.Content) bool {
				return relink(p, h.ID.String(), link, true)
			})
			if err != nil {
				return out, err
			}
			if done {
				out.Parts = append(out.Parts, m.number)
			}
		}
		return out, nil
	})
}
