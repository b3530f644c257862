package parts

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/origin"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// relations fills in what a part has to do with others.
func (s *Parts) relations(ctx context.Context, h store.Head, out *wire.Part) error {
	former, err := s.Store.Read(ctx).Formers(h.ID)
	if err != nil {
		return err
	}
	out.Former = append(out.Former, former...)
	id, why, err := s.Store.Read(ctx).Successor(h.ID)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	next, err := s.Store.Read(ctx).Head(store.KindPart, id)
	if err != nil {
		return err
	}
	if h.Standing == store.Merged {
		out.MergedTo = next.Number
	} else {
		out.Successor = &wire.Successor{Number: next.Number, Why: why}
	}
	return nil
}

// alike lists the parts that are equal to p in the parameters that identify parts of its drawer.
func (s *Parts) alike(cab *cabinet.Cabinet, p part.Content, but string) []string {
	out := []string{}
	t, ok := cab.Template(p.Drawer)
	if !ok || len(t.Identity) == 0 {
		return out
	}
	return append(out, s.index.Alike(p.Drawer, t.Identity, p.Values, but, 20)...)
}

// Alike says which parts an edit would equal in the identifying parameters, before it is saved.
func (s *Parts) Alike(ctx context.Context, c deed.Call, in wire.PartEdit) ([]string, error) {
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return nil, err
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return nil, err
	}
	in.Sources, in.Datasheets, in.Links, in.Symbol, in.LandPattern, in.Body = nil, nil, nil, nil, nil, nil
	p, _, err := s.build(s.Store.Read(ctx), c, cab, in, part.Content{}, nil)
	if err != nil {
		return []string{}, nil // it cannot be saved yet, so that nothing is equal to it
	}
	return s.alike(cab, p, ""), nil
}

// Merge makes one part lead to another: its number and its former numbers find the survivor, which takes over the
// sources that it lacks.
func (s *Parts) Merge(ctx context.Context, c deed.Call, key string, version int, in wire.Merge) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartMerge); err != nil {
		return wire.Part{}, err
	}
	var gone, into store.Head
	prepare := func() (err error) {
		if gone, err = s.Find(ctx, key); err != nil {
			return deed.Sentence(err, "part")
		}
		if into, err = s.Find(ctx, in.Into); err != nil {
			return deed.Sentence(err, "part to merge into")
		}
		if into.ID == gone.ID {
			return deed.Fault(deed.Invalid, "merge-self", gone.Number+" cannot be merged into itself.", "Name the other part.")
		}
		return nil
	}
	survivor, err := cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (store.ID, error) {
		return deed.DoAfter(ctx, s.Desk, c, deed.OpPartMerge, "part", []any{key, version, in}, prepare, func(t *store.Tx) (store.ID, error) {
			return into.ID, s.merge(t, cab, revision, gone.ID, version, into.ID, in.Why, c.Actor)
		})
	})
	if err != nil {
		return wire.Part{}, s.Conflict(ctx, err, gone.ID)
	}
	return s.Get(ctx, c, survivor.String())
}

func (s *Parts) merge(t *store.Tx, cab *cabinet.Cabinet, template int, goneID store.ID, version int, keepID store.ID, why string, by deed.Actor) error {
	gone, err := t.HeadAt(store.KindPart, goneID, version)
	if err != nil {
		return err
	}
	keep, err := t.Head(store.KindPart, keepID)
	if err != nil {
		return err
	}
	if err := errors.Join(policy.Stands(gone), policy.Stands(keep)); err != nil {
		return err
	}
	from, err := t.Content(gone.Newest())
	if err != nil {
		return err
	}
	lost, _, err := Decode(from)
	if err != nil {
		return err
	}
	if err := errors.Join(t.SetSources(gone.ID, nil, false), t.SetUses(gone.ID, "draft", nil), t.SetUses(gone.ID, "released", nil)); err != nil {
		return err
	}
	was := gone.Standing
	gone.Standing = store.Merged
	if err := t.Update(&gone, "merged", map[string]any{"into": keep.Number, "why": why, "standing": was}); err != nil {
		return err
	}
	if err := t.SetSuccessor(gone.ID, keep.ID, why); err != nil {
		return err
	}
	if err := t.MoveNumbers(gone.ID, keep.ID); err != nil {
		return err
	}
	detail := map[string]any{"merged": gone.Number, "why": why}
	added, err := s.takeSources(t, cab, template, &keep, lost, "merged "+gone.Number+": "+why, by)
	if err != nil {
		return err
	}
	if added > 0 {
		detail["sources"] = added
	}
	return t.Update(&keep, "took over", detail)
}

// takeSources adds to a part the sources of another that it lacks. A part without a draft gets a revision at once, so
// that purchasing sees them; otherwise they wait in its draft.
func (s *Parts) takeSources(t *store.Tx, cab *cabinet.Cabinet, template int, keep *store.Head, lost part.Content, note string, by deed.Actor) (added int, err error) {
	now, err := t.Content(keep.Newest())
	if err != nil {
		return 0, err
	}
	p, o, err := Decode(now)
	if err != nil {
		return 0, err
	}
	have := map[string]int{}
	for i, src := range p.Sources {
		have[src.Key()] = i
	}
	tpl, filed := cab.Template(p.Drawer)
	for _, src := range lost.Sources {
		if filed { // the part that goes may have said otherwise of what tells parts apart
			src.Unlike = part.Unlike(tpl, lost.Values, p.Values)
		}
		i, ok := have[src.Key()]
		if !ok {
			p.Sources = append(p.Sources, src)
			added++
			continue
		}
		for _, n := range src.Numbers {
			known := false
			for _, k := range p.Sources[i].Numbers {
				known = known || k == n
			}
			if !known {
				p.Sources[i].Numbers = append(p.Sources[i].Numbers, n)
				added++
			}
		}
	}
	if added == 0 {
		return 0, nil
	}
	if o == nil {
		o = Origins{}
	}
	o["sources"] = origin.Origin{Person: by.Name}
	released := keep.Draft.IsZero()
	c, err := s.Put(t, keep, p, o, template, false)
	if err != nil || !released {
		return added, err
	}
	if !filed {
		return added, nil
	}
	facts := FactsOf(p, tpl, c.Hash.String(), nil)
	for _, f := range facts.Findings {
		if f.Severity == finding.Error {
			return added, nil
		}
	}
	how, ok, _, err := s.policy.Straight(t.Reader, by, *keep, facts)
	if err != nil || !ok { // it stays a draft, and goes the way of its lifecycle
		return added, err
	}
	if err := t.AddRevision(keep, c, note, how.Label); err != nil {
		return added, err
	}
	keep.State = how.State
	return added, errors.Join(t.SetUses(keep.ID, "draft", nil), t.SetUses(keep.ID, "released", UsesOf(p, "released")))
}

// SetSuccessor names the part that replaces another; a blank number withdraws it.
func (s *Parts) SetSuccessor(ctx context.Context, c deed.Call, key string, version int, in wire.SuccessorEdit) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartStanding); err != nil {
		return wire.Part{}, err
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	var next store.Head
	if strings.TrimSpace(in.Number) != "" {
		if next, err = s.Find(ctx, in.Number); err != nil {
			return wire.Part{}, deed.Sentence(err, "successor")
		}
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpPartStanding, "part", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, h.ID, version)
		if err == nil {
			err = policy.Stands(h)
		}
		if err != nil {
			return 0, err
		}
		err = t.SetSuccessor(h.ID, next.ID, in.Why)
		if errors.Is(err, store.ErrCircle) {
			err = deed.Fault(deed.Invalid, "successor-circle", fmt.Sprintf("%s is replaced by %s in turn.", next.Number, h.Number), "Name a part that does not lead back.")
		}
		if err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "successor named", map[string]any{"successor": next.Number, "why": in.Why})
	})
	if err != nil {
		return wire.Part{}, s.Conflict(ctx, err, h.ID)
	}
	return s.Get(ctx, c, h.ID.String())
}

// AddFormer lets another number find a part: one from an older list, or from a library it came from.
func (s *Parts) AddFormer(ctx context.Context, c deed.Call, key string, version int, in wire.FormerNumber) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	in.Number = strings.TrimSpace(in.Number)
	if !numberForm.MatchString(in.Number) {
		return wire.Part{}, deed.Fault(deed.Invalid, "number-form", fmt.Sprintf("%q cannot be a part number.", in.Number), "Use letters, digits, blanks and . _ / + : # - only, at most 64.")
	}
	h, err := s.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "part", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, h.ID, version)
		if err == nil {
			err = policy.Stands(h)
		}
		if err != nil {
			return 0, err
		}
		if err := t.AddFormer(in.Number, h.ID); err != nil {
			return 0, err
		}
		return h.Version, t.Update(&h, "former number added", map[string]any{"number": in.Number})
	})
	if err != nil {
		return wire.Part{}, s.Conflict(ctx, s.Refused(ctx, err, in.Number, part.Content{}), h.ID)
	}
	return s.Get(ctx, c, h.ID.String())
}

// Equal lists the parts that are equal to a content in the identifying parameters, as the lookup index knows them.
func (s *Parts) Equal(cab *cabinet.Cabinet, p part.Content, but store.ID) []string {
	return s.alike(cab, p, but.String())
}
