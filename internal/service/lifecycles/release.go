package lifecycles

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/service/policy"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// Release freezes a part's draft as its next revision.
func (s *Lifecycles) Release(ctx context.Context, c deed.Call, key string, version int, in wire.Release) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartRelease); err != nil {
		return wire.Part{}, err
	}
	h, err := s.parts.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	_, err = s.release(ctx, c, []wire.PartBase{{ID: h.ID.String(), Version: version}}, in.Note)
	if err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}

// ReleaseMany releases several drafts in one deed: all of them or none.
func (s *Lifecycles) ReleaseMany(ctx context.Context, c deed.Call, in wire.BulkRelease) (wire.Released, error) {
	if err := deed.Allow(c, deed.OpPartRelease); err != nil {
		return wire.Released{}, err
	}
	return s.release(ctx, c, in.Parts, in.Note)
}

// release freezes drafts as one deed: what each becomes is staged, and shown in one short write.
func (s *Lifecycles) release(ctx context.Context, c deed.Call, bases []wire.PartBase, note string) (wire.Released, error) {
	if strings.TrimSpace(note) == "" {
		return wire.Released{}, deed.Fault(deed.Invalid, "no-note", "A release needs a note.", "Say in a few words what was made or changed.")
	}
	return cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (wire.Released, error) {
		b := deed.Bulk[wire.Released]{Op: deed.OpPartRelease, What: "part", Request: []any{bases, note}}
		var lot []readyPart
		b.Prepare = func() (err error) {
			lot, err = s.readyParts(ctx, cab, bases)
			return err
		}
		b.All = func(yield func(store.Staged, error) bool) {
			for _, p := range lot {
				if !yield(p.released(note), nil) {
					return
				}
			}
		}
		b.Also = func(t *store.Tx) (wire.Released, error) {
			out := wire.Released{Numbers: []string{}, Parts: len(lot)}
			for _, p := range lot[:min(len(lot), 100)] {
				out.Numbers = append(out.Numbers, p.head.Number)
			}
			return out, t.UnderCabinet(revision)
		}
		return b.Do(ctx, s.Desk, c)
	})
}

// readyPart is a part whose draft may be released.
type readyPart struct {
	head   store.Head
	hash   store.Hash // of the draft
	before store.Hash // of what is in use; zero where nothing is
	uses   []store.Use
}

// released is the part as it is after its release.
func (p readyPart) released(note string) store.Staged {
	h := p.head
	h.Revision++
	h.Released, h.Draft = h.Draft, store.ID{}
	return store.Staged{Head: h, Revision: &store.Revision{Number: h.Revision, Content: h.Released, Hash: p.hash, HashBefore: p.before, Note: note},
		Uses: p.uses, Clears: store.ClearsDraft | store.ClearsReleased, Action: "released", Detail: map[string]any{"revision": h.Revision, "note": note, "hash": p.hash.String()}}
}

// readyParts loads the drafts that are to be released, some hundred at a time, and says what keeps any of them from it.
func (s *Lifecycles) readyParts(ctx context.Context, cab *cabinet.Cabinet, bases []wire.PartBase) (out []readyPart, err error) {
	versions := map[store.ID]int{}
	var ids []store.ID
	for _, b := range bases {
		id, err := store.ParseID(b.ID)
		if err != nil {
			return nil, deed.Fault(deed.Invalid, "id-wrong", err.Error()+".", "")
		}
		if _, twice := versions[id]; !twice {
			versions[id], ids = b.Version, append(ids, id)
		}
	}
	bad := deed.Fault(deed.Invalid, "not-ready", "Nothing was released:", "")
	r := s.Store.Read(ctx)
	for some := range slices.Chunk(ids, 500) {
		heads, err := r.HeadsByID(some)
		if err != nil {
			return nil, err
		}
		byID, wanted := map[store.ID]store.Head{}, []store.ID{}
		for _, h := range heads {
			byID[h.ID] = h
			wanted = append(wanted, h.Draft)
		}
		contents, err := r.Contents(wanted)
		if err != nil {
			return nil, err
		}
		before, err := r.ReleasedHashes(some)
		if err != nil {
			return nil, err
		}
		for _, id := range some {
			h, ok := byID[id]
			switch {
			case !ok || h.Kind != store.KindPart:
				return nil, store.ErrNotFound
			case h.Version != versions[id]:
				return nil, store.ErrConflict
			}
			if err := policy.PartStands(h); err != nil {
				return nil, err
			}
			if h.Draft.IsZero() {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: h.Number, Message: h.Number + " has no draft: all of it is released"})
				continue
			}
			p, wrong, err := s.ready(r, cab, h, contents[h.Draft])
			if err != nil {
				return nil, err
			}
			bad.Places = append(bad.Places, wrong...)
			p.before = before[id]
			out = append(out, p)
		}
		if len(bad.Places) >= 50 {
			bad.Places = bad.Places[:50]
			break
		}
	}
	if len(bad.Places) > 0 {
		return nil, bad
	}
	return out, nil
}

// ready checks one draft: its values against the template, its models against each other.
func (s *Lifecycles) ready(r store.Reader, cab *cabinet.Cabinet, h store.Head, c store.Content) (out readyPart, wrong []wire.ProblemDetail, err error) {
	p, _, err := parts.Decode(c)
	if err != nil {
		return out, nil, err
	}
	t, ok := cab.Template(p.Drawer)
	if !ok {
		return out, nil, deed.Fault(deed.Invalid, "drawer-unknown", fmt.Sprintf("%s is in the drawer %q, which the cabinet lacks.", h.Number, p.Drawer), "")
	}
	fit, err := s.models.Fit(r, t, p)
	if err != nil {
		return out, nil, err
	}
	for _, f := range append(part.Check(p, t), fit...) {
		if f.Severity == finding.Error {
			wrong = append(wrong, wire.ProblemDetail{Location: h.Number + " " + f.Field, Message: h.Number + ": " + f.What + "; " + f.Mend})
		}
	}
	return readyPart{head: h, hash: c.Hash, uses: parts.UsesOf(p, "released")}, wrong, nil
}

// SetStanding says how a part may be used from now on.
func (s *Lifecycles) SetStanding(ctx context.Context, c deed.Call, key string, version int, in wire.Standing) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartStanding); err != nil {
		return wire.Part{}, err
	}
	standing, err := lifecycle.ParseStanding(in.Standing)
	if err != nil {
		return wire.Part{}, deed.Fault(deed.Invalid, "standing-wrong", err.Error()+".", "")
	}
	h, err := s.parts.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	_, err = deed.Do(ctx, s.Desk, c, deed.OpPartStanding, "part", []any{h.ID, version, in}, func(t *store.Tx) (int, error) {
		h, err := t.HeadAt(store.KindPart, h.ID, version)
		if err == nil {
			err = policy.PartStands(h)
		}
		if err != nil {
			return 0, err
		}
		was := h.Standing
		h.Standing = string(standing)
		return h.Version, t.Update(&h, "standing changed", map[string]any{"from": was, "to": standing, "why": in.Why})
	})
	if err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, err, h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}
