package boms

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/bom"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// SetBuilt notes that boards of a revision were built, and that they work. What that proves is proposed, and somebody confirms it.
func (s *BOMs) SetBuilt(ctx context.Context, c deed.Call, key string, revision int, in wire.BuiltBOM) (wire.FrozenBOM, error) {
	if err := deed.Allow(c, deed.OpBOMFreeze); err != nil {
		return wire.FrozenBOM{}, err
	}
	which := deed.Said(in.Which)
	if which == "" {
		return wire.FrozenBOM{}, deed.Fault(deed.Invalid, "which-missing", "Say which boards were built: their lot, place or day.", "")
	}
	h, _, err := s.findBOM(ctx, key)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	f, _, err := s.revision(ctx, h, revision)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	of, err := one(f.Variants, f.Variant, in.Variant)
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpBOMFreeze, "BOM", []any{h.ID, revision, in}, func(t *store.Tx) (int, error) {
		h, err := t.Head(store.KindBOM, h.ID)
		if err != nil {
			return 0, err
		}
		b := store.Build{ID: store.NewID(), BOM: h.ID, Revision: revision, Variant: of, Boards: in.Boards, Which: which, Account: c.Actor.ID, At: t.Deed.At}
		if err := t.AddBuild(b); err != nil {
			return 0, err
		}
		return revision, t.Note(&h, "built", map[string]any{"revision": revision, "boards": in.Boards, "which": which, "variant": of})
	})
	if err != nil {
		return wire.FrozenBOM{}, err
	}
	return s.Revision(ctx, c, h.ID.String(), revision)
}

// builds are what was built of a revision, as people see it.
func (s *BOMs) builds(ctx context.Context, id store.ID, revision int) ([]wire.BOMBuildMade, error) {
	r := s.Store.Read(ctx)
	all, err := r.Builds(id, revision)
	if err != nil {
		return nil, err
	}
	var ids []store.ID
	for _, b := range all {
		ids = append(ids, b.ID)
	}
	proofs, err := r.ProofsOf(ids)
	if err != nil {
		return nil, err
	}
	n := map[store.ID]int{}
	for _, p := range proofs {
		n[*p.Build]++
	}
	out := []wire.BOMBuildMade{}
	for _, b := range all {
		out = append(out, wire.BOMBuildMade{ID: b.ID.String(), Boards: b.Boards, Which: b.Which, Variant: b.Variant, By: s.Person(ctx, b.Account), At: b.At, Proved: n[b.ID]})
	}
	return out, nil
}

// exact is one revision of a part or model that a build used.
type exact struct {
	id      store.ID
	number  int // of the revision
	head    store.Head
	content store.Hash
	kept    store.ID // of its content
	item    wire.ProofItem
}

// build finds what was built of a revision, with all that it used.
func (s *BOMs) build(ctx context.Context, key string, revision int, id string) (h store.Head, b store.Build, used []exact, err error) {
	h, _, err = s.findBOM(ctx, key)
	if err != nil {
		return h, b, nil, err
	}
	r := s.Store.Read(ctx)
	all, err := r.Builds(h.ID, revision)
	if err != nil {
		return h, b, nil, err
	}
	i := slices.IndexFunc(all, func(b store.Build) bool { return b.ID.String() == id })
	if i < 0 {
		return h, b, nil, deed.Fault(deed.Unknown, "no-build", "Nobody noted such a build of this revision.", "Look at the revision again.")
	}
	f, _, err := s.revision(ctx, h, revision)
	if err != nil {
		return h, b, nil, err
	}
	used, err = exactly(r, bom.PinnedOf(f.Lines, all[i].Variant))
	return h, all[i], used, err
}

// revised is one revision of a thing.
type revised struct {
	id     store.ID
	number int
}

// exactly lists the exact revisions that lines use: of the parts that are pinned and fitted, and of the models that those are made of.
func exactly(r store.Reader, lines []bom.Pinned) ([]exact, error) {
	parts := map[revised]*exact{} // another board that this one takes may hold on to another revision
	var ids []store.ID
	var wanted []*exact
	for _, l := range lines {
		if l.Part == nil || l.NotFitted || l.Part.Revision == 0 {
			continue
		}
		id, err := store.ParseID(l.Part.ID)
		if err != nil {
			return nil, err
		}
		e := parts[revised{id, l.Part.Revision}]
		if e == nil {
			e = &exact{id: id, number: l.Part.Revision, item: wire.ProofItem{Kind: store.KindPart, ID: l.Part.ID, Name: l.Part.Number, Says: l.Part.Description}}
			parts[revised{id, l.Part.Revision}], ids, wanted = e, append(ids, id), append(wanted, e)
		}
		e.item.Used = append(e.item.Used, l.Designators...)
	}
	all, err := found(r, ids, wanted)
	if err != nil {
		return nil, err
	}
	var out []exact
	var contents []store.ID
	of := map[store.ID]*exact{} // by content
	for _, e := range all {
		of[e.kept], contents = e, append(contents, e.kept)
		slices.SortFunc(e.item.Used, bom.ByDesignator)
		out = append(out, *e)
	}
	kept, err := r.ContentsAlone(contents)
	if err != nil {
		return nil, err
	}
	models, err := modelsOf(r, contents, kept, of)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(out, byName)
	slices.SortFunc(models, byName)
	return append(out, models...), nil
}

func byName(a, b exact) int {
	return cmp.Or(cmp.Compare(a.item.Name, b.item.Name), cmp.Compare(a.item.Revision, b.item.Revision))
}

// found fills in what is known of exact revisions of some things; what is no longer there is left out.
func found(r store.Reader, ids []store.ID, wanted []*exact) (out []*exact, err error) {
	revisions, err := r.RevisionsOf(ids)
	if err != nil {
		return nil, err
	}
	all, err := r.HeadsByID(ids)
	if err != nil {
		return nil, err
	}
	heads := map[store.ID]store.Head{}
	for _, h := range all {
		heads[h.ID] = h
	}
	for _, e := range wanted {
		i := slices.IndexFunc(revisions[e.id], func(v store.Revision) bool { return v.Number == e.number })
		if e.head = heads[e.id]; i < 0 || e.head.ID.IsZero() {
			continue
		}
		v := revisions[e.id][i]
		e.content, e.kept, e.item.Newest, e.item.Revision = v.Hash, v.Content, v.Number == e.head.Revision, cmp.Or(v.Label, fmt.Sprint(v.Number))
		out = append(out, e)
	}
	return out, nil
}

// modelsOf are the exact revisions of models that contents of parts name.
func modelsOf(r store.Reader, contents []store.ID, kept map[store.ID]store.Content, of map[store.ID]*exact) ([]exact, error) {
	at := map[revised]*exact{}
	var wanted []*exact
	var ids []store.ID
	for _, id := range contents {
		var p part.Content
		if err := deed.Decode(kept[id], nil, &p); err != nil {
			return nil, err
		}
		for _, m := range []*part.Model{p.Symbol, p.LandPattern, p.Body, p.PinMap} {
			if m == nil || m.Revision == 0 {
				continue
			}
			mid, err := store.ParseID(m.ID)
			if err != nil {
				return nil, err
			}
			k := revised{mid, m.Revision}
			e := at[k]
			if e == nil {
				e = &exact{id: mid, number: m.Revision, item: wire.ProofItem{Kind: store.KindModel, ID: m.ID}}
				at[k], wanted = e, append(wanted, e)
				if !slices.Contains(ids, mid) {
					ids = append(ids, mid)
				}
			}
			if n := of[id].item.Name; !slices.Contains(e.item.Used, n) {
				e.item.Used = append(e.item.Used, n)
			}
		}
	}
	all, err := found(r, ids, wanted)
	if err != nil {
		return nil, err
	}
	var out []exact
	for _, e := range all {
		kind, name, _ := strings.Cut(e.head.Number, ": ") // as models are numbered
		e.item.Name, e.item.Says = cmp.Or(name, e.head.Number), kind
		out = append(out, *e)
	}
	return out, nil
}

// Proof is what a build proposes as proved, and what of it somebody confirmed.
func (s *BOMs) Proof(ctx context.Context, c deed.Call, key string, revision int, build string) (wire.BuildProof, error) {
	out := wire.BuildProof{Revision: revision, Items: []wire.ProofItem{}}
	if err := deed.Allow(c, deed.OpRead); err != nil {
		return out, err
	}
	h, b, used, err := s.build(ctx, key, revision, build)
	if err != nil {
		return out, err
	}
	made, err := s.builds(ctx, h.ID, revision)
	if err != nil {
		return out, err
	}
	out.BOM, out.Build = h.Number, made[slices.IndexFunc(made, func(m wire.BOMBuildMade) bool { return m.ID == build })]
	var ids []store.ID
	for _, e := range used {
		ids = append(ids, e.head.ID)
	}
	proofs, err := s.Store.Read(ctx).Proofs(ids)
	if err != nil {
		return out, err
	}
	for _, e := range used {
		for _, p := range proofs {
			if p.Head == e.head.ID && p.Content == e.content {
				e.item.Boards += p.Boards
				e.item.Proved = e.item.Proved || p.Build != nil && *p.Build == b.ID
			}
		}
		out.Items = append(out.Items, e.item)
	}
	return out, nil
}

// Confirm notes for exact revisions that a build used that they worked on its boards: for all of them, or some. What was confirmed before stays as it is.
func (s *BOMs) Confirm(ctx context.Context, c deed.Call, key string, revision int, build string, in wire.ConfirmProof) (wire.BuildProof, error) {
	if err := deed.Allow(c, deed.OpReview); err != nil {
		return wire.BuildProof{}, err
	}
	h, b, used, err := s.build(ctx, key, revision, build)
	if err != nil {
		return wire.BuildProof{}, err
	}
	if !in.All {
		for _, id := range in.Things {
			if !slices.ContainsFunc(used, func(e exact) bool { return e.item.ID == id }) {
				return wire.BuildProof{}, deed.Fault(deed.Unknown, "not-used", fmt.Sprintf("The build did not use %s.", id), "Confirm what it proposes.")
			}
		}
		used = slices.DeleteFunc(used, func(e exact) bool { return !slices.Contains(in.Things, e.item.ID) })
	}
	if len(used) == 0 {
		return wire.BuildProof{}, deed.Fault(deed.Invalid, "nothing-named", "Nothing was confirmed: no part and no model was named.", "Name some of what the build proposes, or all.")
	}
	which := fmt.Sprintf("%s revision %d, %s", h.Number, revision, b.Which)
	if b.Variant != "" {
		which = fmt.Sprintf("%s revision %d, variant %s, %s", h.Number, revision, b.Variant, b.Which)
	}
	for again := 0; ; again++ {
		_, err = deed.Do(ctx, s.Desk, c, deed.OpReview, "BOM", []any{b.ID, in}, func(t *store.Tx) (int, error) {
			return s.confirm(t, c, h.ID, b, used, which)
		})
		if again == 20 || !errors.Is(err, store.ErrConflict) && !deed.Clashed(err) {
			break // somebody wrote on the trail of one of them at the same moment
		}
	}
	if err != nil {
		return wire.BuildProof{}, err
	}
	return s.Proof(ctx, c, h.ID.String(), revision, build)
}

func (s *BOMs) confirm(t *store.Tx, c deed.Call, id store.ID, b store.Build, used []exact, which string) (int, error) {
	have, err := t.ProofsOf([]store.ID{b.ID})
	if err != nil {
		return 0, err
	}
	n := 0
	for _, e := range used {
		if slices.ContainsFunc(have, func(p store.Proof) bool { return p.Head == e.head.ID && p.Content == e.content }) {
			continue
		}
		now, err := t.Head(e.head.Kind, e.head.ID)
		if err != nil {
			return 0, err
		}
		if err := t.AddProof(store.Proof{ID: store.NewID(), Head: now.ID, Content: e.content, Boards: b.Boards, Which: which, Account: c.Actor.ID, At: t.Deed.At, Build: &b.ID}); err != nil {
			return 0, err
		}
		if err := t.Note(&now, "proved", map[string]any{"revision": e.item.Revision, "boards": b.Boards, "which": which}); err != nil {
			return 0, err
		}
		n++
	}
	if n == 0 {
		return 0, nil
	}
	h, err := t.Head(store.KindBOM, id)
	if err != nil {
		return 0, err
	}
	return n, t.Note(&h, "proof confirmed", map[string]any{"revision": b.Revision, "boards": b.Boards, "which": strings.TrimSpace(b.Which), "things": n})
}
