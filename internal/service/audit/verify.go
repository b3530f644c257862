package audit

import (
	"context"
	"crypto/sha256"
	"fmt"
	"maps"
	"slices"

	"jollydrawer/core/lookup"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Verify recomputes hashes, chains and projections from what is stored, and names every difference.
func (s *Audit) Verify(ctx context.Context, c deed.Call) (wire.Verification, error) {
	out := wire.Verification{Different: []string{}}
	if err := deed.Allow(c, deed.OpVerify); err != nil {
		return out, err
	}
	differ := func(format string, args ...any) {
		if len(out.Different) < 1000 {
			out.Different = append(out.Different, fmt.Sprintf(format, args...))
		}
	}
	var after store.ID
	for {
		heads, err := s.Store.Read(ctx).HeadsAfter("", after, 500)
		if err != nil {
			return out, err
		}
		for _, h := range heads {
			out.Heads++
			if err := s.verifyHead(ctx, h, &out, differ); err != nil {
				return out, err
			}
			after = h.ID
		}
		if len(heads) < 500 {
			return out, nil
		}
	}
}

func (s *Audit) verifyHead(ctx context.Context, h store.Head, out *wire.Verification, differ func(string, ...any)) error {
	chain, err := s.Store.Read(ctx).Chain(h.ID)
	if err != nil {
		return err
	}
	var before store.Hash
	for i, e := range chain {
		out.Entries++
		if e.Seq != i+1 || e.HashBefore != before || e.Sum() != e.Hash {
			differ("%s %s: entry %d of the trail does not follow from the one before", h.Kind, h.Number, e.Seq)
		}
		before = e.Hash
	}
	if len(chain) != h.TrailSeq || before != h.TrailHash {
		differ("%s %s: the trail ends at entry %d, and the record says %d", h.Kind, h.Number, len(chain), h.TrailSeq)
	}
	rs, err := s.Store.Read(ctx).Revisions(h.ID)
	if err != nil {
		return err
	}
	if len(rs) != h.Revision {
		differ("%s %s: it has %d revisions, and the record says %d", h.Kind, h.Number, len(rs), h.Revision)
	}
	ids := []store.ID{h.Draft, h.Released}
	for i, r := range rs {
		ids = append(ids, r.Content)
		if i+1 < len(rs) && r.HashBefore != rs[i+1].Hash {
			differ("%s %s: revision %d does not follow from revision %d", h.Kind, h.Number, r.Number, rs[i+1].Number)
		}
	}
	if len(rs) > 0 && rs[0].Content != h.Released {
		differ("%s %s: what is in use is not its newest revision", h.Kind, h.Number)
	}
	contents, err := s.Store.Read(ctx).Contents(slices.DeleteFunc(ids, store.ID.IsZero))
	if err != nil {
		return err
	}
	sound := func(name string, id store.ID, kept store.Hash) {
		c, ok := contents[id]
		switch {
		case id.IsZero():
		case !ok:
			differ("%s %s: its %s is missing", h.Kind, h.Number, name)
		case sha256.Sum256(c.Bytes) != c.Hash || !kept.IsZero() && c.Hash != kept:
			differ("%s %s: the bytes of its %s do not have the hash that was kept", h.Kind, h.Number, name)
		}
		if ok {
			out.Contents++
		}
	}
	sound("draft", h.Draft, store.Hash{})
	for _, r := range rs {
		sound(fmt.Sprintf("revision %d", r.Number), r.Content, r.Hash)
	}
	if h.Kind != store.KindPart {
		return nil
	}
	if !store.Gone(h.Standing) {
		if err := s.verifyKeys(ctx, h, contents[deed.Newest(h)], differ); err != nil {
			return err
		}
		if err := s.verifyUses(ctx, h, contents, differ); err != nil {
			return err
		}
	}
	s.verifyEntry(h, contents, differ)
	return nil
}

// verifyEntry compares what the lookup index tells of a part with what others see of it.
func (s *Audit) verifyEntry(h store.Head, contents map[store.ID]store.Content, differ func(string, ...any)) {
	e, ok := s.index.ByID(h.ID.String())
	if !ok || e.Number != h.Number || e.Version != h.Version {
		differ("part %s: the lookup index is behind", h.Number)
		return
	}
	seen := h.Released
	if seen.IsZero() {
		seen = h.Draft
	}
	c, known := contents[seen]
	if !known {
		return // said already
	}
	p, _, err := parts.Decode(c)
	if err != nil {
		return
	}
	want := lookup.NewEntry(p)
	if e.Drawer != want.Drawer || e.Description != want.Description || e.Name != want.Name || len(e.Sources) != len(want.Sources) || !maps.Equal(e.Values(), want.Values()) {
		differ("part %s: the lookup index says otherwise than its content", h.Number)
	}
}

// verifyUses works out again which models a part uses.
func (s *Audit) verifyUses(ctx context.Context, h store.Head, contents map[store.ID]store.Content, differ func(string, ...any)) error {
	want := map[string]store.Use{}
	for word, id := range map[string]store.ID{"draft": h.Draft, "released": h.Released} {
		c, ok := contents[id]
		if !ok {
			continue
		}
		p, _, err := parts.Decode(c)
		if err != nil {
			continue // said already
		}
		for _, u := range parts.UsesOf(p, word) {
			u.Parent = h.ID
			want[u.Place] = u
		}
	}
	have, err := s.Store.Read(ctx).UsesOf(h.ID)
	if err != nil {
		return err
	}
	for _, u := range have {
		if w, ok := want[u.Place]; !ok || w != u {
			differ("part %s: where-used names a model as its %s that it does not use so", h.Number, u.Place)
		}
		delete(want, u.Place)
	}
	for place := range want {
		differ("part %s: where-used lacks its %s", h.Number, place)
	}
	return nil
}

func (s *Audit) verifyKeys(ctx context.Context, h store.Head, c store.Content, differ func(string, ...any)) error {
	p, _, err := parts.Decode(c)
	if err != nil {
		differ("part %s: its content cannot be read", h.Number)
		return nil
	}
	keys, err := s.Store.Read(ctx).SourceKeys(h.ID)
	if err != nil {
		return err
	}
	want := map[store.Hash]bool{}
	for _, src := range p.Sources {
		want[store.SourceHash(part.Source.Key(src))] = true
	}
	for _, k := range keys {
		if !want[k] {
			differ("part %s: it holds the key of a source it does not have", h.Number)
		}
		delete(want, k)
	}
	if len(want) > 0 {
		differ("part %s: %d of its sources have no key", h.Number, len(want))
	}
	return nil
}

// Seal computes one Merkle root over the ends of all trails and keeps it. Rival instances collide on the number of
// the seal. A seal that was exported shows later whether a trail was rewritten as a whole; it does not show what was
// never written down.
func (s *Audit) Seal(ctx context.Context) error {
	var level [][32]byte
	err := s.Store.Read(ctx).TrailEnds(func(id store.ID, end store.Hash) error {
		level = append(level, sha256.Sum256(append(append([]byte{0}, id[:]...), end[:]...)))
		return nil
	})
	if err != nil || len(level) == 0 {
		return err
	}
	n := len(level)
	for len(level) > 1 { // leaves and nodes are told apart by their first byte, as in RFC 6962, section 2.1
		next := level[:0:0]
		for i := 0; i < len(level); i += 2 {
			if i+1 == len(level) {
				next = append(next, level[i])
				continue
			}
			next = append(next, sha256.Sum256(append(append([]byte{1}, level[i][:]...), level[i+1][:]...)))
		}
		level = next
	}
	return s.Store.AddSeal(ctx, n, level[0])
}
