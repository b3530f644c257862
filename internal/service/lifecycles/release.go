package lifecycles

import (
	"context"
	"fmt"
	"strings"

	"jollydrawer/core/finding"
	"jollydrawer/core/lifecycle"
	"jollydrawer/core/part"
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

func (s *Lifecycles) release(ctx context.Context, c deed.Call, bases []wire.PartBase, note string) (wire.Released, error) {
	if strings.TrimSpace(note) == "" {
		return wire.Released{}, deed.Fault(deed.Invalid, "no-note", "A release needs a note.", "Say in a few words what was made or changed.")
	}
	cab, _, err := s.cabinets.InForce(ctx)
	if err != nil {
		return wire.Released{}, err
	}
	return deed.Do(ctx, s.Desk, c, deed.OpPartRelease, "part", []any{bases, note}, func(t *store.Tx) (wire.Released, error) {
		out := wire.Released{Numbers: []string{}}
		bad := deed.Fault(deed.Invalid, "not-ready", "Nothing was released:", "")
		seen := map[string]bool{}
		for _, b := range bases {
			id, err := store.ParseID(b.ID)
			if err != nil {
				return out, deed.Fault(deed.Invalid, "id-wrong", err.Error()+".", "")
			}
			if seen[b.ID] {
				continue
			}
			seen[b.ID] = true
			h, err := t.HeadAt(store.KindPart, id, b.Version)
			if err == nil {
				err = policy.PartStands(h)
			}
			if err != nil {
				return out, err
			}
			if h.Draft.IsZero() {
				bad.Places = append(bad.Places, wire.ProblemDetail{Location: h.Number, Message: h.Number + " has no draft: all of it is released"})
				continue
			}
			content, err := t.Content(h.Draft)
			if err != nil {
				return out, err
			}
			p, _, err := parts.Decode(content)
			if err != nil {
				return out, err
			}
			tpl, ok := cab.Template(p.Drawer)
			if !ok {
				return out, deed.Fault(deed.Invalid, "drawer-unknown", fmt.Sprintf("%s is in the drawer %q, which the cabinet lacks.", h.Number, p.Drawer), "")
			}
			fit, err := s.models.Fit(t.Reader, tpl, p)
			if err != nil {
				return out, err
			}
			for _, f := range append(part.Check(p, tpl), fit...) {
				if f.Severity == finding.Error && len(bad.Places) < 50 {
					bad.Places = append(bad.Places, wire.ProblemDetail{Location: h.Number + " " + f.Field, Message: h.Number + ": " + f.What + "; " + f.Mend})
				}
			}
			if len(bad.Places) > 0 {
				continue
			}
			if err := t.AddRevision(&h, content, note); err != nil {
				return out, err
			}
			if err := t.SetUses(h.ID, "draft", nil); err != nil {
				return out, err
			}
			if err := t.SetUses(h.ID, "released", parts.UsesOf(p, "released")); err != nil {
				return out, err
			}
			if err := t.Update(&h, "released", map[string]any{"revision": h.Revision, "note": note, "hash": content.Hash.String()}); err != nil {
				return out, err
			}
			out.Parts++
			if len(out.Numbers) < 100 {
				out.Numbers = append(out.Numbers, h.Number)
			}
		}
		if len(bad.Places) > 0 {
			return out, bad
		}
		return out, nil
	})
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
