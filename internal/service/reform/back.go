package reform

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"jollydrawer/core/cabinet"
	"jollydrawer/core/document"
	"jollydrawer/core/part"
	"jollydrawer/internal/service/cabinets"
	"jollydrawer/internal/service/deed"
	"jollydrawer/internal/service/parts"
	"jollydrawer/internal/store"
	"jollydrawer/internal/wire"
)

// GoBack makes an earlier revision of a part its draft again. The revision stays as it is; what it said is carried over all changes
// of templates since. What has no place under the present ones is left out only when that was said.
func (s *Reform) GoBack(ctx context.Context, c deed.Call, key string, version int, in wire.GoBack) (wire.Part, error) {
	if err := deed.Allow(c, deed.OpPartEdit); err != nil {
		return wire.Part{}, err
	}
	h, err := s.parts.Find(ctx, key)
	if err != nil {
		return wire.Part{}, deed.Sentence(err, "part")
	}
	var back part.Content
	_, err = cabinets.Under(ctx, s.cabinets, func(cab *cabinet.Cabinet, revision int) (int, error) {
		return deed.Do(ctx, s.Desk, c, deed.OpPartEdit, "part", []any{"back", h.ID, version, in}, func(t *store.Tx) (int, error) {
			h, err := t.HeadAt(store.KindPart, h.ID, version)
			if err == nil {
				err = s.policy.MayChange(t.Reader, h, t.Deed.Account)
			}
			if err != nil {
				return 0, err
			}
			b, err := s.backTo(t.Reader, h, cab, revision, in)
			if err != nil {
				return 0, err
			}
			back = b.content
			now := b.released
			if now == nil {
				c, err := s.parts.Put(t, &h, b.content, b.origins, revision, b.sameSources)
				if err != nil {
					return 0, err
				}
				now = c.Bytes
			} else if err := discard(t, &h, b); err != nil {
				return 0, err
			}
			changes, err := parts.Changes(b.was, now)
			if err != nil {
				return 0, err
			}
			detail := map[string]any{"revision": in.Revision, "changes": changes}
			if why := deed.Said(in.Why); why != "" {
				detail["why"] = why
			}
			if len(b.losses) > 0 {
				detail["leftOut"] = b.losses
			}
			return h.Version, t.Update(&h, "went back to a revision", detail)
		})
	})
	if err != nil {
		return wire.Part{}, s.parts.Conflict(ctx, s.parts.Refused(ctx, err, h.Number, back), h.ID)
	}
	return s.parts.Get(ctx, c, h.ID.String())
}

// earlier is what a revision says under the present templates.
type earlier struct {
	content     part.Content
	origins     parts.Origins
	losses      []string // values that have no place
	was         []byte   // the content that it takes the place of
	released    []byte   // where it is what the revision in use says: its bytes; then no draft is wanted
	sameSources bool
}

func (s *Reform) backTo(r store.Reader, h store.Head, cab *cabinet.Cabinet, template int, in wire.GoBack) (out earlier, err error) {
	revision, err := r.Revision(h.ID, in.Revision)
	if errors.Is(err, store.ErrNotFound) {
		return out, deed.Sentence(err, "revision")
	}
	if err != nil {
		return out, err
	}
	if !h.Draft.IsZero() && !in.ReplaceDraft {
		return out, deed.Fault(deed.Clash, "draft-there", h.Number+" has a draft; nothing was changed.", "Release it first, or say that it may be replaced.")
	}
	c, err := r.Content(revision.Content)
	if err != nil {
		return out, err
	}
	newest, err := r.Content(h.Newest())
	if err != nil {
		return out, err
	}
	out.was = newest.Bytes
	var how map[string]json.RawMessage
	if err := json.Unmarshal(c.Origins, &how); err != nil {
		return out, fmt.Errorf("the content of %s: %w", h.Number, err)
	}
	if out.content, err = parts.DecodeContent(c); err != nil {
		return out, err
	}
	if how, err = s.since(r, h.Number, c.Template, template, how, &out); err != nil {
		return out, err
	}
	t, ok := cab.Template(out.content.Drawer)
	if !ok || !t.Leaf {
		return out, deed.Fault(deed.Invalid, "drawer-gone", fmt.Sprintf("Revision %d lay in the drawer %q, which holds no parts any more; nothing was changed.", in.Revision, out.content.Drawer), "Copy what you need from the revision by hand.")
	}
	for key, v := range out.content.Values {
		if _, known := cab.Parameter(key); !known {
			out.losses = append(out.losses, fmt.Sprintf("%s %s", key, v))
			delete(out.content.Values, key)
		}
	}
	slices.Sort(out.losses)
	if len(out.losses) > 0 && !in.LeaveOut {
		return out, deed.Fault(deed.Invalid, "values-without-place", fmt.Sprintf("Values of revision %d have no place under the present templates: %s. Nothing was changed.", in.Revision, strings.Join(out.losses, "; ")), "Say that they may be left out, or make their parameters again first.")
	}
	raw, err := json.Marshal(how)
	if err == nil {
		err = json.Unmarshal(raw, &out.origins)
	}
	if err != nil {
		return out, fmt.Errorf("the content of %s: %w", h.Number, err)
	}
	now, err := parts.DecodeContent(newest)
	if err != nil {
		return out, err
	}
	out.sameSources = slices.Equal(slices.Sorted(slices.Values(out.content.SourceKeys())), slices.Sorted(slices.Values(now.SourceKeys())))
	_, hash, err := document.Canonical(out.content)
	if err != nil {
		return out, err
	}
	if inUse, err := r.Content(cmp.Or(h.Released, newest.ID)); err != nil {
		return out, err
	} else if store.Hash(hash) == inUse.Hash {
		out.released = inUse.Bytes
	}
	if store.Hash(hash) == newest.Hash {
		err = deed.Fault(deed.Invalid, "nothing-differs", fmt.Sprintf("%s says already what revision %d said; nothing was changed.", h.Number, in.Revision), "Compare the two to see it.")
	}
	return out, err
}

// discard takes a part's draft away: what it goes back to is in use.
func discard(t *store.Tx, h *store.Head, b earlier) (err error) {
	h.Draft, h.Drawer = store.ID{}, b.content.Drawer
	if h.WrittenBy, err = t.WriterOf(h.Released); err != nil {
		return err
	}
	h.Writers = 2 // whoever wrote what goes stays an author of what comes
	if err := t.SetUses(h.ID, "draft", nil); err != nil {
		return err
	}
	return t.SetSources(h.ID, b.content.SourceKeys(), b.sameSources)
}

// since carries content over every change of templates behind the one that it was checked under.
func (s *Reform) since(r store.Reader, number string, from, to int, how map[string]json.RawMessage, out *earlier) (map[string]json.RawMessage, error) {
	if from >= to {
		return how, nil
	}
	h, err := r.HeadByNumber(store.KindCabinet, cabinets.TheCabinet)
	if err != nil {
		return nil, err
	}
	steps, err := stepsSince(r, h.ID, from)
	if err != nil {
		return nil, err
	}
	before, err := cabinetAt(r, h.ID, max(from, 1))
	if err != nil {
		return nil, err
	}
	for n := max(from, 1) + 1; n <= to; n++ {
		after, err := cabinetAt(r, h.ID, n)
		if err != nil {
			return nil, err
		}
		now, losses, _ := part.Change(out.content, number, steps[n], before, after)
		for _, l := range losses {
			if !l.Kept {
				out.losses = append(out.losses, fmt.Sprintf("%s %s", l.Parameter, l.Text))
			}
		}
		how = carried(how, out.content, now, steps[n])
		out.content, before = now, after
	}
	return how, nil
}

// stepsSince are the steps by which each revision of the cabinet behind one came about.
func stepsSince(r store.Reader, cab store.ID, from int) (map[int][]cabinet.Step, error) {
	out := map[int][]cabinet.Step{}
	const some = 500
	for offset := 0; ; offset += some {
		entries, err := r.Trail(cab, offset, some) // newest first
		if err != nil {
			return nil, err
		}
		for _, e := range entries {
			d, err := detailOf(e)
			if err != nil {
				return nil, err
			}
			if d.Revision > 0 && d.Revision <= from {
				return out, nil
			}
			out[d.Revision] = d.Steps
		}
		if len(entries) < some {
			return out, nil
		}
	}
}

func cabinetAt(r store.Reader, cab store.ID, revision int) (*cabinet.Cabinet, error) {
	rev, err := r.Revision(cab, revision)
	if err != nil {
		return nil, fmt.Errorf("revision %d of the cabinet: %w", revision, err)
	}
	c, err := r.Content(rev.Content)
	if err != nil {
		return nil, err
	}
	return cabinet.FromJSON(c.Bytes)
}
